//! How a figure is said: the one place where a pressure in a sentence gets its unit and its digits.

use quantity::format::{gauge_pressure, pressure_difference, round_down, round_up};
use quantity::show::Toward;
use quantity::{GaugePressure, PressureDifference, PressureUnit};

/// Says pressures in one unit, with digits that fit it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Say(pub PressureUnit);

impl Say {
    /// Decimals of a pressure in a sentence: 0.01 bar, 1 kPa, 0.001 MPa, 0.1 psi, 0.01 kg/cm².
    const fn decimals(self) -> usize {
        match self.0 {
            PressureUnit::Bar | PressureUnit::KgCm2 => 2,
            PressureUnit::Kpa => 0,
            PressureUnit::Mpa => 3,
            PressureUnit::Psi => 1,
        }
    }

    fn step(self) -> f64 {
        self.0.pa() * 10f64.powi(-(self.decimals() as i32))
    }

    /// To the nearest.
    pub fn p(self, p: GaugePressure) -> String {
        gauge_pressure(p, self.0, self.decimals())
    }

    /// Rounded up: what is needed.
    pub fn up(self, p: GaugePressure) -> String {
        self.p(GaugePressure::from_pa(round_up(p.pa(), self.step())))
    }

    /// Rounded down: what is allowed.
    pub fn down(self, p: GaugePressure) -> String {
        self.p(GaugePressure::from_pa(round_down(p.pa(), self.step())))
    }

    /// A difference.
    pub fn change(self, p: PressureDifference) -> String {
        pressure_difference(p, self.0, self.decimals())
    }
}

/// Says pressures that are read at one gauge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AtGauge(quantity::show::AtGauge);

impl AtGauge {
    /// For a reader of `say`'s unit. A gauge of which no division is known is read to the digits of any sentence.
    pub fn new(say: Say, unit: PressureUnit, division: Option<PressureDifference>) -> Self {
        let division = division.filter(|d| d.pa() > 0.0).unwrap_or(PressureDifference::from_pa(say.step()));
        Self(quantity::show::AtGauge { dial: unit, division, unit: say.0 })
    }

    /// To the nearest.
    pub fn p(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Nearest)
    }

    /// Rounded up: what is needed.
    pub fn up(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Up)
    }

    /// Rounded down: what is allowed.
    pub fn down(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Down)
    }

    /// A difference.
    pub fn change(self, p: PressureDifference) -> String {
        self.0.text(GaugePressure::from_pa(p.pa()), Toward::Nearest)
    }
}

impl Default for Say {
    fn default() -> Self {
        Self(PressureUnit::Bar)
    }
}

/// Text as a sentence: with its full stop, and with a capital where it does not begin with the name of a part.
pub fn sentence(text: &str, begins_with_a_name: bool) -> String {
    let text = text.trim_end_matches('.');
    let mut letters = text.chars();
    match letters.next() {
        Some(first) if !begins_with_a_name => format!("{}{}.", first.to_uppercase(), letters.as_str()),
        _ => format!("{text}."),
    }
}
