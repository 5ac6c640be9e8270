//! How a figure is shown: the one place where its unit, its digits and the way it is rounded are decided.
//!
//! | what it is | at a gauge of division d | rounded |
//! |---|---|---|
//! | a reading, a step, what is planned | d | to the nearest |
//! | what is required | d | up |
//! | what is allowed | a tenth of d, or 0.01 bar (0.1 psi, 0.01 kg/cm²) where that is coarser, but never coarser than d | down |
//!
//! In another unit than the dial's a figure has as many decimals as the division has there, the first that is not larger than it.

use crate::format::{decimals_of, decimals_within, round_down, round_up};
use crate::{GaugePressure, PressureDifference, PressureUnit};

/// Which way a figure is rounded.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Toward {
    /// to the nearest
    #[default]
    Nearest,
    /// up: what is needed
    Up,
    /// down: what is allowed
    Down,
}

/// A gauge, and the unit in which somebody reads it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AtGauge {
    /// Unit of its dial.
    pub dial: PressureUnit,
    /// Its readable division.
    pub division: PressureDifference,
    /// The person's unit.
    pub unit: PressureUnit,
}

/// The step to which a limit at a gauge is shown, Pa.
pub fn fine_step(dial: PressureUnit, division: PressureDifference) -> f64 {
    let fine = match dial {
        PressureUnit::Psi => 0.1 * dial.pa(),
        PressureUnit::KgCm2 => 0.01 * dial.pa(),
        PressureUnit::Bar | PressureUnit::Kpa | PressureUnit::Mpa => 1000.0,
    };
    (division.pa() / 10.0).max(division.pa().min(fine))
}

impl AtGauge {
    /// The step to which a figure is rounded, Pa, and its decimals in the person's unit.
    fn step(&self, toward: Toward) -> (f64, usize) {
        let step = if toward == Toward::Down { fine_step(self.dial, self.division) } else { self.division.pa() };
        if self.unit == self.dial {
            return (step, decimals_of(step / self.unit.pa()));
        }
        let decimals = decimals_within(step / self.unit.pa());
        (self.unit.pa() * 10f64.powi(-(decimals as i32)), decimals)
    }

    /// A pressure with its unit.
    pub fn text(&self, p: GaugePressure, toward: Toward) -> String {
        let (step, decimals) = self.step(toward);
        let pa = match toward {
            Toward::Nearest => p.pa(),
            Toward::Up => round_up(p.pa(), step),
            Toward::Down => round_down(p.pa(), step),
        };
        crate::format::gauge_pressure(GaugePressure::from_pa(pa), self.unit, decimals)
    }
}
