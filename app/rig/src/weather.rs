//! Air, sun, skin and water.

use crate::scenario::Weather;
use physics::heat::{STILL_AIR_W_PER_M2K, time_constant, water_after_skin};
use physics::system::Segment;
use std::f64::consts::{PI, TAU};

/// Temperatures of one moment, °C.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Temperatures {
    /// air
    pub air_c: f64,
    /// skin
    pub skin_c: f64,
    /// water
    pub water_c: f64,
}

/// How heat goes from air to skin to water.
#[derive(Debug, Clone, PartialEq)]
pub struct Heat {
    weather: Weather,
    skin_lag_s: f64,
    water_lag_s: f64,
}

impl Heat {
    /// Lags as the scenario gives them, or those of the thickest pipe.
    pub fn new(weather: &Weather, segments: &[Segment]) -> Self {
        let slowest = |of: &dyn Fn(&Segment) -> f64| segments.iter().map(of).fold(60.0, f64::max);
        let given = |lag: f64, computed: f64| if lag > 0.0 { lag } else { computed };
        Self {
            skin_lag_s: given(weather.skin_lag_s, slowest(&|s| time_constant(s.outside_diameter_m, s.wall_m, STILL_AIR_W_PER_M2K).s())),
            water_lag_s: given(weather.water_lag_s, slowest(&|s| water_after_skin(s.outside_diameter_m - s.wall_m * 2.0).s())),
            weather: weather.clone(),
        }
    }

    /// Air temperature, °C, warmest at 15 h.
    pub fn air_c(&self, t_s: f64) -> f64 {
        let hour = self.weather.hour + t_s / 3600.0;
        self.weather.mean_c + self.weather.swing_k * (TAU * (hour - 9.0) / 24.0).sin()
    }

    /// What the sun adds, K: half a sine from 6 to 18 h.
    fn sun_k(&self, t_s: f64) -> f64 {
        let hour = (self.weather.hour + t_s / 3600.0).rem_euclid(24.0);
        self.weather.sun_k * (PI * (hour - 6.0) / 12.0).sin().max(0.0)
    }

    /// One step: first-order lags, exact over the step.
    pub fn step(&self, before: Temperatures, t_s: f64, dt_s: f64) -> Temperatures {
        let air_c = self.air_c(t_s);
        let towards = |from: f64, to: f64, lag: f64| to + (from - to) * (-dt_s / lag).exp();
        let skin_c = towards(before.skin_c, air_c + self.sun_k(t_s), self.skin_lag_s);
        Temperatures { air_c, skin_c, water_c: towards(before.water_c, skin_c, self.water_lag_s) }
    }
}
