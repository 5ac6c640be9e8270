//! Units that a person may read or type.

use crate::types::unit_factor;
use serde::{Deserialize, Serialize};

/// Unit of a gauge's scale.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PressureUnit {
    /// bar
    #[default]
    Bar,
    /// kilopascal
    Kpa,
    /// megapascal
    Mpa,
    /// pound-force per square inch
    Psi,
    /// kilogram-force per square centimetre
    KgCm2,
}

impl PressureUnit {
    /// All, in the order in which the display switches through them.
    pub const ALL: [Self; 5] = [Self::Bar, Self::Kpa, Self::Mpa, Self::Psi, Self::KgCm2];

    /// Pascal per unit (exact).
    pub const fn pa(self) -> f64 {
        match self {
            Self::Bar => 1e5,
            Self::Kpa => 1e3,
            Self::Mpa => 1e6,
            Self::Psi => unit_factor::PSI,
            Self::KgCm2 => unit_factor::KG_CM2,
        }
    }

    /// As printed behind a figure.
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Bar => "bar",
            Self::Kpa => "kPa",
            Self::Mpa => "MPa",
            Self::Psi => "psi",
            Self::KgCm2 => "kg/cm²",
        }
    }

    /// From what people write: "barg", "psig", "kg/cm2" and the like.
    pub fn from_text(text: &str) -> Option<Self> {
        let lower = text.trim().to_lowercase().replace('²', "2").replace(' ', "");
        match lower.as_str() {
            "bar" | "barg" | "bar(g)" | "bar_g" => Some(Self::Bar),
            "kpa" | "kpag" | "kpa(g)" => Some(Self::Kpa),
            "mpa" | "mpag" | "mpa(g)" => Some(Self::Mpa),
            "psi" | "psig" | "psi(g)" | "lbf/in2" | "lb/in2" => Some(Self::Psi),
            "kg/cm2" | "kgf/cm2" | "kg_cm2" => Some(Self::KgCm2),
            _ => None,
        }
    }
}

/// Unit of a thermometer's scale.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TemperatureUnit {
    /// degrees Celsius
    #[default]
    Celsius,
    /// degrees Fahrenheit
    Fahrenheit,
    /// kelvin
    Kelvin,
}

impl TemperatureUnit {
    /// To degrees Celsius.
    pub const fn to_c(self, value: f64) -> f64 {
        match self {
            Self::Celsius => value,
            Self::Fahrenheit => (value - 32.0) / 1.8,
            Self::Kelvin => value - 273.15,
        }
    }
    /// From what people write.
    pub fn from_text(text: &str) -> Option<Self> {
        let lower = text.trim().to_lowercase().replace(['°', 'º', ' '], "");
        match lower.as_str() {
            "c" | "degc" | "celsius" => Some(Self::Celsius),
            "f" | "degf" | "fahrenheit" => Some(Self::Fahrenheit),
            "k" | "kelvin" => Some(Self::Kelvin),
            _ => None,
        }
    }
}

/// Unit of a logger's running clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TimeUnit {
    /// seconds
    Second,
    /// minutes
    Minute,
    /// hours
    Hour,
}

impl TimeUnit {
    /// Seconds per unit.
    pub const fn seconds(self) -> f64 {
        match self {
            Self::Second => 1.0,
            Self::Minute => 60.0,
            Self::Hour => 3600.0,
        }
    }
}
