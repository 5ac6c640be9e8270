//! Pressure of a standing column of liquid.

use quantity::{Density, GaugePressure, Length, PressureDifference, STANDARD_GRAVITY};

/// Pressure gained by going down from `from` to `to`: ρ·g·(z_from − z_to). Negative when going up.
///
/// Range: any; the density is taken as constant over the column (error below 0.05 % for 100 m of water).
pub fn gained(density: Density, from: Length, to: Length) -> PressureDifference {
    PressureDifference::from_pa(density.kg_m3() * STANDARD_GRAVITY * (from.m() - to.m()))
}

/// Pressure at height `at` when the gauge at height `gauge` reads `p`: p(z) = p_g + ρ·g·(z_g − z).
pub fn pressure_at(p: GaugePressure, density: Density, gauge: Length, at: Length) -> GaugePressure {
    p + gained(density, gauge, at)
}
