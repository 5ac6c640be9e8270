//! What statistics say about a hold, as it is written down.

use crate::defect::FoundDefect;
use quantity::{GaugePressure, Length, PressureDifference, RunTime, TemperatureDifference, VolumeFlow};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Finding {
    /// the 95 % interval of the leak excludes zero
    #[strum(message = "a leak is shown")]
    LeakShown,
    /// tight to the upper limit
    #[strum(message = "no leak shown")]
    TightTo,
    /// the record supports neither
    #[strum(message = "the record supports no finding")]
    NotShown,
}

/// A fall of pressure with its half-width at 95 %, Pa.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Band {
    /// The figure.
    #[schema(value_type = f64)]
    pub value: PressureDifference,
    /// Half-width at 95 %.
    #[schema(value_type = f64)]
    pub half_width_95: PressureDifference,
}

/// Estimate of the leak; signed, never clipped. Volumes at line conditions; of gas normal volumes (0 °C, 101 325 Pa).
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Leak {
    /// Mean loss over the hold, m³/s.
    #[schema(value_type = f64)]
    pub mean_m3_per_s: VolumeFlow,
    /// Lower end of the 95 % interval, m³/s.
    #[schema(value_type = f64)]
    pub lo_m3_per_s: VolumeFlow,
    /// Upper end of the 95 % interval, m³/s.
    #[schema(value_type = f64)]
    pub hi_m3_per_s: VolumeFlow,
    /// One-sided 99.9 % upper limit, m³/s.
    #[schema(value_type = f64)]
    pub upper_999_m3_per_s: VolumeFlow,
    /// Least leak that this record could have shown, m³/s: 3.29 standard deviations with no leak.
    #[schema(value_type = f64)]
    pub detection_limit_m3_per_s: VolumeFlow,
    /// Rate at the end of the hold, m³/s.
    #[schema(value_type = f64)]
    pub end_m3_per_s: VolumeFlow,
    /// Lower end of its 95 % interval, m³/s.
    #[schema(value_type = f64)]
    pub end_lo_m3_per_s: VolumeFlow,
    /// Upper end of its 95 % interval, m³/s.
    #[schema(value_type = f64)]
    pub end_hi_m3_per_s: VolumeFlow,
    /// Diameter of the sharp-edged hole that would lose the mean, m; nil for a negative mean.
    #[schema(value_type = f64)]
    pub equivalent_hole_m: Length,
}

impl Leak {
    /// True when a loss is ruled out.
    pub fn rules_out(&self, loss: VolumeFlow) -> bool {
        hold::finding::rules_out(self.upper_999_m3_per_s.m3_per_s(), self.detection_limit_m3_per_s.m3_per_s(), loss.m3_per_s())
    }

    /// True when only luck would rule a loss out: the interval is far narrower than such records allow.
    pub fn is_lucky(&self, loss: VolumeFlow) -> bool {
        (VolumeFlow::from_m3_per_s(0.0)..=loss).contains(&self.upper_999_m3_per_s) && !self.rules_out(loss)
    }
}

/// One point of the chart.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ChartPoint {
    /// Time, s.
    #[schema(value_type = f64)]
    pub t_s: RunTime,
    /// What heat and relaxation alone would do, Pa gauge.
    #[schema(value_type = f64)]
    pub without_loss_pa: GaugePressure,
    /// Half-width of that at 95 %, Pa.
    #[schema(value_type = f64)]
    pub half_width_95_pa: PressureDifference,
    /// The most probable path, Pa gauge.
    #[schema(value_type = f64)]
    pub fitted_pa: GaugePressure,
}

/// What is left of a reading after the fit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Residual {
    /// Time, s.
    #[schema(value_type = f64)]
    pub t_s: RunTime,
    /// Read less fitted, Pa; the mean of the readings about that time.
    #[schema(value_type = f64)]
    pub residual_pa: PressureDifference,
}

/// An explanation that was weighed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Explanation {
    /// In words.
    pub words: String,
    /// Its weight after the readings, 0 to 1.
    pub weight: f64,
}

/// Everything that statistics say about a hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Found {
    /// The finding.
    pub finding: Finding,
    /// Why it is not shown, and what would settle it, in sentences; empty otherwise.
    pub reasons: Vec<String>,
    /// Which instruments were written down to fewer digits than they read, in sentences.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub written: Vec<String>,
    /// First pressure of the hold, Pa gauge.
    #[schema(value_type = Option<f64>)]
    pub start_pa: Option<GaugePressure>,
    /// Last pressure of the hold, Pa gauge.
    #[schema(value_type = Option<f64>)]
    pub end_pa: Option<GaugePressure>,
    /// Change of the fluid's temperature over the hold, K.
    #[schema(value_type = Option<f64>)]
    pub temperature_change_k: Option<TemperatureDifference>,
    /// Fall that heat explains, Pa.
    pub explained_pa: Option<Band>,
    /// Fall that relaxation explains (creep, air going into solution, gaskets setting), Pa; absent where nothing relaxes.
    pub relaxed_pa: Option<Band>,
    /// Fall that is left for a leak, Pa.
    pub left_pa: Option<Band>,
    /// The leak.
    pub leak: Option<Leak>,
    /// Least loss that a hold so planned could have promised to show, m³/s.
    #[schema(value_type = Option<f64>)]
    pub planned_limit_m3_per_s: Option<VolumeFlow>,
    /// Standard deviation of what is left of the gauge's readings, Pa.
    #[schema(value_type = Option<f64>)]
    pub noise_pa: Option<PressureDifference>,
    /// Mean square of the standardised residuals; far above 1 the model does not fit.
    pub misfit: Option<f64>,
    /// Explanations that were weighed, the heaviest first.
    pub explanations: Vec<Explanation>,
    /// What is wrong with the record, in the order of time.
    pub defects: Vec<FoundDefect>,
    /// Times of the main gauge's readings that were left out, s, rising; for the rules, not written down.
    #[serde(skip)]
    pub left_out: Vec<RunTime>,
    /// The most probable path and what it would be without a leak.
    pub chart: Vec<ChartPoint>,
    /// Residuals of the gauge.
    pub residuals: Vec<Residual>,
}
