//! How a figure is shown: the one place where its unit, its digits and the way it is rounded are decided. The screens have the same by the table that
//! is made from it, and a test holds both to the same cases.
//!
//! | what it is | at a gauge of division d | rounded |
//! |---|---|---|
//! | a reading, a step, what is planned | d; half of it where it was read so | to the nearest |
//! | what is required | d | up |
//! | what is allowed | a tenth of d, or 0.01 bar (0.1 psi, 0.01 kg/cm²) where that is coarser, but never coarser than d | down |
//!
//! In another unit than the dial's a pressure has as many decimals as the division has there, the first that is not larger than it. A pressure that no
//! gauge shows, of a part or a code, has those of 0.01 bar, 1 kPa, 0.001 MPa, 0.1 psi or 0.01 kg/cm². All else has two to four figures.

use crate::dimension::{Dimension, Scale, scales};
use crate::format::{clean, decimals_of, decimals_within, round_down, round_up};
use crate::units::Units;
use crate::{GaugePressure, PressureDifference, PressureUnit, TemperatureUnit};
use serde::{Deserialize, Serialize};

/// Which way a figure is rounded when it is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Toward {
    /// to the nearest
    #[default]
    Nearest,
    /// up: what is needed
    Up,
    /// down: what is allowed
    Down,
    /// as it is named: the full scale of a gauge
    AsNamed,
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

/// Decimals of a pressure that no gauge shows.
pub const fn free_decimals(unit: PressureUnit) -> usize {
    match unit {
        PressureUnit::Bar | PressureUnit::KgCm2 => 2,
        PressureUnit::Kpa => 0,
        PressureUnit::Mpa => 3,
        PressureUnit::Psi => 1,
    }
}

/// A figure of so many decimals, rounded as asked by so large a step.
fn fixed(value: f64, step: f64, decimals: usize, toward: Toward) -> String {
    let rounded = match toward {
        Toward::Nearest | Toward::AsNamed => value,
        Toward::Up => round_up(value, step),
        Toward::Down => round_down(value, step),
    };
    format!("{:.*}", decimals, clean(rounded, decimals)).replace('-', "−")
}

/// A figure of so many significant figures, no zeros at its end.
pub fn significant(value: f64, figures: usize, toward: Toward) -> String {
    if value == 0.0 || !value.is_finite() {
        return "0".to_owned();
    }
    let magnitude = (value.abs() * (1.0 + 1e-12)).log10().floor() as i32;
    let exponent = magnitude + 1 - figures as i32;
    let step = 10f64.powi(exponent);
    let rounded = match toward {
        Toward::Nearest | Toward::AsNamed => (value / step).round() * step,
        Toward::Up => round_up(value, step),
        Toward::Down => round_down(value, step),
    };
    let decimals = usize::try_from(-exponent).unwrap_or(0);
    let text = format!("{rounded:.decimals$}");
    let text = if decimals > 0 { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
    text.replace('-', "−")
}

impl AtGauge {
    /// The step to which a figure is rounded and its decimals, both in the person's unit.
    fn step(&self, pa: f64, toward: Toward) -> (f64, usize) {
        let step = match toward {
            Toward::Down => fine_step(self.dial, self.division),
            Toward::Nearest if self.read_to_half(pa) => 0.5 * self.division.pa(),
            _ => self.division.pa(),
        } / self.unit.pa();
        if self.unit == self.dial {
            return (step, decimals_of(step));
        }
        let decimals = decimals_within(step);
        (10f64.powi(-(decimals as i32)), decimals)
    }

    /// True for what stands in the middle between two divisions, as people read a needle.
    fn read_to_half(&self, pa: f64) -> bool {
        let halves = 2.0 * pa / self.division.pa();
        (halves - halves.round()).abs() < 1e-6 && halves.round() % 2.0 != 0.0
    }

    /// A pressure without its unit.
    pub fn figure(&self, p: GaugePressure, toward: Toward) -> String {
        let (step, decimals) = self.step(p.pa(), toward);
        fixed(p.pa() / self.unit.pa(), step, decimals, toward)
    }

    /// A pressure with its unit.
    pub fn text(&self, p: GaugePressure, toward: Toward) -> String {
        format!("{}\u{a0}{}", self.figure(p, toward), self.unit.symbol())
    }
}

/// A pressure that no gauge shows, with its unit.
pub fn pressure(pa: f64, unit: PressureUnit, toward: Toward) -> String {
    let decimals = free_decimals(unit);
    let figure = fixed(pa / unit.pa(), 10f64.powi(-(decimals as i32)), decimals, toward);
    format!("{figure}\u{a0}{}", unit.symbol())
}

/// How many figures.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Figures {
    /// as a sentence says it
    Said,
    /// as arithmetic has it
    Exact,
}

/// An amount with its unit, in a person's set. Pressures have the digits of no gauge here.
pub fn amount(value: f64, dimension: Dimension, units: &Units, figures: Figures, toward: Toward) -> String {
    match dimension {
        Dimension::GaugePressurePa | Dimension::PressureDifferencePa | Dimension::StressPa => pressure(value, units.pressure, toward),
        Dimension::PressurePerKelvinPaPerK => {
            let per = if units.temperature == TemperatureUnit::Fahrenheit { (1.0 / 1.8, "°F") } else { (1.0, "K") };
            format!("{} per {}", pressure(value * per.0, units.pressure, toward), per.1)
        }
        _ => of(value, scales(dimension, units), figures, toward),
    }
}

/// The unit among several in which an amount is shown.
pub fn chosen(value: f64, scales: &[Scale]) -> Option<&Scale> {
    scales.iter().find(|s| value.abs() < s.below && value != 0.0).or(scales.last())
}

fn of(value: f64, scales: &[Scale], figures: Figures, toward: Toward) -> String {
    let Some(scale) = chosen(value, scales) else { return significant(value, 3, toward) };
    in_scale(value, scale, figures, toward)
}

/// An amount in one unit, with it.
pub fn in_scale(value: f64, scale: &Scale, figures: Figures, toward: Toward) -> String {
    let n = if figures == Figures::Said { scale.said } else { scale.exact };
    let figure = significant(value.mul_add(scale.factor, scale.offset), n, toward);
    if scale.symbol.is_empty() { figure } else { format!("{figure}\u{a0}{}", scale.symbol) }
}
