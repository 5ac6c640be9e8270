//! What was promised for afterwards: done before the pack is closed, or carried over by name.

use super::{Column, Item, Keepers, Objection, Register, as_typed};
use crate::instrument::IsoDate;
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What is still owed.
pub const REGISTER: Register = Register {
    key: "promise",
    words: "What is still owed",
    one: "thing that is owed",
    kept_by: Keepers::Lookers,
    columns: &[
        Column::text("what", "what is owed", 64),
        Column::term("kind", "what kind"),
        Column::text("person", "who does it", 64),
        Column::text("due", "until when", 10),
        Column::note("figure", "figure or finding", 200),
        Column::tick("carried", "carried over"),
        Column::tick("done", "done"),
    ],
    marks_anew: &[],
    read: as_typed::<StillOwed>,
};

/// What kind of work is owed.
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
pub enum OwedKind {
    /// look inside
    #[strum(message = "look inside")]
    InsideLook,
    /// dry it and prove it by its dew point
    #[strum(message = "dry it, with its dew point", props(more = "the dew point that was read"))]
    Dry,
    /// steam test after a repair
    #[strum(message = "steam test")]
    SteamTest,
    /// hammer test of stays
    #[strum(message = "hammer test of the stays")]
    HammerTest,
    /// gaskets renewed
    #[strum(message = "renew gaskets")]
    Gaskets,
    /// temporary supports off
    #[strum(message = "take temporary supports off")]
    Supports,
    /// the reduced figure on valve, switch and tag
    #[strum(message = "reduced pressure on valve, switch and tag", props(more = "the pressure that they now carry"))]
    Derated,
    /// B item of the punch list
    #[strum(message = "clear a B item")]
    PunchB,
    /// anything else
    #[strum(message = "other")]
    Other,
}

/// Something that is owed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct StillOwed {
    /// What people call it.
    pub what: String,
    /// Kind.
    pub kind: OwedKind,
    /// Who does it.
    pub person: String,
    /// Until when, as a date.
    pub due: String,
    /// What was read or found when it was done.
    pub figure: String,
    /// True where the record may be accepted with it still open.
    pub carried: bool,
    /// True once done.
    pub done: bool,
}

impl StillOwed {
    /// What it is, by whom and until when.
    pub fn sentence(&self) -> String {
        use terms::Term;
        let kind = if self.kind == OwedKind::Other { String::new() } else { format!("{}: ", quantity::format::capital(self.kind.words())) };
        format!("{kind}{}; {}, until {}.", self.what, self.person, self.due)
    }
}

impl Item for StillOwed {
    const REGISTER: &'static Register = &REGISTER;

    fn objections(&self) -> Vec<Objection> {
        let mut all = Vec::new();
        if IsoDate::new(&self.due).is_none() {
            all.push(Objection::new("due", "until when is no date: write it like 2027-03-31"));
        }
        if self.done && self.figure.is_empty() {
            match self.kind {
                OwedKind::Dry => all.push(Objection::new("figure", "it is dry by its dew point: write what was read, and where")),
                OwedKind::Derated => {
                    all.push(Objection::new("figure", "write the pressure that valve, switch and tag now carry"));
                }
                OwedKind::InsideLook | OwedKind::HammerTest | OwedKind::SteamTest => {
                    all.push(Objection::new("figure", "write what was found"));
                }
                OwedKind::Gaskets | OwedKind::Supports | OwedKind::PunchB | OwedKind::Other => {}
            }
        }
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn dry() -> StillOwed {
        StillOwed {
            what: "the loop at grid 9".to_owned(),
            kind: OwedKind::Dry,
            person: "supervisor".to_owned(),
            due: "2027-03-31".to_owned(),
            figure: String::new(),
            carried: false,
            done: false,
        }
    }

    #[test]
    fn what_is_proved_by_a_figure_is_not_done_without_it() {
        assert!(dry().objections().is_empty());
        let done = StillOwed { done: true, ..dry() };
        assert_eq!(done.objections().iter().map(|o| o.field).collect::<Vec<_>>(), ["figure"]);
        assert!(StillOwed { figure: "-42 °C at the far vent".to_owned(), ..done }.objections().is_empty());
        assert!(StillOwed { kind: OwedKind::Gaskets, done: true, ..dry() }.objections().is_empty());
    }

    #[test]
    fn until_when_is_a_date() {
        for due in ["soon", "31.03.2027", "2027-02-30"] {
            assert_eq!(StillOwed { due: due.to_owned(), ..dry() }.objections()[0].field, "due", "{due}");
        }
    }

    #[test]
    fn it_says_what_who_and_until_when() {
        assert_eq!(dry().sentence(), "Dry it, with its dew point: the loop at grid 9; supervisor, until 2027-03-31.");
    }
}
