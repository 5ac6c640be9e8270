//! What is known about a hold before its readings are looked at, and the readings.

use physics::gas::Gas;

/// What fills the system.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fluid {
    /// liquid water
    Water,
    /// a gas
    Gas(Gas),
}

pub use physics::exposure::Exposure;

/// Slow stretch of a plastic wall at constant pressure: V·c·p·k·ln((t + t₁)/t₁).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Creep {
    /// Expected coefficient k per e-fold of time.
    pub coefficient: f64,
    /// Its standard uncertainty.
    pub sd: f64,
}

/// A pressure at which a wall had stretched, and from which it was lowered before the hold.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lowered {
    /// By how much, Pa.
    pub by_pa: f64,
    /// How long before the hold began, s.
    pub before_s: f64,
}

/// One body of fluid with its wall.
#[derive(Debug, Clone, PartialEq)]
pub struct Body {
    /// What people call it.
    pub name: String,
    /// Volume, m³.
    pub volume_m3: f64,
    /// Stretch of the wall per pressure, 1/Pa.
    pub wall_compliance_per_pa: f64,
    /// Its relative uncertainty (95 %).
    pub wall_compliance_unc_95: f64,
    /// Growth of its volume per kelvin, 1/K.
    pub wall_expansion_per_k: f64,
    /// What surrounds it.
    pub exposure: Exposure,
    /// Time constant with which the skin follows the surroundings, s.
    pub skin_lag_s: f64,
    /// Time constant with which the fluid follows the skin, s.
    pub fluid_lag_s: f64,
    /// The true lags lie within this factor (95 %).
    pub lag_factor_95: f64,
    /// Creep of a plastic wall.
    pub creep: Option<Creep>,
}

/// Where a thermometer sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Place {
    /// on the skin of a body
    Skin(usize),
    /// in the fluid of a body
    Fluid(usize),
    /// in the air beside it
    Ambient,
}

/// A pressure gauge.
#[derive(Debug, Clone, PartialEq)]
pub struct Gauge {
    /// Its tag.
    pub tag: String,
    /// Height above the reference level, m.
    pub elevation_m: f64,
    /// Full scale, Pa.
    pub range_pa: f64,
    /// Readable division, Pa; nil for none.
    pub resolution_pa: f64,
    /// Constant error (95 %), Pa.
    pub offset_95_pa: f64,
    /// Error in proportion to the change of pressure (95 %).
    pub span_95: f64,
    /// Standard deviation of one reading's noise, Pa.
    pub white_sd_pa: f64,
    /// Error per kelvin of the surroundings (95 %), Pa/K.
    pub temperature_95_pa_per_k: f64,
}

/// A thermometer.
#[derive(Debug, Clone, PartialEq)]
pub struct Thermometer {
    /// Its tag.
    pub tag: String,
    /// Where it sits.
    pub place: Place,
    /// Readable division, K; nil for none.
    pub resolution_k: f64,
    /// Constant error (95 %), K.
    pub offset_95_k: f64,
    /// Standard deviation of one reading's noise, K.
    pub noise_sd_k: f64,
}

/// Fluid let out or pumped in within the hold, booked or found.
#[derive(Debug, Clone, PartialEq)]
pub struct Step {
    /// From, s.
    pub start_s: f64,
    /// To, s.
    pub end_s: f64,
    /// Volume let out with its uncertainty (95 %), m³ (normal m³ of a gas); negative when pumped in; none when not measured.
    pub volume: Option<(f64, f64)>,
}

/// Everything known about a hold but its readings.
#[derive(Debug, Clone, PartialEq)]
pub struct Hold {
    /// What fills it.
    pub fluid: Fluid,
    /// Its bodies; at least one.
    pub bodies: Vec<Body>,
    /// Relative uncertainty of the whole volume (95 %).
    pub volume_unc_95: f64,
    /// The atmosphere, Pa.
    pub atmosphere_pa: f64,
    /// Expected pressure at the start, Pa gauge.
    pub pressure_pa: f64,
    /// Trapped air at atmospheric pressure over the whole volume; nil for gas.
    pub air_fraction: f64,
    /// Its uncertainty (95 %).
    pub air_fraction_unc_95: f64,
    /// Temperature of the fluid when filled, °C.
    pub fill_temperature_c: f64,
    /// Its standard uncertainty, K.
    pub fill_temperature_sd_k: f64,
    /// From filling to the start of the hold, s.
    pub soak_s: f64,
    /// At pressure before the hold began, s.
    pub at_pressure_s: f64,
    /// Where it was lowered from a higher pressure before the hold.
    pub lowered: Option<Lowered>,
    /// How many gasketed joints.
    pub gasketed_joints: u32,
    /// Gauges, in the order of the record's channels.
    pub gauges: Vec<Gauge>,
    /// Thermometers, in the order of the record's channels after the gauges.
    pub thermometers: Vec<Thermometer>,
    /// Length of the hold, s.
    pub length_s: f64,
    /// Time between readings, s.
    pub interval_s: f64,
    /// Expected temperature of the surroundings at the start, °C.
    pub surroundings_c: Option<f64>,
    /// Expected swing of the surroundings over the hold, K.
    pub swing_k: Option<f64>,
    /// Booked repumps and bleeds.
    pub steps: Vec<Step>,
}

/// One channel of a record; NaN where it has no reading.
pub type Channel = Vec<f64>;

/// The readings: gauges in Pa gauge, thermometers in °C.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Record {
    /// The logger's own counter.
    pub sample_no: Option<Vec<f64>>,
    /// Time, s from the start of the hold.
    pub time_s: Vec<f64>,
    /// Channels: the gauges, then the thermometers.
    pub channels: Vec<Channel>,
}

impl Hold {
    /// Volume of all bodies, m³.
    pub fn volume_m3(&self) -> f64 {
        self.bodies.iter().map(|b| b.volume_m3).sum()
    }
    /// Division and standard deviation of the noise of a channel (gauges, then thermometers), Pa or K.
    pub fn noise_of(&self, channel: usize) -> (f64, f64) {
        match channel.checked_sub(self.gauges.len()) {
            None => (self.gauges[channel].resolution_pa, self.gauges[channel].white_sd_pa),
            Some(t) => (self.thermometers[t].resolution_k, self.thermometers[t].noise_sd_k),
        }
    }
    /// True when air temperature outdoors drives it or stands over it.
    pub fn outdoors(&self) -> bool {
        self.bodies.iter().any(|b| matches!(b.exposure, Exposure::BareOutdoor | Exposure::Buried))
    }
}
