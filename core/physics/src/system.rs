//! A shut-in system: bodies of water in elastic walls, with some trapped air.

use crate::elastic::{Elastic, Restraint};
use crate::water::{self, OutsideLiquidWater};
use quantity::{AbsolutePressure, Length, PressureDifference, STANDARD_ATMOSPHERE, Temperature, Volume};
use serde::{Deserialize, Serialize};

/// One stretch of pipe or one vessel, as a closed cylinder. A vessel's heads are counted into its cylinder.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Segment {
    /// What people call it.
    pub name: String,
    /// Outside diameter, m.
    pub outside_diameter_m: Length,
    /// Wall thickness, m.
    pub wall_m: Length,
    /// Volume of water in it, m³.
    pub volume_m3: Volume,
    /// Elastic data of its wall.
    pub elastic: Elastic,
    /// How it is held lengthwise.
    pub restraint: Restraint,
}

/// The whole system under test.
#[derive(Debug, Clone, PartialEq)]
pub struct ShutIn {
    /// Its bodies of water; at least one.
    pub segments: Vec<Segment>,
    /// Trapped air at atmospheric pressure over the whole volume.
    pub air_fraction: f64,
    /// The atmosphere around it.
    pub atmosphere: AbsolutePressure,
}

impl ShutIn {
    /// A system at the standard atmosphere without air.
    pub fn without_air(segments: Vec<Segment>) -> Self {
        Self { segments, air_fraction: 0.0, atmosphere: STANDARD_ATMOSPHERE }
    }

    /// Volume of all segments.
    pub fn volume(&self) -> Volume {
        self.segments.iter().fold(Volume::from_m3(0.0), |sum, s| sum + s.volume_m3)
    }

    /// Volume-weighted mean over the segments.
    fn weighted(&self, of: impl Fn(&Segment) -> f64) -> f64 {
        self.segments.iter().map(|s| s.volume_m3.m3() * of(s)).sum::<f64>() / self.volume().m3()
    }

    /// Stretch of the walls per pressure, 1/Pa (volume-weighted; Lamé).
    pub fn wall_compliance_per_pa(&self) -> f64 {
        self.weighted(|s| s.elastic.bore_compliance_per_pa(s.outside_diameter_m, s.wall_m, s.restraint))
    }

    /// Growth of the walls' volume per kelvin, 1/K (volume-weighted).
    pub fn wall_expansion_per_k(&self) -> f64 {
        self.weighted(|s| s.elastic.bore_expansion_per_k(s.restraint))
    }

    /// Compliance of the trapped air, 1/Pa: (V_a0/V)·p_0/p², isothermal.
    pub fn air_compliance_per_pa(&self, p: AbsolutePressure) -> f64 {
        self.air_fraction * self.atmosphere.pa() / (p.pa() * p.pa())
    }

    /// Compliance of the whole per volume, 1/Pa: 1/K_w(T, p) + c_wall + c_air.
    ///
    /// # Errors
    /// Outside liquid water.
    pub fn compliance_per_pa(&self, t: Temperature, p: AbsolutePressure) -> Result<f64, OutsideLiquidWater> {
        Ok(water::state(t, p)?.compressibility_per_pa + self.wall_compliance_per_pa() + self.air_compliance_per_pa(p))
    }

    /// Change of pressure per kelvin when nothing leaves, Pa/K: (β − α_v)/c, the trapped air's own warming included.
    ///
    /// # Errors
    /// Outside liquid water.
    pub fn pressure_per_kelvin(&self, t: Temperature, p: AbsolutePressure) -> Result<f64, OutsideLiquidWater> {
        let w = water::state(t, p)?;
        let air_volume = self.air_fraction * self.atmosphere.pa() / p.pa();
        let swell = w.expansion_per_k + air_volume / t.kelvin() - self.wall_expansion_per_k();
        Ok(swell / self.compliance_per_pa(t, p)?)
    }

    /// Volume that the pump must bring to raise the pressure from `from` to `to` at one temperature.
    ///
    /// Formula: ΔV = V·∫c dp; water integrated by Simpson's rule over 32 steps of its compressibility, the air exactly:
    /// V_a0·(p_0/p_from − p_0/p_to). The volume is that of the water as it enters the system.
    ///
    /// # Errors
    /// Outside liquid water.
    pub fn volume_to_raise(&self, t: Temperature, from: AbsolutePressure, to: AbsolutePressure) -> Result<Volume, OutsideLiquidWater> {
        const STEPS: usize = 32;
        let step: PressureDifference = (to - from) / STEPS as f64;
        let mut water_part = 0.0;
        for i in 0..=STEPS {
            let weight = if i == 0 || i == STEPS {
                1.0
            } else if i % 2 == 1 {
                4.0
            } else {
                2.0
            };
            water_part += weight * water::state(t, from + step * i as f64)?.compressibility_per_pa;
        }
        let water_part = water_part * step.pa() / 3.0;
        let wall_part = self.wall_compliance_per_pa() * (to - from).pa();
        let air_part = self.air_fraction * self.atmosphere.pa() * (1.0 / from.pa() - 1.0 / to.pa());
        Ok(self.volume() * (water_part + wall_part + air_part))
    }
}
