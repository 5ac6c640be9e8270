//! How everything is derived from a system.

use crate::basis::entry::Applies;
use crate::basis::{Demand, Figure, book};
use crate::cautions::cautions;
use crate::consequences::lines;
use crate::derivation::{Amount, Derivation};
use crate::derived::{Derived, GaugeWindow, PartWindow, WaterBelow, WindowConflict};
use crate::filled::Filled;
use crate::gas::gas_figures;
use crate::gauge::{self, Gauge, offer};
use crate::limits::{self, Found, LimitKind};
use crate::method;
use crate::objection::Objection;
use crate::part::{Part, PartKind};
use crate::parting::proposal;
use crate::plan::{DayPressures, PlanInput, day_pressures};
use crate::pretest::pretest;
use crate::system::{Refusal, System};
use crate::window::{PartBounds, Window, window};
use crate::{conditions, gas_gates, used};
use physics::head::Column;
use physics::system::ShutIn;
use quantity::format::{round_down, round_up};
use quantity::{GaugePressure, Length, PressureDifference, STANDARD_ATMOSPHERE, Span, Temperature};

/// Limit of air in a filled line (common practice).
pub const AIR_FRACTION_LIMIT: f64 = 0.002;

fn conflict(system: &System, parts: &[PartWindow], w: &Window) -> Option<WindowConflict> {
    if w.feasible() {
        return None;
    }
    let (asks, bears) = (parts.get(w.lower_part)?, parts.get(w.upper_part)?);
    let say = system.say();
    let sentence = if asks.tag == bears.tag {
        format!(
            "{} at {} is asked more than it bears: {} at {}, but it ({}) bears only {} there. Take down what is asked by a rule that allows it or by derating, or repair, replace or take out {}.",
            asks.tag,
            say.height(asks.elevation_m),
            say.up(asks.gauge_lower_pa),
            system.gauge.tag,
            bears.limit_words,
            say.down(bears.gauge_upper_pa),
            bears.tag
        )
    } else {
        format!(
            "No gauge reading suits both {} and {}: {} at {} needs {} at {}, but {} at {} ({}) bears only {} there. Test them apart, take out or blind off {}, or lower what is asked by a rule that allows it.",
            asks.tag,
            bears.tag,
            asks.tag,
            say.height(asks.elevation_m),
            say.up(asks.gauge_lower_pa),
            system.gauge.tag,
            bears.tag,
            say.height(bears.elevation_m),
            bears.limit_words,
            say.down(bears.gauge_upper_pa),
            bears.tag
        )
    };
    Some(WindowConflict { asks: asks.tag.clone(), bears: bears.tag.clone(), sentence })
}

/// What each part must see and bears, brought to its own height: the requirement at its higher end, the limit at its lower.
fn bounds(system: &System, demand: &Demand, limits: &[Found], column: Column) -> Vec<PartBounds> {
    let nothing = GaugePressure::from_pa(0.0);
    let lowest = system.parts.iter().map(|p| p.ends().0).fold(Length::from_m(f64::INFINITY), Length::min);
    let highest = system.highest();
    let asked = |i: usize, p: &Part| {
        let (low, high) = p.ends();
        let own = demand.line(i).map_or(demand.least.pressure, |l| l.least.pressure);
        let together = demand.elsewhere.map(|e| if p.kind == PartKind::Vessel { demand.least.pressure } else { e });
        let from_above = |at: Length, asked: GaugePressure| asked + column.gained(at, p.elevation_m);
        let everywhere = match demand.entry.applies {
            Applies::EveryPart => from_above(high, together.unwrap_or(own)),
            Applies::Lowest if low <= lowest => from_above(low, demand.least.pressure),
            // nowhere a vacuum
            Applies::Lowest => from_above(high, nothing),
        };
        demand.highest.as_ref().filter(|_| high >= highest).map_or(everywhere, |h| everywhere.max(from_above(high, h.pressure)))
    };
    let each = system.parts.iter().zip(limits).enumerate();
    each.map(|(i, (p, l))| PartBounds {
        elevation: p.elevation_m,
        required: asked(i, p),
        limit: l.pressure + column.gained(limited_at(p, l), p.elevation_m),
    })
    .collect()
}

/// Height at which a limit of a part holds: its lower end, the code's own cap at its higher.
fn limited_at(part: &Part, limit: &Found) -> Length {
    let (low, high) = part.ends();
    if limit.kind == LimitKind::Code { high } else { low }
}

/// A system with everything looked up that a window needs.
struct Looked {
    demand: Demand,
    column: Column,
    found: Vec<Found>,
    bounds: Vec<PartBounds>,
    window: Window,
}

/// The code's own limit of a part, where it holds there.
pub(crate) fn code_limit<'a>(system: &System, demand: &'a Demand, i: usize, highest: Length) -> Option<&'a Figure> {
    let top = system.parts[i].ends().1;
    // of a hydro-pneumatic test the cap is that of the gas, above the water
    let wet = demand.gas && system.method.water_line_m.is_some_and(|line| top < line);
    if wet { None } else { demand.code_limit(i, top >= highest) }
}

/// The least limit of every part: of one with two heights the code's cap holds at its upper end, all others at its lower.
fn found(system: &System, demand: &Demand, column: Column) -> Result<Vec<Found>, Refusal> {
    let highest = system.highest();
    let each = system.parts.iter().enumerate().map(|(i, p)| {
        let code = code_limit(system, demand, i, highest);
        if p.to_elevation_m.is_none() || code.is_none() {
            return limits::least(p, demand, code);
        }
        let own = limits::least(p, demand, None)?;
        let (low, high) = p.ends();
        let cap = code.map(|c| Found { kind: LimitKind::Code, pressure: c.pressure });
        Ok(cap.filter(|c| c.pressure + column.gained(high, low) < own.pressure).unwrap_or(own))
    });
    Ok(each.collect::<Result<_, _>>()?)
}

/// A design temperature beyond the table of a rated part, wherever one is.
fn beyond(system: &System, ground: &crate::basis::Ground) -> impl Iterator<Item = limits::LimitError> {
    let system_c = crate::basis::line::highest_temperature(&system.basis, &system.parts);
    system.parts.iter().filter_map(move |p| limits::flange::beyond(p, ground, p.design_temperature_c.or(system_c)?))
}

fn look_up(system: &System) -> Result<Looked, Refusal> {
    if let Some(first) = system.check().into_iter().next() {
        return Err(first);
    }
    let demand = system.demand()?;
    if let Some(first) = beyond(system, &demand).next() {
        return Err(first.into());
    }
    let column = system.column(demand.least.pressure)?;
    let found = found(system, &demand, column)?;
    let bounds = bounds(system, &demand, &found, column);
    let window = window(&bounds, column, system.gauge.elevation_m).ok_or(Refusal::NoParts)?;
    Ok(Looked { demand, column, found, bounds, window })
}

/// Everything that keeps a system from being derived, each at its part and field; empty where it can be.
pub fn refusals(system: &System) -> Vec<Refusal> {
    let pressed = system.pressed();
    let system = pressed.as_ref().unwrap_or(system);
    let mut all = system.check();
    all.extend(system.specification.check(book::shipped()).err().map(Refusal::from));
    let ground = match system.ground() {
        Ok(ground) => ground,
        Err(e) => {
            all.push(e.into());
            return all;
        }
    };
    all.extend(system.applied_basis().refusals(&ground, &system.parts).into_iter().map(Refusal::from));
    all.extend(system.parts.iter().filter_map(|p| limits::least(p, &ground, None).err()).map(Refusal::from));
    all.extend(beyond(system, &ground).map(Refusal::from));
    if all.is_empty() {
        all.extend(look_up(system).err());
    }
    let mut seen: Vec<Refusal> = Vec::new();
    for r in all {
        if !seen.contains(&r) {
            seen.push(r);
        }
    }
    seen
}

/// The window at the gauge alone, without words or derivations.
///
/// # Errors
/// As [`derive`].
pub fn window_of(system: &System) -> Result<Window, Refusal> {
    let pressed = system.pressed();
    look_up(pressed.as_ref().unwrap_or(system)).map(|l| l.window)
}

/// Lowers what is asked to the greatest that keeps every wall within yield and every rated part within its own standard, less what the gauge needs
/// to be held below it, where the basis allows that and somebody chose it.
fn reduce(system: &System, l: &mut Looked, fall: PressureDifference) -> Result<(), Refusal> {
    let (true, Some(rule)) = (l.demand.entry.reduced && !l.window.feasible(), l.demand.entry.may_reduce.clone()) else { return Ok(()) };
    let column = l.column;
    let limit = |i: usize, f: &Found| f.pressure + column.gained(limited_at(&system.parts[i], f), system.gauge.elevation_m);
    let own = |f: &Found| matches!(f.kind, LimitKind::Hoop | LimitKind::Longitudinal | LimitKind::Flange);
    let walls = l.found.iter().enumerate().filter(|(_, f)| own(f));
    let Some((at, bears)) = walls.map(|(i, f)| (i, limit(i, f))).reduce(|a, b| if b.1 < a.1 { b } else { a }) else {
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
    let why = Derivation::new("least pressure, reduced to what is borne", &rule.rule, Amount::gauge(after), "p = p_req − (lower − held)")
        .with("p_req", "least pressure by the basis", Amount::gauge(before), l.demand.least.why.formula.clone())
        .with("lower", "lower bound that it would mean at the gauge", Amount::gauge(l.window.lower), "window")
        .with("borne", "greatest gauge reading that every wall and rated part bears", Amount::gauge(bears), system.parts[at].tag.clone())
        .with("held", "that less the gauge's error, the fall predicted and two divisions", Amount::gauge(held), "gauge of this test")
        .governed_by(&system.parts[at].tag)
        .would_change("A thicker or stronger wall, a finer gauge, or the governing part tested apart.");
    l.demand.least = Figure { pressure: after, why };
    l.demand.look.pressure = l.demand.look.pressure.min(after);
    // no line is asked more than what is held there
    for line in &mut l.demand.lines {
        line.least.pressure = line.least.pressure.min(after);
        line.look.pressure = line.look.pressure.min(line.least.pressure);
    }
    l.bounds = bounds(system, &l.demand, &l.found, l.column);
    l.window = window(&l.bounds, l.column, system.gauge.elevation_m).ok_or(Refusal::NoParts)?;
    Ok(())
}

/// What the basis asks of a system, reduced where it may be and is.
pub(crate) fn demand_of(system: &System) -> Result<Demand, Refusal> {
    let pressed = system.pressed();
    let system = pressed.as_ref().unwrap_or(system);
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
    let cooling = PressureDifference::from_pa((per_kelvin.unwrap_or(0.0) * system.settings.expected_cooling_k.k()).max(0.0));
    Ok((per_kelvin, system.settings.expected_settling_pa + cooling))
}

/// Derives the window and what follows from it.
///
/// # Errors
/// A [`Refusal`] names the part and field, why, and what would be accepted.
pub fn derive(system: &System) -> Result<Derived, Refusal> {
    match system.pressed() {
        Some(pressed) => derive_pressed(&pressed),
        None => derive_pressed(system),
    }
}

fn derive_pressed(system: &System) -> Result<Derived, Refusal> {
    let mut l = look_up(system)?;
    // the specification is held against its own rules once; a window in a loop of its own does not ask again
    system.specification.check(book::shipped())?;
    let (per_kelvin, fall) = fall(system, l.window.lower)?;
    reduce(system, &mut l, fall)?;
    let (demand, w) = (&l.demand, &l.window);
    let highest = system.highest();
    let parts: Vec<PartWindow> = system
        .parts
        .iter()
        .zip(&l.found)
        .zip(&l.bounds)
        .enumerate()
        .map(|(i, ((p, f), b))| {
            let head = l.column.gained(p.elevation_m, system.gauge.elevation_m);
            let code = code_limit(system, demand, i, highest);
            PartWindow {
                tag: p.tag.clone(),
                kind: p.kind.word().into(),
                elevation_m: p.elevation_m,
                design_pa: p.design_pressure_pa.and(demand.line(i)).and_then(|l| l.design),
                required_pa: b.required,
                limit_pa: b.limit,
                limit_words: limits::words(f.kind, p, demand, code),
                limit_rule: limits::rule_of(f.kind, code),
                gauge_lower_pa: b.required + head,
                gauge_upper_pa: b.limit + head,
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
        upper_shown_pa: GaugePressure::from_pa(round_down(w.upper.pa(), quantity::show::fine_step(system.gauge.unit, division))),
        upper_part: named(w.upper_part),
        conflict: conflict(system, &parts, w),
        proposal: None,
        day: None,
        gauge_offer: None,
        parts,
        density_kg_m3: l.column.density,
        water_below: l.column.below.map(|(line_m, density_kg_m3)| WaterBelow { line_m, density_kg_m3 }),
        column_pa_per_m: l.column.density.kg_m3() * quantity::STANDARD_GRAVITY,
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
        settle_s: demand.entry.hold.as_ref().map_or(Span::ZERO, |h| Span::from_minutes(h.settle_min)),
        criteria: crate::accept::criteria(system, demand, l.column),
        objections: vec![],
        derate_to_pa: derate_to(system, demand),
        gas_volume_m3: if demand.gas { system.gas_volume() } else { None },
    };
    let shut_in = system.shut_in();
    derived.pretest = pretest(system, demand, w.upper);
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
    derived.objections = objections(system, demand, &derived);
    Ok(derived)
}

/// The least of what used parts bear, rounded down to a tenth of the unit that people work in; none where nothing is asked beyond it.
fn derate_to(system: &System, demand: &Demand) -> Option<GaugePressure> {
    let worn = used::worn(system, demand);
    let derating = worn.iter().flatten().filter(|w| w.derates()).map(|w| w.bears).reduce(GaugePressure::min)?;
    Some(used::derate_to(derating, system.say()))
}

/// Everything that stops the release: an empty window first, then each condition at its field, then what follows from the pressure.
fn objections(system: &System, demand: &Demand, d: &Derived) -> Vec<Objection> {
    let mut all: Vec<Objection> = Vec::new();
    if let Some(c) = &d.conflict {
        all.push(Objection {
            part: Some(c.bears.clone()),
            ..Objection::new(crate::window::UPPER.id, "derive", "parts", c.sentence.clone())
        });
    }
    all.extend(gas_gates::objections(system, demand));
    all.extend(conditions::objections(system, demand));
    let narrow = d.day.iter().flat_map(|day| &day.conflicts).filter(|c| c.about == "gauge");
    all.extend(narrow.map(|c| Objection::new(crate::plan::STOP_LINE.id, "derive", "gauge", c.sentence.clone())));
    for line in d.lines.iter().filter(|l| l.stops) {
        let Some(sentence) = &line.trouble else { continue };
        if !all.iter().any(|o| o.sentence == *sentence) {
            all.push(Objection::new(&format!("line:{}", line.key), &line.step, &line.key, sentence.clone()));
        }
    }
    all
}

/// The window at another gauge of the same column.
fn at_another(system: &System, demand: &Demand, d: &Derived, gauge: &Gauge) -> GaugeWindow {
    let head = d.column().gained(system.gauge.elevation_m, gauge.elevation_m);
    let offer = d.day.as_ref().map(|day| offer(&asked_of_gauge(system, demand, day, head), gauge));
    GaugeWindow {
        tag: gauge.tag.clone(),
        elevation_m: gauge.elevation_m,
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
        say: system.say(),
    }
}

fn plan_the_day(system: &System, demand: &Demand, w: &Window, shut_in: Option<&ShutIn>, derived: &mut Derived) -> Result<(), Refusal> {
    let t = system.water_temperature_c;
    // each part's look, brought to the gauge as its requirement was
    let of_lines = demand.lines.len() > 1 && demand.elsewhere.is_none() && demand.entry.applies == Applies::EveryPart;
    let look = if of_lines {
        let each = derived.parts.iter().enumerate().filter_map(|(i, p)| {
            let line = demand.line(i)?;
            Some(p.gauge_lower_pa + (line.look.pressure - line.least.pressure))
        });
        each.reduce(GaugePressure::max).unwrap_or(w.lower)
    } else {
        w.lower + (demand.look.pressure - demand.least.pressure)
    };
    let day = day_pressures(&PlanInput {
        say: system.at_gauge(),
        lower: w.lower,
        upper: w.upper,
        division: system.gauge.division_pa,
        gauge_error: system.gauge.error(),
        predicted_fall: derived.predicted_fall_pa,
        look,
        gas: demand.gas,
        relief: crate::plan::relief_school(system, demand),
        settings: system.settings,
    });
    derived.gauge_offer = Some(offer(&asked_of_gauge(system, demand, &day, PressureDifference::from_pa(0.0)), &system.gauge));
    if let Some(s) = shut_in {
        let slowest =
            s.segments.iter().map(|g| physics::heat::time_constant(g.outside_diameter_m, g.wall_m, physics::heat::STILL_AIR_W_PER_M2K));
        derived.time_constant_s = slowest.reduce(Span::max);
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
        filled.compliance_per_pa(planned)?.map(|c| physics::energy::stored_in_liquid(filled.shut_in.volume(), c, day.planned_pa));
    Ok(())
}
