//! The book of bases: read from the data files, choices made by merging what an option sets over the entry.

use super::BasisError;
use super::entry::{Choice, ChoiceOption, Entry};
use std::collections::BTreeMap;
use std::sync::LazyLock;
use toml::{Table, Value};

/// The data files that ship, with their names.
pub const FILES: [(&str, &str); 6] = [
    ("piping.toml", include_str!("../../data/bases/piping.toml")),
    ("vessels.toml", include_str!("../../data/bases/vessels.toml")),
    ("boilers.toml", include_str!("../../data/bases/boilers.toml")),
    ("mains.toml", include_str!("../../data/bases/mains.toml")),
    ("joints.toml", include_str!("../../data/bases/joints.toml")),
    ("owner.toml", include_str!("../../data/bases/owner.toml")),
];

/// An entry before any choice is made.
#[derive(Debug, Clone)]
struct Raw {
    file: String,
    table: Table,
    /// The entry with the first option of every choice.
    plain: Entry,
}

/// All bases.
#[derive(Debug, Clone)]
pub struct Bases(Vec<Raw>);

/// A data file that cannot be read.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{file}: {source}")]
pub struct BadBook {
    file: String,
    source: BadBasis,
}

/// What is wrong in it.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum BadBasis {
    /// It is no TOML, or an entry says what no entry does.
    #[error(transparent)]
    Toml(#[from] toml::de::Error),
    /// It has no bases.
    #[error("no [[basis]] stands in it")]
    NoBasis,
    /// A basis is not a table.
    #[error("a basis is no table")]
    NotATable,
}

/// What an answer to each question was, in words.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Answer {
    /// The question.
    pub question: String,
    /// The answer.
    pub words: String,
    /// True where nobody chose and the default stands.
    pub by_default: bool,
}

static SHIPPED: LazyLock<Bases> = LazyLock::new(|| {
    // the files are the crate's own, and a test opens each
    Bases::read(&FILES).unwrap_or_else(|e| unreachable!("the shipped book of bases is readable (tested): {e}"))
});

/// The bases that ship.
pub fn shipped() -> &'static Bases {
    &SHIPPED
}

/// Lays `over` upon `table`: tables are merged, everything else is replaced.
fn merge(table: &mut Table, over: &Table) {
    for (key, value) in over {
        match (table.get_mut(key), value) {
            (Some(Value::Table(inner)), Value::Table(changes)) => merge(inner, changes),
            _ => {
                table.insert(key.clone(), value.clone());
            }
        }
    }
}

/// The bases of a file.
fn rows(file: &str, text: &str) -> Result<Vec<Raw>, BadBasis> {
    let table: Table = text.parse()?;
    let Some(Value::Array(rows)) = table.get("basis") else { return Err(BadBasis::NoBasis) };
    let raw = |row: &Value| {
        let Value::Table(table) = row else { return Err(BadBasis::NotATable) };
        Ok(Raw { file: file.to_owned(), table: table.clone(), plain: table.clone().try_into()? })
    };
    rows.iter().map(raw).collect()
}

/// The option that stands for a choice, and whether it is the default.
fn option<'a>(choice: &'a Choice, asked: &BTreeMap<String, String>) -> Option<(&'a ChoiceOption, bool)> {
    match asked.get(&choice.key) {
        Some(key) => choice.options.iter().find(|o| o.key == *key).map(|o| (o, false)),
        None => choice.options.first().map(|o| (o, true)),
    }
}

impl Bases {
    /// Reads data files, each with its name.
    ///
    /// # Errors
    /// Names the file and what is wrong in it.
    pub fn read(files: &[(&str, &str)]) -> Result<Self, BadBook> {
        let mut all = Vec::new();
        for (file, text) in files {
            all.extend(rows(file, text).map_err(|source| BadBook { file: (*file).to_owned(), source })?);
        }
        Ok(Self(all))
    }

    /// Every entry as it stands before a choice, with the file that it comes from.
    pub fn all(&self) -> impl Iterator<Item = (&Entry, &str)> {
        self.0.iter().map(|r| (&r.plain, r.file.as_str()))
    }

    fn raw(&self, id: &str) -> Result<&Raw, BasisError> {
        self.0.iter().find(|r| r.plain.id == id).ok_or_else(|| BasisError::Unknown {
            asked: id.to_owned(),
            known: self.0.iter().map(|r| r.plain.id.as_str()).collect::<Vec<_>>().join(", "),
        })
    }

    /// The entry before a choice.
    ///
    /// # Errors
    /// When there is none with this id.
    pub fn plain(&self, id: &str) -> Result<&Entry, BasisError> {
        self.raw(id).map(|r| &r.plain)
    }

    /// The entry with choices made, and each answer in words.
    ///
    /// # Errors
    /// When the basis, a question or an answer is not known.
    pub fn resolved(&self, id: &str, asked: &BTreeMap<String, String>) -> Result<(Entry, Vec<Answer>), BasisError> {
        let raw = self.raw(id)?;
        if let Some(stray) = asked.keys().find(|k| !raw.plain.choices.iter().any(|c| c.key == **k)) {
            return Err(BasisError::UnknownQuestion {
                basis: id.to_owned(),
                asked: stray.clone(),
                known: raw.plain.choices.iter().map(|c| c.key.as_str()).collect::<Vec<_>>().join(", "),
            });
        }
        let mut table = raw.table.clone();
        let mut made: BTreeMap<&str, &str> = BTreeMap::new();
        let mut answers = Vec::new();
        for choice in &raw.plain.choices {
            let Some((chosen, by_default)) = option(choice, asked) else {
                return Err(BasisError::UnknownAnswer {
                    question: choice.key.clone(),
                    asked: asked.get(&choice.key).cloned().unwrap_or_default(),
                    known: choice.options.iter().map(|o| o.key.as_str()).collect::<Vec<_>>().join(", "),
                });
            };
            made.insert(&choice.key, &chosen.key);
            if choice.only.iter().any(|(k, v)| made.get(k.as_str()) != Some(&v.as_str())) {
                continue;
            }
            merge(&mut table, &chosen.set);
            answers.push(Answer { question: choice.question.clone(), words: chosen.words.to_string(), by_default });
        }
        // an option that breaks its entry cannot ship: a test makes every choice of every basis
        let entry: Entry = table.try_into().map_err(|source| BasisError::Broken { basis: id.to_owned(), source: Box::new(source) })?;
        Ok((entry, answers))
    }
}
