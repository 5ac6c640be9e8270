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
    /// Figures are left to be said later, see [`Units::later`].
    #[serde(skip)]
    #[schema(ignore)]
    pub later: bool,
}

impl From<PressureUnit> for Units {
    fn from(pressure: PressureUnit) -> Self {
        Self { pressure, ..Self::default() }
    }
}

/// What somebody chose of a set of units; the rest is as others have it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Chosen {
    /// Of pressures.
    pub pressure: Option<PressureUnit>,
    /// Of temperatures.
    pub temperature: Option<TemperatureUnit>,
    /// Of lengths.
    pub length: Option<LengthUnit>,
    /// Of volumes.
    pub volume: Option<VolumeUnit>,
}

impl Chosen {
    /// From words with commas between them, "psi,fahrenheit,foot,us_gallon", in any order.
    pub fn read(text: &str) -> Self {
        let mut chosen = Self::default();
        for word in text.split(',').map(str::trim) {
            match word {
                "celsius" => chosen.temperature = Some(TemperatureUnit::Celsius),
                "fahrenheit" => chosen.temperature = Some(TemperatureUnit::Fahrenheit),
                "metre" => chosen.length = Some(LengthUnit::Metre),
                "foot" => chosen.length = Some(LengthUnit::Foot),
                "litre" => chosen.volume = Some(VolumeUnit::Litre),
                "us_gallon" => chosen.volume = Some(VolumeUnit::UsGallon),
                "imperial_gallon" => chosen.volume = Some(VolumeUnit::ImperialGallon),
                other => chosen.pressure = PressureUnit::from_text(other).or(chosen.pressure),
            }
        }
        chosen
    }

    /// With the rest as `usual` has it.
    pub fn over(self, usual: Units) -> Units {
        Units {
            pressure: self.pressure.unwrap_or(usual.pressure),
            temperature: self.temperature.unwrap_or(usual.temperature),
            length: self.length.unwrap_or(usual.length),
            volume: self.volume.unwrap_or(usual.volume),
            later: usual.later,
        }
    }
}

impl Units {
    /// From words as [`Chosen::read`] has them; what is not named stays as it is here.
    #[must_use]
    pub fn read(self, text: &str) -> Self {
        Chosen::read(text).over(self)
    }

    /// The same with another unit of pressures.
    #[must_use]
    pub const fn at(self, pressure: PressureUnit) -> Self {
        Self { pressure, ..self }
    }

    /// Sentences in these leave their figures open, for whoever reads them later in units of their own.
    pub fn later() -> Self {
        Self { later: true, ..Self::default() }
    }

    /// True of [`Units::later`].
    pub const fn is_later(&self) -> bool {
        self.later
    }

    /// As words that [`Chosen::read`] reads.
    pub fn words(self) -> String {
        let temperature = if self.temperature == TemperatureUnit::Fahrenheit { "fahrenheit" } else { "celsius" };
        let length = if self.length == LengthUnit::Foot { "foot" } else { "metre" };
        let volume = match self.volume {
            VolumeUnit::Litre => "litre",
            VolumeUnit::UsGallon => "us_gallon",
            VolumeUnit::ImperialGallon => "imperial_gallon",
        };
        let pressure = self.pressure.symbol().replace("kg/cm²", "kg_cm2");
        format!("{pressure},{temperature},{length},{volume}")
    }
}
