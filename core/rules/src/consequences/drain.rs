//! DRAIN-VACUUM and DRAIN-TIME: why the high vent is opened first, and how long draining takes.

use super::line::Draft;
use super::lines::Facts;
use crate::derivation::{Amount, Derivation, Dimension};
use crate::rule::{Rule, Standing};
use quantity::{AbsolutePressure, Density, Length, PressureDifference, STANDARD_ATMOSPHERE, STANDARD_GRAVITY, Span, Stress};

/// Vacuum.
pub const VACUUM: Rule = Rule {
    id: "DRAIN-VACUUM",
    sentence: "A column that drains without a vent pulls its own weight as vacuum, up to the atmosphere: the high vent is opened first, and a wall that would collapse is named.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_drain_vacuum_drain_time",
};

/// Time.
pub const TIME: Rule = Rule {
    id: "DRAIN-TIME",
    sentence: "A vented line drains in the time that its volume needs through its outlet under its own falling head.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_drain_vacuum_drain_time",
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

pub(super) fn lines(f: &Facts) -> Vec<Draft> {
    let mut all = Vec::new();
    let Some(head) = f.height().filter(|h| !f.demand.gas && *h > Length::ZERO) else { return all };
    let pulled = vacuum(f.d.density_kg_m3, head, STANDARD_ATMOSPHERE);
    let weakest = f.system.parts.iter().filter_map(|p| {
        let material = f.demand.library.material(p.material.as_deref()?).ok()?;
        let (d, t) = (p.outside_diameter_m?, p.wall_m.filter(|_| p.bore().is_some())?);
        Some((p, collapse(material.elastic.youngs_modulus_pa, material.elastic.poisson_ratio, t, d)))
    });
    let weakest = weakest.reduce(|a, b| if b.1 < a.1 { b } else { a });
    let why = Derivation::new(
        "vacuum of an unvented column",
        &VACUUM,
        Amount::new(pulled.pa(), Dimension::PressureDifferencePa),
        "p = min(ρ · g · h, p_0)",
    )
    .with("h", "highest over lowest part", Amount::new(head.m(), Dimension::LengthM), "heights as entered")
    .with("ρ", "density of the column", Amount::new(f.d.density_kg_m3.kg_m3(), Dimension::DensityKgM3), f.system.density_source())
    .would_change("A lower column, or the high vent opened first.");
    let (why, trouble) = match weakest {
        Some((part, bears)) => {
            let bar = |p| f.system.say().change(p);
            let collapses = (bears < pulled * 2.0).then(|| {
                format!("{} could collapse: it bears about {} of vacuum if perfectly round, and the column pulls {}. Open the high vent first, and prove it open.", part.tag, bar(bears), bar(pulled))
            });
            (
                why.with(
                    "p_c",
                    &format!("elastic collapse of {}, 2E/(1−ν²) · (t/D)³", part.tag),
                    Amount::new(bears.pa(), Dimension::PressureDifferencePa),
                    "round and long; half of it where it is not",
                ),
                collapses,
            )
        }
        None => (why, None),
    };
    all.push(
        Draft::new(
            "vacuum",
            "restore",
            "What if the vent is shut?",
            "The column would pull {0} of vacuum: open the high vent before the drain.",
        )
        .change(pulled)
        .trouble(trouble)
        .why(why),
    );
    if let (Some(outlet), Some(volume)) = (f.system.site.drain_bore_m, f.d.volume_m3) {
        let t = time(volume.m3() / head.m(), outlet, head);
        let why = Derivation::new("time to drain", &TIME, Amount::new(t.s(), Dimension::TimeS), "t = A / (C_d · a) · √(2h/g)")
            .with("A", "volume over height", Amount::new(volume.m3() / head.m(), Dimension::AreaM2), "sum of the parts")
            .with("a", "bore of the drain", Amount::new(outlet.m(), Dimension::LengthM), "as entered")
            .with("C_d", "discharge of the outlet", Amount::number(OUTLET), "common practice")
            .would_change("A larger drain, or air from above.");
        all.push(Draft::new("drain", "restore", "How long to drain?", "About {0} through the drain, high vent open.").time(t).why(why));
    }
    all
}
