//! Everything that is derived from a system.

use crate::accept::{Criterion, Lowering, allowed_fall, lowering};
use crate::basis::entry::Applies;
use crate::basis::{Demand, book};
use crate::cautions::cautions;
use crate::consequences::lines::{self, Line};
use crate::derivation::{Amount, Derivation};
use crate::filled::Filled;
use crate::gas::{GasFigures, gas_figures};
use crate::gauge::{self, Gauge, GaugeOffer, offer};
use crate::limits::{self, Found, LimitKind};
use crate::method::{self, MethodStanding};
use crate::part::{Part, PartKind};
use crate::parting::{Proposal, proposal};
use crate::plan::{DayPressures, PlanInput, day_pressures};
use crate::pretest::{Pretest, pretest};
use crate::specification::Touched;
use crate::system::{Refusal, System};
use crate::window::{PartBounds, Window, window};
use physics::system::ShutIn;
use quantity::format::{gauge_pressure, round_down, round_up};
use quantity::{Density, GaugePressure, PressureDifference, PressureUnit, STANDARD_ATMOSPHERE, Span, Temperature, Volume};
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
    pub elevation_m: f64,
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
    pub elevation_m: f64,
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
    pub time_constant_s: Option<f64>,
    /// Settling before the hold, after which the pressure may be brought back once, s; nil where the basis knows none.
    #[serde(default, skip_serializing_if = "is_nil")]
    pub settle_s: f64,
    /// What the basis asks of the hold besides its pressure and its time.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub criteria: Vec<Criterion>,
}

impl Derived {
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
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
fn is_nil(s: &f64) -> bool {
    *s == 0.0
}

/// Limit of air in a filled line (common practice).
pub const AIR_FRACTION_LIMIT: f64 = 0.002;

/// Division to which an upper bound is shown, Pa: a tenth of the gauge's, but not finer than 0.01 bar or 0.1 psi unless the gauge is.
fn shown_division(division_pa: f64, unit: PressureUnit) -> f64 {
    let fine = match unit {
        PressureUnit::Psi => 0.1 * unit.pa(),
        PressureUnit::KgCm2 => 0.01 * unit.pa(),
        PressureUnit::Bar | PressureUnit::Kpa | PressureUnit::Mpa => 1000.0,
    };
    (division_pa / 10.0).max(division_pa.min(fine))
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
fn bounds(system: &System, demand: &Demand, limits: &[Found]) -> Vec<PartBounds> {
    let nothing = GaugePressure::from_pa(0.0);
    let heights = || system.parts.iter().map(|p| p.elevation_m.m());
    let (lowest, highest) = heights().fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), z| (lo.min(z), hi.max(z)));
    let asked = |p: &Part| {
        let z = p.elevation_m.m();
        let everywhere = match demand.entry.applies {
            Applies::EveryPart if p.kind != PartKind::Vessel => demand.elsewhere.unwrap_or(demand.least.pressure),
            Applies::EveryPart => demand.least.pressure,
            Applies::Lowest if z <= lowest => demand.least.pressure,
            // nowhere a vacuum
            Applies::Lowest | Applies::Gauge => nothing,
        };
        demand.highest.as_ref().filter(|_| z >= highest).map_or(everywhere, |h| everywhere.max(h.pressure))
    };
    let of_parts =
        system.parts.iter().zip(limits).map(|(p, l)| PartBounds { elevation: p.elevation_m, required: asked(p), limit: l.pressure });
    let at_gauge = (demand.entry.applies == Applies::Gauge).then_some(PartBounds {
        elevation: system.gauge.elevation_m,
        required: demand.least.pressure,
        limit: GaugePressure::from_pa(f64::INFINITY),
    });
    of_parts.chain(at_gauge).collect()
}

/// A system with everything looked up that a window needs.
struct Looked {
    demand: Demand,
    density: Density,
    found: Vec<Found>,
    bounds: Vec<PartBounds>,
    window: Window,
}

fn look_up(system: &System) -> Result<Looked, Refusal> {
    system.check()?;
    let demand = system.demand()?;
    let density = system.density(demand.least.pressure)?;
    let found: Vec<Found> = system.parts.iter().map(|p| limits::least(p, &demand)).collect::<Result<_, _>>()?;
    let bounds = bounds(system, &demand, &found);
    let window = window(&bounds, density, system.gauge.elevation_m).ok_or(Refusal::NoParts)?;
    Ok(Looked { demand, density, found, bounds, window })
}

/// The window at the gauge alone, without words or derivations.
///
/// # Errors
/// As [`derive`].
pub fn window_of(system: &System) -> Result<Window, Refusal> {
    look_up(system).map(|l| l.window)
}

/// Lowers what is asked to the greatest that keeps every wall within yield, less what the gauge needs to be held below it, where the basis allows
/// that and somebody chose it.
fn reduce(system: &System, l: &mut Looked, fall: PressureDifference) -> Result<(), Refusal> {
    let (true, Some(rule)) = (l.demand.entry.reduced && !l.window.feasible(), &l.demand.entry.may_reduce) else { return Ok(()) };
    let at_gauge = |i: usize, p: GaugePressure| p + physics::head::gained(l.density, system.parts[i].elevation_m, system.gauge.elevation_m);
    let walls = l.found.iter().enumerate().filter(|(_, f)| matches!(f.kind, LimitKind::Hoop | LimitKind::Longitudinal));
    let Some((at, bears)) = walls.map(|(i, f)| (i, at_gauge(i, f.pressure))).reduce(|a, b| if b.1 < a.1 { b } else { a }) else {
        return Ok(());
    };
    let d = system.gauge.division_pa;
    let held = GaugePressure::from_pa(round_down((bears - system.gauge.error() - fall).pa(), d.pa())) - d * 2.0;
    let cut = l.window.lower - held;
    let before = l.demand.least.pressure;
    if cut.pa() <= 0.0 || cut.pa() >= before.pa() {
        return Ok(());
    }
    let after = before - cut;
    let why = Derivation::new("least pressure, reduced to yield", &rule.rule, Amount::gauge(after), "p = p_req − (lower − held)")
        .with("p_req", "least pressure by the basis", Amount::gauge(before), l.demand.least.why.formula.clone())
        .with("lower", "lower bound that it would mean at the gauge", Amount::gauge(l.window.lower), "window")
        .with("yield", "greatest gauge reading that keeps every wall within yield", Amount::gauge(bears), system.parts[at].tag.clone())
        .with("held", "that less the gauge's error, the fall predicted and two divisions", Amount::gauge(held), "gauge of this test")
        .governed_by(&system.parts[at].tag)
        .would_change("A thicker or stronger wall, a finer gauge, or the governing part tested apart.");
    l.demand.least = crate::basis::Figure { pressure: after, why };
    l.demand.look.pressure = l.demand.look.pressure.min(after);
    l.bounds = bounds(system, &l.demand, &l.found);
    l.window = window(&l.bounds, l.density, system.gauge.elevation_m).ok_or(Refusal::NoParts)?;
    Ok(())
}

/// What the basis asks of a system, reduced where it may be and is.
pub(crate) fn demand_of(system: &System) -> Result<Demand, Refusal> {
    let mut l = look_up(system)?;
    let fall = fall(system, l.window.lower)?.1;
    reduce(system, &mut l, fall)?;
    Ok(l.demand)
}

/// Change of pressure per kelvin, and the fall by settling and cooling that is predicted, at a pressure.
fn fall(system: &System, at: GaugePressure) -> Result<(Option<f64>, PressureDifference), Refusal> {
    let (at, t) = (at.absolute(STANDARD_ATMOSPHERE), system.water_temperature_c);
    let per_kelvin = match (system.basis.medium.gas(), system.shut_in()) {
        (Some(gas), _) => {
            let density = gas.state(t, at)?.density;
            Some((gas.pressure(Temperature::from_c(t.c() + 1.0), density) - at).pa())
        }
        (None, Some(s)) => Filled { shut_in: &s, temperature: t, other: system.liquid.as_ref() }.pressure_per_kelvin(at)?,
        (None, None) => None,
    };
    let cooling = PressureDifference::from_pa((per_kelvin.unwrap_or(0.0) * system.settings.expected_cooling_k).max(0.0));
    Ok((per_kelvin, system.settings.expected_settling_pa + cooling))
}

/// Derives the window and what follows from it.
///
/// # Errors
/// A [`Refusal`] names the part and field, why, and what would be accepted.
pub fn derive(system: &System) -> Result<Derived, Refusal> {
    let mut l = look_up(system)?;
    // the specification is held against its own rules once; a window in a loop of its own does not ask again
    system.specification.check(book::shipped())?;
    let (per_kelvin, fall) = fall(system, l.window.lower)?;
    reduce(system, &mut l, fall)?;
    let (demand, w) = (&l.demand, &l.window);
    let parts: Vec<PartWindow> = system
        .parts
        .iter()
        .zip(&l.found)
        .zip(&l.bounds)
        .map(|((p, f), b)| {
            let head = physics::head::gained(l.density, p.elevation_m, system.gauge.elevation_m);
            PartWindow {
                tag: p.tag.clone(),
                kind: p.kind.word().into(),
                elevation_m: p.elevation_m.m(),
                required_pa: b.required,
                limit_pa: f.pressure,
                limit_words: limits::words(f.kind, p, demand),
                limit_rule: limits::rule_of(f.kind, demand),
                gauge_lower_pa: b.required + head,
                gauge_upper_pa: f.pressure + head,
                above_least_pa: PressureDifference::from_pa(0.0),
                below_most_pa: PressureDifference::from_pa(0.0),
            }
        })
        .collect();
    let division = system.gauge.division_pa;
    let named = |i: usize| parts.get(i).map_or_else(|| system.gauge.tag.clone(), |p| p.tag.clone());
    let materials: Vec<&str> = system.parts.iter().filter_map(|p| p.material.as_deref()).collect();
    let mut derived = Derived {
        medium: system.basis.medium,
        basis: demand.entry.name.clone(),
        choices: demand.answers.iter().map(|a| format!("{} {}", a.question, a.words)).collect(),
        cautions: cautions(system, demand),
        required_pa: demand.least.pressure,
        lower_pa: w.lower,
        lower_readable_pa: GaugePressure::from_pa(round_up(w.lower.pa(), division.pa())),
        lower_part: named(w.lower_part),
        upper_pa: w.upper,
        upper_shown_pa: GaugePressure::from_pa(round_down(w.upper.pa(), shown_division(division.pa(), system.gauge.unit))),
        upper_part: named(w.upper_part),
        conflict: conflict(system, &parts, w),
        proposal: None,
        day: None,
        gauge_offer: None,
        parts,
        density_kg_m3: l.density,
        column_pa_per_m: l.density.kg_m3() * quantity::STANDARD_GRAVITY,
        hold_floor_s: demand.hold_floor,
        volume_m3: None,
        pumped_without_air_m3: None,
        pumped_with_air_m3: None,
        pressure_per_kelvin: per_kelvin.filter(|_| w.feasible()),
        predicted_fall_pa: fall,
        stored_energy_j: None,
        gas: None,
        gauges: vec![],
        method: method::standing(&system.basis, &system.method),
        pretest: None,
        touched: if system.specification.is_default() { vec![] } else { system.specification.touched(&system.basis, &materials) },
        lines: vec![],
        time_constant_s: None,
        settle_s: demand.entry.hold.as_ref().map_or(0.0, |h| h.settle_min * 60.0),
        criteria: crate::accept::criteria(system, demand, l.density),
    };
    let shut_in = system.shut_in();
    derived.pretest = pretest(system, demand, shut_in.as_ref(), w.upper);
    if w.feasible() {
        plan_the_day(system, demand, w, shut_in.as_ref(), &mut derived)?;
    } else {
        derived.proposal = proposal(system, demand, &derived);
    }
    derived.gauges = system.also_read.iter().map(|g| at_another(system, demand, &derived, g)).collect();
    let at = derived.day.as_ref().map_or(derived.lower_pa, |d| d.planned_pa);
    for p in &mut derived.parts {
        p.above_least_pa = at - p.gauge_lower_pa;
        p.below_most_pa = p.gauge_upper_pa - at;
    }
    derived.lines = lines::lines(system, demand, &derived).into_iter().map(|(line, _)| line).collect();
    Ok(derived)
}

/// The window at another gauge of the same column.
fn at_another(system: &System, demand: &Demand, d: &Derived, gauge: &Gauge) -> GaugeWindow {
    let head = physics::head::gained(d.density_kg_m3, system.gauge.elevation_m, gauge.elevation_m);
    let offer = d.day.as_ref().map(|day| offer(&asked_of_gauge(system, demand, day, head), gauge));
    GaugeWindow {
        tag: gauge.tag.clone(),
        elevation_m: gauge.elevation_m.m(),
        lower_pa: d.lower_pa + head,
        upper_pa: d.upper_pa + head,
        planned_pa: d.day.as_ref().map(|day| day.planned_pa + head),
        offer,
    }
}

/// What a gauge must be able to do, `head` being what the column adds at it over the main gauge.
fn asked_of_gauge<'a>(system: &System, demand: &Demand, day: &DayPressures, head: PressureDifference) -> gauge::Asked<'a> {
    let band = demand.entry.band.as_ref();
    let of_medium = if demand.gas { demand.entry.gas.as_ref() } else { demand.entry.liquid.as_ref() }.and_then(|p| p.band.as_ref());
    let band = of_medium.or(band);
    let by_constant = band.and_then(|b| b.minus.as_ref()).map(|c| c.pressure - GaugePressure::from_pa(0.0));
    let fall = demand.entry.fall.as_ref().filter(|_| !demand.gas);
    let by_fall = fall.and_then(|f| f.most.as_ref()).map(|c| c.pressure - GaugePressure::from_pa(0.0));
    let shares = [band.and_then(|b| b.share), fall.and_then(|f| f.share), system.basis.owners_fall.map(|f| f.share)];
    let by_share = shares.into_iter().flatten().reduce(f64::min).map(|s| (day.planned_pa - GaugePressure::from_pa(0.0)) * s);
    gauge::Asked {
        test: day.planned_pa + head,
        // what the relief valve lets it see, or the stop line where there is none
        most_read: day.relief_set_pa.map_or(day.stop_line_pa, |r| r.times(1.0 + system.settings.relief_accumulation)) + head,
        school: system.specification.answer("gauge_range"),
        permitted_fall: [by_constant, by_fall, by_share].into_iter().flatten().min_by(|a, b| a.pa().total_cmp(&b.pa())),
    }
}

fn plan_the_day(system: &System, demand: &Demand, w: &Window, shut_in: Option<&ShutIn>, derived: &mut Derived) -> Result<(), Refusal> {
    let t = system.water_temperature_c;
    let day = day_pressures(&PlanInput {
        lower: w.lower,
        upper: w.upper,
        division: system.gauge.division_pa,
        gauge_error: system.gauge.error(),
        predicted_fall: derived.predicted_fall_pa,
        // the look at the governing part, brought to the gauge as the lower bound was
        look: w.lower + (demand.look.pressure - demand.least.pressure),
        gas: demand.gas,
        relief: system.specification.answer("relief_liquid"),
        settings: system.settings,
    });
    derived.gauge_offer = Some(offer(&asked_of_gauge(system, demand, &day, PressureDifference::from_pa(0.0)), &system.gauge));
    if let Some(s) = shut_in {
        let slowest =
            s.segments.iter().map(|g| physics::heat::time_constant(g.outside_diameter_m, g.wall_m, physics::heat::STILL_AIR_W_PER_M2K).s());
        derived.time_constant_s = slowest.fold(None, |most: Option<f64>, v| Some(most.map_or(v, |m| m.max(v))));
        derived.volume_m3 = Some(s.volume());
    }
    match (system.basis.medium.gas(), shut_in) {
        (Some(gas), _) => derived.gas = Some(gas_figures(system, demand, gas, &day, shut_in)?),
        (None, Some(s)) => pumping(Filled { shut_in: s, temperature: t, other: system.liquid.as_ref() }, &day, derived)?,
        (None, None) => {}
    }
    // a look that is no different from the hold is made at the planned pressure
    let look_pa = if demand.look.pressure >= demand.least.pressure { day.planned_pa } else { day.look_pa };
    derived.day = Some(DayPressures { look_pa, ..day });
    Ok(())
}

/// Volumes to pump and energy stored, with liquid.
fn pumping(filled: Filled, day: &DayPressures, derived: &mut Derived) -> Result<(), Refusal> {
    let planned = day.planned_pa.absolute(STANDARD_ATMOSPHERE);
    derived.pumped_without_air_m3 = filled.volume_to_raise(planned, 0.0)?;
    derived.pumped_with_air_m3 = filled.volume_to_raise(planned, AIR_FRACTION_LIMIT)?;
    derived.stored_energy_j =
        filled.compliance_per_pa(planned)?.map(|c| physics::energy::stored_in_liquid_j(filled.shut_in.volume(), c, day.planned_pa));
    Ok(())
}
