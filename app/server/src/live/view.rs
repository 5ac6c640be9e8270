//! What the screens of a run show at one moment.

use super::figures::{ChannelView, agreements, channels};
use super::pumping::{PumpingView, pumping};
use crate::attempt_view::{clock_from, instruction, rest_until, schedule_of, waits_until};
use crate::judging::Run;
use crate::recorder::every_s;
use crate::state::App;
use crate::store::reading::Channel;
use crate::store::tick::Tick;
use pack::run::RunEventKind;
use pack::schedule::Step;
use quantity::GaugePressure;
use rules::system::Derived;
use serde::Serialize;
use time::OffsetDateTime;
use watch::agreement::Agreement;
use watch::forecast::{Forecast, Lines, forecast, rate};

/// Nobody goes near for this long after the pressure was reached, s (common practice).
const STAND_CLEAR_S: f64 = 600.0;
/// Rate below which a needle stands still, divisions of the gauge a minute.
const STILL_DIVISIONS_PER_MIN: f64 = 3.0;
/// Time over which a fall in the hold is followed to the lower bound, s.
const FALL_OVER_S: f64 = 600.0;

/// A time to wait for.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct Countdown {
    /// What for.
    pub words: String,
    /// When it is over.
    #[serde(with = "time::serde::rfc3339")]
    pub until: OffsetDateTime,
    /// Seconds left; nil when over.
    pub left_s: f64,
}

/// One moment of a run.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct LiveView {
    /// The installation's clock.
    #[serde(with = "time::serde::rfc3339")]
    pub now: OffsetDateTime,
    /// How many times faster than the real one it runs.
    pub clock_rate: f64,
    /// Last instant of the recorder.
    pub last_seq: u64,
    /// True when any instrument of this attempt is recorded by itself.
    pub recorded: bool,
    /// True when its gauge is on the practice rig of this installation.
    pub on_the_rig: bool,
    /// Reading of the gauge that the test is read from, Pa.
    pub pressure_pa: Option<f64>,
    /// Its age, s.
    pub age_s: Option<f64>,
    /// Last water temperature, °C.
    pub temperature_c: Option<f64>,
    /// What to do, in one sentence.
    pub instruction: String,
    /// Who may be inside the barrier.
    pub barrier: String,
    /// Step to reach next.
    pub next_step: Option<Step>,
    /// Steps booked as reached.
    pub reached: usize,
    /// Where the needle goes.
    pub forecast: Option<Forecast>,
    /// What is waited for.
    pub countdown: Option<Countdown>,
    /// Channels.
    pub channels: Vec<ChannelView>,
    /// Other gauges, brought to the height of the first.
    pub agreements: Vec<Agreement>,
    /// The pumping curve.
    pub pumping: Option<PumpingView>,
    /// Warnings in sentences, the gravest first.
    pub warnings: Vec<String>,
    /// Seconds until the fall reaches the lower bound, in the hold.
    pub reaches_lower_s: Option<f64>,
}

/// Last reading of the gauge that the test is read from, whoever brought it, and those just before.
fn recent(run: &Run, ticks: &[Tick]) -> Vec<(f64, GaugePressure)> {
    let gauge = run.attempt.frozen.instruments.iter().position(|i| i.tag == run.attempt.frozen.plan.gauge_tag);
    let mut all: Vec<(f64, GaugePressure)> = ticks
        .iter()
        .rev()
        .take(800)
        .filter_map(|t| {
            let v = t.values.iter().find(|v| Some(usize::from(v.channel)) == gauge)?;
            Some((run.seconds_us(t.at_us), GaugePressure::from_pa(v.value?)))
        })
        .collect();
    all.reverse();
    let typed = run.typed.iter().filter(|r| r.channel == Channel::Pressure).map(|r| (run.seconds(r.at), GaugePressure::from_pa(r.value)));
    all.extend(typed);
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    all
}

fn temperature(run: &Run, ticks: &[Tick]) -> Option<f64> {
    let place = run.attempt.frozen.instruments.iter().position(|i| i.tag == run.attempt.frozen.plan.thermometer_tag);
    let polled = ticks.iter().rev().take(30).find_map(|t| t.values.iter().find(|v| Some(usize::from(v.channel)) == place)?.value);
    polled.or_else(|| run.typed.iter().rfind(|r| r.channel == Channel::Temperature).map(|r| r.value))
}

/// The moment now.
pub fn live_view(app: &App, run: &Run, ticks: &[Tick]) -> LiveView {
    let now = app.clock.now();
    let now_s = run.seconds(now);
    let derived = run.derived().ok();
    let schedule = derived.as_ref().map(|d| schedule_of(run, d)).unwrap_or_default();
    let reached = run.booked().iter().filter(|k| **k == RunEventKind::StepReached).count();
    let off = run.events.iter().rfind(|e| matches!(e.kind, RunEventKind::PumpOff | RunEventKind::Repump | RunEventKind::Bleed));
    let next_step = if off.is_some() { None } else { schedule.get(reached).cloned() };
    let every = every_s(app);
    let channels = channels(run, ticks, now_s, every);
    let agreements = derived.as_ref().map(|d| agreements(run, &channels, d.density_kg_m3)).unwrap_or_default();
    let readings = recent(run, ticks);
    let last = readings.last().copied();
    let curve = derived.as_ref().and_then(|d| pumping(run, d, ticks, now_s));
    let forecast =
        last.zip(derived.as_ref()).and_then(|((t, p), d)| ahead(run, d, curve.as_ref(), &readings, (t, p), next_step.as_ref(), now_s));
    let rising =
        curve.as_ref().is_some_and(|c| c.strokes_per_min > 0.0) || forecast.as_ref().is_some_and(|f| f.rate_pa_per_s > 10.0 * still(run));
    LiveView {
        now,
        clock_rate: app.clock.rate(),
        last_seq: ticks.last().map_or(0, |t| t.seq),
        recorded: run.attempt.frozen.instruments.iter().any(|i| i.connection.is_some()),
        on_the_rig: crate::routes::rig::on_the_rig(app, &run.attempt),
        pressure_pa: last.map(|l| l.1.pa()),
        age_s: last.map(|l| (now_s - l.0).max(0.0)),
        temperature_c: temperature(run, ticks),
        instruction: instruction(app, run, derived.as_ref(), &schedule, reached),
        barrier: barrier(app, run, rising, now),
        countdown: countdown(run, derived.as_ref(), &schedule, reached, now),
        warnings: warnings(run, &channels, &agreements, curve.as_ref()),
        reaches_lower_s: derived.as_ref().filter(|_| off.is_some()).and_then(|d| to_lower(&readings, d)),
        next_step,
        reached,
        forecast,
        channels,
        agreements,
        pumping: curve,
    }
}

/// Rate below which the needle stands still, Pa/s.
fn still(run: &Run) -> f64 {
    run.gauge().and_then(|g| g.division_pa).map_or(1e3, |d| d.pa()) * STILL_DIVISIONS_PER_MIN / 60.0
}

fn ahead(
    run: &Run,
    derived: &Derived,
    curve: Option<&PumpingView>,
    readings: &[(f64, GaugePressure)],
    (t, p): (f64, GaugePressure),
    next: Option<&Step>,
    now_s: f64,
) -> Option<Forecast> {
    let day = derived.day.as_ref()?;
    // an old reading says nothing about where the needle goes
    let rate = if now_s - t > 30.0 { 0.0 } else { rate(readings) };
    let lines = Lines { target: next.map(|s| s.target_pa), alarm: day.alarm_pa, stop_line: day.stop_line_pa, upper: derived.upper_pa };
    Some(forecast(p, rate, curve.and_then(|c| c.per_stroke_pa), still(run), lines))
}

/// Who may be inside the barrier, in a sentence.
fn barrier(app: &App, run: &Run, rising: bool, now: OffsetDateTime) -> String {
    let last = |kind| run.events.iter().rfind(|e| e.kind == kind).map(|e| e.at);
    if last(RunEventKind::Released).is_some() {
        return "Pressure is booked as released. Open nothing before the high vent is open.".to_owned();
    }
    if rising {
        return "Nobody inside the barrier while it rises.".to_owned();
    }
    if let Some(off) = last(RunEventKind::PumpOff) {
        let clear = off + time::Duration::seconds_f64(STAND_CLEAR_S);
        if now < clear {
            return format!("Stand clear until {}: nobody inside the barrier for the first 10 minutes at pressure.", app.clock(clear));
        }
        return "Only those who look at the joints, by the supervisor's word; nobody in line with a blind, a plug or a hose end."
            .to_owned();
    }
    if last(RunEventKind::StepReached).is_some() {
        return "Pump stopped: only those who look at the joints; nobody in line with a blind, a plug or a hose end.".to_owned();
    }
    if last(RunEventKind::Filled).is_some() {
        return "Before the pump starts: everybody out, count them, close the barrier.".to_owned();
    }
    "Static head only: hand-check every temporary joint now, at zero.".to_owned()
}

fn countdown(run: &Run, derived: Option<&Derived>, schedule: &[Step], reached: usize, now: OffsetDateTime) -> Option<Countdown> {
    let last = |kinds: &[RunEventKind]| run.events.iter().rfind(|e| kinds.contains(&e.kind)).map(|e| e.at);
    let until = |words: &str, from: OffsetDateTime, seconds: f64| {
        let until = from + time::Duration::seconds_f64(seconds);
        Countdown { words: words.to_owned(), until, left_s: (until - now).as_seconds_f64().max(0.0) }
    };
    if last(&[RunEventKind::Released, RunEventKind::HoldEnded]).is_some() {
        return None;
    }
    if let Some((_, end)) = derived.and_then(|d| waits_until(run, d)) {
        return Some(until("wait", end, 0.0));
    }
    if let Some(start) = clock_from(run, derived).filter(|_| run.booked().contains(&RunEventKind::PumpOff)) {
        return Some(until("hold", start, run.attempt.frozen.hold().s()));
    }
    let words = match derived.and_then(Derived::lowering) {
        _ if reached != schedule.len() => "hold this step",
        Some(_) => "stretch",
        None => "settle",
    };
    Some(until(words, rest_until(run, schedule, reached)?, 0.0))
}

fn warnings(run: &Run, channels: &[ChannelView], agreements: &[Agreement], curve: Option<&PumpingView>) -> Vec<String> {
    let mut out: Vec<String> = curve.and_then(|c| c.giving_way).map(|g| g.sentence().to_owned()).into_iter().collect();
    out.extend(channels.iter().map(|c| c.says.sentence.clone()).filter(|s| !s.is_empty()));
    // in the unit that the gauge shows, to its last digit
    let unit = run.gauge().map_or(quantity::PressureUnit::Bar, |g| g.unit);
    let decimals = run.gauge().and_then(|g| g.division_pa).map_or(2, |d| quantity::format::decimals_of(d.pa() / unit.pa()));
    out.extend(agreements.iter().filter(|a| !a.agrees).map(|a| {
        let shown = |pa: f64| quantity::format::pressure_difference(quantity::PressureDifference::from_pa(pa), unit, decimals);
        format!(
            "{} reads {} {} than the first gauge once the column is taken off; their errors allow {}. One of them is wrong, shut off or not vented.",
            a.tag,
            shown(a.difference_pa.pa().abs()),
            if a.difference_pa.pa() > 0.0 { "more" } else { "less" },
            shown(a.allowed_pa.pa())
        )
    }));
    out
}

/// Seconds until a fall goes through the lower bound; none while it does not fall.
fn to_lower(readings: &[(f64, GaugePressure)], derived: &Derived) -> Option<f64> {
    let last = readings.last()?;
    let near: Vec<&(f64, GaugePressure)> = readings.iter().filter(|r| last.0 - r.0 <= FALL_OVER_S).collect();
    let first = near.first()?;
    let fell = (first.1 - last.1).pa();
    let over = last.0 - first.0;
    (over >= 60.0 && fell > 0.0 && near.len() >= 3).then(|| ((last.1 - derived.hold_least_pa()).pa() * over / fell).max(0.0))
}
