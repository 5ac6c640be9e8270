//! The situation that an act is held against: stage, gauges and steps of a run at one time.

use crate::now::Tell;
use crate::rows::{Channel, Tick};
use crate::run::Run;
use moment::Instant;
use pack::acts::{self, GaugeRead, Known, READ_WITHIN_S, Situation, Stage, Target, ZERO_FOR_S};
use pack::instrument::InstrumentKind;
use quantity::{GaugePressure, PressureDifference};
use rules::accept::LOWERED_WITHIN;
use terms::{EventKind, VariantArray};

/// What was read while a booking was on its way is not read after it, s of the real clock.
const ON_ITS_WAY_S: f64 = 1.0;
/// Instants of the recorder, the last ones, in which pressure shows that somebody has begun.
const LATELY: usize = 120;
/// Column of water that a gauge is taken for where nothing can be derived of the system, Pa/m.
const WATER_PA_PER_M: f64 = 9810.0;
/// Error of a gauge that states none, Pa.
const UNKNOWN_ERROR_PA: f64 = 1e4;

/// An act as it is to be booked.
#[derive(Debug, Clone, Copy)]
pub struct Act<'a> {
    /// What.
    pub kind: EventKind,
    /// What the person wrote.
    pub word: &'a str,
    /// Its figure, SI.
    pub figure: Option<f64>,
}

impl Act<'_> {
    /// One of which nothing more is known.
    pub const fn of(kind: EventKind) -> Self {
        Self { kind, word: "", figure: None }
    }
}

/// A run as it stands at the time of an act.
#[derive(Debug, Clone)]
pub struct At<'a> {
    run: &'a Run,
    at_s: f64,
    gauges: Vec<GaugeRead>,
}

impl<'a> At<'a> {
    /// Looks at a run at an instant, and at what was read since. `rate` is how fast the installation's clock runs.
    pub fn new(run: &'a Run, at: Instant, rate: f64) -> Self {
        let at_s = run.seconds(at, run.lead_us(at));
        let from_s = at_s - READ_WITHIN_S - ZERO_FOR_S - 5.0;
        let ticks = run.ticks();
        let first = ticks.partition_point(|t| run.seconds_us(t.run_us) < from_s);
        Self { run, at_s, gauges: gauges(run, &ticks[first..], at_s, ON_ITS_WAY_S * rate) }
    }

    /// Gauges of the run, the one that it is read from first.
    pub fn gauges(&self) -> &[GaugeRead] {
        &self.gauges
    }

    /// What acts are held against.
    fn situation<'b>(&self, tell: &Tell, act: &Act<'b>, clock: &'b dyn Fn(f64) -> String) -> Situation<'b> {
        let run = self.run;
        let derived = run.window();
        let error = run.facts().system.gauge.error();
        let step = derived.and_then(|_| {
            let (steps, reached) = (&run.facts().schedule, run.reached());
            Some(Target::step(steps.get(reached)?.target_pa, steps.get(reached + 1).map(|s| s.target_pa), error))
        });
        let pump_off = derived.map(|d| match d.lowering() {
            Some(l) if l.quick.is_none() => Target::least(d.hold_lower_pa(), PressureDifference::from_pa(LOWERED_WITHIN * l.usual_pa.pa())),
            _ => Target::least(d.lower_pa, PressureDifference::from_pa(0.0)),
        });
        Situation {
            stage: Stage::of(&run.booked()),
            gauges: self.gauges.clone(),
            step,
            pump_off,
            upper: derived.map(|d| d.upper_pa),
            booked: run.events().iter().map(|e| (e.kind, run.event_s(e))).collect(),
            at_s: self.at_s,
            word: act.word,
            figure: act.figure,
            low_gas: run.low_gas_planned(),
            say: tell.say,
            clock,
        }
    }

    /// Why an event is refused, all reasons at once; empty when it may be booked. With it, whether zero rests on nothing but the person's word.
    pub fn objections(&self, act: &Act<'_>, tell: &Tell) -> (Vec<String>, bool) {
        let clock = |t_s: f64| tell.time(self.run.shown(t_s));
        let situation = self.situation(tell, act, &clock);
        (acts::objections(act.kind, &situation), situation.by_word())
    }

    /// Why something at the boundary is not changed now; empty when it may be.
    pub fn boundary_objections(&self, act: acts::BoundaryAct, tag: &str, tell: &Tell) -> Vec<String> {
        let clock = |t_s: f64| tell.time(self.run.shown(t_s));
        acts::boundary_objections(act, tag, &self.situation(tell, &Act::of(EventKind::Noted), &clock))
    }

    /// What may be booked by hand now, as far as the state of the run and what was booked say.
    pub fn by_hand(&self, tell: &Tell) -> Vec<EventKind> {
        let clock = |t_s: f64| tell.time(self.run.shown(t_s));
        let offered = |kind: &EventKind| {
            let now = self.situation(tell, &Act::of(*kind), &clock);
            kind.by_hand() && acts::out_of_order(*kind, now.stage).is_none() && pack::by_hand::against(*kind, &now).is_empty()
        };
        EventKind::VARIANTS.iter().copied().filter(offered).collect()
    }

    /// How far the run has come.
    pub fn stage(&self) -> Stage {
        Stage::of(&self.run.booked())
    }
}

/// True when a gauge of the run stood above zero in what the recorder read lately.
pub fn pressed(run: &Run) -> bool {
    let ticks = run.ticks();
    let lately = &ticks[ticks.len().saturating_sub(LATELY)..];
    gauges(run, lately, f64::NEG_INFINITY, 0.0).iter().any(|g| g.after.is_some_and(|p| p > g.zero()))
}

/// The gauges of a run, the one that it is read from first.
fn gauges(run: &Run, ticks: &[Tick], at_s: f64, slack_s: f64) -> Vec<GaugeRead> {
    let f = run.frozen();
    let density = run.window().map_or(WATER_PA_PER_M, |d| d.column_pa_per_m);
    let top = f.parts.iter().map(|p| p.elevation_m.m()).fold(f64::NEG_INFINITY, f64::max);
    let mut tags = vec![f.plan.gauge_tag.as_str()];
    tags.extend(f.plan.also.iter().map(|a| a.tag.as_str()));
    tags.dedup();
    let each = |(n, tag): (usize, &str)| {
        let place = f.instruments.iter().position(|i| i.tag == tag && i.kind == InstrumentKind::Gauge)?;
        let i = &f.instruments[place];
        let height = f.elevation_m(tag).unwrap_or(f.plan.gauge_elevation_m.m());
        let column = PressureDifference::from_pa(density * (top - height).max(0.0));
        let of_scale = i.full_scale_pa.zip(i.error_of_scale).map_or(0.0, |(s, e)| s.pa() * e);
        let error = PressureDifference::from_pa(of_scale.max(i.division_pa.map_or(UNKNOWN_ERROR_PA, PressureDifference::pa)));
        let zero = GaugePressure::from_pa(column.pa() + error.pa());
        let channel = u8::try_from(place).ok()?;
        let read = |t: &Tick| Some((run.seconds_us(t.run_us), GaugePressure::from_pa(t.value(channel)?)));
        let recorded: Vec<(f64, GaugePressure)> = ticks.iter().filter_map(read).collect();
        let typed = brought(run, if n == 0 { None } else { Some(tag) });
        let after = recorded.iter().chain(&typed).filter(|r| r.0 > at_s + slack_s).map(|r| r.1).reduce(GaugePressure::max);
        Some(GaugeRead { tag: tag.to_owned(), column, error, known: known(&recorded, &typed, at_s + slack_s, zero), after })
    };
    tags.into_iter().enumerate().filter_map(each).collect()
}

/// What a person brought of a gauge, typed or in a logger's file, in time order; a logger's file is of the gauge that the test is read from.
fn brought(run: &Run, further: Option<&str>) -> Vec<(f64, GaugePressure)> {
    let typed = run.typed().iter().filter(|r| r.channel == Channel::Pressure && r.struck.is_none() && r.of.as_deref() == further);
    let typed = typed.map(|r| (run.typed_s(r), GaugePressure::from_pa(r.value)));
    let logged = run.recordings().iter().filter(|_| further.is_none()).flat_map(|r| &r.rows);
    let logged = logged.filter_map(|r| Some((run.seconds_us(r.at_us), GaugePressure::from_pa(r.pressure_pa?))));
    let mut all: Vec<(f64, GaugePressure)> = typed.chain(logged).collect();
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    all
}

/// What is known of a gauge at a time: live before typed before nothing.
fn known(recorded: &[(f64, GaugePressure)], typed: &[(f64, GaugePressure)], at_s: f64, zero: GaugePressure) -> Known {
    let before: Vec<&(f64, GaugePressure)> = recorded.iter().filter(|r| r.0 <= at_s).collect();
    if let Some(last) = before.last().filter(|r| at_s - r.0 <= READ_WITHIN_S) {
        let since = before.iter().rev().take_while(|r| r.1 <= zero).last();
        return Known::Live { pressure: last.1, zero_for_s: since.map_or(0.0, |s| at_s - s.0) };
    }
    match typed.iter().rfind(|r| r.0 <= at_s) {
        Some(last) => Known::Typed { pressure: last.1, ago_s: (at_s - last.0).max(0.0) },
        None => Known::Nothing,
    }
}
