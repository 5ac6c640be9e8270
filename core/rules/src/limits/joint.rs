//! LIMIT-JOINT: what the joints of ductile-iron pipe bear.

use super::{LimitError, ductile};
use crate::basis::Ground;
use crate::derivation::{Amount, Derivation};
use crate::part::Part;
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Joints.
pub const RULE: Rule = Rule {
    id: "LIMIT-JOINT",
    sentence: "The push-on joints of ductile-iron pipe are rated for 350 psi unless the maker rates them otherwise.",
    clause: "C111",
    edition: "AWWA C111, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "limit_joint_limit_ductile_a_ductile_iron_main_stops_at_class_and_joint",
};

/// Rating of a push-on joint.
const PUSH_ON: GaugePressure = GaugePressure::from_psi(350.0);

/// p = the maker's rating of the joint, or 350 psi.
pub(super) fn value(part: &Part, _ground: &Ground) -> Result<Option<GaugePressure>, LimitError> {
    Ok(ductile::is(part).then(|| part.rating_pa.unwrap_or(PUSH_ON)))
}

pub(super) fn why(part: &Part, pressure: GaugePressure) -> Derivation {
    let source = if part.rating_pa.is_some() { "as entered, from the maker" } else { "push-on joint, from memory" };
    Derivation::new("greatest pressure of the joint", &RULE, Amount::gauge(pressure), "p = rating of the joint")
        .with("rating", "rating of the joint", Amount::gauge(pressure), source)
        .would_change("The maker's rating of the joint, in the column \"rating\".")
}

pub(super) const fn words(part: &Part) -> &'static str {
    if part.rating_pa.is_some() { "rating of the joint" } else { "push-on joint, as they are rated" }
}
