//! What follows from a test pressure, each in one line for the step that needs it.

use super::line::{Draft, Toward};
use super::{blind, boundary, drain, fill, gas, manifold, metal, pump, relief, soak, worn};
use crate::accept::readings::{FOR_BAND, FOR_KEPT, FOR_LEAK, every, needed};
use crate::basis::Demand;
use crate::derivation::{Derivation, Dimension};
use crate::derived::Derived;
use crate::filled::Filled;
use crate::plan::DayPressures;
use crate::specification::schools;
use crate::system::System;
use physics::system::ShutIn;
use quantity::{Energy, GaugePressure, Length, PressureDifference, Span};

pub use super::line::{Line, Said};

/// What every line is made from.
pub(super) struct Facts<'a> {
    pub system: &'a System,
    pub demand: &'a Demand,
    pub d: &'a Derived,
    pub day: &'a DayPressures,
    pub shut_in: Option<&'a ShutIn>,
}

impl Facts<'_> {
    /// Pressure at a height when the gauge reads `gauge`.
    pub fn at(&self, gauge: GaugePressure, elevation: Length) -> GaugePressure {
        gauge - self.d.column().gained(elevation, self.system.gauge.elevation_m)
    }

    /// How much higher the highest part is than the lowest.
    pub fn height(&self) -> Option<Length> {
        let heights = || self.d.parts.iter().map(|p| p.elevation_m);
        Some(heights().reduce(Length::max)? - heights().reduce(Length::min)?)
    }
}

/// Every line with its derivation, in the order of the work. None while the window is empty.
pub(crate) fn lines(system: &System, demand: &Demand, d: &Derived) -> Vec<(Line, Option<Derivation>)> {
    let Some(day) = &d.day else { return vec![] };
    let shut_in = system.shut_in();
    let facts = Facts { system, demand, d, day, shut_in: shut_in.as_ref() };
    let mut all: Vec<Draft> = Vec::new();
    all.extend(method(&facts));
    all.extend(gas::pretest(&facts));
    all.push(pressure(&facts));
    all.push(far(&facts));
    all.push(stays_in(&facts));
    all.push(relief::line(&facts));
    all.extend(worn::lines(&facts));
    all.extend(gauges(&facts));
    all.extend(boundary::lines(&facts));
    all.extend(manifold::line(&facts));
    all.extend(pump::lines(&facts));
    all.extend(metal::lines(&facts));
    all.extend(gas::lines(&facts));
    all.extend(fill::lines(&facts));
    all.extend(soak::lines(&facts));
    all.extend(hold(&facts));
    all.extend(drain::lines(&facts));
    all.extend(schools().iter().filter(|s| s.sentence).map(|s| {
        Draft::new(&format!("school-{}", s.key), &s.step, &s.question, system.specification.answer(&s.key).words.said(system.say()))
    }));
    all.into_iter().map(Draft::done).collect()
}

fn method(f: &Facts) -> Option<Draft> {
    let m = &f.d.method;
    let says = if m.rank == 1 {
        format!("By a plain {}.", m.name)
    } else {
        format!("By {}, number {} in rank after the plain liquid test.", m.name, m.rank)
    };
    let trouble = (!m.open.is_empty()).then(|| m.open.join(" "));
    Some(Draft::new("method", "prove", "How is it tested?", says).trouble(trouble))
}

fn pressure(f: &Facts) -> Draft {
    let asks = f.d.parts.iter().find(|p| p.tag == f.d.lower_part);
    let required = asks.map_or(f.d.required_pa, |p| p.required_pa);
    let says = format!("{{0}} at {} means {{1}} at {}; go to {{2}}.", f.d.lower_part, f.system.gauge.tag);
    Draft::new("pressure", "derive", "What pressure, and where is it measured?", says)
        .up(required)
        .up(f.d.lower_readable_pa)
        .up(f.day.planned_pa)
        .why_of("planned")
}

fn far(f: &Facts) -> Draft {
    let bears = f.d.parts.iter().find(|p| p.tag == f.d.upper_part);
    let words = bears.map_or_else(String::new, |p| format!(" ({})", p.limit_words));
    let says = format!(
        "To {{0}} at {}, where {} is at its limit{words}; the alarm sounds at {{1}}, and at {{2}} the pump stops whatever happens.",
        f.system.gauge.tag, f.d.upper_part
    );
    Draft::new("far", "derive", "How far may I go?", says)
        .down(f.d.upper_shown_pa)
        .down(f.day.alarm_pa)
        .down(f.day.stop_line_pa)
        .why_of("upper")
}

fn stays_in(f: &Facts) -> Draft {
    let room = f.d.upper_pa - f.day.planned_pa;
    let says = format!(
        "Everything listed may stay in; {} has the least room, {{0}} above the planned pressure. What is not listed, and what its maker says not to test, comes out.",
        f.d.upper_part
    );
    Draft::new("stays-in", "bound", "What must come out, what may stay in?", says).change(room).why_of("upper")
}

fn gauges(f: &Facts) -> Vec<Draft> {
    let mut all = Vec::new();
    if let Some(offer) = &f.d.gauge_offer {
        let places: Vec<String> = (0..offer.offered_pa.len()).map(|i| format!("{{{i}}}")).collect();
        let says = if places.is_empty() {
            "No standard full scale lies in the range that the school asks for.".to_owned()
        } else {
            format!("Full scale {}.", places.join(", "))
        };
        let line = Draft::new("gauge", "derive", "Which gauge?", says).trouble(offer.refused.clone()).why_of("gauge-range");
        all.push(offer.offered_pa.iter().fold(line, |l, p| l.named(*p)));
    }
    for g in &f.d.gauges {
        let Some(planned) = g.planned_pa else { continue };
        let says = format!("{{0}} when {} reads {{1}}; at least {{2}} and at most {{3}}.", f.system.gauge.tag);
        let line = Draft::new(&format!("gauge-{}", g.tag), "derive", &format!("What does {} read?", g.tag), says)
            .up(planned)
            .up(f.day.planned_pa)
            .up(g.lower_pa)
            .down(g.upper_pa);
        all.push(line.trouble(g.offer.as_ref().and_then(|o| o.refused.clone())));
    }
    all
}

fn hold(f: &Facts) -> Vec<Draft> {
    let mut all = Vec::new();
    let settle = f.demand.entry.hold.as_ref().map_or(0.0, |h| h.settle_min);
    let lowering = f.d.lowering();
    let quick = lowering.and_then(|l| l.quick);
    let says = if quick.is_some() {
        "After {1} at test pressure and {2} with the pump off, at the quick fall; from then on at least {0}.".to_owned()
    } else if lowering.is_some() {
        "After {1} at test pressure, when it is lowered by {2} and the pump is off and shut off; from then on at least {0}.".to_owned()
    } else if settle > 0.0 {
        "After {1} of settling, when the pump is off and shut off; from then on at least {0}.".to_owned()
    } else {
        "When the pressure has settled, the pump is off and shut off; from then on at least {0}.".to_owned()
    };
    let line = Draft::new("clock", "hold", "When does the clock start?", says).time(asked(f)).why_of("hold");
    all.push(match (lowering, quick) {
        (Some(l), Some(quick)) => line.time(l.stretch_s).time(quick.wait_s),
        (Some(l), None) => line.time(l.stretch_s).change(l.usual_pa),
        _ if settle > 0.0 => line.time(Span::from_minutes(settle)),
        _ => line,
    });
    all.extend(["prove", "hold"].map(|step| readings(f, step)));
    if let Some(per_k) = f.d.pressure_per_kelvin {
        let says = "{0} is one kelvin; {1} is a tenth of one. What is left when the temperature is taken out is judged.";
        all.push(
            Draft::new("cooling", "hold", "Is this fall a leak?", says)
                .change(PressureDifference::from_pa(per_k))
                .change(PressureDifference::from_pa(0.1 * per_k))
                .why_of("planned"),
        );
    }
    all
}

/// Hold that is asked: the owner's, never below the floor.
fn asked(f: &Facts) -> Span {
    f.system.hold_s.map_or(f.d.hold_floor_s, |own| own.max(f.d.hold_floor_s))
}

/// How many readings the hold needs, and how often.
fn readings(f: &Facts, step: &str) -> Draft {
    let (needed, hold) = (needed(&f.d.criteria), asked(f));
    let judges = match needed {
        FOR_KEPT => "judge a pressure that is kept while somebody watches",
        FOR_BAND => "judge a band or a fall",
        _ => "tell what was lost",
    };
    let says = format!("At the start, then every {{0}} or sooner: {needed} readings or more {judges}.");
    let draft = |says: String| {
        Draft::new(&format!("readings-{step}"), step, "How often is the gauge read in the hold?", says).time(every(hold, needed))
    };
    if needed < FOR_LEAK {
        draft(format!("{says} A leak rate wants {FOR_LEAK}: every {{1}}.")).time(every(hold, FOR_LEAK))
    } else {
        draft(says)
    }
}

/// How a filled system answers, where it is filled with liquid and has a volume.
pub(super) fn filled<'a>(f: &'a Facts) -> Option<Filled<'a>> {
    let shut_in = f.shut_in.filter(|_| !f.demand.gas)?;
    Some(Filled { shut_in, temperature: f.system.water_temperature_c, other: f.system.liquid.as_ref() })
}

/// Thickness of a blind, named for its part; used by the register of ends.
pub(super) fn blind_line(f: &Facts, part: &crate::part::Part) -> Option<Draft> {
    let (d, id) = (part.sealing_diameter_m?, part.material.as_deref()?);
    let material = f.demand.library.material(id).ok()?;
    let p = f.at(f.d.upper_pa.min(f.day.stop_line_pa), part.elevation_m);
    let (t, why) = blind::test_blank(d, p, material.yield_pa?, f.demand.gas);
    let trouble = part.wall_m.filter(|have| *have < t).map(|have| {
        format!(
            "{} is {} thick and needs {} up to the stop line: take a thicker one.",
            part.tag,
            f.system.say().size_down(have),
            f.system.say().size_up(t)
        )
    });
    let line = Draft::new(
        &format!("blind-{}", part.tag),
        "bound",
        &format!("How thick is {}?", part.tag),
        "At least {0} for the test alone, {1} within the gasket.",
    )
    .length(t, Toward::Up)
    .length(d, Toward::Nearest)
    .stop(trouble)
    .why(why.governed_by(&part.tag));
    Some(line)
}

/// An energy.
pub(super) fn energy(line: Draft, energy: Energy) -> Draft {
    line.other(energy.j(), Dimension::EnergyJ)
}
