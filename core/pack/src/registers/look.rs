//! What must be looked at during the hold: place by place, each closed with what was found.

use super::{Column, Item, Keepers, Objection, Register, as_typed};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// The places to look at.
pub const REGISTER: Register = Register {
    key: "look",
    words: "What must be looked at",
    one: "place to look at",
    kept_by: Keepers::Crew,
    columns: &[
        Column::text("what", "the place", 64),
        Column::term("kind", "what it is"),
        Column::term("found", "what was found"),
        Column::note("where", "where, or why not", 200),
        Column::number("attempt", "in which attempt"),
        Column::tick("looked", "looked at"),
    ],
    // another finding, or one of another attempt, is a look of its own
    marks_anew: &["found", "where", "attempt"],
    read: as_typed::<LookAt>,
};

/// What a place is to the test.
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
pub enum LookKind {
    /// part of the object as it always was
    #[strum(message = "original", props(more = "of the object"))]
    Original,
    /// new, repaired or altered for this test
    #[strum(message = "repaired or altered", props(more = "repaired or altered"))]
    Altered,
    /// fitted for the test only: it does not speak for the object
    #[strum(message = "temporary", props(more = "fitted for the test only"))]
    Temporary,
}

/// What was found at a place.
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
pub enum LookFound {
    /// nobody looked yet
    #[strum(message = "not yet looked at")]
    Open,
    /// dry
    #[strum(message = "dry")]
    Dry,
    /// it leaks, weeps or bubbles
    #[strum(message = "leaks")]
    Leaks,
    /// it could not be seen: covered, out of reach
    #[strum(message = "could not be seen")]
    NotSeen,
}

/// A place to look at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LookAt {
    /// What people call it.
    pub what: String,
    /// What it is to the test.
    pub kind: LookKind,
    /// What was found.
    pub found: LookFound,
    /// Where it leaks, or why it could not be seen and what stands in for the look.
    #[serde(rename = "where")]
    pub place: String,
    /// Number of the attempt in which that was found; 0 before anybody looked.
    pub attempt: u32,
    /// True once somebody has closed it.
    pub looked: bool,
}

impl LookAt {
    /// A place that nobody has looked at.
    pub fn open(what: impl Into<String>, kind: LookKind) -> Self {
        Self { what: what.into(), kind, found: LookFound::Open, place: String::new(), attempt: 0, looked: false }
    }

    /// True where it was closed in this attempt: what was dry in an attempt before is looked at again.
    pub const fn closed_in(&self, attempt: u32) -> bool {
        self.looked && self.attempt == attempt
    }

    /// True where it counts for the object: what was fitted for the test only does not.
    pub fn counts(&self) -> bool {
        self.kind != LookKind::Temporary
    }
}

impl Item for LookAt {
    const REGISTER: &'static Register = &REGISTER;

    fn objections(&self) -> Vec<Objection> {
        let mut all = Vec::new();
        let closed = self.found != LookFound::Open;
        if closed != self.looked || closed != (self.attempt > 0) {
            all.push(Objection::new(
                "looked",
                "what was found, in which attempt and that somebody looked go together: give all three, or none while nobody has looked",
            ));
        }
        if self.place.is_empty() {
            match self.found {
                LookFound::Leaks => all.push(Objection::new("where", "say where it leaks, so that it is found again")),
                LookFound::NotSeen => {
                    all.push(Objection::new("where", "say why it could not be seen, and what stands in for the look"));
                }
                LookFound::Open | LookFound::Dry => {}
            }
        }
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fields(look: &LookAt) -> Vec<&str> {
        look.objections().iter().map(|o| o.field).collect()
    }

    #[test]
    fn what_was_found_and_who_looked_go_together() {
        let open = LookAt::open("stays", LookKind::Original);
        assert!(open.objections().is_empty());
        assert_eq!(fields(&LookAt { found: LookFound::Dry, ..open.clone() }), ["looked"]);
        assert_eq!(fields(&LookAt { looked: true, ..open.clone() }), ["looked"]);
        let dry = LookAt { found: LookFound::Dry, looked: true, attempt: 2, ..open };
        assert!(dry.objections().is_empty());
        assert!(dry.closed_in(2) && !dry.closed_in(1) && !dry.closed_in(3));
    }

    #[test]
    fn a_leak_says_where_and_what_was_not_seen_says_why() {
        for found in [LookFound::Leaks, LookFound::NotSeen] {
            let look = LookAt { found, looked: true, attempt: 1, ..LookAt::open("stays", LookKind::Original) };
            assert_eq!(fields(&look), ["where"]);
            assert!(LookAt { place: "third from the left".to_owned(), ..look }.objections().is_empty());
        }
    }
}
