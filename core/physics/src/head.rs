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

/// A standing column: one fluid, or gas above a water line and water below it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Column {
    /// Density of what fills it, above the water line where there is one.
    pub density: Density,
    /// Height of the water line and density of the water below it.
    pub below: Option<(Length, Density)>,
}

impl From<Density> for Column {
    fn from(density: Density) -> Self {
        Self { density, below: None }
    }
}

impl Column {
    /// Pressure gained by going down from `from` to `to`; negative when going up. Water weighs below the water line, gas above it.
    pub fn gained(&self, from: Length, to: Length) -> PressureDifference {
        let Some((line, water)) = self.below else { return gained(self.density, from, to) };
        // depth below the line of each end, nil above it
        let wet = |z: Length| (line.m() - z.m()).max(0.0);
        let in_water = wet(to) - wet(from);
        let in_gas = (from.m() - to.m()) - in_water;
        PressureDifference::from_pa(STANDARD_GRAVITY * (water.kg_m3() * in_water + self.density.kg_m3() * in_gas))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// 14 bar over a water line at 40 m: 40 m of water at 1000 kg/m³ and 9.80665 m/s² add 3.923 bar at the bottom.
    #[test]
    fn water_weighs_below_its_line() {
        let column = Column { density: Density::from_kg_m3(17.0), below: Some((Length::from_m(40.0), Density::from_kg_m3(1000.0))) };
        let m = Length::from_m;
        assert!((column.gained(m(40.0), m(0.0)).bar() - 3.922_66).abs() < 1e-5);
        assert!((column.gained(m(0.0), m(40.0)).bar() + 3.922_66).abs() < 1e-5);
        // 10 m of gas above the line: 17 · 9.80665 · 10 Pa
        assert!((column.gained(m(50.0), m(40.0)).pa() - 1_667.130_5).abs() < 1e-6);
        assert!((column.gained(m(50.0), m(0.0)).pa() - 1_667.130_5 - 392_266.0).abs() < 1e-6);
        let plain = Column::from(Density::from_kg_m3(998.2));
        assert_eq!(plain.gained(m(5.0), m(1.0)), gained(plain.density, m(5.0), m(1.0)));
    }
}
