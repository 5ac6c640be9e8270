//! Reads what a person typed. What was typed is never rewritten: the caller keeps the text beside the value.

use crate::bounds::Bound;
pub use crate::parse_error::ParseQuantityError;
use crate::unit::{PressureUnit, TemperatureUnit};
use crate::{GaugePressure, Length, Temperature};

/// A number with an optional unit behind it, split but not judged.
fn split(text: &str) -> (&str, &str) {
    let text = text.trim();
    let end = text
        .char_indices()
        .find(|(i, c)| {
            !(c.is_ascii_digit()
                || matches!(c, '.' | ',' | '-' | '+' | '−' | ' ' | '\u{a0}')
                || (matches!(c, 'e' | 'E') && is_exponent(text, *i)))
        })
        .map_or(text.len(), |(i, _)| i);
    (text[..end].trim(), text[end..].trim())
}

fn is_exponent(text: &str, at: usize) -> bool {
    let before = text[..at].ends_with(|c: char| c.is_ascii_digit() || c == '.');
    let after = text[at + 1..].trim_start_matches(['-', '+']).starts_with(|c: char| c.is_ascii_digit());
    before && after
}

/// A plain number with a point or a comma as its decimal sign. Two different signs in one number are refused, since
/// "1,234.5" and "1.234,5" cannot be told from a slip.
///
/// # Errors
/// When nothing was typed or it is not a number.
pub fn number(word: &'static str, text: &str, example: &'static str) -> Result<f64, ParseQuantityError> {
    let clean = text.trim().replace('−', "-");
    if clean.is_empty() {
        return Err(ParseQuantityError::Missing { word, example });
    }
    let signs = clean.chars().filter(|c| matches!(c, '.' | ',')).count();
    clean
        .replace(',', ".")
        .parse::<f64>()
        .ok()
        .filter(|v| signs <= 1 && v.is_finite() && !clean.contains(|c: char| c.is_ascii_alphabetic() && !matches!(c, 'e' | 'E')))
        .ok_or(ParseQuantityError::NotANumber { word, text: text.trim().to_owned(), example })
}

/// A gauge pressure: "25.7", "210 psi", "2,4 MPa". A bare number is in `default_unit`.
///
/// # Errors
/// When the text is not a pressure or not inside `bound` (whose unit is bar).
pub fn gauge_pressure(bound: &Bound, text: &str, default_unit: PressureUnit) -> Result<(GaugePressure, PressureUnit), ParseQuantityError> {
    let (digits, unit_text) = split(text);
    let value = number(bound.word, if digits.is_empty() { text } else { digits }, "24.5 or 210 psi")?;
    let unit = if unit_text.is_empty() {
        default_unit
    } else {
        PressureUnit::from_text(unit_text).ok_or_else(|| ParseQuantityError::UnknownUnit {
            word: bound.word,
            unit: unit_text.to_owned(),
            accepted: "bar, kPa, MPa, psi or kg/cm² (gauge)",
        })?
    };
    let pressure = GaugePressure::from_pa(value * unit.pa());
    bound.check(pressure.bar())?;
    Ok((pressure, unit))
}

/// Both marks of a needle that stands between two: "4.2 to 4.4", "between 60 and 62 psi", "4.2–4.4 bar"; none where only one figure stands.
/// A unit behind the second is that of both.
pub fn between_marks(text: &str) -> Option<(String, String)> {
    let text = text.trim();
    let text = text.strip_prefix("between ").unwrap_or(text);
    let (low, high) = [" to ", " and ", "–", "…", " - "].iter().find_map(|mark| text.split_once(mark))?;
    let (low, high) = (low.trim(), high.trim());
    if low.is_empty() || high.is_empty() {
        return None;
    }
    let unit = if split(low).1.is_empty() { split(high).1 } else { "" };
    Some((format!("{low} {unit}").trim().to_owned(), high.to_owned()))
}

/// A length or height: "18.5", "7,11 mm", "6 in", "12 ft". A bare number is in `default_unit` ("m" or "mm").
///
/// # Errors
/// When the text is not a length or not inside `bound`.
pub fn length(bound: &Bound, text: &str, default_unit: &str) -> Result<Length, ParseQuantityError> {
    let (digits, unit_text) = split(text);
    let value = number(bound.word, if digits.is_empty() { text } else { digits }, "12.5")?;
    let unit = if unit_text.is_empty() { default_unit.to_owned() } else { unit_text.to_lowercase() };
    let metres = crate::words::unit_of(crate::Dimension::LengthM, &unit).map(|w| value * w.factor).ok_or_else(|| {
        ParseQuantityError::UnknownUnit {
            word: bound.word,
            unit: unit_text.to_owned(),
            accepted: crate::words::understood(crate::Dimension::LengthM),
        }
    })?;
    let in_bound_unit = if bound.unit == "mm" { metres * 1e3 } else { metres };
    bound.check(in_bound_unit)?;
    Ok(Length::from_m(metres))
}

/// A temperature: "15.2", "59 F", "288 K". A bare number is in °C.
///
/// # Errors
/// When the text is not a temperature or not inside `bound`.
pub fn temperature(bound: &Bound, text: &str) -> Result<Temperature, ParseQuantityError> {
    let (digits, unit_text) = split(text);
    let value = number(bound.word, if digits.is_empty() { text } else { digits }, "15.2")?;
    let unit = if unit_text.is_empty() {
        TemperatureUnit::Celsius
    } else {
        TemperatureUnit::from_text(unit_text).ok_or_else(|| ParseQuantityError::UnknownUnit {
            word: bound.word,
            unit: unit_text.to_owned(),
            accepted: "°C, °F or K",
        })?
    };
    Ok(Temperature::from_c(bound.check(unit.to_c(value))?))
}

/// A volume: "2.4 L", "0.15 m3", "500 mL", "3 gal" (US). A bare number is in m³.
///
/// # Errors
/// When the text is not a volume or not inside `bound`.
pub fn volume(bound: &Bound, text: &str) -> Result<crate::Volume, ParseQuantityError> {
    let (digits, unit_text) = split(text);
    let value = number(bound.word, if digits.is_empty() { text } else { digits }, "2.4 L")?;
    let asked = if unit_text.is_empty() { "m3" } else { unit_text };
    let m3 = crate::words::unit_of(crate::Dimension::VolumeM3, asked).map(|w| value * w.factor).ok_or_else(|| {
        ParseQuantityError::UnknownUnit {
            word: bound.word,
            unit: unit_text.to_owned(),
            accepted: crate::words::understood(crate::Dimension::VolumeM3),
        }
    })?;
    Ok(crate::Volume::from_m3(bound.check(m3)?))
}

/// A figure with a unit, whatever it is of, in SI; none where it is none. An amount that is asked for in a dimension is read by [`amount`].
pub fn published(text: &str, units: &crate::Units) -> Option<(f64, crate::Dimension, bool)> {
    let (digits, unit) = split(text);
    let word = crate::words::any(unit)?;
    let value = digits.replace(['−'], "-").parse::<f64>().ok()?;
    let same = match word.dimension {
        crate::Dimension::GaugePressurePa => PressureUnit::from_text(unit) == Some(units.pressure),
        dimension => crate::dimension::scales(dimension, units).iter().any(|s| s.symbol == unit),
    };
    Some((value.mul_add(word.factor, word.offset), word.dimension, same))
}

/// An amount of a dimension: "200 F", "84 in", "0.9 L". A bare figure is in the unit that `bare` names.
///
/// # Errors
/// When it is no figure, its unit is of something else, or it is bare and nothing says in what.
pub fn amount(word: &'static str, text: &str, dimension: crate::Dimension, bare: Option<&str>) -> Result<f64, ParseQuantityError> {
    let (digits, unit_text) = split(text);
    let value = number(word, if digits.is_empty() { text } else { digits }, "12.5")?;
    let unit = if unit_text.is_empty() { bare.unwrap_or("") } else { unit_text };
    let found = crate::words::unit_of(dimension, unit).ok_or_else(|| ParseQuantityError::UnknownUnit {
        word,
        unit: unit.to_owned(),
        accepted: crate::words::understood(dimension),
    })?;
    Ok(value.mul_add(found.factor, found.offset))
}
