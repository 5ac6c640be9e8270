//! LIMIT-MAKER: what the maker or the plate allows.

use crate::basis::Ground;
use crate::derivation::{Amount, Derivation};
use crate::part::{Part, PartKind};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Maker's figures.
pub const RULE: Rule = Rule {
    id: "LIMIT-MAKER",
    sentence: "No part is taken above its own test limit, no vessel above its own test pressure or, where that is not given, the maximum allowable pressure of its plate; a hose, joint, bellows, instrument or fitting without one, not above its rating.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "limit_maker_makers_limit_and_rating",
};

/// A vessel in a test of piping.
pub const GUEST: Rule = Rule {
    id: "LIMIT-GUEST-VESSEL",
    sentence: "A vessel, exchanger, boiler or machine within a test of piping is held to its own test pressure or its plate, never to the yield of its shell.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "limit_guest_vessel_a_vessel_within_piping_is_held_to_its_own_figure",
};

/// The part's own test limit, or a vessel's own test pressure; and its rating where it has no test limit and no rule that multiplies the rating.
pub(super) fn value(part: &Part, ground: &Ground) -> Option<GaugePressure> {
    let rated = part.rating_pa.filter(|_| !matches!(part.kind, PartKind::ClosedValve | PartKind::Hydrant) && !super::ductile::is(part));
    // the plate of the vessel that is tested is what its basis multiplies, not what it bears
    let rated = rated.filter(|_| !part.kind.vessel() || ground.of_piping());
    part.test_limit_pa.or(part.test_pressure_pa).or(rated)
}

pub(super) fn why(part: &Part, pressure: GaugePressure) -> Derivation {
    let meaning = match (part.test_limit_pa, part.test_pressure_pa) {
        (Some(_), _) => "the part's own test limit",
        (None, Some(_)) => "the vessel's own test pressure",
        (None, None) if part.kind.vessel() => "the maximum allowable pressure of its plate",
        (None, None) => "the maker's rating",
    };
    let source = part.limit_by.as_deref().map_or_else(|| "as entered".to_owned(), |by| format!("named by: {by}"));
    Derivation::new("greatest pressure by the maker", &RULE, Amount::gauge(pressure), "p = maker's figure")
        .with("p", meaning, Amount::gauge(pressure), source)
        .would_change("Another figure from the maker, in writing.")
}

pub(super) const fn words(part: &Part) -> &'static str {
    match (part.test_limit_pa, part.test_pressure_pa) {
        (Some(_), _) => "its own test limit",
        (None, Some(_)) => "its own test pressure",
        (None, None) if part.kind.vessel() => "pressure of its plate",
        (None, None) => "maker's rating",
    }
}
