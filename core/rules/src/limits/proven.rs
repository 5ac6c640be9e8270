//! LIMIT-PROVEN: old plant is not taken beyond the pressure at which it was last proved, unless its wall says otherwise.

use crate::derivation::{Amount, Derivation};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Last proven pressure.
pub const RULE: Rule = Rule {
    id: "LIMIT-PROVEN",
    sentence: "Old plant is not taken beyond the pressure at which it was last proved.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "limit_thrust_limit_proven_old_plant_and_restraint_limit_a_part",
};

/// p = last proven pressure.
pub(super) fn why(pressure: GaugePressure) -> Derivation {
    Derivation::new("greatest pressure of old plant", &RULE, Amount::gauge(pressure), "p = p_proven")
        .with("p_proven", "pressure at which it was last proved", Amount::gauge(pressure), "as entered, from its record")
        .would_change("A measured wall and an engineer's calculation in place of the old proof.")
}
