//! A person's set of units.

use crate::unit::{PressureUnit, TemperatureUnit};
use serde::{Deserialize, Serialize};

/// Unit of lengths and heights; sizes of pipe and walls follow it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LengthUnit {
    /// metres, and millimetres for sizes
    #[default]
    Metre,
    /// feet, and inches for sizes
    Foot,
}

/// Unit of liquid volumes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum VolumeUnit {
    /// litres and cubic metres
    #[default]
    Litre,
    /// US gallons, 231 cubic inches
    UsGallon,
    /// imperial gallons, 4.546 09 litres
    ImperialGallon,
}

/// The units that a person reads and types.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct Units {
    /// Of pressures.
    pub pressure: PressureUnit,
    /// Of temperatures; changes of temperature follow it.
    pub temperature: TemperatureUnit,
    /// Of lengths; weights and forces follow it.
    pub length: LengthUnit,
    /// Of liquid volumes; flows and leaks follow it.
    pub volume: VolumeUnit,
}

impl From<PressureUnit> for Units {
    fn from(pressure: PressureUnit) -> Self {
        Self { pressure, ..Self::default() }
    }
}

impl Units {
    /// From words with commas between them, "psi,fahrenheit,foot,us_gallon", in any order; what is not named stays as it is here.
    #[must_use]
    pub fn read(mut self, text: &str) -> Self {
        for word in text.split(',').map(str::trim) {
            match word {
                "celsius" => self.temperature = TemperatureUnit::Celsius,
                "fahrenheit" => self.temperature = TemperatureUnit::Fahrenheit,
                "metre" => self.length = LengthUnit::Metre,
                "foot" => self.length = LengthUnit::Foot,
                "litre" => self.volume = VolumeUnit::Litre,
                "us_gallon" => self.volume = VolumeUnit::UsGallon,
                "imperial_gallon" => self.volume = VolumeUnit::ImperialGallon,
                other => self.pressure = PressureUnit::from_text(other).unwrap_or(self.pressure),
            }
        }
        self
    }
}
