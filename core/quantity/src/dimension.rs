//! What a figure is of, and the units in which each is shown: one table for the core, the server and the screens.

use crate::unit::TemperatureUnit;
use crate::units::{LengthUnit, Units, VolumeUnit};
use serde::{Deserialize, Serialize};

/// Dimension of an amount, in SI, so that it can be shown in the reader's unit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Dimension {
    /// gauge pressure, Pa
    GaugePressurePa,
    /// pressure difference, Pa
    PressureDifferencePa,
    /// stress, Pa
    StressPa,
    /// length or height, m
    LengthM,
    /// temperature, °C
    TemperatureC,
    /// temperature difference, K
    TemperatureDifferenceK,
    /// density, kg/m³
    DensityKgM3,
    /// volume, m³
    VolumeM3,
    /// pressure per kelvin, Pa/K
    PressurePerKelvinPaPerK,
    /// time, s
    TimeS,
    /// force, N
    ForceN,
    /// force per length, N/m
    ForcePerLengthNPerM,
    /// speed, m/s
    SpeedMPerS,
    /// energy, J
    EnergyJ,
    /// mass, kg
    MassKg,
    /// volume per time, m³/s
    VolumeFlowM3PerS,
    /// leak rate, m³/s; shown per hour
    LeakM3PerS,
    /// leak rate of gas at 0 °C and 101 325 Pa, m³/s; shown per hour
    NormalLeakM3PerS,
    /// area, m²
    AreaM2,
    /// share, shown as per cent
    Share,
    /// a plain number
    Number,
}

/// One unit of a dimension: shown value = SI value × factor + offset, for amounts below `below` (SI).
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Scale {
    /// For amounts below this, SI; the last of a dimension has no end.
    pub below: f64,
    /// Factor.
    pub factor: f64,
    /// Offset, in the unit.
    pub offset: f64,
    /// As printed behind the figure.
    pub symbol: &'static str,
    /// Figures that a sentence has.
    pub said: usize,
    /// Figures that arithmetic has.
    pub exact: usize,
}

/// The choice of a person by which a dimension's units go.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(untagged)]
pub enum By {
    /// the same for everybody
    All,
    /// unit of temperatures
    Temperature(TemperatureUnit),
    /// unit of lengths
    Length(LengthUnit),
    /// unit of volumes
    Volume(VolumeUnit),
}

impl By {
    fn chosen(self, u: &Units) -> bool {
        match self {
            Self::All => true,
            Self::Temperature(t) => t == u.temperature,
            Self::Length(l) => l == u.length,
            Self::Volume(v) => v == u.volume,
        }
    }
}

const EVER: f64 = f64::INFINITY;

const fn scale(below: f64, factor: f64, symbol: &'static str, said: usize, exact: usize) -> Scale {
    Scale { below, factor, offset: 0.0, symbol, said, exact }
}

/// US gallon, 231 cubic inches, m³ (exact).
pub const US_GALLON: f64 = 3.785_411_784e-3;
/// Imperial gallon, m³ (exact).
pub const IMPERIAL_GALLON: f64 = 4.546_09e-3;
/// Foot, m (exact).
pub const FOOT: f64 = 0.3048;
/// Inch, m (exact).
pub const INCH: f64 = 0.0254;
/// Pound, kg (exact).
pub const POUND: f64 = 0.453_592_37;
/// Pound-force, N (exact).
pub const POUND_FORCE: f64 = 0.453_592_37 * 9.806_65;

type Row = (Dimension, By, &'static [Scale]);

/// Every unit in which anything but a pressure is shown.
pub const TABLE: &[Row] = &[
    (Dimension::LengthM, By::Length(LengthUnit::Metre), &[scale(0.5, 1e3, "mm", 3, 5), scale(EVER, 1.0, "m", 3, 5)]),
    (Dimension::LengthM, By::Length(LengthUnit::Foot), &[scale(0.5, 1.0 / INCH, "in", 3, 4), scale(EVER, 1.0 / FOOT, "ft", 3, 4)]),
    (Dimension::TemperatureC, By::Temperature(TemperatureUnit::Celsius), &[scale(EVER, 1.0, "°C", 3, 5)]),
    (
        Dimension::TemperatureC,
        By::Temperature(TemperatureUnit::Fahrenheit),
        &[Scale { below: EVER, factor: 1.8, offset: 32.0, symbol: "°F", said: 3, exact: 5 }],
    ),
    (Dimension::TemperatureDifferenceK, By::Temperature(TemperatureUnit::Celsius), &[scale(EVER, 1.0, "K", 2, 3)]),
    (Dimension::TemperatureDifferenceK, By::Temperature(TemperatureUnit::Fahrenheit), &[scale(EVER, 1.8, "°F", 2, 3)]),
    (Dimension::DensityKgM3, By::Length(LengthUnit::Metre), &[scale(EVER, 1.0, "kg/m³", 4, 6)]),
    (Dimension::DensityKgM3, By::Length(LengthUnit::Foot), &[scale(EVER, FOOT * FOOT * FOOT / POUND, "lb/ft³", 4, 6)]),
    (
        Dimension::VolumeM3,
        By::Volume(VolumeUnit::Litre),
        &[scale(1e-3, 1e6, "mL", 3, 4), scale(0.1, 1e3, "L", 3, 4), scale(EVER, 1.0, "m³", 3, 4)],
    ),
    (
        Dimension::VolumeM3,
        By::Volume(VolumeUnit::UsGallon),
        &[scale(0.1 * US_GALLON, 128.0 / US_GALLON, "US\u{a0}fl\u{a0}oz", 3, 4), scale(EVER, 1.0 / US_GALLON, "US\u{a0}gal", 3, 4)],
    ),
    (
        Dimension::VolumeM3,
        By::Volume(VolumeUnit::ImperialGallon),
        &[
            scale(0.1 * IMPERIAL_GALLON, 160.0 / IMPERIAL_GALLON, "imp\u{a0}fl\u{a0}oz", 3, 4),
            scale(EVER, 1.0 / IMPERIAL_GALLON, "imp\u{a0}gal", 3, 4),
        ],
    ),
    (
        Dimension::TimeS,
        By::All,
        &[
            scale(90.0, 1.0, "s", 2, 4),
            scale(5400.0, 1.0 / 60.0, "min", 2, 4),
            scale(48.0 * 3600.0, 1.0 / 3600.0, "h", 2, 4),
            scale(EVER, 1.0 / 86_400.0, "days", 2, 4),
        ],
    ),
    (Dimension::ForceN, By::Length(LengthUnit::Metre), &[scale(1e3, 1.0, "N", 3, 4), scale(EVER, 1e-3, "kN", 3, 4)]),
    (Dimension::ForceN, By::Length(LengthUnit::Foot), &[scale(EVER, 1.0 / POUND_FORCE, "lbf", 3, 4)]),
    (Dimension::ForcePerLengthNPerM, By::Length(LengthUnit::Metre), &[scale(1e3, 1.0, "N/m", 3, 4), scale(EVER, 1e-3, "kN/m", 3, 4)]),
    (Dimension::ForcePerLengthNPerM, By::Length(LengthUnit::Foot), &[scale(EVER, FOOT / POUND_FORCE, "lbf/ft", 3, 4)]),
    (Dimension::SpeedMPerS, By::Length(LengthUnit::Metre), &[scale(EVER, 1.0, "m/s", 3, 4)]),
    (Dimension::SpeedMPerS, By::Length(LengthUnit::Foot), &[scale(EVER, 1.0 / FOOT, "ft/s", 3, 4)]),
    (
        Dimension::EnergyJ,
        By::Length(LengthUnit::Metre),
        &[scale(1e3, 1.0, "J", 3, 4), scale(1e6, 1e-3, "kJ", 3, 4), scale(EVER, 1e-6, "MJ", 3, 4)],
    ),
    (Dimension::EnergyJ, By::Length(LengthUnit::Foot), &[scale(EVER, 1.0 / (FOOT * POUND_FORCE), "ft·lbf", 3, 4)]),
    (Dimension::MassKg, By::Length(LengthUnit::Metre), &[scale(1e3, 1.0, "kg", 2, 3), scale(EVER, 1e-3, "t", 2, 3)]),
    (Dimension::MassKg, By::Length(LengthUnit::Foot), &[scale(EVER, 1.0 / POUND, "lb", 2, 3)]),
    (
        Dimension::VolumeFlowM3PerS,
        By::Volume(VolumeUnit::Litre),
        &[scale(200.0 / 6e4, 6e4, "L/min", 3, 4), scale(EVER, 3600.0, "m³/h", 3, 4)],
    ),
    (Dimension::VolumeFlowM3PerS, By::Volume(VolumeUnit::UsGallon), &[scale(EVER, 60.0 / US_GALLON, "US\u{a0}gal/min", 3, 4)]),
    (Dimension::VolumeFlowM3PerS, By::Volume(VolumeUnit::ImperialGallon), &[scale(EVER, 60.0 / IMPERIAL_GALLON, "imp\u{a0}gal/min", 3, 4)]),
    (Dimension::LeakM3PerS, By::Volume(VolumeUnit::Litre), &[scale(0.1 / 3.6e6, 3.6e9, "mL/h", 2, 4), scale(EVER, 3.6e6, "L/h", 2, 4)]),
    (
        Dimension::LeakM3PerS,
        By::Volume(VolumeUnit::UsGallon),
        &[
            scale(0.1 * US_GALLON / 3600.0, 3600.0 * 128.0 / US_GALLON, "US\u{a0}fl\u{a0}oz/h", 2, 4),
            scale(EVER, 3600.0 / US_GALLON, "US\u{a0}gal/h", 2, 4),
        ],
    ),
    (
        Dimension::LeakM3PerS,
        By::Volume(VolumeUnit::ImperialGallon),
        &[
            scale(0.1 * IMPERIAL_GALLON / 3600.0, 3600.0 * 160.0 / IMPERIAL_GALLON, "imp\u{a0}fl\u{a0}oz/h", 2, 4),
            scale(EVER, 3600.0 / IMPERIAL_GALLON, "imp\u{a0}gal/h", 2, 4),
        ],
    ),
    (
        Dimension::NormalLeakM3PerS,
        By::Length(LengthUnit::Metre),
        &[scale(0.1 / 3.6e6, 3.6e9, "normal\u{a0}mL/h", 2, 4), scale(EVER, 3.6e6, "normal\u{a0}L/h", 2, 4)],
    ),
    (Dimension::NormalLeakM3PerS, By::Length(LengthUnit::Foot), &[scale(EVER, 3600.0 / (FOOT * FOOT * FOOT), "normal\u{a0}ft³/h", 2, 4)]),
    (Dimension::AreaM2, By::Length(LengthUnit::Metre), &[scale(EVER, 1.0, "m²", 2, 4)]),
    (Dimension::AreaM2, By::Length(LengthUnit::Foot), &[scale(EVER, 1.0 / (FOOT * FOOT), "ft²", 2, 4)]),
    (Dimension::Share, By::All, &[scale(EVER, 100.0, "%", 3, 4)]),
    (Dimension::Number, By::All, &[scale(EVER, 1.0, "", 3, 6)]),
];

/// The units of a dimension in a person's set, for small amounts first; none for pressures, whose digits are those of a gauge.
pub fn scales(dimension: Dimension, units: &Units) -> &'static [Scale] {
    TABLE.iter().find(|(d, by, _)| *d == dimension && by.chosen(units)).map_or(&[], |r| r.2)
}
