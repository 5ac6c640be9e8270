//! Text tables: encoding and separator are found, never assumed.

use serde::{Deserialize, Serialize};

/// A table of cells as read; nothing is interpreted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Table {
    /// Cells of the first row.
    pub header: Vec<String>,
    /// Cells of every other row that is not blank.
    pub rows: Vec<Vec<String>>,
    /// Line number of each row in the file, the first being 1.
    pub lines: Vec<usize>,
    /// Encoding that was found.
    pub encoding: String,
    /// Separator that was found, in words.
    pub separator: String,
}

/// Why a file is not a table.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum TableError {
    /// Not text.
    #[error("the file is not text (byte {0} is zero): export it as CSV")]
    NotText(usize),
    /// Nothing in it.
    #[error("the file is empty: it needs a row of column names and at least one row of figures")]
    Empty,
    /// No table that can be read.
    #[error("{0}")]
    NoTable(String),
    /// A broken row.
    #[error("line {line}: {what}")]
    Broken {
        /// line
        line: usize,
        /// what
        what: String,
    },
}

/// Most cells of a line: a logger has a few dozen columns.
pub const MOST_CELLS: usize = 1000;

/// The first line that has too many.
fn too_wide(bytes: &[u8]) -> Option<usize> {
    let wide = |line: &[u8]| line.len() > MOST_CELLS && b"\t;,".iter().any(|c| line.iter().filter(|b| *b == c).count() >= MOST_CELLS);
    bytes.split(|b| matches!(b, b'\n' | b'\r')).position(wide).map(|line| line + 1)
}

/// Decodes bytes: UTF-8 with or without its mark; otherwise Windows-1252, of which Latin-1 text is a part.
///
/// # Errors
/// When a zero byte shows that it is not text, or a line has more cells than any table.
pub fn decode(bytes: &[u8]) -> Result<(String, &'static str), TableError> {
    if let Some(at) = bytes.iter().position(|b| *b == 0) {
        return Err(TableError::NotText(at));
    }
    if let Some(line) = too_wide(bytes) {
        return Err(TableError::Broken {
            line,
            what: format!("it has more than {MOST_CELLS} cells: export the table itself, without empty columns"),
        });
    }
    let bare = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    let (text, encoding) = match std::str::from_utf8(bare) {
        Ok(text) => (text.into(), "UTF-8"),
        Err(_) => (encoding_rs::WINDOWS_1252.decode(bare).0, "Latin-1"),
    };
    // one kind of line end, so that lines are counted as an editor counts them
    Ok((if text.contains("\r\n") { text.replace("\r\n", "\n") } else { text.into_owned() }, encoding))
}

/// The separator: whichever of tab, semicolon and comma splits the first row into most cells.
pub fn separator_of(text: &str) -> u8 {
    let first = text.lines().find(|l| !l.trim().is_empty()).unwrap_or("");
    let count = |c: u8| first.bytes().filter(|b| *b == c).count();
    [b'\t', b';', b','].into_iter().max_by_key(|c| (count(*c), *c == b';')).filter(|c| count(*c) > 0).unwrap_or(b',')
}

/// Name of a separator.
pub fn separator_word(separator: u8) -> &'static str {
    match separator {
        b'\t' => "tab",
        b';' => "semicolon",
        _ => "comma",
    }
}

/// A reader over decoded text with its separator.
pub fn reader(text: &str, separator: u8) -> csv::Reader<&[u8]> {
    csv::ReaderBuilder::new().delimiter(separator).flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes())
}

/// A csv error as a sentence with its line.
pub fn broken(e: &csv::Error) -> TableError {
    let line = e.position().map_or(0, |p| usize::try_from(p.line()).unwrap_or(0));
    TableError::Broken { line, what: "a quotation mark is not closed, or the row cannot be read".to_owned() }
}

/// Reads a whole table.
///
/// # Errors
/// When it is not text, empty or broken.
pub fn read(bytes: &[u8]) -> Result<Table, TableError> {
    let (text, encoding) = decode(bytes)?;
    let separator = separator_of(&text);
    read_decoded(&text, separator, encoding)
}

/// Reads a table that has no line of names, under names that somebody gave.
///
/// # Errors
/// When it is not text, empty or broken.
pub fn read_under(names: &[String], bytes: &[u8]) -> Result<Table, TableError> {
    let (text, encoding) = decode(bytes)?;
    let separator = separator_of(&text);
    let names: Vec<String> = names.iter().map(|n| format!("\"{}\"", n.replace('"', ""))).collect();
    let mut table = read_decoded(&format!("{}\n{text}", names.join(&char::from(separator).to_string())), separator, encoding)?;
    table.lines.iter_mut().for_each(|l| *l = l.saturating_sub(1));
    Ok(table)
}

fn read_decoded(text: &str, separator: u8, encoding: &str) -> Result<Table, TableError> {
    let mut reader = reader(text, separator);
    let header: Vec<String> = reader.headers().map_err(|e| broken(&e))?.iter().map(str::to_owned).collect();
    if header.iter().all(String::is_empty) {
        return Err(TableError::Empty);
    }
    let (mut rows, mut lines) = (Vec::new(), Vec::new());
    for record in reader.records() {
        let record = record.map_err(|e| broken(&e))?;
        if record.iter().any(|c| !c.is_empty()) {
            lines.push(record.position().map_or(0, |p| usize::try_from(p.line()).unwrap_or(0)));
            rows.push(record.iter().map(str::to_owned).collect());
        }
    }
    if rows.is_empty() {
        return Err(TableError::Empty);
    }
    Ok(Table { header, rows, lines, encoding: encoding.to_owned(), separator: separator_word(separator).to_owned() })
}
