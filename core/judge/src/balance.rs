//! Mass balance of a shut-in system: from pressure and temperature read to volume lost.

use crate::case::HoldCase;
use physics::water::{DensityTable, OutsideLiquidWater};
use quantity::{AbsolutePressure, Temperature};

/// A shut-in system at a reference state, ready to weigh its water at any other.
#[derive(Debug, Clone)]
pub struct Balance {
    table: DensityTable,
    volume_m3: f64,
    wall_per_pa: f64,
    expansion_per_k: f64,
    air: f64,
    atmosphere: f64,
    reference: (f64, f64),
}

impl Balance {
    /// For a case whose readings stay within `t` and `p`; the first of each is the reference state.
    ///
    /// # Errors
    /// When these leave liquid water.
    pub fn new(
        case: &HoldCase,
        reference: (Temperature, AbsolutePressure),
        t: (Temperature, Temperature),
        p: (AbsolutePressure, AbsolutePressure),
    ) -> Result<Self, OutsideLiquidWater> {
        let system =
            physics::system::ShutIn { segments: case.segments.clone(), air_fraction: case.air_fraction, atmosphere: case.atmosphere_pa };
        Ok(Self {
            table: DensityTable::new(t, p)?,
            volume_m3: system.volume().m3(),
            wall_per_pa: system.wall_compliance_per_pa(),
            expansion_per_k: system.wall_expansion_per_k(),
            air: case.air_fraction,
            atmosphere: case.atmosphere_pa.pa(),
            reference: (reference.0.c(), reference.1.pa()),
        })
    }

    /// Volume of the cavity that water fills, over the volume at the reference: stretch, heat, and the trapped air
    /// (isothermal in pressure, in proportion to absolute temperature).
    fn cavity(&self, t: f64, p: f64) -> f64 {
        let (t0, p0) = self.reference;
        let air = self.air * self.atmosphere / p * (t + 273.15) / (t0 + 273.15);
        1.0 + self.wall_per_pa * (p - p0) + self.expansion_per_k * (t - t0) - air
    }

    /// Mass of water per reference volume, kg/m³; NaN outside the table.
    fn mass(&self, t: f64, p: f64) -> f64 {
        let rho = self.table.density(Temperature::from_c(t), AbsolutePressure::from_pa(p));
        rho.map_or(f64::NAN, |r| r.kg_m3()) * self.cavity(t, p)
    }

    /// Volume lost since the reference state, m³ at line conditions. Positive when water is missing.
    ///
    /// Formula: V·(m(T_0, p_0) − m(T, p))/ρ(T_0, p_0), m = ρ·cavity; nonlinear in both, no constant of expansion is used.
    pub fn lost_m3(&self, t: Temperature, p: AbsolutePressure) -> f64 {
        let (t0, p0) = self.reference;
        let m0 = self.mass(t0, p0);
        self.volume_m3 * (m0 - self.mass(t.c(), p.pa())) / (m0 / self.cavity(t0, p0))
    }

    /// Pressure at temperature `t` had nothing been lost since the reference state (Newton on the mass, three steps or fewer).
    pub fn pressure_without_loss(&self, t: Temperature) -> AbsolutePressure {
        let (t0, p0) = self.reference;
        let m0 = self.mass(t0, p0);
        let mut p = p0;
        for _ in 0..6 {
            let step = 1e3;
            let slope = (self.mass(t.c(), p + step) - self.mass(t.c(), p - step)) / (2.0 * step);
            let change = (m0 - self.mass(t.c(), p)) / slope;
            p += change;
            if change.abs() <= 1e-2 || change.is_nan() {
                break;
            }
        }
        AbsolutePressure::from_pa(p)
    }

    /// Volume lost per pascal of fall at the reference state, m³/Pa.
    pub fn stiffness_m3_per_pa(&self) -> f64 {
        let (t0, p0) = self.reference;
        let t = Temperature::from_c(t0);
        (self.lost_m3(t, AbsolutePressure::from_pa(p0 - 1e3)) - self.lost_m3(t, AbsolutePressure::from_pa(p0 + 1e3))) / 2e3
    }
}
