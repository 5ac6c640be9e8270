//! The situation that an act is held against: stage, gauges and steps of a run at one time.

use crate::attempt_view::schedule_of;
use crate::judging::Run;
use crate::problem::Problem;
use crate::state::App;
use crate::store::reading::Channel;
use crate::store::tick::{self, Tick};
use pack::acts::{GaugeRead, Known, READ_WITHIN_S, Situation, Stage, Target, ZERO_FOR_S};
use pack::run::RunEventKind;
use quantity::{GaugePressure, PressureDifference};
use rules::accept::LOWERED_WITHIN;
use rules::say::Say;
use time::OffsetDateTime;

/// What was read while a booking was on its way is not read after it, s of the real clock.
const ON_ITS_WAY_S: f64 = 1.0;

/// A run as it stands at the time of an act, before anybody says how it is told.
pub struct At {
    run: Run,
    at_s: f64,
    gauges: Vec<GaugeRead>,
}

impl At {
    /// Looks at a run at an instant, and at what was read since.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn look(app: &App, run: Run, at: OffsetDateTime) -> Result<Self, Problem> {
        let at_s = run.seconds(at, run.lead_us(at));
        let from_s = at_s - READ_WITHIN_S - ZERO_FOR_S - 5.0;
        let from_us = crate::clock::us(run.attempt.released_at) + (from_s * 1e6) as i64;
        let ticks = tick::since(&app.db, &run.attempt.id, from_us).await?;
        let gauges = gauges(&run, &ticks, at_s, ON_ITS_WAY_S * app.clock.rate());
        Ok(Self { run, at_s, gauges })
    }

    /// The run.
    pub fn run(&self) -> &Run {
        &self.run
    }

    /// What acts are held against.
    pub fn situation<'a>(&self, say: Say, word: &'a str, clock: &'a dyn Fn(f64) -> String) -> Situation<'a> {
        let run = &self.run;
        let booked = run.booked();
        let derived = run.derived().ok();
        let error = run.system().gauge.error();
        let step = derived.as_ref().and_then(|d| {
            let reached = booked.iter().filter(|k| **k == RunEventKind::StepReached).count();
            let steps = schedule_of(run, d);
            Some(Target::step(steps.get(reached)?.target_pa, steps.get(reached + 1).map(|s| s.target_pa), error))
        });
        let pump_off = derived.as_ref().map(|d| match d.lowering() {
            Some(l) if l.quick.is_none() => Target::least(d.hold_lower_pa(), PressureDifference::from_pa(LOWERED_WITHIN * l.usual_pa.pa())),
            _ => Target::least(d.lower_pa, PressureDifference::from_pa(0.0)),
        });
        Situation {
            stage: Stage::of(&booked),
            gauges: self.gauges.clone(),
            step,
            pump_off,
            upper: derived.as_ref().map(|d| d.upper_pa),
            booked: run.events.iter().map(|e| (e.kind, run.event_s(e))).collect(),
            at_s: self.at_s,
            word,
            say,
            clock,
        }
    }
}

/// True when a gauge of the run stood above zero in what the recorder read.
pub fn pressed(run: &Run, ticks: &[Tick]) -> bool {
    gauges(run, ticks, f64::NEG_INFINITY, 0.0).iter().any(|g| g.after.is_some_and(|p| p > g.zero()))
}

/// The gauges of a run, the one that it is read from first.
fn gauges(run: &Run, ticks: &[Tick], at_s: f64, slack_s: f64) -> Vec<GaugeRead> {
    let f = &run.attempt.frozen;
    let density = run.derived().map(|d| d.column_pa_per_m).unwrap_or(9810.0);
    let top = f.parts.iter().map(|p| p.elevation_m.m()).fold(f64::NEG_INFINITY, f64::max);
    let mut tags = vec![f.plan.gauge_tag.as_str()];
    tags.extend(f.plan.also.iter().map(|a| a.tag.as_str()));
    tags.dedup();
    let each = |(n, tag): (usize, &str)| {
        let place = f.instruments.iter().position(|i| i.tag == tag && i.kind == pack::instrument::InstrumentKind::Gauge)?;
        let i = &f.instruments[place];
        let height = crate::live::elevation(run, tag).unwrap_or(f.plan.gauge_elevation_m.m());
        let column = PressureDifference::from_pa(density * (top - height).max(0.0));
        let of_scale = i.full_scale_pa.zip(i.error_of_scale).map_or(0.0, |(s, e)| s.pa() * e);
        let error = PressureDifference::from_pa(of_scale.max(i.division_pa.map_or(1e4, PressureDifference::pa)));
        let zero = GaugePressure::from_pa(column.pa() + error.pa());
        let recorded: Vec<(f64, GaugePressure)> = ticks
            .iter()
            .filter_map(|t| {
                let v = t.values.iter().find(|v| usize::from(v.channel) == place)?;
                Some((run.seconds_us(t.run_us), GaugePressure::from_pa(v.value?)))
            })
            .collect();
        // what a person brought of the first gauge, typed or in a logger's file
        let typed = run
            .typed
            .iter()
            .filter(|r| r.channel == Channel::Pressure && r.struck.is_none())
            .map(|r| (run.typed_s(r), GaugePressure::from_pa(r.value)));
        let logged = run.logged.iter().filter_map(|r| Some((run.seconds_us(r.at_us), GaugePressure::from_pa(r.pressure_pa?))));
        let mut typed: Vec<(f64, GaugePressure)> = typed.chain(logged).filter(|_| n == 0).collect();
        typed.sort_by(|a, b| a.0.total_cmp(&b.0));
        let after = recorded.iter().chain(&typed).filter(|r| r.0 > at_s + slack_s).map(|r| r.1).reduce(GaugePressure::max);
        Some(GaugeRead { tag: tag.to_owned(), column, error, known: known(&recorded, &typed, at_s + slack_s, zero), after })
    };
    tags.into_iter().enumerate().filter_map(each).collect()
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
