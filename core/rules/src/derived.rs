//! What is derived from a system.

use crate::accept::{Criterion, Lowering, allowed_fall, lowering};
use crate::consequences::lines::Line;
use crate::gas::GasFigures;
use crate::gauge::GaugeOffer;
use crate::method::MethodStanding;
use crate::objection::Objection;
use crate::parting::Proposal;
use crate::plan::DayPressures;
use crate::pretest::Pretest;
use crate::specification::Touched;
use physics::head::Column;
use quantity::{Density, Energy, GaugePressure, Length, PressureDifference, Span, Volume};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// One part with what it needs and bears, at its height and at the gauge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PartWindow {
    /// Tag of the part.
    pub tag: String,
    /// Its kind, in words.
    pub kind: Cow<'static, str>,
    /// Height, m.
    #[schema(value_type = f64)]
    pub elevation_m: Length,
    /// Design pressure of its line, where it is not the system's, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub design_pa: Option<GaugePressure>,
    /// Least pressure at the part, Pa.
    pub required_pa: GaugePressure,
    /// Greatest pressure at the part, Pa.
    pub limit_pa: GaugePressure,
    /// What sets the limit, in a few words.
    pub limit_words: Cow<'static, str>,
    /// Rule that sets the limit.
    pub limit_rule: Cow<'static, str>,
    /// Least gauge reading for this part, Pa.
    pub gauge_lower_pa: GaugePressure,
    /// Greatest gauge reading for this part, Pa.
    pub gauge_upper_pa: GaugePressure,
    /// How far the planned pressure (the lower bound where none is planned) lies above what the part needs, Pa; negative where it is missed.
    pub above_least_pa: PressureDifference,
    /// How far it lies below what the part bears, Pa; negative where that is passed.
    pub below_most_pa: PressureDifference,
}

/// Two parts that no gauge reading suits together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct WindowConflict {
    /// Part that asks the most.
    pub asks: String,
    /// Part that bears the least.
    pub bears: String,
    /// What, why, and what to do.
    pub sentence: String,
}

/// One further gauge: the same window at its height.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GaugeWindow {
    /// Its tag.
    pub tag: String,
    /// Height, m.
    #[schema(value_type = f64)]
    pub elevation_m: Length,
    /// Lower bound at it, Pa.
    pub lower_pa: GaugePressure,
    /// Upper bound at it, Pa.
    pub upper_pa: GaugePressure,
    /// What it reads at the planned pressure, Pa; absent when the window is empty.
    pub planned_pa: Option<GaugePressure>,
    /// Which full scales suit it; absent when the window is empty.
    pub offer: Option<GaugeOffer>,
}

/// Everything that follows from a system.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Derived {
    /// What the system is filled with.
    pub medium: crate::basis::Medium,
    /// Name of the basis, its choices made.
    pub basis: String,
    /// Answers to the questions of the basis, each in a sentence.
    pub choices: Vec<String>,
    /// Conditions of the basis and what else to mind, in sentences.
    pub cautions: Vec<String>,
    /// Least pressure by the basis, where it applies, Pa.
    pub required_pa: GaugePressure,
    /// Lower bound at the gauge, exact, Pa.
    pub lower_pa: GaugePressure,
    /// Lower bound rounded up to the gauge's readable division, Pa.
    pub lower_readable_pa: GaugePressure,
    /// Part that asks the most.
    pub lower_part: String,
    /// Upper bound at the gauge, exact, Pa.
    pub upper_pa: GaugePressure,
    /// Upper bound rounded down to a tenth of the readable division, or to 0.01 bar (0.1 psi) where that is coarser (but never coarser than the division), Pa.
    pub upper_shown_pa: GaugePressure,
    /// Part that bears the least.
    pub upper_part: String,
    /// Present when no gauge reading suits every part.
    pub conflict: Option<WindowConflict>,
    /// What to do about it: a split, and its alternatives.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub proposal: Option<Proposal>,
    /// The pressures of the day; absent when the window is empty.
    pub day: Option<DayPressures>,
    /// Which gauges suit; absent when the window is empty.
    pub gauge_offer: Option<GaugeOffer>,
    /// Each part.
    pub parts: Vec<PartWindow>,
    /// Density of the water, kg/m³.
    pub density_kg_m3: Density,
    /// Water below its line in a hydro-pneumatic test.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub water_below: Option<WaterBelow>,
    /// Pressure gained per metre downwards in the column, Pa/m.
    pub column_pa_per_m: f64,
    /// Least hold by the basis, s.
    pub hold_floor_s: Span,
    /// Volume of water, m³; absent where no part has one.
    pub volume_m3: Option<Volume>,
    /// Pumped volume to reach the planned pressure without air, m³.
    pub pumped_without_air_m3: Option<Volume>,
    /// The same with 0.2 % of air at filling, m³.
    pub pumped_with_air_m3: Option<Volume>,
    /// Change of pressure per kelvin at the planned pressure, Pa/K.
    pub pressure_per_kelvin: Option<f64>,
    /// Fall that was predicted for settling and cooling, Pa.
    pub predicted_fall_pa: PressureDifference,
    /// Energy stored at the planned pressure, J.
    #[schema(value_type = Option<f64>)]
    pub stored_energy_j: Option<Energy>,
    /// Figures of a gas test.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gas: Option<GasFigures>,
    /// Every further gauge.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub gauges: Vec<GaugeWindow>,
    /// How the method stands.
    pub method: MethodStanding,
    /// Low gas test before the liquid.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pretest: Option<Pretest>,
    /// What the project lays down in place of a default, and the figures that it touches.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub touched: Vec<Touched>,
    /// What follows, each in one line, for the step that needs it.
    #[serde(default)]
    pub lines: Vec<Line>,
    /// Time constant with which the slowest bare pipe follows its surroundings in still air, s.
    #[schema(value_type = Option<f64>)]
    pub time_constant_s: Option<Span>,
    /// Settling before the hold, after which the pressure may be brought back once, s; nil where the basis knows none.
    #[serde(default = "none", skip_serializing_if = "is_nil")]
    #[schema(value_type = f64)]
    pub settle_s: Span,
    /// What the basis asks of the hold besides its pressure and its time.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub criteria: Vec<Criterion>,
    /// Everything that stops the release and is cleared in what was entered; the alternative to a relief valve has a gate of its own.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub objections: Vec<Objection>,
    /// What used plant may be derated to, where it bears less than is asked of it, Pa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub derate_to_pa: Option<GaugePressure>,
    /// Volume of the gas, m³; absent with liquid, and while a part that can hold gas has none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gas_volume_m3: Option<Volume>,
}

/// Water below its line in a hydro-pneumatic test.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct WaterBelow {
    /// Height of the line, m.
    #[schema(value_type = f64)]
    pub line_m: Length,
    /// Density of the water, kg/m³.
    #[schema(value_type = f64)]
    pub density_kg_m3: Density,
}

impl Derived {
    /// The column between the heights of the test.
    pub fn column(&self) -> Column {
        Column { density: self.density_kg_m3, below: self.water_below.map(|w| (w.line_m, w.density_kg_m3)) }
    }

    /// The pressure that is raised to: planned, or the lower bound where nothing is planned.
    fn raised_to_pa(&self) -> GaugePressure {
        self.day.as_ref().map_or(self.lower_pa, |d| d.planned_pa)
    }

    /// How a wall that creeps is brought from there to its hold.
    pub fn lowering(&self) -> Option<Lowering> {
        lowering(&self.criteria, self.raised_to_pa())
    }

    /// Pressure at which joints are looked at after the hold, where it is lower than that of the hold.
    pub fn looks_at_pa(&self) -> Option<GaugePressure> {
        self.day.as_ref().filter(|d| d.look_pa < d.planned_pa && self.lowering().is_none()).map(|d| d.look_pa)
    }

    /// Reading at which the hold begins, as a rule.
    pub fn hold_begins_pa(&self) -> GaugePressure {
        self.lowering().map_or(self.raised_to_pa(), |l| self.raised_to_pa() - l.usual_pa)
    }

    /// Least reading at which the hold may begin.
    pub fn hold_lower_pa(&self) -> GaugePressure {
        lowering(&self.criteria, self.lower_pa).map_or(self.lower_pa, |l| self.lower_pa - l.most_pa)
    }

    /// Least reading that the hold may come to: less what the basis lets it fall.
    pub fn hold_least_pa(&self) -> GaugePressure {
        self.hold_lower_pa() - allowed_fall(&self.criteria, self.hold_begins_pa())
    }

    /// The day's pressures, where a reading of this gauge suits every part; none where the window is empty or narrower than the gauge can hold.
    pub fn readable_day(&self) -> Option<&DayPressures> {
        self.day.as_ref().filter(|d| self.conflict.is_none() && !d.conflicts.iter().any(|c| c.about == "gauge"))
    }
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
fn is_nil(s: &Span) -> bool {
    *s == Span::ZERO
}

const fn none() -> Span {
    Span::ZERO
}
