//! The filled system: mass in, mass out, and the pressure at which they fit.

use crate::scenario::{Scenario, Yielding};
use physics::orifice::SHARP_EDGE;
use physics::system::ShutIn;
use physics::water;
use quantity::{AbsolutePressure, GaugePressure, STANDARD_ATMOSPHERE, STANDARD_GRAVITY, Temperature};

/// State of the water.
#[derive(Debug, Clone, PartialEq)]
pub struct Plant {
    system: ShutIn,
    high_point_m: f64,
    start_c: f64,
    yielding: Option<Yielding>,
    /// Water in it, kg.
    mass_kg: f64,
    /// Plastic growth so far, m³.
    plastic_m3: f64,
    /// Pressure at the high point, Pa gauge; never below zero (air comes in by the vent).
    pub pressure_pa: f64,
    /// Density, kg/m³.
    pub density: f64,
}

/// The state cannot be computed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("the rig left the range of liquid water at {0:.0} Pa and {1:.1} °C: lower the pump's target, or warm the scenario")]
pub struct OutOfRange(f64, f64);

impl Plant {
    /// Filled, at the scenario's pressure and temperature.
    ///
    /// # Errors
    /// Outside liquid water.
    pub fn new(s: &Scenario) -> Result<Self, OutOfRange> {
        let system = ShutIn { segments: s.segments.clone(), air_fraction: s.air_fraction, atmosphere: STANDARD_ATMOSPHERE };
        let mut plant = Self {
            system,
            high_point_m: s.high_point_m,
            start_c: s.start_c,
            yielding: s.yielding,
            mass_kg: 0.0,
            plastic_m3: 0.0,
            pressure_pa: s.start_pressure_pa,
            density: 1000.0,
        };
        (plant.density, _) = plant.water(s.start_pressure_pa, s.start_c)?;
        plant.mass_kg = plant.density * plant.room_m3(s.start_pressure_pa, s.start_c).0;
        Ok(plant)
    }

    fn water(&self, p: f64, c: f64) -> Result<(f64, f64), OutOfRange> {
        let state =
            water::state(Temperature::from_c(c), GaugePressure::from_pa(p).absolute(STANDARD_ATMOSPHERE)).map_err(|_| OutOfRange(p, c))?;
        Ok((state.density.kg_m3(), state.compressibility_per_pa))
    }

    /// Room for water at a pressure, m³, and how it grows with it, m³/Pa: walls by Lamé, heat by 3α, air by Boyle and Charles.
    fn room_m3(&self, p: f64, c: f64) -> (f64, f64) {
        let v = self.system.volume().m3();
        let abs = p + STANDARD_ATMOSPHERE.pa();
        let air = v * self.system.air_fraction * STANDARD_ATMOSPHERE.pa() / abs * (c + 273.15) / (self.start_c + 273.15);
        let wall = self.system.wall_compliance_per_pa();
        let warmth = self.system.wall_expansion_per_k() * (c - self.start_c);
        (v * (1.0 + wall * p + warmth) + self.plastic_m3 - air, v * wall + air / abs)
    }

    /// Volume at filling, m³.
    pub fn volume_m3(&self) -> f64 {
        self.system.volume().m3()
    }

    /// Pressure at a height, Pa gauge.
    pub fn pressure_at(&self, elevation_m: f64) -> f64 {
        self.pressure_pa + self.density * STANDARD_GRAVITY * (self.high_point_m - elevation_m)
    }

    /// Flow through a round hole at a height, m³/s: C_d·A·√(2Δp/ρ).
    pub fn leak_flow(&self, hole_m: f64, elevation_m: f64) -> f64 {
        let area = std::f64::consts::FRAC_PI_4 * hole_m * hole_m;
        SHARP_EDGE * area * (2.0 * self.pressure_at(elevation_m).max(0.0) / self.density).sqrt()
    }

    /// Lets water in (m³ at `inlet_c` and atmospheric pressure) and out (m³ at the state inside), then finds the pressure.
    ///
    /// Newton's method on ρ(T, p)·room(T, p) = m; converges in two or three passes since both sides are nearly straight.
    ///
    /// # Errors
    /// Outside liquid water.
    pub fn step(&mut self, in_m3: f64, inlet_c: f64, out_m3: f64, water_c: f64) -> Result<(), OutOfRange> {
        if in_m3 > 0.0 {
            let at_inlet = water::state(Temperature::from_c(inlet_c), AbsolutePressure::from_pa(STANDARD_ATMOSPHERE.pa()));
            self.mass_kg += in_m3 * at_inlet.map_err(|_| OutOfRange(0.0, inlet_c))?.density.kg_m3();
        }
        self.mass_kg -= out_m3 * self.density;
        if let Some(y) = self.yielding {
            self.plastic_m3 = self.plastic_m3.max(self.volume_m3() * y.per_pa * (self.pressure_pa - y.at_pa).max(0.0));
        }
        let mut p = self.pressure_pa;
        for _ in 0..12 {
            let (rho, kappa) = self.water(p, water_c)?;
            let (room, growth) = self.room_m3(p, water_c);
            let miss = self.mass_kg - rho * room;
            let step = miss / (rho * (kappa * room + growth));
            p = (p + step).max(-0.4 * STANDARD_ATMOSPHERE.pa());
            if step.abs() < 0.1 {
                break;
            }
        }
        // below atmospheric the vent or a joint lets air in
        self.pressure_pa = p.max(0.0);
        (self.density, _) = self.water(self.pressure_pa, water_c)?;
        Ok(())
    }
}
