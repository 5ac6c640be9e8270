//! LIMIT-THRUST: what holds an end back.

use super::Limit;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::Part;
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Thrust restraint.
pub const RULE: Rule = Rule {
    id: "LIMIT-THRUST",
    sentence: "The thrust on an end, the pressure times the area within its seal, stays within what its restraint is designed for.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "old_plant_and_restraint_limit_a_part",
};

/// p = F / (π/4 · d²), d the sealing diameter: the outside diameter of a push-joint main, not the bore.
pub(super) fn limit(part: &Part) -> Option<Limit> {
    let (force_n, d) = (part.restraint_n?, part.sealing_diameter_m.or(part.outside_diameter_m)?);
    let pressure = GaugePressure::from_pa(force_n / (std::f64::consts::FRAC_PI_4 * d.m() * d.m()));
    let why = Derivation::new("greatest pressure by thrust", &RULE, Amount::gauge(pressure), "p = F / (π/4 · d²)")
        .with("F", "thrust that the restraint is designed for", Amount::new(force_n, Dimension::ForceN), "as entered, from its design")
        .with("d", "sealing diameter", Amount::new(d.m(), Dimension::LengthM), "as entered, or the outside diameter")
        .would_change("A stronger restraint or block, or a smaller blind.");
    Some(Limit { pressure, rule: RULE.id.to_owned(), words: "thrust restraint".to_owned(), why })
}
