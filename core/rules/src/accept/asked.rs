//! What the data file of a basis asks of a hold.

use super::MakeupForm;
use crate::basis::bound::Constant;
use serde::Deserialize;

/// A fall within a time.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FallAsked {
    /// Greatest fall.
    pub most: Option<Constant>,
    /// As a share of the pressure at the start.
    pub share: Option<f64>,
    /// Minutes.
    pub within_min: f64,
}

/// A make-up allowance.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MakeupAsked {
    /// Its form.
    pub form: MakeupForm,
    /// True where closed metal-seated valves add to it.
    #[serde(default)]
    pub valves: bool,
    /// Length of one pipe, m, from which joints are counted where none are entered.
    pub pipe_m: Option<f64>,
}

/// Water lost for a fall.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WaterLossAsked {
    /// Allowance factor.
    pub factor: f64,
}

/// Water drawn in the air check.
pub type AirCheckAsked = WaterLossAsked;

/// Contraction of a viscoelastic main.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ContractionAsked {
    /// Minutes at test pressure, pumped up as the wall stretches.
    pub stretch_min: f64,
    /// Minutes from there to the quick fall.
    pub wait_min: f64,
    /// Greatest fall in them, share.
    pub wait_fall_share: f64,
    /// Least and greatest quick fall, shares.
    pub drop_share: (f64, f64),
    /// Minutes that it must rise or stand.
    pub stand_min: f64,
    /// Minutes in doubt.
    pub doubt_min: f64,
    /// Greatest fall in doubt.
    pub doubt_fall: Constant,
}

/// Expansion before the hold, for as long as the basis lets the pressure settle.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ExpansionAsked {
    /// By how much the pressure is lowered after it.
    pub lowered: Constant,
}

/// Length of the whole test.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WholeTestAsked {
    /// Minutes from the first raise until the pressure is let out, at most.
    pub most_min: f64,
    /// Minutes without pressure before another.
    pub rest_min: f64,
}
