//! Instruments and their certificates.

use quantity::{GaugePressure, PressureDifference, PressureUnit, Volume};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// A day of the calendar, ISO 8601 (`2026-03-01`); compares as text because the form is fixed.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(transparent)]
pub struct IsoDate(pub String);

impl IsoDate {
    /// From text; none unless it is YYYY-MM-DD and a day of the calendar.
    pub fn new(text: &str) -> Option<Self> {
        moment::is_day(text).then(|| Self(text.to_owned()))
    }

    /// Days since 0000-03-01 of the Gregorian calendar; none unless it is YYYY-MM-DD. Exact: a year from March on has its leap day last.
    fn day_number(&self) -> Option<i64> {
        let part = |r: std::ops::Range<usize>| self.0.get(r)?.parse::<i64>().ok();
        let (year, month, day) = (part(0..4)?, part(5..7)?, part(8..10)?);
        let (year, month) = if month > 2 { (year, month - 3) } else { (year - 1, month + 9) };
        Some(365 * year + year.div_euclid(4) - year.div_euclid(100) + year.div_euclid(400) + (153 * month + 2) / 5 + day - 1)
    }

    /// Days from this day to another.
    pub fn days_until(&self, later: &Self) -> Option<i64> {
        Some(later.day_number()? - self.day_number()?)
    }
}

/// What an instrument measures.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum InstrumentKind {
    /// pressure gauge
    #[strum(message = "gauge")]
    Gauge,
    /// thermometer
    #[strum(message = "thermometer")]
    Thermometer,
    /// stroke counter of the pump
    #[strum(message = "stroke counter")]
    StrokeCounter,
}

/// How a figure stands in Modbus registers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum RegisterForm {
    /// IEEE 754 single in two registers, high word first
    #[strum(message = "float, high word first")]
    F32,
    /// IEEE 754 single in two registers, low word first
    #[strum(message = "float, low word first")]
    F32LowFirst,
    /// 16 bit with sign
    #[strum(message = "16 bit with sign")]
    I16,
    /// 16 bit without sign
    #[strum(message = "16 bit without sign")]
    U16,
    /// 32 bit with sign, high word first
    #[strum(message = "32 bit with sign")]
    I32,
    /// 32 bit without sign, high word first
    #[strum(message = "32 bit without sign")]
    U32,
    /// 32 bit without sign, low word first
    #[strum(message = "32 bit without sign, low word first")]
    U32LowFirst,
}

impl RegisterForm {
    /// Registers that it takes.
    pub const fn registers(self) -> u16 {
        match self {
            Self::I16 | Self::U16 => 1,
            Self::F32 | Self::F32LowFirst | Self::I32 | Self::U32 | Self::U32LowFirst => 2,
        }
    }

    /// The figure that registers hold; none when there are too few of them, or what they hold is no number.
    pub fn read(self, words: &[u16]) -> Option<f64> {
        let two = |high: usize| Some((u32::from(*words.get(high)?) << 16) | u32::from(*words.get(1 - high)?));
        let figure = match self {
            Self::F32 => f64::from(f32::from_bits(two(0)?)),
            Self::F32LowFirst => f64::from(f32::from_bits(two(1)?)),
            Self::I16 => f64::from(words.first()?.cast_signed()),
            Self::U16 => f64::from(*words.first()?),
            Self::I32 => f64::from(two(0)?.cast_signed()),
            Self::U32 => f64::from(two(0)?),
            Self::U32LowFirst => f64::from(two(1)?),
        };
        figure.is_finite().then_some(figure)
    }
}

/// Where an instrument answers over Modbus TCP. What it gives, times the scale, is in its own unit: bar or psi for a gauge, °C, strokes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Connection {
    /// Address in the site's own network, for instance 127.0.0.1.
    pub address: String,
    /// Port, Usually 502.
    pub port: u16,
    /// Modbus unit, 1 to 247.
    pub unit: u8,
    /// First register.
    pub register: u16,
    /// True for holding registers, false for input registers.
    #[serde(default)]
    pub holding: bool,
    /// How the figure is stored.
    pub form: RegisterForm,
    /// Multiplies the figure.
    #[serde(default = "one")]
    pub scale: f64,
}

fn one() -> f64 {
    1.0
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
    /// Stroke counter: volume of one stroke, m³.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub stroke_m3: Option<Volume>,
    /// Stroke counter: uncertainty of that volume (95 %), relative.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stroke_unc_95_rel: Option<f64>,
    /// Where it answers; absent for one that is read by eye.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub connection: Option<Connection>,
    /// True for a gauge of whoever tests alone: no store knows it, and its calibration is what they say.
    #[serde(default, skip_serializing_if = "is_false")]
    pub owner_s: bool,
    /// Why it is in quarantine; only a calibration of a later day takes it out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub quarantine: Option<Quarantine>,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
const fn is_false(b: &bool) -> bool {
    !*b
}

/// That an instrument counts for nothing before it is calibrated again.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Quarantine {
    /// Since which day.
    pub since: IsoDate,
    /// Why.
    pub why: String,
}

impl Instrument {
    /// A figure of its own unit in SI: Pa, °C, or strokes.
    pub fn in_si(&self, figure: f64) -> f64 {
        match self.kind {
            InstrumentKind::Gauge => figure * self.unit.pa(),
            InstrumentKind::Thermometer | InstrumentKind::StrokeCounter => figure,
        }
    }

    /// One of which nothing but the tag is known: out of date on every day, and without a range.
    pub fn unknown(tag: String) -> Self {
        Self {
            tag,
            kind: InstrumentKind::Gauge,
            certificate: String::new(),
            calibrated_on: IsoDate(String::new()),
            valid_until: IsoDate(String::new()),
            full_scale_pa: None,
            division_pa: None,
            error_of_scale: None,
            unit: PressureUnit::default(),
            division_k: None,
            error_k: None,
            stroke_m3: None,
            stroke_unc_95_rel: None,
            connection: None,
            owner_s: false,
            quarantine: None,
        }
    }

    /// True for an own gauge that nobody calibrated: what it shows is its owner's information.
    pub fn uncalibrated(&self) -> bool {
        self.owner_s && self.valid_until.0.is_empty()
    }

    /// What stands in the store once somebody changed it: a quarantine stays until it is calibrated on a later day.
    pub fn keeping(self, quarantine: Option<Quarantine>) -> Self {
        let quarantine = quarantine.filter(|q| self.calibrated_on <= q.since);
        Self { quarantine, ..self }
    }

    /// What speaks against using it on `day`, in a sentence.
    pub fn objection(&self, day: &IsoDate) -> Option<String> {
        if let Some(q) = &self.quarantine {
            Some(format!("{} is in quarantine since {}: {} Have it checked and calibrated, or use another.", self.tag, q.since.0, q.why))
        } else if self.uncalibrated() {
            None
        } else if *day > self.valid_until && self.owner_s {
            Some(format!(
                "{}: it was calibrated until {}. Have it calibrated, take another, or say that it is not calibrated.",
                self.tag, self.valid_until.0
            ))
        } else if *day > self.valid_until {
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
