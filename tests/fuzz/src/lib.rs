//! Inputs that nobody meant: files that were good, damaged by a few edits, so that most of what reads them is reached.

use proptest::prelude::*;

/// One damage. A place is a share of the file's length.
#[derive(Debug, Clone)]
pub enum Edit {
    /// a bit turned over
    Flip(u16, u8),
    /// a byte put there
    Set(u16, u8),
    /// something put in between
    Insert(u16, &'static str),
    /// so many bytes taken out
    Cut(u16, u8),
    /// so many bytes said twice
    Twice(u16, u8),
    /// all that follows taken away
    End(u16),
    /// the next figure replaced by another
    Figure(u16, &'static str),
    /// the next word in quotes replaced by another
    Word(u16, &'static str),
}

/// What files are tripped by.
const TOKENS: [&str; 28] = [
    "\"",
    "{",
    "}",
    "[",
    "]",
    ",",
    ";",
    "\t",
    "\n",
    "\r\n",
    "\0",
    "\u{feff}",
    "null",
    "true",
    "-",
    ".",
    "1e999",
    "%PDF-1.7",
    "endobj",
    "stream\n",
    "<<",
    ">>",
    "/Type",
    "0 R",
    "\u{202e}",
    "\u{fdfa}",
    "𝟘",
    "[[[[[[[[[[[[[[[[",
];
/// Figures at the edges of what can be counted.
const FIGURES: [&str; 16] = [
    "0",
    "-0",
    "-1",
    "1e-300",
    "1e300",
    "1e308",
    "-1e308",
    "9007199254740993",
    "18446744073709551615",
    "-9223372036854775809",
    "0.1",
    "1e5",
    "1e9",
    "255",
    "4294967296",
    "1e999",
];
/// Words that mean something somewhere.
const WORDS: [&str; 12] =
    ["", "pipe", "vessel", "b31_3", "first", "psi", "PG-1", "2026-02-30", "9999-12-31T23:59:60Z", "Europe/Berlin", "a106_b", "\\u0000"];

fn edit() -> impl Strategy<Value = Edit> {
    prop_oneof![
        1 => (any::<u16>(), 0u8..8).prop_map(|(p, b)| Edit::Flip(p, b)),
        1 => (any::<u16>(), any::<u8>()).prop_map(|(p, b)| Edit::Set(p, b)),
        1 => (any::<u16>(), prop::sample::select(&TOKENS[..])).prop_map(|(p, t)| Edit::Insert(p, t)),
        1 => (any::<u16>(), any::<u8>()).prop_map(|(p, n)| Edit::Cut(p, n)),
        1 => (any::<u16>(), any::<u8>()).prop_map(|(p, n)| Edit::Twice(p, n)),
        1 => any::<u16>().prop_map(Edit::End),
        4 => (any::<u16>(), prop::sample::select(&FIGURES[..])).prop_map(|(p, f)| Edit::Figure(p, f)),
        2 => (any::<u16>(), prop::sample::select(&WORDS[..])).prop_map(|(p, w)| Edit::Word(p, w)),
    ]
}

/// Which of the good files, and what is done to it; now and then nothing, or bytes that were never a file.
pub fn damage() -> impl Strategy<Value = (usize, Vec<Edit>)> {
    (any::<usize>(), prop::collection::vec(edit(), 0..8))
}

/// A good file after its damage.
pub fn damaged(good: &[u8], edits: &[Edit]) -> Vec<u8> {
    let mut file = good.to_vec();
    for edit in edits {
        let at = |place: u16, file: &[u8]| usize::from(place) * file.len() / 65_536;
        match *edit {
            Edit::Flip(p, bit) => {
                let at = at(p, &file);
                if let Some(b) = file.get_mut(at) {
                    *b ^= 1 << bit;
                }
            }
            Edit::Set(p, byte) => {
                let at = at(p, &file);
                if let Some(b) = file.get_mut(at) {
                    *b = byte;
                }
            }
            Edit::Insert(p, text) => {
                let at = at(p, &file);
                file.splice(at..at, text.bytes());
            }
            Edit::Cut(p, n) => {
                let at = at(p, &file);
                file.drain(at..(at + usize::from(n)).min(file.len()));
            }
            Edit::Twice(p, n) => {
                let at = at(p, &file);
                let piece = file[at..(at + usize::from(n)).min(file.len())].to_vec();
                file.splice(at..at, piece);
            }
            Edit::End(p) => file.truncate(at(p, &file)),
            Edit::Figure(p, figure) => replace(&mut file, at(p, good), figure, |b| b.is_ascii_digit() || b"+-.eE".contains(&b)),
            Edit::Word(p, word) => replace(&mut file, at(p, good), word, |b| b.is_ascii_alphanumeric() || b == b'_'),
        }
    }
    file
}

/// A good file with each of its figures, one at a time, at each of the edges; what was replaced by what, for a sentence.
pub fn at_the_edges(good: &[u8]) -> impl Iterator<Item = (String, Vec<u8>)> + '_ {
    let part = |b: u8| b.is_ascii_digit() || b"+-.eE".contains(&b);
    let begins = (1..good.len()).filter(move |i| good[*i].is_ascii_digit() && !part(good[*i - 1]) && !good[*i - 1].is_ascii_alphanumeric());
    begins.flat_map(move |begin| {
        FIGURES.iter().map(move |figure| {
            let mut file = good.to_vec();
            replace(&mut file, begin, figure, |b| b.is_ascii_digit() || b"+-.eE".contains(&b));
            let name = String::from_utf8_lossy(&good[begin.saturating_sub(40)..begin]).into_owned();
            (format!("...{name}{figure}"), file)
        })
    })
}

/// Puts a text in the place of the next run of certain bytes.
fn replace(file: &mut Vec<u8>, from: usize, text: &str, of: impl Fn(u8) -> bool) {
    let from = from.min(file.len());
    let Some(begin) = file[from..].iter().position(|b| of(*b)).map(|i| from + i) else { return };
    let end = file[begin..].iter().position(|b| !of(*b)).map_or(file.len(), |i| begin + i);
    file.splice(begin..end, text.bytes());
}
