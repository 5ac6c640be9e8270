//! A system as entered, and everything that is derived from it.

use crate::basis::entry::Applies;
use crate::basis::{Basis, BasisError, Demand, book};
use crate::gas::{GasFigures, gas_figures};
use crate::gauge::{Gauge, GaugeOffer, RangeSchool, offer};
use crate::limits::{self, Limit, LimitError};
use crate::part::Part;
use crate::parting::{Joint, Proposal, proposal};
use crate::plan::{DayPressures, PlanInput, Settings, day_pressures};
use crate::tables;
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
    /// How they are joined; where none is entered they are taken to follow each other as they are listed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub joints: Vec<Joint>,
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
    /// A joint with a part that is not there.
    #[error("a joint names the part \"{0}\", which is not in the list: enter the part, or mend the joint")]
    JointOfNobody(String),
    /// A part without a limit.
    #[error(transparent)]
    Limit(#[from] LimitError),
    /// The basis cannot be applied.
    #[error(transparent)]
    Basis(#[from] BasisError),
    /// Gas out of range.
    #[error(transparent)]
    Gas(#[from] physics::gas::OutsideGas),
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
            Self::JointOfNobody(_) => "joints",
            Self::Limit(e) => e.field(),
            Self::Basis(e) => e.field(),
            Self::Water(_) | Self::Gas(_) => "water_temperature_c",
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
    /// Upper bound rounded down to a tenth of the readable division, or to 0.01 bar where that is coarser (but never coarser than the division), Pa.
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
    /// Figures of a gas test.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gas: Option<GasFigures>,
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
        if !(self.gauge.division_pa.pa() > 0.0 && self.gauge.division_pa.is_finite()) {
            return Err(Refusal::NotPositive { field: "division_pa", value_bar: self.gauge.division_pa.bar() });
        }
        self.settings.check()?;
        let mut tags: Vec<&str> = self.parts.iter().map(|p| p.tag.as_str()).collect();
        tags.sort_unstable();
        if let Some(w) = tags.windows(2).find(|w| w[0] == w[1]) {
            return Err(Refusal::TagTwice(w[0].to_owned()));
        }
        let strays = self.joints.iter().flat_map(|j| [&j.a, &j.b]).find(|t| tags.binary_search(&t.as_str()).is_err());
        match strays {
            Some(tag) => Err(Refusal::JointOfNobody(tag.clone())),
            None => Ok(()),
        }
    }

    /// What the basis asks of this system.
    ///
    /// # Errors
    /// Names what is missing, wrong or refused, and what would be accepted.
    pub fn demand(&self) -> Result<Demand, BasisError> {
        self.basis.demand(book::shipped(), &self.parts)
    }

    /// Density of the column: of water as filled, at its temperature and the atmosphere; of gas at the test pressure.
    fn density(&self, test: GaugePressure) -> Result<Density, Refusal> {
        Ok(match self.basis.medium.gas() {
            None => water::state(self.water_temperature_c, STANDARD_ATMOSPHERE)?.density,
            Some(gas) => gas.state(self.water_temperature_c, test.absolute(STANDARD_ATMOSPHERE))?.density,
        })
    }

    /// The limits of one part, the least first.
    ///
    /// # Errors
    /// When nothing says what the part can bear.
    pub fn limits_of(&self, part: &Part, demand: &Demand) -> Result<Vec<Limit>, LimitError> {
        limits::of(part, demand)
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
    let bears = &parts[w.upper_part];
    let at_gauge = PartWindow {
        tag: system.gauge.tag.clone(),
        elevation_m: system.gauge.elevation_m.m(),
        gauge_lower_pa: w.lower,
        required_pa: w.lower,
        ..bears.clone()
    };
    let asks = parts.get(w.lower_part).unwrap_or(&at_gauge);
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

/// What each part must see, and one more place for a basis that applies at the gauge.
fn bounds(system: &System, demand: &Demand, limits: &[Limit]) -> Vec<PartBounds> {
    let nothing = GaugePressure::from_pa(0.0);
    let heights = || system.parts.iter().map(|p| p.elevation_m.m());
    let (lowest, highest) = heights().fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), z| (lo.min(z), hi.max(z)));
    let asked = |z: f64| {
        let everywhere = match demand.entry.applies {
            Applies::EveryPart => demand.least.pressure,
            Applies::Lowest if z <= lowest => demand.least.pressure,
            // nowhere a vacuum
            Applies::Lowest | Applies::Gauge => nothing,
        };
        demand.highest.as_ref().filter(|_| z >= highest).map_or(everywhere, |h| everywhere.max(h.pressure))
    };
    let of_parts = system.parts.iter().zip(limits).map(|(p, l)| PartBounds {
        elevation: p.elevation_m,
        required: asked(p.elevation_m.m()),
        limit: l.pressure,
    });
    let at_gauge = (demand.entry.applies == Applies::Gauge).then_some(PartBounds {
        elevation: system.gauge.elevation_m,
        required: demand.least.pressure,
        limit: GaugePressure::from_pa(f64::INFINITY),
    });
    of_parts.chain(at_gauge).collect()
}

/// Derives the window and what follows from it.
///
/// # Errors
/// A [`Refusal`] names the part and field, why, and what would be accepted.
pub fn derive(system: &System) -> Result<Derived, Refusal> {
    system.check()?;
    let demand = system.demand()?;
    let density = system.density(demand.least.pressure)?;
    let per_part: Vec<Limit> =
        system.parts.iter().map(|p| limits::of(p, &demand).map(|mut all| all.swap_remove(0))).collect::<Result<_, _>>()?;
    let bounds = bounds(system, &demand, &per_part);
    let w = window(&bounds, density, system.gauge.elevation_m).ok_or(Refusal::NoParts)?;
    let parts: Vec<PartWindow> = system
        .parts
        .iter()
        .zip(per_part)
        .zip(&bounds)
        .map(|((p, l), b)| {
            let head = physics::head::gained(density, p.elevation_m, system.gauge.elevation_m);
            PartWindow {
                tag: p.tag.clone(),
                kind: p.kind.word().to_owned(),
                elevation_m: p.elevation_m.m(),
                required_pa: b.required,
                limit_pa: l.pressure,
                limit_words: l.words,
                limit_rule: l.rule,
                gauge_lower_pa: b.required + head,
                gauge_upper_pa: l.pressure + head,
            }
        })
        .collect();
    let division = system.gauge.division_pa;
    let named = |i: usize| parts.get(i).map_or_else(|| system.gauge.tag.clone(), |p| p.tag.clone());
    let mut derived = Derived {
        medium: system.basis.medium,
        basis: demand.entry.name.clone(),
        choices: demand.answers.iter().map(|a| format!("{} {}", a.question, a.words)).collect(),
        cautions: cautions(system, &demand),
        required_pa: demand.least.pressure,
        lower_pa: w.lower,
        lower_readable_pa: GaugePressure::from_pa(round_up(w.lower.pa(), division.pa())),
        lower_part: named(w.lower_part),
        upper_pa: w.upper,
        upper_shown_pa: GaugePressure::from_pa(round_down(w.upper.pa(), shown_division(division.pa()))),
        upper_part: named(w.upper_part),
        conflict: conflict(system, &parts, &w),
        proposal: None,
        day: None,
        gauge_offer: None,
        parts,
        density_kg_m3: density,
        column_pa_per_m: density.kg_m3() * quantity::STANDARD_GRAVITY,
        hold_floor_s: demand.hold_floor,
        volume_m3: None,
        pumped_without_air_m3: None,
        pumped_with_air_m3: None,
        pressure_per_kelvin: None,
        predicted_fall_pa: system.settings.expected_settling_pa,
        stored_energy_j: None,
        gas: None,
        time_constant_s: None,
    };
    if w.feasible() {
        plan_the_day(system, &demand, &w, &mut derived)?;
    } else {
        derived.proposal = proposal(system, demand.entry.applies, &derived.parts, &derived.lower_part, &derived.upper_part);
    }
    Ok(derived)
}

/// What to mind, beside what the figures say.
fn cautions(system: &System, demand: &Demand) -> Vec<String> {
    let mut all = demand.entry.conditions.clone();
    if let Some(range) = demand.entry.water.filter(|_| !demand.gas) {
        let t = system.water_temperature_c.c();
        if t < range.least_c || t > range.most_c {
            all.push(format!(
                "The water is planned at {t:.0} °C; this basis asks for {:.0} to {:.0} °C: warm it, or wait.",
                range.least_c, range.most_c
            ));
        }
    }
    if demand.entry.band.is_some() {
        all.push("This basis judges its hold by a band or an allowance of its own, which this version does not hold the readings against: do that by hand.".to_owned());
    }
    if let Some(sensitivity) = &demand.entry.sensitivity {
        all.push(format!("The test must be able to show a leak of {sensitivity}."));
    }
    all
}

fn plan_the_day(system: &System, demand: &Demand, w: &Window, derived: &mut Derived) -> Result<(), Refusal> {
    let at_lower = w.lower.absolute(STANDARD_ATMOSPHERE);
    let t = system.water_temperature_c;
    let shut_in = system.shut_in();
    let per_kelvin = match (system.basis.medium.gas(), &shut_in) {
        (Some(gas), _) => {
            let warmer = quantity::Temperature::from_c(t.c() + 1.0);
            let density = gas.state(t, at_lower)?.density;
            Some((gas.pressure(warmer, density) - at_lower).pa())
        }
        (None, Some(s)) => Some(s.pressure_per_kelvin(t, at_lower)?),
        (None, None) => None,
    };
    derived.pressure_per_kelvin = per_kelvin;
    let cooling = PressureDifference::from_pa((per_kelvin.unwrap_or(0.0) * system.settings.expected_cooling_k).max(0.0));
    derived.predicted_fall_pa = derived.predicted_fall_pa + cooling;
    let day = day_pressures(&PlanInput {
        lower: w.lower,
        upper: w.upper,
        division: system.gauge.division_pa,
        gauge_error: system.gauge.error(),
        predicted_fall: derived.predicted_fall_pa,
        // the look at the governing part, brought to the gauge as the lower bound was
        look: w.lower + (demand.look.pressure - demand.least.pressure),
        gas: demand.gas,
        settings: system.settings,
    });
    derived.gauge_offer = Some(offer(
        day.planned_pa,
        day.stop_line_pa.max(day.relief_set_pa.unwrap_or(day.stop_line_pa)),
        system.gauge_school,
        &system.gauge,
    ));
    if let Some(s) = &shut_in {
        let slowest =
            s.segments.iter().map(|g| physics::heat::time_constant(g.outside_diameter_m, g.wall_m, physics::heat::STILL_AIR_W_PER_M2K).s());
        derived.time_constant_s = slowest.fold(None, |most: Option<f64>, v| Some(most.map_or(v, |m| m.max(v))));
        derived.volume_m3 = Some(s.volume());
    }
    match system.basis.medium.gas() {
        Some(gas) => derived.gas = Some(gas_figures(system, demand, gas, &day, shut_in.as_ref())?),
        None => {
            if let Some(s) = shut_in {
                pumping(s, t, &day, derived)?;
            }
        }
    }
    // a look that is no different from the hold is made at the planned pressure
    let look_pa = if demand.look.pressure >= demand.least.pressure { day.planned_pa } else { day.look_pa };
    derived.day = Some(DayPressures { look_pa, ..day });
    Ok(())
}

/// Volumes to pump and energy stored, with liquid.
fn pumping(mut s: ShutIn, t: Temperature, day: &DayPressures, derived: &mut Derived) -> Result<(), Refusal> {
    let planned: AbsolutePressure = day.planned_pa.absolute(STANDARD_ATMOSPHERE);
    derived.pumped_without_air_m3 = Some(s.volume_to_raise(t, STANDARD_ATMOSPHERE, planned)?);
    derived.stored_energy_j = Some(physics::energy::stored_in_liquid_j(s.volume(), s.compliance_per_pa(t, planned)?, day.planned_pa));
    s.air_fraction = AIR_FRACTION_LIMIT;
    derived.pumped_with_air_m3 = Some(s.volume_to_raise(t, STANDARD_ATMOSPHERE, planned)?);
    Ok(())
}
