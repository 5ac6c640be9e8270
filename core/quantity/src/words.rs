//! What people write for a unit: one table for the core and the screens.

use crate::dimension::{Dimension, FOOT, IMPERIAL_GALLON, INCH, POUND, POUND_FORCE, US_GALLON};
use crate::types::unit_factor::{KG_CM2, PSI};

/// A word for a unit: SI = typed × factor + offset.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize)]
pub struct Word {
    /// As written, in small letters, without blanks, points and degree signs, ² and ³ as digits.
    pub word: &'static str,
    /// What it is a unit of.
    pub dimension: Dimension,
    /// Factor.
    pub factor: f64,
    /// Offset, SI.
    pub offset: f64,
}

const fn w(word: &'static str, dimension: Dimension, factor: f64) -> Word {
    Word { word, dimension, factor, offset: 0.0 }
}

use Dimension::{
    DensityKgM3 as D, ForceN as F, GaugePressurePa as P, LeakM3PerS as Q, LengthM as L, MassKg as M, Share as S, TemperatureC as T,
    TemperatureDifferenceK as K, TimeS as Z, VolumeFlowM3PerS as V, VolumeM3 as U,
};

const H: f64 = 3600.0;

/// Every word. A flow may be typed where a leak is asked, and a change of temperature in degrees.
pub const WORDS: &[Word] = &[
    w("bar", P, 1e5),
    w("barg", P, 1e5),
    w("bar(g)", P, 1e5),
    w("mbar", P, 1e2),
    w("pa", P, 1.0),
    w("kpa", P, 1e3),
    w("kpag", P, 1e3),
    w("kpa(g)", P, 1e3),
    w("mpa", P, 1e6),
    w("mpag", P, 1e6),
    w("mpa(g)", P, 1e6),
    w("psi", P, PSI),
    w("psig", P, PSI),
    w("psi(g)", P, PSI),
    w("lbf/in2", P, PSI),
    w("lb/in2", P, PSI),
    w("ksi", P, 1e3 * PSI),
    w("kg/cm2", P, KG_CM2),
    w("kgf/cm2", P, KG_CM2),
    w("m", L, 1.0),
    w("metre", L, 1.0),
    w("metres", L, 1.0),
    w("cm", L, 1e-2),
    w("mm", L, 1e-3),
    w("km", L, 1e3),
    w("in", L, INCH),
    w("inch", L, INCH),
    w("inches", L, INCH),
    w("\"", L, INCH),
    w("ft", L, FOOT),
    w("foot", L, FOOT),
    w("feet", L, FOOT),
    w("'", L, FOOT),
    w("c", T, 1.0),
    w("degc", T, 1.0),
    w("celsius", T, 1.0),
    Word { word: "f", dimension: T, factor: 1.0 / 1.8, offset: -32.0 / 1.8 },
    Word { word: "degf", dimension: T, factor: 1.0 / 1.8, offset: -32.0 / 1.8 },
    Word { word: "fahrenheit", dimension: T, factor: 1.0 / 1.8, offset: -32.0 / 1.8 },
    Word { word: "k", dimension: T, factor: 1.0, offset: -273.15 },
    Word { word: "kelvin", dimension: T, factor: 1.0, offset: -273.15 },
    w("k", K, 1.0),
    w("kelvin", K, 1.0),
    w("c", K, 1.0),
    w("degc", K, 1.0),
    w("f", K, 1.0 / 1.8),
    w("degf", K, 1.0 / 1.8),
    w("m3", U, 1.0),
    w("cbm", U, 1.0),
    w("l", U, 1e-3),
    w("litre", U, 1e-3),
    w("litres", U, 1e-3),
    w("liter", U, 1e-3),
    w("liters", U, 1e-3),
    w("ml", U, 1e-6),
    w("cm3", U, 1e-6),
    w("gal", U, US_GALLON),
    w("usgal", U, US_GALLON),
    w("gallon", U, US_GALLON),
    w("gallons", U, US_GALLON),
    w("impgal", U, IMPERIAL_GALLON),
    w("ukgal", U, IMPERIAL_GALLON),
    w("floz", U, US_GALLON / 128.0),
    w("usfloz", U, US_GALLON / 128.0),
    w("impfloz", U, IMPERIAL_GALLON / 160.0),
    w("ft3", U, FOOT * FOOT * FOOT),
    w("cuft", U, FOOT * FOOT * FOOT),
    w("m3/h", V, 1.0 / H),
    w("m3/s", V, 1.0),
    w("l/s", V, 1e-3),
    w("l/min", V, 1e-3 / 60.0),
    w("l/h", V, 1e-3 / H),
    w("ml/min", V, 1e-6 / 60.0),
    w("gal/min", V, US_GALLON / 60.0),
    w("usgal/min", V, US_GALLON / 60.0),
    w("gpm", V, US_GALLON / 60.0),
    w("gal/h", V, US_GALLON / H),
    w("usgal/h", V, US_GALLON / H),
    w("gph", V, US_GALLON / H),
    w("impgal/min", V, IMPERIAL_GALLON / 60.0),
    w("impgal/h", V, IMPERIAL_GALLON / H),
    w("l/h", Q, 1e-3 / H),
    w("ml/h", Q, 1e-6 / H),
    w("l/min", Q, 1e-3 / 60.0),
    w("ml/min", Q, 1e-6 / 60.0),
    w("gal/h", Q, US_GALLON / H),
    w("usgal/h", Q, US_GALLON / H),
    w("gph", Q, US_GALLON / H),
    w("gal/min", Q, US_GALLON / 60.0),
    w("impgal/h", Q, IMPERIAL_GALLON / H),
    w("s", Z, 1.0),
    w("sec", Z, 1.0),
    w("min", Z, 60.0),
    w("minutes", Z, 60.0),
    w("h", Z, H),
    w("hours", Z, H),
    w("days", Z, 24.0 * H),
    w("n", F, 1.0),
    w("kn", F, 1e3),
    w("lbf", F, POUND_FORCE),
    w("kg", M, 1.0),
    w("t", M, 1e3),
    w("lb", M, POUND),
    w("kg/m3", D, 1.0),
    w("lb/ft3", D, POUND / (FOOT * FOOT * FOOT)),
    w("%", S, 0.01),
];

/// A word as it stands in the table.
fn plain(word: &str) -> String {
    word.to_lowercase().replace(['°', 'º', ' ', '\u{a0}', '.', '_'], "").replace('²', "2").replace('³', "3")
}

/// The unit of a dimension that is written so.
pub fn unit_of(dimension: Dimension, word: &str) -> Option<&'static Word> {
    let word = plain(word);
    WORDS.iter().find(|w| w.dimension == dimension && w.word == word)
}

/// The first unit that is written so, whatever it is of.
pub fn any(word: &str) -> Option<&'static Word> {
    let word = plain(word);
    WORDS.iter().find(|w| w.word == word)
}

/// Words of a dimension, for a sentence that says what is understood.
pub fn understood(dimension: Dimension) -> &'static str {
    match dimension {
        P | Dimension::PressureDifferencePa | Dimension::StressPa => "bar, kPa, MPa, psi or kg/cm²",
        L => "m, cm, mm, in or ft",
        T => "°C, °F or K",
        K => "K, °C or °F",
        U => "m³, L, mL, gal (US), imp gal or ft³",
        V => "m³/h, L/s, L/min, gal/min (US) or imp gal/min",
        Q | Dimension::NormalLeakM3PerS => "L/h, mL/h, L/min, gal/h (US) or imp gal/h",
        Z => "s, min or h",
        F => "N, kN or lbf",
        M => "kg, t or lb",
        D => "kg/m³ or lb/ft³",
        S => "%",
        _ => "a plain figure",
    }
}
