//! LIMIT-LONGITUDINAL: longitudinal stress from end thrust against yield.

use super::hoop::{Wall, with_yield};
use crate::basis::Ground;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::part::Form;
use crate::rule::{Rule, Standing};
use quantity::GaugePressure;

/// Longitudinal stress.
pub const RULE: Rule = Rule {
    id: "LIMIT-LONGITUDINAL",
    sentence: "The longitudinal stress from pressure on the ends stays within the share of yield that the basis allows.",
    clause: "B31.3 345.4.2(c)",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "limit_longitudinal_longitudinal_never_governs_a_plain_pipe",
};

/// σ = p·D_i²/(D_o² − D_i²).
pub(super) fn value(wall: &Wall, ground: &Ground) -> Option<GaugePressure> {
    // the efficiency is that of a longitudinal seam, which end thrust does not load; of a head it is in its own formula
    if wall.form != Form::Cylinder {
        return None;
    }
    let (d, bore) = (wall.outside, wall.outside - wall.thickness * 2.0);
    let allowed = wall.yield_pa * ground.yield_share();
    Some(GaugePressure::from_pa(allowed.pa() * (d.m().powi(2) - bore.m().powi(2)) / bore.m().powi(2)))
}

pub(super) fn why(wall: &Wall, ground: &Ground, pressure: GaugePressure) -> Derivation {
    let bore = wall.outside - wall.thickness * 2.0;
    let base =
        Derivation::new("greatest pressure by longitudinal stress", &RULE, Amount::gauge(pressure), "p = f · Sy · (D_o² − D_i²) / D_i²")
            .with("D_o", "outside diameter", Amount::new(wall.outside.m(), Dimension::LengthM), "as entered or from the pipe table")
            .with("D_i", "inside diameter", Amount::new(bore.m(), Dimension::LengthM), "D_o − 2t");
    with_yield(base, wall, ground)
        .with("f", "share of yield allowed", Amount::number(ground.yield_share()), "basis of this test")
        .would_change("A thicker wall or a stronger material.")
}
