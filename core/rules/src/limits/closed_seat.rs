//! LIMIT-CLOSED-SEAT: a closed valve at the end of the test.

use super::Limit;
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};

/// Closed valve seat.
pub const RULE: Rule = Rule {
    id: "LIMIT-CLOSED-SEAT",
    sentence: "A closed valve seat is not loaded beyond 1.1 times its rating.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "closed_seat_is_weaker_than_its_shell",
};

/// p = 1.1 · rating of the seat.
pub(super) fn limit(part: &Part) -> Option<Limit> {
    if part.kind != PartKind::ClosedValve {
        return None;
    }
    let rating = part.rating_pa?;
    let pressure = rating.times(1.1);
    let why = Derivation::new("greatest pressure on the closed seat", &RULE, Amount::gauge(pressure), "p = 1.1 · rating")
        .with("rating", "rating of the seat", Amount::gauge(rating), "as entered, from the maker")
        .would_change("A blind in place of the closed valve.");
    Some(Limit { pressure, rule: &RULE, words: "closed seat, 1.1 × rating".to_owned(), why })
}
