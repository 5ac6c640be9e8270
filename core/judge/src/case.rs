//! What is known about a hold: the content of a `CASE.json`.

use physics::system::Segment;
use quantity::{AbsolutePressure, GaugePressure, PressureDifference, PressureUnit, STANDARD_ATMOSPHERE, Temperature, VolumeFlow};
use serde::{Deserialize, Serialize};

/// A hold with its readings. Times are seconds from any origin.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoldCase {
    /// What people call it.
    pub title: String,
    /// Bodies of water with their walls. Without any, no leak rate can be given.
    pub segments: Vec<Segment>,
    /// Trapped air at atmospheric pressure over the whole volume.
    #[serde(default)]
    pub air_fraction: f64,
    /// Uncertainty of the air fraction (95 %).
    #[serde(default = "default_air_uncertainty")]
    pub air_fraction_unc_95: f64,
    /// Relative uncertainty of the volume (95 %).
    #[serde(default = "default_volume_uncertainty")]
    pub volume_unc_95_rel: f64,
    /// Relative uncertainty of the stretch of the walls (95 %).
    #[serde(default = "default_wall_uncertainty")]
    pub wall_unc_95_rel: f64,
    /// The atmosphere, Pa absolute.
    #[serde(default = "default_atmosphere")]
    #[schema(value_type = f64)]
    pub atmosphere_pa: AbsolutePressure,
    /// The gauge that the readings are from.
    pub gauge: HoldGauge,
    /// The thermometer; without one a fall cannot be told from cooling.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub thermometer: Option<Thermometer>,
    /// Readings in time order.
    pub readings: Vec<Reading>,
    /// Start of the hold, s.
    pub hold_start_s: f64,
    /// End of the hold, s.
    pub hold_end_s: f64,
    /// What the crew wrote down.
    #[serde(default)]
    pub events: Vec<Event>,
    /// What the basis, the owner and the people on site say.
    pub acceptance: Acceptance,
}

/// 0.1 % of the volume: what a careful venting leaves in doubt (common practice).
fn default_air_uncertainty() -> f64 {
    0.001
}
fn default_volume_uncertainty() -> f64 {
    0.05
}
fn default_wall_uncertainty() -> f64 {
    0.10
}
fn default_atmosphere() -> AbsolutePressure {
    STANDARD_ATMOSPHERE
}

/// The gauge of the hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoldGauge {
    /// Its tag.
    pub tag: String,
    /// Readable division, Pa.
    pub division_pa: PressureDifference,
    /// Full scale, Pa.
    pub full_scale_pa: GaugePressure,
    /// Error, share of full scale (95 %).
    pub error_of_scale: f64,
    /// Unit in which sentences are written.
    #[serde(default)]
    pub unit: PressureUnit,
}

/// Where a thermometer sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Location {
    /// in the water
    Water,
    /// on the metal's skin
    Skin,
    /// in the air beside it
    Ambient,
}

/// The thermometer of the hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Thermometer {
    /// Its tag.
    pub tag: String,
    /// Where it sits.
    pub location: Location,
    /// Readable division, K.
    pub division_k: f64,
    /// Error (95 %), K.
    pub error_k: f64,
    /// Time constant with which the water follows it, s; nil for one in the water.
    #[serde(default)]
    pub water_lag_s: f64,
    /// The true time constant lies within this factor (95 %).
    #[serde(default = "default_lag_factor")]
    pub lag_factor_95: f64,
}

fn default_lag_factor() -> f64 {
    2.5
}

/// One instant's readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// Time, s.
    pub t_s: f64,
    /// Gauge reading, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub pressure_pa: Option<GaugePressure>,
    /// Thermometer reading, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub temperature_c: Option<Temperature>,
}

/// Something that the crew did or saw.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Event {
    /// When, s.
    pub t_s: f64,
    /// What.
    pub kind: EventKind,
    /// Place class of a leak seen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<LeakPlace>,
}

/// Kinds of events.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum EventKind {
    /// a step of the schedule was reached
    StepReached,
    /// pump stopped, valved off and disconnected
    PumpOff,
    /// every joint in the claim was looked at
    LookDone,
    /// a leak was seen
    LeakSeen,
    /// the pressure was pumped up again
    Repump,
    /// some water was let out
    Bleed,
    /// the hold was ended
    HoldEnded,
}

/// Where a leak was seen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LeakPlace {
    /// temporary test fitting
    TestFitting,
    /// mechanical joint
    MechanicalJoint,
    /// weld
    Weld,
    /// tube end
    TubeEnd,
    /// rivet, stay or bolt
    RivetStayBolt,
    /// parent metal
    ParentMetal,
    /// primary gasket
    GasketPrimary,
    /// secondary gasket
    GasketSecondary,
}

impl LeakPlace {
    /// All of them.
    pub const ALL: [Self; 8] = [
        Self::TestFitting,
        Self::MechanicalJoint,
        Self::Weld,
        Self::TubeEnd,
        Self::RivetStayBolt,
        Self::ParentMetal,
        Self::GasketPrimary,
        Self::GasketSecondary,
    ];
    /// In words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::TestFitting => "temporary test fitting",
            Self::MechanicalJoint => "mechanical joint",
            Self::Weld => "weld",
            Self::TubeEnd => "tube end",
            Self::RivetStayBolt => "rivet, stay or bolt",
            Self::ParentMetal => "parent metal",
            Self::GasketPrimary => "primary gasket",
            Self::GasketSecondary => "secondary gasket",
        }
    }
}

/// What a test claims.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Claim {
    /// the parts hold
    Strength,
    /// nothing gets out
    Tightness,
    /// both
    Both,
}

impl Claim {
    /// True when strength is claimed.
    pub const fn strength(self) -> bool {
        !matches!(self, Self::Tightness)
    }
    /// True when tightness is claimed.
    pub const fn tightness(self) -> bool {
        !matches!(self, Self::Strength)
    }
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
    /// Least hold, s.
    pub hold_floor_s: f64,
    /// Leak that the test must be able to rule out, m³/s; absent where none was asked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub required_sensitivity_m3_per_s: Option<VolumeFlow>,
    /// What speaks against an instrument on the day, in sentences; empty when nothing does.
    #[serde(default)]
    pub instrument_objections: Vec<String>,
}
