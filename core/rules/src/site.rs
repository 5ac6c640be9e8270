//! What is on site for the test: source of water, pump, outlet, soil, air, room, clock. What is not known is absent.

use quantity::{GaugePressure, Length, Span, Temperature, Volume, VolumeFlow};
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
    /// Volume of the closed room around a gas test, m³.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub room_m3: Option<Volume>,
    /// Time of day at which filling starts, "07:30".
    #[serde(skip_serializing_if = "Option::is_none")]
    pub start: Option<String>,
}

impl Site {
    /// Figures that must be above zero, each with its field.
    pub fn positive(&self) -> [(&'static str, Option<f64>); 11] {
        [
            ("source_flow_m3_per_s", self.source_flow_m3_per_s.map(|v| v.m3_per_s())),
            ("water_at_hand_m3", self.water_at_hand_m3.map(|v| v.m3())),
            ("stroke_m3", self.stroke_m3.map(|v| v.m3())),
            ("pump_flow_m3_per_s", self.pump_flow_m3_per_s.map(|v| v.m3_per_s())),
            ("relief_capacity_m3_per_s", self.relief_capacity_m3_per_s.map(|v| v.m3_per_s())),
            ("reaction_s", self.reaction_s.map(|v| v.s())),
            ("drain_bore_m", self.drain_bore_m.map(|v| v.m())),
            ("soil_bearing_pa", self.soil_bearing_pa.map(|v| v.pa())),
            ("thrust_safety", self.thrust_safety),
            ("room_m3", self.room_m3.map(|v| v.m3())),
            ("start", self.start.as_deref().map(|t| minutes_of_day(t).map_or(f64::NAN, |m| f64::from(m) + 1.0))),
        ]
    }
}

/// "07:30" as minutes since midnight.
pub fn minutes_of_day(text: &str) -> Option<u32> {
    let (h, m) = text.trim().split_once(':')?;
    let (h, m): (u32, u32) = (h.parse().ok()?, m.parse().ok()?);
    (h < 24 && m < 60).then_some(h * 60 + m)
}
