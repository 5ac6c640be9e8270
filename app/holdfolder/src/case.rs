//! `case.json`: what is known about a hold, in bar, litres and °C.

use crate::error::ContentError;
use hold::{Body, Creep, Exposure, Fluid, Gauge, Hold, Place, Step, Thermometer};
use physics::gas::Gas;
use serde::{Deserialize, Serialize};

const BAR: f64 = 1e5;

/// A case.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Case {
    /// Its name.
    pub case: String,
    /// Kind of system.
    #[serde(default)]
    pub family: String,
    /// `water`, `nitrogen` or `air`.
    pub medium: Medium,
    /// Nominal pressure at the start, bar gauge.
    pub test_pressure_bar_gauge: f64,
    /// The atmosphere, bar absolute.
    pub atmospheric_pressure_bar_abs: f64,
    /// Nominal volume, m³.
    pub total_volume_m3: f64,
    /// Its relative uncertainty (95 %).
    pub volume_unc_95_rel: f64,
    /// Bodies.
    pub segments: Vec<CaseSegment>,
    /// Trapped air at atmospheric pressure over the volume; none for gas.
    #[serde(default)]
    pub trapped_air_fraction_at_atm: Option<f64>,
    /// Its uncertainty (95 %).
    #[serde(default)]
    pub trapped_air_fraction_unc_95: Option<f64>,
    /// Temperature when filled, °C; standard uncertainty 0.3 K.
    pub fill_temperature_c: f64,
    /// From filling to the start of the hold, s.
    pub soak_before_hold_s: f64,
    /// At test pressure before the hold, s.
    pub time_at_pressure_before_hold_s: f64,
    /// How many.
    #[serde(default)]
    pub gasketed_joints: u32,
    /// Gauges.
    pub gauges: Vec<CaseGauge>,
    /// Thermometers.
    #[serde(default)]
    pub thermometers: Vec<CaseThermometer>,
    /// Who wrote the readings down, how often.
    pub logging: Logging,
    /// Length of the hold, s.
    pub hold_length_s: f64,
    /// Unit of the leak.
    pub leak_unit: LeakUnit,
    /// Leak that this test must be able to rule out.
    #[serde(default)]
    pub required_sensitivity_l_per_h: Option<f64>,
    /// What the crew wrote down.
    #[serde(default)]
    pub events: Vec<CaseEvent>,
    /// What was expected.
    #[serde(default)]
    pub plan: CasePlan,
}

/// Unit of a leak.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum LeakUnit {
    /// litres per hour at line conditions
    LPerH,
    /// litres at 0 °C and 101 325 Pa per hour
    NormalLPerH,
}

/// What fills it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Medium {
    /// water
    Water,
    /// nitrogen
    Nitrogen,
    /// dry air
    Air,
}

/// How it is held lengthwise.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CaseRestraint {
    /// free
    Free,
    /// held
    Held,
}

/// What surrounds it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CaseExposure {
    /// bare outdoors
    BareOutdoor,
    /// insulated
    Insulated,
    /// indoors
    Indoor,
    /// buried
    Buried,
}

/// A segment.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct CaseSegment {
    /// Its name.
    pub name: String,
    /// `pipe` or `vessel`.
    pub kind: String,
    /// Material.
    pub material: String,
    /// Young's modulus, Pa.
    pub youngs_modulus_pa: f64,
    /// Poisson's ratio.
    pub poisson_ratio: f64,
    /// Linear expansion, 1/K.
    pub linear_expansion_1_per_k: f64,
    /// Inside diameter, m.
    pub inside_diameter_m: f64,
    /// Wall, m.
    pub wall_thickness_m: f64,
    /// Length, m.
    #[serde(default)]
    pub length_m: f64,
    /// How it is held.
    pub restraint: CaseRestraint,
    /// What surrounds it.
    pub exposure: CaseExposure,
    /// Volume, m³.
    pub volume_m3: f64,
    /// Skin lag, s.
    pub skin_lag_nominal_s: f64,
    /// Water lag, s.
    pub water_lag_nominal_s: f64,
    /// Factor of both (95 %).
    pub lag_factor_95: f64,
    /// Relative uncertainty of the stretch (95 %).
    pub wall_compliance_unc_95_rel: f64,
}

/// A gauge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct CaseGauge {
    /// Column of the readings.
    pub column: String,
    /// Height above gauge 1, m.
    pub elevation_above_reference_m: f64,
    /// Full scale, bar.
    pub range_bar: f64,
    /// Division, bar.
    pub resolution_bar: f64,
    /// Constant error (95 %), per cent of the range.
    pub accuracy_percent_of_range: f64,
    /// White noise of a reading, bar.
    pub repeatability_sd_bar: f64,
    /// Error per kelvin (95 %), bar/K.
    pub temperature_coefficient_95_bar_per_k: f64,
}

/// A thermometer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct CaseThermometer {
    /// Column of the readings.
    pub column: String,
    /// Segment it is on; none for one in the air.
    #[serde(default)]
    pub segment: Option<String>,
    /// `skin`, `water` or `ambient`.
    pub location: CaseLocation,
    /// Division, K.
    pub resolution_k: f64,
    /// Constant error (95 %), K.
    pub accuracy_95_k: f64,
    /// White noise of a reading, K.
    pub noise_sd_k: f64,
}

/// Where a thermometer sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CaseLocation {
    /// on the skin
    Skin,
    /// in the water or gas
    Water,
    /// in the air
    Ambient,
}

/// How readings were taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Logging {
    /// `logger` or `hand`.
    pub by: String,
    /// Time between readings, s.
    pub interval_s: f64,
}

/// Something that the crew wrote down.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct CaseEvent {
    /// `repump` or `bleed`.
    pub kind: String,
    /// When it began, s.
    pub time_s: f64,
    /// Volume, where it was measured: litres, normal litres for gas.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_l: Option<f64>,
    /// Its uncertainty (95 %).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_unc_95_l: Option<f64>,
}

/// What was expected before the test.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct CasePlan {
    /// Swing of the surroundings over the hold, K.
    #[serde(default)]
    pub expected_ambient_swing_k: Option<f64>,
    /// Surroundings at the start, °C.
    #[serde(default)]
    pub expected_start_temperature_c: Option<f64>,
}

/// A repump or bleed that was written down took about this long, s (common practice).
const STEP_LENGTH: f64 = 30.0;

impl CaseSegment {
    /// Stretch of the wall per pressure, 1/Pa: thin wall with the inside diameter from D/t = 20 up, Lamé below.
    fn compliance_per_pa(&self) -> f64 {
        let (d, t, e, nu) = (self.inside_diameter_m, self.wall_thickness_m, self.youngs_modulus_pa, self.poisson_ratio);
        if d / t >= 20.0 {
            let of_restraint = match self.restraint {
                CaseRestraint::Free => 1.25 - nu,
                CaseRestraint::Held => 1.0 - nu * nu,
            };
            d / (t * e) * of_restraint
        } else {
            use physics::elastic::{Elastic, Restraint};
            let elastic = Elastic {
                youngs_modulus_pa: quantity::Stress::from_pa(e),
                poisson_ratio: nu,
                linear_expansion_per_k: self.linear_expansion_1_per_k,
            };
            let restraint = match self.restraint {
                CaseRestraint::Free => Restraint::Free,
                CaseRestraint::Held => Restraint::Held,
            };
            elastic.bore_compliance_per_pa(quantity::Length::from_m(d + 2.0 * t), quantity::Length::from_m(t), restraint)
        }
    }

    fn body(&self) -> Body {
        let alpha = self.linear_expansion_1_per_k;
        let wall = rules::library::shipped().wall(&self.material);
        let creep = wall.and_then(|w| w.creep).map(|c| Creep { coefficient: c.coefficient, sd: c.sd });
        Body {
            name: self.name.clone(),
            volume_m3: self.volume_m3,
            wall_compliance_per_pa: self.compliance_per_pa(),
            wall_compliance_unc_95: self.wall_compliance_unc_95_rel,
            wall_expansion_per_k: match self.restraint {
                CaseRestraint::Free => 3.0 * alpha,
                CaseRestraint::Held => 2.0 * alpha * (1.0 + self.poisson_ratio),
            },
            exposure: match self.exposure {
                CaseExposure::BareOutdoor => Exposure::BareOutdoor,
                CaseExposure::Insulated => Exposure::Insulated,
                CaseExposure::Indoor => Exposure::Indoor,
                CaseExposure::Buried => Exposure::Buried,
            },
            skin_lag_s: self.skin_lag_nominal_s,
            fluid_lag_s: self.water_lag_nominal_s,
            lag_factor_95: self.lag_factor_95,
            creep,
        }
    }
}

impl Case {
    /// The hold in SI.
    ///
    /// # Errors
    /// When it has no segment or no gauge, or a thermometer sits on a segment that is not there.
    pub fn hold(&self) -> Result<Hold, ContentError> {
        if self.segments.is_empty() || self.gauges.is_empty() {
            return Err(ContentError::Empty);
        }
        let thermometers = self
            .thermometers
            .iter()
            .map(|t| {
                let segment = || {
                    let wanted = t.segment.as_deref().unwrap_or_default();
                    self.segments
                        .iter()
                        .position(|s| s.name == wanted)
                        .ok_or_else(|| ContentError::NoSegment { thermometer: t.column.clone(), segment: wanted.to_owned() })
                };
                let place = match t.location {
                    CaseLocation::Skin => Place::Skin(segment()?),
                    CaseLocation::Water => Place::Fluid(segment()?),
                    CaseLocation::Ambient => Place::Ambient,
                };
                Ok(Thermometer {
                    tag: t.column.clone(),
                    place,
                    resolution_k: t.resolution_k,
                    offset_95_k: t.accuracy_95_k,
                    noise_sd_k: t.noise_sd_k,
                })
            })
            .collect::<Result<Vec<_>, ContentError>>()?;
        let steps = self
            .events
            .iter()
            .map(|e| {
                let sign = if e.kind == "repump" { -1.0 } else { 1.0 };
                Step {
                    start_s: e.time_s - 1.0,
                    end_s: e.time_s + STEP_LENGTH + 2.0,
                    volume: e.volume_l.map(|v| (sign * v / 1e3, e.volume_unc_95_l.unwrap_or(0.05 * v) / 1e3)),
                }
            })
            .collect();
        Ok(Hold {
            fluid: match self.medium {
                Medium::Water => Fluid::Water,
                Medium::Nitrogen => Fluid::Gas(Gas::Nitrogen),
                Medium::Air => Fluid::Gas(Gas::Air),
            },
            bodies: self.segments.iter().map(CaseSegment::body).collect(),
            volume_unc_95: self.volume_unc_95_rel,
            atmosphere_pa: self.atmospheric_pressure_bar_abs * BAR,
            pressure_pa: self.test_pressure_bar_gauge * BAR,
            air_fraction: self.trapped_air_fraction_at_atm.unwrap_or(0.0),
            air_fraction_unc_95: self.trapped_air_fraction_unc_95.unwrap_or(0.0),
            fill_temperature_c: self.fill_temperature_c,
            fill_temperature_sd_k: 0.3,
            soak_s: self.soak_before_hold_s,
            at_pressure_s: self.time_at_pressure_before_hold_s,
            lowered: None,
            gasketed_joints: self.gasketed_joints,
            gauges: self
                .gauges
                .iter()
                .map(|g| Gauge {
                    tag: g.column.clone(),
                    elevation_m: g.elevation_above_reference_m,
                    range_pa: g.range_bar * BAR,
                    resolution_pa: g.resolution_bar * BAR,
                    offset_95_pa: g.accuracy_percent_of_range / 100.0 * g.range_bar * BAR,
                    span_95: 0.0,
                    white_sd_pa: g.repeatability_sd_bar * BAR,
                    temperature_95_pa_per_k: g.temperature_coefficient_95_bar_per_k * BAR,
                })
                .collect(),
            thermometers,
            length_s: self.hold_length_s,
            interval_s: self.logging.interval_s,
            surroundings_c: self.plan.expected_start_temperature_c,
            swing_k: self.plan.expected_ambient_swing_k,
            steps,
        })
    }

    /// Columns of the readings: gauges, then thermometers.
    pub fn columns(&self) -> impl Iterator<Item = &str> {
        self.gauges.iter().map(|g| g.column.as_str()).chain(self.thermometers.iter().map(|t| t.column.as_str()))
    }
}
