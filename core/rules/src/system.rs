//! A system as entered, and everything that is derived from it.

use crate::basis::Basis;
use crate::gauge::{Gauge, GaugeOffer, RangeSchool, offer};
use crate::limits::{self, Limit, LimitError, over_test};
use crate::part::Part;
use crate::plan::{DayPressures, PlanInput, Settings, day_pressures};
use crate::tables::{self, TableError};
use crate::window::{PartBounds, Window, window};
use physics::elastic::Restraint;
use physics::system::{Segment, ShutIn};
use physics::water;
use quantity::format::{gauge_pressure, round_down, round_up};
use quantity::{
    AbsolutePressure, Density, GaugePressure, PressureDifference, PressureUnit, STANDARD_ATMOSPHERE, Span, Temperature, Volume,
};
use serde::{Deserialize, Serialize};

/// A system under test, as entered: the content of a `SYSTEM.json`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct System {
    /// What people call it.
    pub title: String,
    /// Test basis and the pressure it multiplies.
    pub basis: Basis,
    /// Its parts.
    pub parts: Vec<Part>,
    /// The gauge that the test is read from.
    pub gauge: Gauge,
    /// Temperature of the water, °C.
    pub water_temperature_c: Temperature,
    /// How the pipe is held lengthwise.
    #[serde(default)]
    pub restraint: Restraint,
    /// School of the gauge's range.
    #[serde(default)]
    pub gauge_school: RangeSchool,
    /// Settings of the plan.
    #[serde(default)]
    pub settings: Settings,
}

/// Why nothing can be derived. Each names the part or field and what would be accepted.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Refusal {
    /// No parts.
    #[error("the system has no parts: give at least one with its height and what it can bear")]
    NoParts,
    /// Two parts with one tag.
    #[error("two parts carry the tag \"{0}\": give each its own")]
    TagTwice(String),
    /// A part without a limit.
    #[error(transparent)]
    Limit(#[from] LimitError),
    /// A table lacks a value.
    #[error(transparent)]
    Table(#[from] TableError),
    /// Water out of range.
    #[error(transparent)]
    Water(#[from] water::OutsideLiquidWater),
    /// A pressure that cannot be.
    #[error("{field} must be above zero and finite, not {value_bar} bar: check the figure and its unit")]
    NotPositive {
        /// which
        field: &'static str,
        /// value
        value_bar: f64,
    },
    /// A setting that makes no sense.
    #[error("{field} must lie between {lo} and {hi}, not {value}: check the figure")]
    Setting {
        /// which
        field: &'static str,
        /// value
        value: f64,
        /// least
        lo: f64,
        /// greatest
        hi: f64,
    },
}

impl Refusal {
    /// Name of the field to mend.
    pub fn field(&self) -> &'static str {
        match self {
            Self::NoParts => "parts",
            Self::TagTwice(_) => "tag",
            Self::Limit(e) => e.field(),
            Self::Table(_) => "material",
            Self::Water(_) => "water_temperature_c",
            Self::NotPositive { field, .. } | Self::Setting { field, .. } => field,
        }
    }
}

/// One part with what it needs and bears, at its height and at the gauge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PartWindow {
    /// Tag of the part.
    pub tag: String,
    /// Its kind, in words.
    pub kind: String,
    /// Height, m.
    pub elevation_m: f64,
    /// Least pressure at the part, Pa.
    pub required_pa: GaugePressure,
    /// Greatest pressure at the part, Pa.
    pub limit_pa: GaugePressure,
    /// What sets the limit, in a few words.
    pub limit_words: String,
    /// Rule that sets the limit.
    pub limit_rule: String,
    /// Least gauge reading for this part, Pa.
    pub gauge_lower_pa: GaugePressure,
    /// Greatest gauge reading for this part, Pa.
    pub gauge_upper_pa: GaugePressure,
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

/// Everything that follows from a system.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Derived {
    /// Least pressure that every part must see, Pa.
    pub required_pa: GaugePressure,
    /// Lower bound at the gauge, exact, Pa.
    pub lower_pa: GaugePressure,
    /// Lower bound rounded up to the gauge's readable division, Pa.
    pub lower_readable_pa: GaugePressure,
    /// Part that asks the most.
    pub lower_part: String,
    /// Upper bound at the gauge, exact, Pa.
    pub upper_pa: GaugePressure,
    /// Upper bound rounded down to a tenth of the readable division, or to 0.01 bar where that is coarser (but never coarser than the division), Pa.
    pub upper_shown_pa: GaugePressure,
    /// Part that bears the least.
    pub upper_part: String,
    /// Present when no gauge reading suits every part.
    pub conflict: Option<WindowConflict>,
    /// The pressures of the day; absent when the window is empty.
    pub day: Option<DayPressures>,
    /// Which gauges suit; absent when the window is empty.
    pub gauge_offer: Option<GaugeOffer>,
    /// Each part.
    pub parts: Vec<PartWindow>,
    /// Density of the water, kg/m³.
    pub density_kg_m3: Density,
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
    pub stored_energy_j: Option<f64>,
    /// Time constant with which the slowest bare pipe follows its surroundings in still air, s.
    pub time_constant_s: Option<f64>,
}

/// Limit of air in a filled line (common practice).
pub const AIR_FRACTION_LIMIT: f64 = 0.002;

impl Settings {
    /// Checks what no plan can work with.
    ///
    /// # Errors
    /// Names the setting and its range.
    pub fn check(&self) -> Result<(), Refusal> {
        for (field, value, lo, hi) in [
            ("expected_cooling_k", self.expected_cooling_k, 0.0, 20.0),
            ("expected_settling_pa", self.expected_settling_pa.pa(), 0.0, 1e7),
            ("relief_factor", self.relief_factor, 1.0, 2.0),
            ("relief_accumulation", self.relief_accumulation, 0.0, 0.5),
        ] {
            if !(lo..=hi).contains(&value) {
                return Err(Refusal::Setting { field, value, lo, hi });
            }
        }
        Ok(())
    }
}

impl System {
    /// Checks what no rule can work with.
    fn check(&self) -> Result<(), Refusal> {
        if self.parts.is_empty() {
            return Err(Refusal::NoParts);
        }
        let base = self.basis.base_pressure();
        if !(base.pa() > 0.0 && base.is_finite()) {
            return Err(Refusal::NotPositive { field: "design_pressure_pa", value_bar: base.bar() });
        }
        if !(self.gauge.division_pa.pa() > 0.0 && self.gauge.division_pa.is_finite()) {
            return Err(Refusal::NotPositive { field: "division_pa", value_bar: self.gauge.division_pa.bar() });
        }
        self.settings.check()?;
        let mut tags: Vec<&str> = self.parts.iter().map(|p| p.tag.as_str()).collect();
        tags.sort_unstable();
        match tags.windows(2).find(|w| w[0] == w[1]) {
            Some(w) => Err(Refusal::TagTwice(w[0].to_owned())),
            None => Ok(()),
        }
    }

    /// Density of the water as filled: at its temperature and the atmosphere.
    ///
    /// # Errors
    /// Outside liquid water.
    pub fn density(&self) -> Result<Density, water::OutsideLiquidWater> {
        Ok(water::state(self.water_temperature_c, STANDARD_ATMOSPHERE)?.density)
    }

    /// The limits of one part, the least first, with the basis' own cap where the code is silent.
    ///
    /// # Errors
    /// When nothing says what the part can bear.
    pub fn limits_of(&self, part: &Part, required: GaugePressure) -> Result<Vec<Limit>, LimitError> {
        let mut found = limits::of(part, &self.basis)?;
        if let Some(factor) = self.basis.over_test_factor() {
            found.push(over_test::limit(required, factor));
            found.sort_by(|a, b| a.pressure.pa().total_cmp(&b.pressure.pa()));
        }
        Ok(found)
    }

    /// The bodies of water that the physics works with; none where no part has volume, diameter, wall and material.
    pub fn shut_in(&self) -> Option<ShutIn> {
        let segments: Vec<Segment> = self
            .parts
            .iter()
            .filter_map(|p| {
                let elastic = tables::material(p.material.as_deref()?).ok()?.elastic();
                let volume = p.volume();
                (volume.m3() > 0.0).then_some(Segment {
                    name: p.tag.clone(),
                    outside_diameter_m: p.outside_diameter_m?,
                    wall_m: p.wall_m?,
                    volume_m3: volume,
                    elastic,
                    restraint: self.restraint,
                })
            })
            .collect();
        (!segments.is_empty()).then(|| ShutIn::without_air(segments))
    }
}

/// Division to which an upper bound is shown, Pa.
fn shown_division(division_pa: f64) -> f64 {
    (division_pa / 10.0).max(division_pa.min(1000.0))
}

fn conflict(system: &System, parts: &[PartWindow], w: &Window) -> Option<WindowConflict> {
    if w.feasible() {
        return None;
    }
    let (asks, bears) = (&parts[w.lower_part], &parts[w.upper_part]);
    let bar = |p| gauge_pressure(p, PressureUnit::Bar, 2);
    Some(WindowConflict {
        asks: asks.tag.clone(),
        bears: bears.tag.clone(),
        sentence: format!(
            "No gauge reading suits both {} and {}: {} at {:.1} m needs {} at {}, but {} at {:.1} m ({}) bears only {} there. Test them apart, take out or blind off {}, or lower what is asked by a rule that allows it.",
            asks.tag,
            bears.tag,
            asks.tag,
            asks.elevation_m,
            bar(GaugePressure::from_pa(round_up(asks.gauge_lower_pa.pa(), 1e3))),
            system.gauge.tag,
            bears.tag,
            bears.elevation_m,
            bears.limit_words,
            bar(GaugePressure::from_pa(round_down(bears.gauge_upper_pa.pa(), 1e3))),
            bears.tag
        ),
    })
}

/// Derives the window and what follows from it.
///
/// # Errors
/// A [`Refusal`] names the part and field, why, and what would be accepted.
pub fn derive(system: &System) -> Result<Derived, Refusal> {
    system.check()?;
    let required = system.basis.required(&system.parts)?.pressure;
    let density = system.density()?;
    let per_part: Vec<Limit> =
        system.parts.iter().map(|p| system.limits_of(p, required).map(|mut all| all.swap_remove(0))).collect::<Result<_, _>>()?;
    let bounds: Vec<PartBounds> =
        system.parts.iter().zip(&per_part).map(|(p, l)| PartBounds { elevation: p.elevation_m, required, limit: l.pressure }).collect();
    let w = window(&bounds, density, system.gauge.elevation_m).ok_or(Refusal::NoParts)?;
    let parts: Vec<PartWindow> = system
        .parts
        .iter()
        .zip(per_part)
        .map(|(p, l)| {
            let head = physics::head::gained(density, p.elevation_m, system.gauge.elevation_m);
            PartWindow {
                tag: p.tag.clone(),
                kind: p.kind.word().to_owned(),
                elevation_m: p.elevation_m.m(),
                required_pa: required,
                limit_pa: l.pressure,
                limit_words: l.words,
                limit_rule: l.rule.id.to_owned(),
                gauge_lower_pa: required + head,
                gauge_upper_pa: l.pressure + head,
            }
        })
        .collect();
    let division = system.gauge.division_pa;
    let mut derived = Derived {
        required_pa: required,
        lower_pa: w.lower,
        lower_readable_pa: GaugePressure::from_pa(round_up(w.lower.pa(), division.pa())),
        lower_part: parts[w.lower_part].tag.clone(),
        upper_pa: w.upper,
        upper_shown_pa: GaugePressure::from_pa(round_down(w.upper.pa(), shown_division(division.pa()))),
        upper_part: parts[w.upper_part].tag.clone(),
        conflict: conflict(system, &parts, &w),
        day: None,
        gauge_offer: None,
        parts,
        density_kg_m3: density,
        column_pa_per_m: density.kg_m3() * quantity::STANDARD_GRAVITY,
        hold_floor_s: system.basis.hold_floor(),
        volume_m3: None,
        pumped_without_air_m3: None,
        pumped_with_air_m3: None,
        pressure_per_kelvin: None,
        predicted_fall_pa: system.settings.expected_settling_pa,
        stored_energy_j: None,
        time_constant_s: None,
    };
    if w.feasible() {
        plan_the_day(system, &w, &mut derived)?;
    }
    Ok(derived)
}

fn plan_the_day(system: &System, w: &Window, derived: &mut Derived) -> Result<(), Refusal> {
    let at_lower = w.lower.absolute(STANDARD_ATMOSPHERE);
    let shut_in = system.shut_in();
    if let Some(s) = &shut_in {
        let per_kelvin = s.pressure_per_kelvin(system.water_temperature_c, at_lower)?;
        derived.pressure_per_kelvin = Some(per_kelvin);
        let cooling = PressureDifference::from_pa((per_kelvin * system.settings.expected_cooling_k).max(0.0));
        derived.predicted_fall_pa = derived.predicted_fall_pa + cooling;
    }
    let day = day_pressures(&PlanInput {
        lower: w.lower,
        upper: w.upper,
        division: system.gauge.division_pa,
        gauge_error: system.gauge.error(),
        predicted_fall: derived.predicted_fall_pa,
        settings: system.settings,
    });
    derived.gauge_offer = Some(offer(
        day.planned_pa,
        day.stop_line_pa.max(day.relief_set_pa.unwrap_or(day.stop_line_pa)),
        system.gauge_school,
        &system.gauge,
    ));
    if let Some(mut s) = shut_in {
        let planned: AbsolutePressure = day.planned_pa.absolute(STANDARD_ATMOSPHERE);
        let t = system.water_temperature_c;
        derived.volume_m3 = Some(s.volume());
        derived.pumped_without_air_m3 = Some(s.volume_to_raise(t, STANDARD_ATMOSPHERE, planned)?);
        derived.stored_energy_j = Some(physics::energy::stored_in_liquid_j(s.volume(), s.compliance_per_pa(t, planned)?, day.planned_pa));
        let slowest =
            s.segments.iter().map(|g| physics::heat::time_constant(g.outside_diameter_m, g.wall_m, physics::heat::STILL_AIR_W_PER_M2K).s());
        derived.time_constant_s = slowest.fold(None, |most: Option<f64>, v| Some(most.map_or(v, |m| m.max(v))));
        s.air_fraction = AIR_FRACTION_LIMIT;
        derived.pumped_with_air_m3 = Some(s.volume_to_raise(t, STANDARD_ATMOSPHERE, planned)?);
    }
    derived.day = Some(day);
    Ok(())
}
