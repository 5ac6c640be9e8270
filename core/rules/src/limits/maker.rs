//! LIMIT-MAKER: what the maker or the plate allows.

use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Maker's figures.
pub const RULE: Rule = Rule {
    id: "LIMIT-MAKER",
    sentence: "No part is taken above its own test limit, no vessel above its own test pressure where it has no limit; a hose or fitting without one, not above its rating.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "makers_limit_and_rating",
};

/// The part's own test limit, or a vessel's own test pressure; and its rating where it has no test limit and no rule that multiplies the rating.
pub(super) fn value(part: &Part) -> Option<GaugePressure> {
    part.test_limit_pa.or(part.test_pressure_pa).or_else(|| part.rating_pa.filter(|_| part.kind != PartKind::ClosedValve))
}

pub(super) fn why(part: &Part, pressure: GaugePressure) -> Derivation {
    let meaning = match (part.test_limit_pa, part.test_pressure_pa) {
        (Some(_), _) => "the part's own test limit",
        (None, Some(_)) => "the vessel's own test pressure",
        (None, None) => "the maker's rating",
    };
    Derivation::new("greatest pressure by the maker", &RULE, Amount::gauge(pressure), "p = maker's figure")
        .with("p", meaning, Amount::gauge(pressure), "as entered")
        .would_change("Another figure from the maker, in writing.")
}

pub(super) const fn words(part: &Part) -> &'static str {
    match (part.test_limit_pa, part.test_pressure_pa) {
        (Some(_), _) => "its own test limit",
        (None, Some(_)) => "its own test pressure",
        (None, None) => "maker's rating",
    }
}
