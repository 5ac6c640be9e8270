//! A log that is only ever added to: each entry's hash covers the one before it, so that nothing can be taken out or altered unseen.
//!
//! Its file is one JSON object a line: the first names format and installation, each other is an entry.

use crate::canonical::sha256_hex;
use serde::{Deserialize, Serialize};

/// Name and number of the file's format.
pub const FORMAT: &str = "zero-leak security log 1";

/// Hash before the first entry.
pub const BEFORE_ALL: &str = "0000000000000000000000000000000000000000000000000000000000000000";

/// One entry.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Entry {
    /// Its number, from 1 on, without a gap.
    pub seq: u64,
    /// When, µs from 1970-01-01 UTC.
    pub at_us: i64,
    /// What happened: `signed_in`, `refused`, `exported`, and so on.
    pub what: String,
    /// The account that it concerns, as it was named.
    pub account: String,
    /// Address from which it was asked; `local` for the command line.
    pub address: String,
    /// What exactly.
    pub detail: String,
    /// SHA-256, hex, of the hash before it and of all the above, each with its length in front, so that no two entries are written alike.
    pub hash: String,
}

impl Entry {
    /// An entry after another's hash.
    pub fn after(before: &str, seq: u64, at_us: i64, [what, account, address, detail]: [&str; 4]) -> Self {
        let mut entry = Self {
            seq,
            at_us,
            what: what.into(),
            account: account.into(),
            address: address.into(),
            detail: detail.into(),
            hash: String::new(),
        };
        entry.hash = entry.hash_after(before);
        entry
    }

    /// The hash that it has after another.
    pub fn hash_after(&self, before: &str) -> String {
        let (seq, at) = (self.seq.to_string(), self.at_us.to_string());
        let fields = [before, &seq, &at, &self.what, &self.account, &self.address, &self.detail];
        let text: String = fields.iter().map(|f| format!("{}:{f}\n", f.len())).collect();
        sha256_hex(text.as_bytes())
    }
}

/// Where a log is broken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Broken {
    /// An entry is not what was written.
    #[error("entry {0} is not as it was written, or what stood before it was altered")]
    Altered(u64),
    /// An entry is missing.
    #[error("entry {0} is missing")]
    Missing(u64),
    /// A line cannot be read.
    #[error("line {0} cannot be read")]
    Unreadable(usize),
    /// Not such a file.
    #[error("the first line does not name the format \"{FORMAT}\": this is no security log")]
    NoLog,
}

/// Checks entries that follow one another, from a hash on; the last hash.
///
/// # Errors
/// At the first that is not what was written.
pub fn check<'a>(entries: impl IntoIterator<Item = &'a Entry>, mut next: u64, before: &str) -> Result<String, Broken> {
    let mut hash = before.to_owned();
    for entry in entries {
        if entry.seq != next {
            return Err(Broken::Missing(next));
        }
        if entry.hash != entry.hash_after(&hash) {
            return Err(Broken::Altered(entry.seq));
        }
        hash.clone_from(&entry.hash);
        next += 1;
    }
    Ok(hash)
}

/// First line of the file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Head {
    /// [`FORMAT`].
    pub format: String,
    /// Name of the site.
    pub site: String,
}

/// Checks a whole file: how many entries it has, and the hash of the last.
///
/// # Errors
/// Where it is not what was written.
pub fn check_file(text: &str) -> Result<(u64, String), Broken> {
    let mut lines = text.lines().enumerate();
    let head = lines.next().and_then(|(_, l)| serde_json::from_str::<Head>(l).ok());
    if head.is_none_or(|h| h.format != FORMAT) {
        return Err(Broken::NoLog);
    }
    let entries: Vec<Entry> = lines
        .filter(|(_, l)| !l.trim().is_empty())
        .map(|(i, l)| serde_json::from_str(l).map_err(|_| Broken::Unreadable(i + 1)))
        .collect::<Result<_, _>>()?;
    let last = check(&entries, 1, BEFORE_ALL)?;
    Ok((entries.len() as u64, last))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn log(n: u64) -> Vec<Entry> {
        let mut before = BEFORE_ALL.to_owned();
        (1..=n)
            .map(|seq| {
                let e = Entry::after(&before, seq, 1000 * seq as i64, ["signed_in", "reader", "10.0.0.7", &format!("number {seq}")]);
                before.clone_from(&e.hash);
                e
            })
            .collect()
    }

    #[test]
    fn nothing_is_altered_moved_or_taken_out_unseen() {
        let whole = log(20);
        assert_eq!(check(&whole, 1, BEFORE_ALL).unwrap(), whole[19].hash);
        for i in 0..20 {
            let seq = whole[i].seq;
            let altered = |f: &dyn Fn(&mut Entry)| {
                let mut log = whole.clone();
                f(&mut log[i]);
                check(&log, 1, BEFORE_ALL)
            };
            assert_eq!(altered(&|e| e.account = "owner".into()), Err(Broken::Altered(seq)));
            assert_eq!(altered(&|e| e.at_us += 1), Err(Broken::Altered(seq)));
            // what moves from one field into the next is another entry
            assert_eq!(altered(&|e| (e.what, e.account) = ("signed_inr".into(), "eader".into())), Err(Broken::Altered(seq)));
            let mut without = whole.clone();
            without.remove(i);
            assert_eq!(check(&without, 1, BEFORE_ALL).is_err(), i < 19, "a log that ends earlier is told by its last hash alone");
        }
        assert_eq!(check(&whole[1..], 1, BEFORE_ALL), Err(Broken::Missing(1)));
    }

    #[test]
    fn a_file_is_read_back_as_it_was_written() {
        let whole = log(3);
        let mut text = serde_json::to_string(&Head { format: FORMAT.into(), site: "Merrowick Works".into() }).unwrap();
        for e in &whole {
            text = text + "\n" + &serde_json::to_string(e).unwrap();
        }
        assert_eq!(check_file(&text).unwrap(), (3, whole[2].hash.clone()));
        assert_eq!(check_file(&text.replace("number 2", "number 3")), Err(Broken::Altered(2)));
        assert_eq!(check_file(&text.replacen("\"seq\"", "\"sec\"", 1)), Err(Broken::Unreadable(2)));
        assert_eq!(check_file("{}"), Err(Broken::NoLog));
        assert_eq!(check_file(""), Err(Broken::NoLog));
    }
}
