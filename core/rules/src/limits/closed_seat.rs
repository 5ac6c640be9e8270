//! LIMIT-CLOSED-SEAT: a closed valve at the end of the test.

use super::LimitError;
use crate::basis::Ground;
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind, Seat, ValveType};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Closed valve seat.
pub const RULE: Rule = Rule {
    id: "LIMIT-CLOSED-SEAT",
    sentence: "A closed seat is loaded to its rating; a metal-seated process valve to 1.1 times it, a metal-seated gate or hydrant under a basis that says so to twice. By class alone only gates and metal-seated globes are judged; every other type is often rated below its class, so its plate is asked for.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "limit_closed_seat_closed_seat_is_weaker_than_its_shell",
};

/// What a metal-seated process valve may see closed, times its rating.
const METAL: f64 = 1.1;

/// True for what is closed at its seat.
const fn seated(part: &Part) -> bool {
    matches!(part.kind, PartKind::ClosedValve | PartKind::Hydrant)
}

/// Factor on the rating, and who says so.
fn factor(part: &Part, ground: &Ground) -> (f64, &'static str) {
    let gate = part.kind == PartKind::Hydrant || matches!(part.valve, None | Some(ValveType::Gate));
    match (ground.entry.seats, part.seat) {
        (Some(s), Some(Seat::MetalSeated)) if gate => (s.metal_seated, "metal seat, by the basis"),
        (Some(s), Some(Seat::Resilient)) => (s.resilient, "resilient seat, by the basis"),
        (None, Some(Seat::MetalSeated)) if part.kind == PartKind::ClosedValve => (METAL, "metal-seated process valve, common practice"),
        (_, None) => (1.0, "seat not known"),
        _ => (1.0, "common practice"),
    }
}

/// The rating that counts: the maker's, or by class that of a gate, or of a metal-seated globe.
fn rating(part: &Part, ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    if let Some(rating) = part.rating_pa {
        return Ok(Some(rating));
    }
    if part.test_limit_pa.is_some() {
        return Ok(None);
    }
    let by_class = match (part.valve, part.seat) {
        (Some(ValveType::Gate), Some(_)) | (Some(ValveType::Globe), Some(Seat::MetalSeated)) => true,
        (None, Some(_)) => part.kind == PartKind::Hydrant,
        _ => false,
    };
    if by_class && let Some(rated) = super::flange::cold(part, ground)? {
        return Ok(Some(rated));
    }
    let what = part.valve.map_or_else(|| format!("this {}'s", part.kind.word()), |t| format!("this {} valve's", t.word()));
    let ask = match part.valve {
        None => {
            "say which type of valve it is and how it seals, or read its plate and give the rating of its seat; or put a blind in its place"
        }
        Some(ValveType::Gate | ValveType::Globe) => {
            "say how it seals and its class, or read its plate and give the rating of its seat; or put a blind in its place"
        }
        Some(_) => {
            "many are rated below their class, and some not for a dead end at all: read its plate and give the rating of its seat, or put a blind in its place"
        }
    };
    Err(LimitError::Seat { tag: part.tag.clone(), what, ask: ask.to_owned() })
}

/// p = f · rating of the seat.
pub(super) fn value(part: &Part, ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    if !seated(part) {
        return Ok(None);
    }
    Ok(rating(part, ground)?.map(|r| r.times(factor(part, ground).0)))
}

pub(super) fn why(part: &Part, ground: &Ground, pressure: GaugePressure) -> Derivation {
    let (factor, by) = factor(part, ground);
    let source = if part.rating_pa.is_some() { "as entered, from the maker" } else { "cold rating of its class" };
    Derivation::new("greatest pressure on the closed seat", &RULE, Amount::gauge(pressure), "p = f · rating")
        .with("f", "factor on the rating", Amount::number(factor), by)
        .with("rating", "rating of the seat", Amount::gauge(pressure.times(1.0 / factor)), source)
        .would_change("A blind in place of the closed valve.")
}

pub(super) fn words(part: &Part, ground: &Ground) -> String {
    format!("closed seat, {} × rating", factor(part, ground).0)
}
