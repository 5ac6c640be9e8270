//! What is on site for the test: source of water, pump, outlet, soil, air, room, clock. What is not known is absent.

use quantity::{GaugePressure, Length, Span, Temperature, TemperatureDifference, Volume, VolumeFlow};
use serde::{Deserialize, Serialize};

/// What is on site.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Site {
    /// Flow of the source that is really there, m³/s.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub source_flow_m3_per_s: Option<VolumeFlow>,
    /// Water at hand from an earlier test, m³.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub water_at_hand_m3: Option<Volume>,
    /// Temperature of the source, °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub source_c: Option<Temperature>,
    /// Temperature of the surroundings, °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub surroundings_c: Option<Temperature>,
    /// Temperature of the metal that is expected, °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub metal_c: Option<Temperature>,
    /// Minimum design metal temperature, °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub minimum_metal_c: Option<Temperature>,
    /// Chloride in the water, ppm, from its certificate; needed where a part is austenitic steel.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub chloride_ppm: Option<f64>,
    /// Volume of one stroke of a hand pump, m³.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub stroke_m3: Option<Volume>,
    /// Flow of a driven pump, m³/s.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub pump_flow_m3_per_s: Option<VolumeFlow>,
    /// Greatest flow that the relief valve passes at its set pressure, m³/s.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub relief_capacity_m3_per_s: Option<VolumeFlow>,
    /// Time in which the operator stops the pump, s; 3 s where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub reaction_s: Option<Span>,
    /// Bore of the drain, m.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub drain_bore_m: Option<Length>,
    /// What the soil behind thrust blocks bears, Pa.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub soil_bearing_pa: Option<GaugePressure>,
    /// Safety of thrust blocks; 1.5 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub thrust_safety: Option<f64>,
    /// Hydrants whose valve is open to a main under test.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hydrants: Option<u32>,
    /// Change of the surroundings that is expected over the hold, K.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub swing_k: Option<TemperatureDifference>,
    /// Volume of the closed room around a gas test, m³.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub room_m3: Option<Volume>,
    /// Air that cannot be vented, at atmospheric pressure: a dome that stays full, m³.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub trapped_air_m3: Option<Volume>,
    /// Time of day at which filling starts, "07:30".
    #[serde(skip_serializing_if = "Option::is_none")]
    pub start: Option<String>,
}

/// Time from "stop" to a pump that stands, where the site gives none (common practice: a person's reaction and the pump's run-down).
const REACTION: Span = Span::from_s(3.0);

impl Site {
    /// Time from "stop" to a pump that stands.
    pub fn reaction(&self) -> Span {
        self.reaction_s.unwrap_or(REACTION)
    }

    /// Figures that must be above zero, each with its field and what people call it.
    fn positive(&self) -> [(&'static str, &'static str, Option<f64>); 12] {
        [
            ("source_flow_m3_per_s", "the flow of the source", self.source_flow_m3_per_s.map(|v| v.m3_per_s())),
            ("water_at_hand_m3", "the water at hand", self.water_at_hand_m3.map(|v| v.m3())),
            ("stroke_m3", "the stroke of the hand pump", self.stroke_m3.map(|v| v.m3())),
            ("pump_flow_m3_per_s", "the flow of the driven pump", self.pump_flow_m3_per_s.map(|v| v.m3_per_s())),
            ("relief_capacity_m3_per_s", "what the relief valve passes", self.relief_capacity_m3_per_s.map(|v| v.m3_per_s())),
            ("reaction_s", "the time to stop the pump", self.reaction_s.map(|v| v.s())),
            ("drain_bore_m", "the bore of the drain", self.drain_bore_m.map(|v| v.m())),
            ("soil_bearing_pa", "what the soil bears", self.soil_bearing_pa.map(|v| v.pa())),
            ("thrust_safety", "the safety of thrust blocks", self.thrust_safety),
            ("swing_k", "the change of the surroundings", self.swing_k.map(|k| k.k())),
            ("trapped_air_m3", "the air that stays in", self.trapped_air_m3.map(|v| v.m3())),
            ("room_m3", "the volume of the room", self.room_m3.map(|v| v.m3())),
        ]
    }

    /// Checks what no consequence can work with.
    ///
    /// # Errors
    /// Names the field, and what would be accepted.
    pub fn check(&self) -> Result<(), SiteError> {
        let wrong =
            self.positive().into_iter().find_map(|(field, what, v)| Some((field, what, v.filter(|v| !(*v > 0.0 && v.is_finite()))?)));
        if self.chloride_ppm.is_some_and(|p| !(p >= 0.0 && p.is_finite())) {
            return Err(SiteError::NotPositive { field: "chloride_ppm", what: "the chloride in the water" });
        }
        if let Some((field, what, _)) = wrong {
            return Err(SiteError::NotPositive { field, what });
        }
        match &self.start {
            Some(text) if minutes_of_day(text).is_none() => Err(SiteError::Start { text: text.clone() }),
            _ => Ok(()),
        }
    }
}

/// Why a figure of the site cannot be.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum SiteError {
    /// Not above zero.
    #[error("{what} must be above zero: mend it, or leave it empty where it is not known")]
    NotPositive {
        /// the field
        field: &'static str,
        /// what people call it
        what: &'static str,
    },
    /// No time of day.
    #[error("\"{text}\" is no time of day: write the start of filling as 07:30")]
    Start {
        /// as typed
        text: String,
    },
}

impl SiteError {
    /// Name of the field to mend.
    pub const fn field(&self) -> &'static str {
        match self {
            Self::NotPositive { field, .. } => field,
            Self::Start { .. } => "start",
        }
    }
}

/// "07:30" as minutes since midnight.
pub fn minutes_of_day(text: &str) -> Option<u32> {
    let (h, m) = text.trim().split_once(':')?;
    let (h, m): (u32, u32) = (h.parse().ok()?, m.parse().ok()?);
    (h < 24 && m < 60).then_some(h * 60 + m)
}
