//! What was decided after a test that stopped or showed a leak: about what, by whom, until when.

use super::{Column, Item, Keepers, Objection, Register, as_typed};
use crate::instrument::IsoDate;
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What was decided.
pub const REGISTER: Register = Register {
    key: "decision",
    words: "What was decided",
    one: "decision",
    kept_by: Keepers::Lookers,
    columns: &[
        Column::text("what", "what it is about", 64),
        Column::number("attempt", "after which attempt"),
        Column::term("way", "what is done about it"),
        Column::text("how", "how, and why", 300),
        Column::text("person", "who does it", 64),
        Column::text("due", "until when", 10),
        Column::tick("done", "done"),
    ],
    marks_anew: &[],
    read: as_typed::<Decision>,
};

/// What is done about it.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    utoipa::ToSchema,
    VariantArray,
    EnumMessage,
    EnumProperty,
    EnumString,
    IntoStaticStr,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Remedy {
    /// repaired, at zero pressure
    #[strum(message = "repair it")]
    Repair,
    /// tested again as it is
    #[strum(message = "test it again as it is")]
    Retest,
    /// used at a lower pressure
    #[strum(message = "derate it")]
    Derate,
    /// taken out of use
    #[strum(message = "scrap it")]
    Scrap,
}

/// A decision.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Decision {
    /// What it is about, as the place is called on the list or on its tag.
    pub what: String,
    /// Number of the attempt after which it was decided.
    pub attempt: u32,
    /// What is done about it.
    pub way: Remedy,
    /// How, and why.
    pub how: String,
    /// Who does it.
    pub person: String,
    /// Until when, as a date.
    pub due: String,
    /// True once done.
    pub done: bool,
}

impl Item for Decision {
    const REGISTER: &'static Register = &REGISTER;

    fn objections(&self) -> Vec<Objection> {
        let wrong = IsoDate::new(&self.due).is_none();
        wrong.then(|| Objection::new("due", "until when is no date: write it like 2027-03-31")).into_iter().collect()
    }
}

#[cfg(test)]
mod tests {
    use crate::registers::{Register, Unreadable};
    use serde_json::json;

    #[test]
    fn a_decision_says_how_by_whom_and_until_when() {
        let empty = json!({ "what": "", "attempt": 1, "way": "repair", "how": "", "person": "", "due": "", "done": false });
        let Err(Unreadable::Against(all)) = Register::of("decision").unwrap().read(&empty) else { panic!("it was taken") };
        assert_eq!(all.iter().map(|o| o.field).collect::<Vec<_>>(), ["what", "how", "person", "due", "due"]);
    }
}
