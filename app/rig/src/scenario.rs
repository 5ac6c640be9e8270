//! The scenario file: everything that a run depends on.

use physics::system::Segment;
use serde::{Deserialize, Serialize};

/// A scenario. Pressures are gauge; heights are above the site's datum.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Scenario {
    /// What people call it.
    pub title: String,
    /// Seed of every noise in it.
    pub seed: u64,
    /// Bodies of water with their walls.
    pub segments: Vec<Segment>,
    /// Trapped air at filling, share of the volume.
    #[serde(default)]
    pub air_fraction: f64,
    /// Height of the high point, where the air sits and the vent is, m.
    pub high_point_m: f64,
    /// Temperature of water and metal at the start, °C.
    pub start_c: f64,
    /// Pressure at the high point at the start, Pa.
    #[serde(default)]
    pub start_pressure_pa: f64,
    /// Weather.
    #[serde(default)]
    pub weather: Weather,
    /// The pump.
    pub pump: Pump,
    /// The relief valve; none where none is fitted.
    #[serde(default)]
    pub relief: Option<Relief>,
    /// Leaks.
    #[serde(default)]
    pub leaks: Vec<Leak>,
    /// A part that yields; none where all are strong enough.
    #[serde(default)]
    pub yielding: Option<Yielding>,
    /// Instruments.
    pub instruments: Vec<RigInstrument>,
    /// What the rig does by itself; empty when a person does it.
    #[serde(default)]
    pub script: Vec<Order>,
}

/// Surroundings.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Weather {
    /// Hour of the day at the start, 0 to 24.
    pub hour: f64,
    /// Mean air temperature, °C.
    pub mean_c: f64,
    /// Half of the daily swing, K; warmest at 15 h.
    pub swing_k: f64,
    /// How much warmer the sun makes the skin at noon, K.
    pub sun_k: f64,
    /// Time constant with which skin and metal follow the air, s; nil for that of the thickest pipe in still air.
    pub skin_lag_s: f64,
    /// Time constant with which the water follows the skin, s; nil for that of its bore.
    pub water_lag_s: f64,
}

impl Default for Weather {
    fn default() -> Self {
        Self { hour: 9.0, mean_c: 15.0, swing_k: 0.0, sun_k: 0.0, skin_lag_s: 0.0, water_lag_s: 0.0 }
    }
}

/// A plunger pump.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pump {
    /// Volume of one stroke, m³.
    pub stroke_m3: f64,
    /// How much strokes differ, relative, one standard deviation.
    #[serde(default)]
    pub stroke_scatter: f64,
    /// Strokes a minute unless an order says otherwise.
    pub strokes_per_min: f64,
    /// Temperature of its water, °C.
    pub water_c: f64,
}

/// A relief valve: opens at its set pressure, full at its accumulation, closes below its blowdown.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Relief {
    /// Set pressure at the high point, Pa.
    pub set_pa: f64,
    /// Rise over the set pressure at which it is fully open, relative.
    pub accumulation: f64,
    /// Fall below the set pressure at which it closes, relative.
    pub blowdown: f64,
    /// Flow when fully open, m³/s.
    pub full_flow_m3_per_s: f64,
}

/// A leak through a hole.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Leak {
    /// Where.
    pub place: String,
    /// Its height, m.
    pub elevation_m: f64,
    /// Diameter of the hole, m.
    pub hole_m: f64,
    /// Opens at this time, s.
    #[serde(default)]
    pub from_s: f64,
    /// Opens at this pressure at the high point, Pa, and stays open.
    #[serde(default)]
    pub opens_at_pa: f64,
}

/// A part that yields.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Yielding {
    /// Pressure at the high point at which it begins, Pa.
    pub at_pa: f64,
    /// Plastic growth of the whole volume per pressure above, 1/Pa.
    pub per_pa: f64,
}

/// What an instrument shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Shows {
    /// gauge pressure at its height, Pa
    Pressure,
    /// temperature of the water, °C
    WaterTemperature,
    /// temperature of the skin, °C
    SkinTemperature,
    /// temperature of the air, °C
    AirTemperature,
    /// strokes of the pump since the start
    Strokes,
}

/// How a value stands in registers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Encoding {
    /// IEEE 754 single, high word first
    F32,
    /// IEEE 754 single, low word first
    F32Swapped,
    /// 16 bit with sign
    I16,
    /// 16 bit without sign
    U16,
    /// 32 bit without sign, high word first
    U32,
}

/// An instrument of the rig.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RigInstrument {
    /// Tag.
    pub tag: String,
    /// What it shows.
    pub shows: Shows,
    /// Modbus unit, 2 to 247.
    pub unit: u8,
    /// First register.
    pub register: u16,
    /// Encoding.
    pub encoding: Encoding,
    /// SI value of one count or of 1.0: 1e5 for a float in bar, 1000 for hundredths of a bar.
    pub si_per_count: f64,
    /// Height, m.
    #[serde(default)]
    pub elevation_m: f64,
    /// Noise, SI, one standard deviation.
    #[serde(default)]
    pub noise: f64,
    /// Resolution, SI; nil for none.
    #[serde(default)]
    pub resolution: f64,
    /// Zero error, SI.
    #[serde(default)]
    pub offset: f64,
    /// End of its scale, SI; nil for none.
    #[serde(default)]
    pub full_scale: f64,
    /// Faults.
    #[serde(default)]
    pub faults: Vec<Fault>,
}

/// A fault of an instrument.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case", tag = "kind")]
pub enum Fault {
    /// does not answer
    Silent {
        /// from, s
        from_s: f64,
        /// for, s
        for_s: f64,
    },
    /// keeps its value
    Stuck {
        /// from, s
        from_s: f64,
        /// for, s
        for_s: f64,
    },
    /// leaps and stays there
    Leap {
        /// from, s
        from_s: f64,
        /// by, SI
        by: f64,
    },
}

/// Something that the rig does by itself.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case", tag = "do")]
pub enum Order {
    /// pumps until the high point has this pressure
    PumpTo {
        /// Pa
        pressure_pa: f64,
        /// strokes a minute; nil for the pump's own
        #[serde(default)]
        strokes_per_min: f64,
    },
    /// waits
    Wait {
        /// s
        seconds: f64,
    },
    /// bleeds until the high point has this pressure
    BleedTo {
        /// Pa
        pressure_pa: f64,
    },
}

/// Why a scenario cannot be run.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct ScenarioError(pub String);

impl Scenario {
    /// Reads a scenario from JSON.
    ///
    /// # Errors
    /// Says where, what, and what to do.
    pub fn read(text: &str) -> Result<Self, ScenarioError> {
        let scenario: Self = serde_json::from_str(text).map_err(|e| ScenarioError(format!("The scenario cannot be read: {e}.")))?;
        scenario.check()?;
        Ok(scenario)
    }

    fn check(&self) -> Result<(), ScenarioError> {
        let refuse = |words: String| Err(ScenarioError(words));
        if self.segments.is_empty() || self.segments.iter().any(|s| s.volume_m3.m3() <= 0.0 || !s.volume_m3.is_finite()) {
            return refuse("A scenario needs at least one segment with a volume above zero.".to_owned());
        }
        if !(0.0..=0.2).contains(&self.air_fraction) {
            return refuse(format!("air_fraction is {}: it must be inside 0 to 0.2.", self.air_fraction));
        }
        if !(0.5..=60.0).contains(&self.start_c) {
            return refuse(format!("start_c is {}: water must be inside 0.5 to 60 °C.", self.start_c));
        }
        if self.pump.stroke_m3 <= 0.0 || self.pump.strokes_per_min <= 0.0 {
            return refuse("The pump needs a stroke and strokes a minute above zero.".to_owned());
        }
        for i in &self.instruments {
            if !(2..=247).contains(&i.unit) {
                return refuse(format!("{}: unit {} is not inside 2 to 247; 1 is the rig itself.", i.tag, i.unit));
            }
            if i.si_per_count <= 0.0 {
                return refuse(format!("{}: si_per_count must be above zero.", i.tag));
            }
        }
        Ok(())
    }
}
