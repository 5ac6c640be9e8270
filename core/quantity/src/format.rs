//! Prints with the digits that the gauge can show. A no-break space keeps the unit on the number's line.

use crate::unit::PressureUnit;
use crate::{GaugePressure, PressureDifference, Span};

/// How many decimals a readable division needs: 0.1 → 1, 0.05 → 2, 2 → 0.
pub fn decimals_of(division: f64) -> usize {
    (0..=6usize)
        .find(|d| {
            let scaled = division * 10f64.powi(*d as i32);
            (scaled - scaled.round()).abs() < 1e-6 * scaled.abs().max(1.0) && scaled.round() >= 1.0
        })
        .unwrap_or(6)
}

/// How many decimals show a division that is no whole number of them: 0.725 → 1, 14.5 → 0, 0.0725 → 2.
pub fn decimals_within(division: f64) -> usize {
    (0..=6usize).find(|d| 10f64.powi(-(*d as i32)) <= division * (1.0 + 1e-9)).unwrap_or(6)
}

/// The next multiple of `division` that is not below `value`. What lies within a millionth of a division of a
/// multiple counts as that multiple, so that binary rounding never adds a whole division.
pub fn round_up(value: f64, division: f64) -> f64 {
    ((value / division) - 1e-6).ceil() * division
}

/// The next multiple of `division` that is not above `value`, with the same tolerance.
pub fn round_down(value: f64, division: f64) -> f64 {
    ((value / division) + 1e-6).floor() * division
}

/// "25.7 bar" with a given number of decimals.
pub fn gauge_pressure(p: GaugePressure, unit: PressureUnit, decimals: usize) -> String {
    format!("{:.*}\u{a0}{}", decimals, clean(p.pa() / unit.pa(), decimals), unit.symbol())
}

/// As [`gauge_pressure`], for a difference.
pub fn pressure_difference(p: PressureDifference, unit: PressureUnit, decimals: usize) -> String {
    format!("{:.*}\u{a0}{}", decimals, clean(p.pa() / unit.pa(), decimals), unit.symbol())
}

/// A number with as many significant figures as asked, without exponent: 0.00416 → "0.0042".
pub fn significant(value: f64, figures: usize) -> String {
    if value == 0.0 || !value.is_finite() {
        return format!("{}", clean(value, 0));
    }
    let magnitude = value.abs().log10().floor() as i32;
    let decimals = (figures as i32 - 1 - magnitude).clamp(0, 12) as usize;
    format!("{:.*}", decimals, clean(value, decimals))
}

/// No "-0.0".
pub(crate) fn clean(value: f64, decimals: usize) -> f64 {
    let scale = 10f64.powi(decimals as i32);
    if (value * scale).round() == 0.0 { 0.0 } else { value }
}

/// "10 min", "2 h", "1 h 30 min", "45 s".
pub fn span(time: Span) -> String {
    let s = time.s().round().max(0.0) as u64;
    match (s / 3600, s % 3600 / 60, s % 60) {
        (0, 0, sec) => format!("{sec}\u{a0}s"),
        (0, min, 0) => format!("{min}\u{a0}min"),
        (0, min, sec) => format!("{min}\u{a0}min {sec}\u{a0}s"),
        (h, 0, _) => format!("{h}\u{a0}h"),
        (h, min, _) => format!("{h}\u{a0}h {min}\u{a0}min"),
    }
}

/// A sentence with its first letter in capital.
pub fn capital(words: &str) -> String {
    let mut chars = words.chars();
    chars.next().map_or_else(String::new, |c| c.to_uppercase().chain(chars).collect())
}
