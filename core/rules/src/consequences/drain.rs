//! DRAIN-VACUUM and DRAIN-TIME: why the high vent is opened first, and how long draining takes.

use crate::rule::{Rule, Standing};
use quantity::{AbsolutePressure, Density, Length, PressureDifference, STANDARD_GRAVITY, Span, Stress};

/// Vacuum.
pub const VACUUM: Rule = Rule {
    id: "DRAIN-VACUUM",
    sentence: "A column that drains without a vent pulls its own weight as vacuum, up to the atmosphere: the high vent is opened first, and a wall that would collapse is named.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_collapse_and_draining",
};

/// Time.
pub const TIME: Rule = Rule {
    id: "DRAIN-TIME",
    sentence: "A vented line drains in the time that its volume needs through its outlet under its own falling head.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_collapse_and_draining",
};

/// Discharge coefficient of an outlet (common practice).
const OUTLET: f64 = 0.62;

/// Elastic collapse of a long thin tube by outside pressure: p = 2E/(1−ν²)·(t/D)³.
///
/// Range: long, round, t/D below about 0.05; out-of-roundness halves it easily. Source: Bresse; a steel tube of 600 mm × 3 mm collapses at 0.57 bar.
pub fn collapse(modulus: Stress, poisson: f64, wall: Length, diameter: Length) -> PressureDifference {
    PressureDifference::from_pa(2.0 * modulus.pa() / (1.0 - poisson * poisson) * (wall / diameter).powi(3))
}

/// Vacuum that an unvented column pulls: ρ·g·h, at most the atmosphere. Exact for a column at rest. Example: 10 m of water → 0.98 bar.
pub fn vacuum(density: Density, height: Length, atmosphere: AbsolutePressure) -> PressureDifference {
    PressureDifference::from_pa((density.kg_m3() * STANDARD_GRAVITY * height.m()).min(atmosphere.pa()))
}

/// Time to drain a vented upright body of constant section through an outlet: t = (A/(C_d·a))·√(2h/g), Torricelli integrated over the falling head.
///
/// Range: outlet much smaller than the body; error about 20 % (C_d 0.62). For a line, A is its volume over its height.
pub fn time(section_m2: f64, outlet: Length, head: Length) -> Span {
    let area = OUTLET * std::f64::consts::FRAC_PI_4 * outlet.m().powi(2);
    Span::from_s(section_m2 / area * (2.0 * head.m() / STANDARD_GRAVITY).sqrt())
}
