//! LIMIT-MAKER: what the maker or the plate allows.

use super::Limit;
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Maker's figures.
pub const RULE: Rule = Rule {
    id: "LIMIT-MAKER",
    sentence: "No part is taken above its own test limit; a hose or fitting without one, not above its rating.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "makers_limit_and_rating",
};

/// The part's own test limit; and its rating where it has no test limit and no rule that multiplies the rating.
pub(super) fn limit(part: &Part) -> Option<Limit> {
    let make = |pressure: GaugePressure, words: &str, meaning: &str| {
        let why = Derivation::new("greatest pressure by the maker", &RULE, Amount::gauge(pressure), "p = maker's figure")
            .with("p", meaning, Amount::gauge(pressure), "as entered")
            .would_change("Another figure from the maker, in writing.");
        Limit { pressure, rule: RULE.id.to_owned(), words: words.to_owned(), why }
    };
    match (part.test_limit_pa, part.rating_pa) {
        (Some(limit), _) => Some(make(limit, "its own test limit", "the part's own test limit")),
        (None, Some(rating)) if part.kind != PartKind::ClosedValve => Some(make(rating, "maker's rating", "the maker's rating")),
        _ => None,
    }
}
