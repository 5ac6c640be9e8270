//! THRUST-END and THRUST-BEND: what anchors and blocks must take.

use crate::derivation::{Amount, Derivation, Dimension};
use crate::rule::{Rule, Standing};
use quantity::{Force, GaugePressure, Length};

/// Thrust on a blind, plug, tee or dead end.
pub const END: Rule = Rule {
    id: "THRUST-END",
    sentence: "A blind, plug, tee or dead end is pushed by the pressure on the area within its seal, which for a push-joint main is that of the outside diameter, not of the bore.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_thrust_end_thrust_bend_thrust_block",
};

/// Thrust on a bend.
pub const BEND: Rule = Rule {
    id: "THRUST-BEND",
    sentence: "A bend is pushed outwards by twice the pressure on its section times the sine of half its angle; the block's area is that thrust, times its safety factor, over what the soil bears.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_thrust_end_thrust_bend_thrust_block",
};

/// Thrust block.
pub const BLOCK: Rule = Rule {
    id: "THRUST-BLOCK",
    sentence: "A thrust block bears on the soil with the thrust times its safety over what the soil bears; it is cured, and on soil that suits it, before any pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "worked_thrust_end_thrust_bend_thrust_block",
};

fn newton(force: Force) -> Amount {
    Amount::new(force.n(), Dimension::ForceN)
}

fn length(l: Length) -> Amount {
    Amount::new(l.m(), Dimension::LengthM)
}

/// Thrust on an end: F = p·π/4·d², d the sealing diameter. Exact. Example: 24 bar on 168.3 mm → 53.4 kN.
pub fn end(pressure: GaugePressure, sealing_diameter: Length) -> (Force, Derivation) {
    let force = Force::from_n(pressure.pa() * std::f64::consts::FRAC_PI_4 * sealing_diameter.m().powi(2));
    let why = Derivation::new("thrust on the end", &END, newton(force), "F = p · π/4 · d²")
        .with("p", "pressure at the end", Amount::gauge(pressure), "test pressure at its height")
        .with("d", "sealing diameter", length(sealing_diameter), "as entered, or the outside diameter")
        .would_change("A smaller seal or a lower pressure.");
    (force, why)
}

/// Thrust on a bend of an angle in degrees: F = 2·p·A·sin(θ/2). Exact for a bend of constant section. Example: 90° → √2·p·A.
pub fn bend(pressure: GaugePressure, sealing_diameter: Length, angle_deg: f64) -> (Force, Derivation) {
    let area = std::f64::consts::FRAC_PI_4 * sealing_diameter.m().powi(2);
    let force = Force::from_n(2.0 * pressure.pa() * area * (angle_deg.to_radians() / 2.0).sin());
    let why = Derivation::new("thrust on the bend", &BEND, newton(force), "F = 2 · p · π/4 · d² · sin(θ/2)")
        .with("p", "pressure at the bend", Amount::gauge(pressure), "test pressure at its height")
        .with("d", "sealing diameter", length(sealing_diameter), "as entered, or the outside diameter")
        .with("θ", "angle of the bend, degrees", Amount::number(angle_deg), "as entered")
        .would_change("A gentler bend, a smaller section or a lower pressure.");
    (force, why)
}

/// Bearing area of a thrust block, m²: A = F·SF / σ_soil. Exact; the soil's bearing is the engineer's figure.
pub fn block_area_m2(force: Force, safety: f64, soil_bearing: GaugePressure) -> f64 {
    force.n() * safety / soil_bearing.pa()
}
