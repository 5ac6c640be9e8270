//! Instruments and their certificates.

use quantity::{GaugePressure, PressureDifference, PressureUnit};
use serde::{Deserialize, Serialize};

/// A day of the calendar, ISO 8601 (`2026-03-01`); compares as text because the form is fixed.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(transparent)]
pub struct IsoDate(pub String);

impl IsoDate {
    /// From text; none unless it is YYYY-MM-DD with month and day in range.
    pub fn new(text: &str) -> Option<Self> {
        let b = text.as_bytes();
        let shape = b.len() == 10 && b.iter().enumerate().all(|(i, c)| if i == 4 || i == 7 { *c == b'-' } else { c.is_ascii_digit() });
        let part = |r: std::ops::Range<usize>| text.get(r).and_then(|t| t.parse::<u32>().ok()).unwrap_or(0);
        (shape && (1..=12).contains(&part(5..7)) && (1..=31).contains(&part(8..10))).then(|| Self(text.to_owned()))
    }
}

/// What an instrument measures.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum InstrumentKind {
    /// pressure gauge
    Gauge,
    /// thermometer
    Thermometer,
}

/// An instrument of the store.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Instrument {
    /// Tag.
    pub tag: String,
    /// What it measures.
    pub kind: InstrumentKind,
    /// Number of its certificate.
    pub certificate: String,
    /// Day of calibration.
    pub calibrated_on: IsoDate,
    /// Last day on which the certificate holds.
    pub valid_until: IsoDate,
    /// Gauge: full scale, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub full_scale_pa: Option<GaugePressure>,
    /// Gauge: readable division, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub division_pa: Option<PressureDifference>,
    /// Gauge: error, share of full scale (95 %).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub error_of_scale: Option<f64>,
    /// Gauge: unit that it shows.
    #[serde(default)]
    pub unit: PressureUnit,
    /// Thermometer: readable division, K.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub division_k: Option<f64>,
    /// Thermometer: error (95 %), K.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub error_k: Option<f64>,
}

impl Instrument {
    /// What speaks against using it on `day`, in a sentence.
    pub fn objection(&self, day: &IsoDate) -> Option<String> {
        if *day > self.valid_until {
            Some(format!(
                "{}: certificate {} ran out on {}. Have it calibrated, or use another.",
                self.tag, self.certificate, self.valid_until.0
            ))
        } else if *day < self.calibrated_on {
            Some(format!(
                "{}: certificate {} begins on {}, after the day of the test. Check the certificate.",
                self.tag, self.certificate, self.calibrated_on.0
            ))
        } else {
            None
        }
    }
}
