//! What is known about a hold: the content of a `CASE.json`.

use crate::defect::DefectKind;
use crate::read::{Read, TimeRange};
use physics::exposure::Exposure;
use physics::gas::Gas;
use physics::system::{Segment, ShutIn};
use quantity::{
    AbsolutePressure, GaugePressure, Length, PressureDifference, PressureUnit, RunTime, STANDARD_ATMOSPHERE, Span, Temperature,
    TemperatureDifference, Units, Volume, VolumeFlow,
};
use rules::accept::Criterion;
use serde::{Deserialize, Serialize};
use terms::{Claim, EventKind, LeakPlace, ThermometerPlace};

/// Number of the format of a case as this version writes it.
pub const FORMAT: u32 = 3;
/// From this format on its criteria say who allows no loss; before it nobody does, and a leak that is shown counts.
pub const FORMAT_SAYS_LOSS: u32 = 3;

const fn first_format() -> u32 {
    1
}

/// A hold with its readings. Times are seconds from any origin.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoldCase {
    /// Number of the format that it was written in; 1 where it is absent.
    #[serde(default = "first_format")]
    pub format: u32,
    /// What people call it.
    pub title: String,
    /// The gas that fills it; absent for water. A leak of gas is given in normal volumes (0 °C, 101 325 Pa).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gas: Option<Gas>,
    /// Bodies of fluid with their walls. Without any, no leak rate can be given.
    pub bodies: Vec<CaseBody>,
    /// Trapped air at atmospheric pressure over the whole volume; nil for gas.
    #[serde(default)]
    pub air_fraction: f64,
    /// Uncertainty of the air fraction (95 %).
    #[serde(default = "default_air_uncertainty")]
    pub air_fraction_unc_95: f64,
    /// Relative uncertainty of the volume (95 %).
    #[serde(default = "default_volume_uncertainty")]
    pub volume_unc_95_rel: f64,
    /// The atmosphere, Pa absolute.
    #[serde(default = "default_atmosphere")]
    #[schema(value_type = f64)]
    pub atmosphere_pa: AbsolutePressure,
    /// Pressure at which the hold is to begin, Pa gauge.
    pub expected_pa: GaugePressure,
    /// What is known of heat before the readings.
    pub heat: HeatBefore,
    /// How long the system was at pressure before the hold began, s: what relaxes has done so for that long.
    #[serde(default = "none")]
    #[schema(value_type = f64)]
    pub at_pressure_s: Span,
    /// Where the pressure was lowered before the hold, from where the wall had stretched.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lowered: Option<Lowered>,
    /// When the pressure of the test before was let out, s; absent where there was none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub let_out_before_s: Option<RunTime>,
    /// How many gasketed joints.
    #[serde(default)]
    pub gasketed_joints: u32,
    /// The gauge that the test is read from.
    pub gauge: HoldGauge,
    /// Further gauges.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also_gauges: Vec<HoldGauge>,
    /// The thermometer; without one a fall cannot be told from cooling.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub thermometer: Option<Thermometer>,
    /// Further thermometers.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also_thermometers: Vec<Thermometer>,
    /// Readings as they were recorded, in the order of the record.
    pub readings: Vec<Reading>,
    /// Start of the hold, s.
    #[schema(value_type = f64)]
    pub hold_start_s: RunTime,
    /// End of the hold, s.
    #[schema(value_type = f64)]
    pub hold_end_s: RunTime,
    /// True where the pressure was let out before a hold began; its start and end are both when that was.
    #[serde(default, skip_serializing_if = "is_false")]
    pub stopped: bool,
    /// What the crew wrote down.
    #[serde(default)]
    pub events: Vec<Event>,
    /// Defects of the record that a person lets stand, with their reason.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub overruled: Vec<Overruled>,
    /// When the clock was set anew while it was recorded, and by how much.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub clock_set: Vec<ClockSet>,
    /// Boundaries of the hold that a person moved: as found, as moved, and why.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub moved: Vec<MovedBoundary>,
    /// What a named person decided about a leak that is shown and that nobody accounted for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decided: Option<crate::lines::Decided>,
    /// What the basis, the owner and the people on site say.
    pub acceptance: Acceptance,
    /// Units in which its sentences are said to the person who asks; those of its gauge where absent. Never stored.
    #[serde(skip)]
    pub told_in: Option<Units>,
}

fn default_air_uncertainty() -> f64 {
    CAREFUL_VENTING
}
/// Relative uncertainty of the volume of a system that is known from its drawing (95 %; common practice).
pub const VOLUME_UNC_95_REL: f64 = 0.05;
/// What a careful venting leaves in doubt of the air, share of the volume (95 %; common practice).
pub const CAREFUL_VENTING: f64 = 0.001;

fn default_volume_uncertainty() -> f64 {
    VOLUME_UNC_95_REL
}
fn default_wall_uncertainty() -> f64 {
    0.10
}
fn default_atmosphere() -> AbsolutePressure {
    STANDARD_ATMOSPHERE
}
#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
const fn is_false(b: &bool) -> bool {
    !*b
}
const fn none() -> Span {
    Span::ZERO
}
const fn at_datum() -> Length {
    Length::ZERO
}
fn default_lag_factor() -> f64 {
    2.5
}
fn default_fill_uncertainty() -> TemperatureDifference {
    TemperatureDifference::from_k(0.6)
}

/// One body of fluid with its wall and what surrounds it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CaseBody {
    /// Volume and wall.
    pub segment: Segment,
    /// Relative uncertainty of the stretch of its wall (95 %).
    #[serde(default = "default_wall_uncertainty")]
    pub wall_unc_95_rel: f64,
    /// What surrounds it.
    pub exposure: Exposure,
    /// Time constant with which the skin follows the surroundings, s.
    #[schema(value_type = f64)]
    pub skin_lag_s: Span,
    /// Time constant with which the fluid follows the skin, s.
    #[schema(value_type = f64)]
    pub fluid_lag_s: Span,
    /// The true time constants lie within this factor (95 %).
    #[serde(default = "default_lag_factor")]
    pub lag_factor_95: f64,
    /// Slow stretch of a plastic wall.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub creep: Option<WallCreep>,
}

impl HoldCase {
    /// Units in which its sentences are said.
    pub fn units(&self) -> Units {
        self.told_in.unwrap_or(self.gauge.unit.into())
    }

    /// The hold in time.
    pub const fn hold(&self) -> TimeRange {
        TimeRange { start: self.hold_start_s, end: self.hold_end_s }
    }

    /// Pressures as they were recorded, of the whole run.
    pub fn pressures(&self) -> impl DoubleEndedIterator<Item = Read> + Clone + '_ {
        self.readings.iter().filter_map(|r| Some(Read { t: r.t_s, p: r.pressure_pa? }))
    }

    /// True where gas fills it.
    pub const fn is_gas(&self) -> bool {
        self.gas.is_some()
    }

    /// Volume lost per pascal of fall at the expected pressure, V·c, m³/Pa (of gas normal m³: V/p_n·T_n/T); none without bodies.
    pub fn volume_per_pa(&self) -> Option<f64> {
        let segments: Vec<Segment> = self.bodies.iter().map(|b| b.segment.clone()).collect();
        if segments.is_empty() {
            return None;
        }
        let shut_in = ShutIn { segments, air_fraction: self.air_fraction, atmosphere: self.atmosphere_pa };
        let volume = shut_in.volume().m3();
        match self.gas {
            Some(_) => Some(volume / STANDARD_ATMOSPHERE.pa() * 273.15 / self.heat.fill_c.kelvin()),
            None => Some(volume * shut_in.compliance_per_pa(self.heat.fill_c, self.expected_pa.absolute(self.atmosphere_pa)).ok()?),
        }
    }
}

/// Slow stretch of a plastic wall at constant pressure: volume · stretch · pressure · k · ln((t + t₁)/t₁), t₁ the time at pressure before the hold.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WallCreep {
    /// Expected k per e-fold of time.
    pub coefficient: f64,
    /// Its standard uncertainty.
    pub sd: f64,
}

/// A pressure at which a wall had stretched, and from which it was lowered before the hold.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Lowered {
    /// By how much, Pa.
    #[schema(value_type = f64)]
    pub by_pa: PressureDifference,
    /// How long before the hold began, s.
    #[schema(value_type = f64)]
    pub before_s: Span,
}

/// What is known of heat before the readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HeatBefore {
    /// Temperature of the fluid when filled, °C.
    #[schema(value_type = f64)]
    pub fill_c: Temperature,
    /// Its uncertainty (95 %), K.
    #[serde(default = "default_fill_uncertainty")]
    #[schema(value_type = f64)]
    pub fill_unc_95_k: TemperatureDifference,
    /// From filling to the start of the hold, s.
    #[schema(value_type = f64)]
    pub soak_s: Span,
    /// Temperature of the surroundings that is expected at the start, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub surroundings_c: Option<Temperature>,
    /// By how much they are expected to change over the hold, K.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub swing_k: Option<TemperatureDifference>,
}

/// The gauge of the hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoldGauge {
    /// Its tag.
    pub tag: String,
    /// Height at which it reads, m above the site's datum.
    #[serde(default = "at_datum")]
    #[schema(value_type = f64)]
    pub elevation_m: Length,
    /// Readable division, Pa.
    pub division_pa: PressureDifference,
    /// Full scale, Pa.
    pub full_scale_pa: GaugePressure,
    /// Error, share of full scale (95 %).
    pub error_of_scale: f64,
    /// Standard deviation of one reading's noise, Pa; taken from the readings where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub noise_pa: Option<PressureDifference>,
    /// Error per kelvin of the air about it (95 %), Pa/K.
    #[serde(default)]
    pub temperature_pa_per_k: f64,
    /// Unit in which sentences are written.
    #[serde(default)]
    pub unit: PressureUnit,
}

/// The thermometer of the hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Thermometer {
    /// Its tag.
    pub tag: String,
    /// Where it sits.
    pub location: ThermometerPlace,
    /// On or in which body, by its segment's name; the largest where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub body: Option<String>,
    /// Readable division, K.
    #[schema(value_type = f64)]
    pub division_k: TemperatureDifference,
    /// Error (95 %), K.
    #[schema(value_type = f64)]
    pub error_k: TemperatureDifference,
    /// Standard deviation of one reading's noise, K; taken from the readings where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub noise_k: Option<TemperatureDifference>,
}

/// A defect of the record that a person lets stand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Overruled {
    /// Its kind.
    pub kind: DefectKind,
    /// Tag of the instrument; absent for the whole row.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub channel: Option<String>,
    /// When it begins, s on the clock of the readings.
    #[schema(value_type = f64)]
    pub start_s: RunTime,
    /// Why it is let stand.
    pub reason: String,
    /// By whom.
    pub by: String,
}

/// A clock that was set anew while it was recorded. The times of the case do not follow it: they go on by a count that nobody sets.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClockSet {
    /// When, s.
    #[schema(value_type = f64)]
    pub t_s: RunTime,
    /// By how much it was set forward, s; negative where it was set back.
    #[schema(value_type = f64)]
    pub by_s: Span,
}

/// A boundary of the hold, or of another stretch of the run, that a person moved.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MovedBoundary {
    /// Which.
    pub boundary: Boundary,
    /// Where the readings and events put it, s.
    #[schema(value_type = f64)]
    pub found_s: RunTime,
    /// Where the person put it, s.
    #[schema(value_type = f64)]
    pub moved_s: RunTime,
    /// Why.
    pub reason: String,
    /// By whom.
    pub by: String,
}

/// A boundary of the hold, or of another stretch of the run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Boundary {
    /// where it begins
    Start,
    /// where it ends
    End,
    /// between two other stretches of the run; which one, is told by where it was found
    Between,
}

/// Readings of one instant.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// Time, s.
    #[schema(value_type = f64)]
    pub t_s: RunTime,
    /// Gauge reading, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub pressure_pa: Option<GaugePressure>,
    /// Thermometer reading, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub temperature_c: Option<Temperature>,
    /// Further gauges in their order (Pa), then further thermometers (°C).
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<Option<f64>>,
    /// The logger's own counter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sample_no: Option<u64>,
}

impl Reading {
    /// Of gauge and thermometer alone.
    pub const fn new(t_s: RunTime, pressure_pa: Option<GaugePressure>, temperature_c: Option<Temperature>) -> Self {
        Self { t_s, pressure_pa, temperature_c, also: Vec::new(), sample_no: None }
    }
}

/// Something that the crew did or saw.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Event {
    /// When, s.
    #[schema(value_type = f64)]
    pub t_s: RunTime,
    /// What.
    pub kind: EventKind,
    /// Place class of a leak seen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<LeakPlace>,
    /// Volume that was measured of a repump or bleed, m³ (normal m³ of gas).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub volume_m3: Option<Volume>,
}

/// What the finding is held against.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Acceptance {
    /// What the test claims.
    pub claim: Claim,
    /// Least gauge reading allowed in the hold, Pa.
    pub lower_pa: GaugePressure,
    /// Greatest gauge reading allowed, Pa.
    pub upper_pa: GaugePressure,
    /// Least gauge reading at the look, Pa, where it may be taken after the hold at a lower pressure.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub look_pa: Option<GaugePressure>,
    /// Least hold, s.
    #[schema(value_type = f64)]
    pub hold_floor_s: Span,
    /// Leak that the test must be able to rule out, m³/s; absent where none was asked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub required_sensitivity_m3_per_s: Option<VolumeFlow>,
    /// True where the project lets one repump in the hold leave its clock.
    #[serde(default, skip_serializing_if = "is_false")]
    pub one_repump: bool,
    /// True where the project lets the pump stay coupled during the hold.
    #[serde(default, skip_serializing_if = "is_false")]
    pub pump_stays: bool,
    /// True where the project has a loss that only tightness would fail fail a test of strength too.
    #[serde(default, skip_serializing_if = "is_false")]
    pub loss_fails_strength: bool,
    /// What speaks against an instrument on the day, in sentences; empty when nothing does.
    #[serde(default)]
    pub instrument_objections: Vec<String>,
    /// What the basis asks besides: bands, falls, allowances.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub criteria: Vec<Criterion>,
}
