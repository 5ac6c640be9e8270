//! WEIGHT-WATER: what the supports carry while the line is full.

use crate::derivation::{Amount, Derivation, Dimension};
use crate::rule::{Rule, Standing};
use quantity::{Density, Length, STANDARD_GRAVITY};

/// Weight of the water.
pub const WATER: Rule = Rule {
    id: "WEIGHT-WATER",
    sentence: "A full line weighs its water more: its section times the density; every support is walked for real contact.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "worked_weight_water_fill_time",
};

/// Weight of the water in one metre of pipe, N/m: w = ρ·g·π/4·D_i². Exact. Example: DN150 schedule 40 → 183 N/m (18.6 kg/m).
pub fn per_metre(density: Density, bore: Length) -> (f64, Derivation) {
    let weight = density.kg_m3() * STANDARD_GRAVITY * std::f64::consts::FRAC_PI_4 * bore.m().powi(2);
    let why = Derivation::new(
        "weight of the water along the pipe",
        &WATER,
        Amount::new(weight, Dimension::ForcePerLengthNPerM),
        "w = ρ · g · π/4 · D_i²",
    )
    .with("ρ", "density of the water", Amount::new(density.kg_m3(), Dimension::DensityKgM3), "IAPWS-95")
    .with("D_i", "bore", Amount::new(bore.m(), Dimension::LengthM), "outside diameter less two walls")
    .would_change("Another bore, or gas in place of water.");
    (weight, why)
}
