//! LIMIT-THRUST: what holds an end back.

use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::Part;
use crate::rule::{Rule, Standing};
use quantity::{Force, GaugePressure, Length};

/// Thrust restraint.
pub const RULE: Rule = Rule {
    id: "LIMIT-THRUST",
    sentence: "The thrust on an end, the pressure times the area within its seal, stays within what its restraint is designed for.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "limit_thrust_limit_proven_old_plant_and_restraint_limit_a_part",
};

/// Force and diameter of a part whose restraint is known.
fn held(part: &Part) -> Option<(Force, Length)> {
    Some((part.restraint_n?, part.sealing_diameter_m.or(part.outside_diameter_m)?))
}

/// p = F / (π/4 · d²), d the sealing diameter: the outside diameter of a push-joint main, not the bore. On a bend the force is 2·p·A·sin(θ/2).
pub(super) fn value(part: &Part) -> Option<GaugePressure> {
    let (force, d) = held(part)?;
    Some(GaugePressure::from_pa(force.n() / (std::f64::consts::FRAC_PI_4 * d.m() * d.m() * part.thrust_share())))
}

pub(super) fn why(part: &Part, pressure: GaugePressure) -> Derivation {
    let base = Derivation::new("greatest pressure by thrust", &RULE, Amount::gauge(pressure), "p = F / (π/4 · d² · s)")
        .would_change("A stronger restraint or block, or a smaller blind.");
    let Some((force, d)) = held(part) else { return base };
    base.with("F", "thrust that the restraint is designed for", Amount::new(force.n(), Dimension::ForceN), "as entered, from its design")
        .with("d", "sealing diameter", Amount::new(d.m(), Dimension::LengthM), "as entered, or the outside diameter")
        .with("s", "share of the thrust on an end: 1, or 2·sin(θ/2) for a bend", Amount::number(part.thrust_share()), "geometry")
}
