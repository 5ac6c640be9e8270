//! LIMIT-OVER-TEST: where the code gives no upper limit.

use crate::derivation::{Amount, Derivation};
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Where the code is silent.
pub const RULE: Rule = Rule {
    id: "LIMIT-OVER-TEST",
    sentence: "Where the basis gives no upper limit, no part is taken above 1.1 times the test pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "a_boiler_without_a_wall_is_refused_and_with_one_is_capped",
};

/// p = factor · required.
pub(super) fn value(required: GaugePressure, factor: f64) -> GaugePressure {
    required.times(factor)
}

pub(super) fn why(required: GaugePressure, factor: f64, pressure: GaugePressure) -> Derivation {
    Derivation::new("greatest pressure where the basis is silent", &RULE, Amount::gauge(pressure), "p = f · test pressure")
        .with("f", "factor", Amount::number(factor), "default of this tool")
        .with("p_t", "test pressure", Amount::gauge(required), "by the basis")
        .would_change("A limit from the designer, in writing.")
}
