//! Registers of a pack: what is kept item by item, each with its fields, its ticks, who changed it, when and why. One file a register.

mod boundary;
mod decision;
mod look;
mod promise;
mod punch;

pub use boundary::{BoundaryItem, BoundaryKind};
pub use decision::{Decision, Remedy};
pub use look::{LookAt, LookFound, LookKind};
pub use promise::{OwedKind, StillOwed};
pub use punch::{Punch, PunchCategory};

use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

/// Every register.
pub const REGISTERS: [&Register; 5] = [&punch::REGISTER, &boundary::REGISTER, &look::REGISTER, &promise::REGISTER, &decision::REGISTER];

/// What stands against an item, and at which field.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Objection {
    /// The field.
    pub field: &'static str,
    /// Why, in a sentence.
    pub why: String,
}

impl Objection {
    /// An objection.
    pub fn new(field: &'static str, why: impl Into<String>) -> Self {
        Self { field, why: why.into() }
    }
}

/// Who keeps a register.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Keepers {
    /// whoever plans the test
    Planners,
    /// whoever looks for what is wrong: planners, and the inspector
    Lookers,
    /// whoever has a part in the test: planners, the inspector, and those who book
    Crew,
}

/// What a field of an item holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Holds {
    /// text of so many characters at most; empty is refused
    Text(usize),
    /// text of so many characters at most; empty where there is nothing to say
    Note(usize),
    /// one of the words of a term
    Term,
    /// a whole number
    Number,
    /// done or not; who did it and when is kept beside it
    Tick,
}

/// A field of an item, as a table shows it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Column {
    /// Its name in the data.
    pub field: &'static str,
    /// What it is called.
    pub words: &'static str,
    /// What it holds.
    pub holds: Holds,
}

impl Column {
    const fn text(field: &'static str, words: &'static str, most: usize) -> Self {
        Self { field, words, holds: Holds::Text(most) }
    }
    const fn note(field: &'static str, words: &'static str, most: usize) -> Self {
        Self { field, words, holds: Holds::Note(most) }
    }
    const fn number(field: &'static str, words: &'static str) -> Self {
        Self { field, words, holds: Holds::Number }
    }
    const fn term(field: &'static str, words: &'static str) -> Self {
        Self { field, words, holds: Holds::Term }
    }
    const fn tick(field: &'static str, words: &'static str) -> Self {
        Self { field, words, holds: Holds::Tick }
    }
}

/// One register; its first column is what an item is called by, and no two items of a pack that still stand are called the same.
#[derive(Debug)]
pub struct Register {
    /// Its name in addresses and data.
    pub key: &'static str,
    /// What it is called.
    pub words: &'static str,
    /// What one of its items is called.
    pub one: &'static str,
    /// Who keeps it.
    pub kept_by: Keepers,
    /// Fields of its items.
    pub columns: &'static [Column],
    /// Fields whose change makes a tick another person's act: who ticked it is then whoever changed it.
    pub marks_anew: &'static [&'static str],
    read: fn(&Value) -> Result<Value, Unreadable>,
}

/// An item that cannot be taken.
#[derive(Debug)]
pub enum Unreadable {
    /// it is none of this register
    Form(serde_json::Error),
    /// all that stands against it
    Against(Vec<Objection>),
}

/// An item that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Read {
    /// What it is called by.
    pub tag: String,
    /// The item, with every field.
    pub body: Value,
}

impl Register {
    /// The register of a name.
    pub fn of(key: &str) -> Option<&'static Self> {
        REGISTERS.into_iter().find(|r| r.key == key)
    }

    /// Reads an item; texts are trimmed.
    ///
    /// # Errors
    /// All that stands against it at once, each at its field.
    pub fn read(&self, body: &Value) -> Result<Read, Unreadable> {
        let mut body = body.clone();
        let mut against = Vec::new();
        for c in self.columns {
            let (Holds::Text(most) | Holds::Note(most), Some(Value::String(text))) = (c.holds, body.get_mut(c.field)) else { continue };
            *text = text.trim().to_owned();
            match text.chars().count() {
                0 if c.holds == Holds::Note(most) => {}
                0 => against.push(Objection::new(c.field, format!("{} is missing: type it", c.words))),
                n if n > most => against.push(Objection::new(c.field, format!("{} has {n} characters, {most} fit: shorten it", c.words))),
                _ => {}
            }
        }
        let typed = match (self.read)(&body) {
            Ok(typed) => typed,
            Err(Unreadable::Against(more)) => {
                against.extend(more);
                body
            }
            Err(form) => return Err(form),
        };
        if !against.is_empty() {
            return Err(Unreadable::Against(against));
        }
        let tag = self.columns.first().and_then(|c| typed.get(c.field)).and_then(Value::as_str).unwrap_or_default().to_owned();
        Ok(Read { tag, body: typed })
    }

    /// Fields of an item that are ticked.
    pub fn ticked<'a>(&self, body: &'a Value) -> impl Iterator<Item = &'static str> + use<'a> {
        self.columns.iter().filter(|c| c.holds == Holds::Tick).map(|c| c.field).filter(|f| body.get(f) == Some(&Value::Bool(true)))
    }
}

/// An item of a register.
pub trait Item: Serialize + DeserializeOwned {
    /// Its register.
    const REGISTER: &'static Register;
    /// What stands against it beyond empty and long texts.
    fn objections(&self) -> Vec<Objection> {
        Vec::new()
    }
}

fn as_typed<T: Item>(body: &Value) -> Result<Value, Unreadable> {
    let item: T = serde_json::from_value(body.clone()).map_err(Unreadable::Form)?;
    let against = item.objections();
    if against.is_empty() { serde_json::to_value(item).map_err(Unreadable::Form) } else { Err(Unreadable::Against(against)) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn an_item_is_trimmed_and_called_by_its_first_field() {
        let read = Register::of("punch")
            .unwrap()
            .read(&json!({ "number": " 7 ", "category": "A", "text": "weld 12", "owner": "inspector", "cleared": false }));
        assert_eq!(read.unwrap().tag, "7");
    }

    #[test]
    fn all_that_stands_against_an_item_is_said_at_once_and_each_at_its_field() {
        let item = json!({ "tag": "", "kind": "blind", "place": "x".repeat(201), "set_for_test": false, "put_back": true });
        let Err(Unreadable::Against(all)) = Register::of("boundary").unwrap().read(&item) else { panic!("it was taken") };
        assert_eq!(all.iter().map(|o| o.field).collect::<Vec<_>>(), ["tag", "place", "put_back"]);
    }

    /// The description of the columns names every field of the typed item and no other, so that a table shows all of it.
    #[test]
    fn every_column_is_a_field_and_every_field_a_column() {
        let items = [
            json!({ "number": "7", "category": "A", "text": "weld 12", "owner": "inspector", "cleared": true }),
            json!({ "tag": "TB-1", "kind": "blind", "place": "end", "set_for_test": true, "put_back": false }),
            json!({ "what": "stays", "kind": "original", "found": "dry", "where": "", "attempt": 1, "looked": true }),
            json!({ "what": "loop", "kind": "dry", "person": "supervisor", "due": "2027-03-31", "figure": "", "carried": true, "done": false }),
            json!({ "what": "plug 4", "attempt": 1, "way": "repair", "how": "new plug", "person": "boilermaker", "due": "2027-03-31", "done": true }),
        ];
        assert_eq!(items.len(), REGISTERS.len());
        for (register, item) in REGISTERS.into_iter().zip(items) {
            let read = register.read(&item).unwrap();
            let mut fields: Vec<_> = read.body.as_object().unwrap().keys().map(String::as_str).collect();
            let mut columns: Vec<_> = register.columns.iter().map(|c| c.field).collect();
            fields.sort_unstable();
            columns.sort_unstable();
            assert_eq!(fields, columns, "{}", register.key);
            assert_eq!(register.ticked(&read.body).count(), 1);
            assert!(matches!(register.read(&json!({})), Err(Unreadable::Form(_))), "{}", register.key);
        }
    }
}
