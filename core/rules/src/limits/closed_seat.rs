//! LIMIT-CLOSED-SEAT: a closed valve at the end of the test.

use crate::basis::Demand;
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind, Seat};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Closed valve seat.
pub const RULE: Rule = Rule {
    id: "LIMIT-CLOSED-SEAT",
    sentence: "A closed valve seat is not loaded beyond 1.1 times its rating; a basis may say otherwise for metal-seated gates and hydrants, and for resilient seats.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "closed_seat_is_weaker_than_its_shell",
};

/// What a closed seat may see where the basis says nothing else, times its rating.
const USUAL: f64 = 1.1;

/// Factor on the rating, and who says so.
pub(super) fn factor(part: &Part, demand: &Demand) -> (f64, &'static str) {
    match (demand.entry.seats, part.seat) {
        (Some(s), Some(Seat::MetalSeated)) => (s.metal_seated, "metal seat, by the basis"),
        (Some(s), Some(Seat::Resilient)) => (s.resilient, "resilient seat, by the basis"),
        _ => (USUAL, "common practice"),
    }
}

/// p = f · rating of the seat.
pub(super) fn value(part: &Part, demand: &Demand) -> Option<GaugePressure> {
    if part.kind != PartKind::ClosedValve {
        return None;
    }
    part.rating_pa.map(|r| r.times(factor(part, demand).0))
}

pub(super) fn why(part: &Part, demand: &Demand, pressure: GaugePressure) -> Derivation {
    let (factor, by) = factor(part, demand);
    Derivation::new("greatest pressure on the closed seat", &RULE, Amount::gauge(pressure), "p = f · rating")
        .with("f", "factor on the rating", Amount::number(factor), by)
        .with("rating", "rating of the seat", Amount::gauge(part.rating_pa.unwrap_or(pressure)), "as entered, from the maker")
        .would_change("A blind in place of the closed valve.")
}
