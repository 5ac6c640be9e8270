//! What the screens of a run show at one moment.

use super::figures::{ChannelView, agreements, channels};
use super::pumping::{PumpingView, pumping};
use crate::attempt_view::{clock_from_s, instruction, rest_until_s, schedule_of, waits_until_s};
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
use std::time::Duration;
use time::OffsetDateTime;
use watch::agreement::Agreement;
use watch::falling::{Falling, falling};
use watch::forecast::{Forecast, Lines, forecast, rate};

/// Nobody goes near for this long after the pressure was reached, s (common practice).
const STAND_CLEAR_S: f64 = 600.0;
/// Rate below which a needle stands still, divisions of the gauge a minute.
const STILL_DIVISIONS_PER_MIN: f64 = 3.0;
/// A recorded figure that is older than this is not now, s of the real clock.
const SILENT_S: f64 = 3.0;
/// For how long it is said that a clock was set anew, s.
const CLOCK_SET_S: f64 = 1800.0;

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
    /// Its age, s, by a clock that nobody sets.
    pub age_s: Option<f64>,
    /// Who typed it; absent where the recorder read it.
    pub typed_by: Option<String>,
    /// True when the recorder should have read the gauge since, and has not: the figure is not now.
    pub silent: bool,
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
    /// A fall to the lower bound; in the hold only.
    pub falling: Option<Falling>,
}

/// What the gauge that the test is read from read last.
struct Needle {
    /// Readings in the order in which they came, s from the release.
    readings: Vec<(f64, GaugePressure)>,
    /// Who typed the last; none where the recorder read it.
    typed_by: Option<String>,
}

/// The recorder's readings in the order of its sequence; what was typed only where the recorder says nothing, and never what lies ahead.
fn needle(run: &Run, ticks: &[Tick], now_s: f64, patience_s: f64) -> Needle {
    let gauge = run.attempt.frozen.instruments.iter().position(|i| i.tag == run.attempt.frozen.plan.gauge_tag);
    let mut recorded: Vec<(f64, GaugePressure)> = ticks
        .iter()
        .rev()
        .take(800)
        .filter_map(|t| {
            let v = t.values.iter().find(|v| Some(usize::from(v.channel)) == gauge)?;
            Some((run.seconds_us(t.run_us), GaugePressure::from_pa(v.value?)))
        })
        .collect();
    recorded.reverse();
    let typed = run.typed.iter().filter(|r| r.channel == Channel::Pressure && r.struck.is_none() && run.typed_s(r) <= now_s);
    let last_typed = typed.clone().next_back();
    match (recorded.last(), last_typed) {
        (Some(last), _) if now_s - last.0 <= patience_s => Needle { readings: recorded, typed_by: None },
        (Some(last), Some(t)) if run.typed_s(t) <= last.0 => Needle { readings: recorded, typed_by: None },
        (_, Some(t)) => Needle {
            readings: typed.map(|r| (run.typed_s(r), GaugePressure::from_pa(r.value))).collect(),
            typed_by: Some(t.person.clone()),
        },
        (_, None) => Needle { readings: recorded, typed_by: None },
    }
}

fn temperature(run: &Run, ticks: &[Tick]) -> Option<f64> {
    let place = run.attempt.frozen.instruments.iter().position(|i| i.tag == run.attempt.frozen.plan.thermometer_tag);
    let polled = ticks.iter().rev().take(30).find_map(|t| t.values.iter().find(|v| Some(usize::from(v.channel)) == place)?.value);
    polled.or_else(|| run.typed.iter().rfind(|r| r.channel == Channel::Temperature && r.struck.is_none()).map(|r| r.value))
}

/// The moment now. `heard` is for how long nothing has come from the recorder since its last instant came; none where none came.
pub fn live_view(app: &App, run: &Run, ticks: &[Tick], heard: Option<Duration>) -> LiveView {
    let now = app.clock.now();
    let rate = app.clock.rate();
    let every = every_s(app);
    let silent_s = SILENT_S.mul_add(rate, every);
    // while the recorder speaks, its own time is the run's: a clock that somebody sets moves neither ages nor countdowns
    let by_recorder = ticks.last().zip(heard).map(|(t, ago)| run.seconds_us(t.run_us) + ago.as_secs_f64() * rate);
    let now_s = by_recorder.filter(|_| heard.is_some_and(|h| h.as_secs_f64() * rate <= silent_s)).unwrap_or_else(|| run.now_s(app));
    let derived = run.derived().ok();
    let schedule = derived.as_ref().map(|d| schedule_of(run, d)).unwrap_or_default();
    let reached = run.booked().iter().filter(|k| **k == RunEventKind::StepReached).count();
    let off = run.events.iter().rfind(|e| matches!(e.kind, RunEventKind::PumpOff | RunEventKind::Repump | RunEventKind::Bleed));
    let next_step = if off.is_some() { None } else { schedule.get(reached).cloned() };
    let channels = channels(run, ticks, now_s, every);
    let agreements = derived.as_ref().map(|d| agreements(run, &channels, d.density_kg_m3)).unwrap_or_default();
    let needle = needle(run, ticks, now_s, silent_s);
    let recorded = run.attempt.frozen.instruments.iter().any(|i| i.connection.is_some());
    let by_itself = run.gauge().is_some_and(|g| g.connection.is_some());
    let last = needle.readings.last().copied();
    // what came late is as old as it came
    let age_s = last.map(|l| (now_s - l.0).max(heard.filter(|_| needle.typed_by.is_none()).map_or(0.0, |h| h.as_secs_f64() * rate)));
    let curve = derived.as_ref().and_then(|d| pumping(run, d, ticks, now_s));
    let forecast = last
        .zip(derived.as_ref())
        .and_then(|((t, p), d)| ahead(run, d, curve.as_ref(), &needle.readings, (t, p), next_step.as_ref(), now_s));
    let rising =
        curve.as_ref().is_some_and(|c| c.strokes_per_min > 0.0) || forecast.as_ref().is_some_and(|f| f.rate_pa_per_s > 10.0 * still(run));
    let countdown = countdown(run, derived.as_ref(), &schedule, reached, now_s);
    let left_s = countdown.as_ref().filter(|c| c.words == "hold").map(|c| c.left_s);
    let falling = derived.as_ref().zip(left_s).map(|(d, left)| {
        let division = run.gauge().and_then(|g| g.division_pa).unwrap_or(quantity::PressureDifference::from_pa(1e3));
        falling(&needle.readings, d.hold_least_pa(), division, left)
    });
    LiveView {
        now,
        clock_rate: rate,
        last_seq: ticks.last().map_or(0, |t| t.seq),
        recorded,
        on_the_rig: crate::routes::rig::on_the_rig(app, &run.attempt),
        pressure_pa: last.map(|l| l.1.pa()),
        silent: by_itself && !run.over() && (needle.typed_by.is_some() || age_s.is_none_or(|a| a > silent_s)),
        age_s,
        temperature_c: temperature(run, ticks),
        instruction: instruction(app, run, derived.as_ref(), &schedule, reached),
        barrier: barrier(app, run, rising, now_s),
        warnings: warnings(app, run, &channels, &agreements, curve.as_ref(), falling.as_ref(), now_s),
        typed_by: needle.typed_by,
        countdown,
        falling,
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
fn barrier(app: &App, run: &Run, rising: bool, now_s: f64) -> String {
    let last = |kind| run.last_s(kind);
    if last(RunEventKind::Released).is_some() {
        return "Pressure is booked as released. Open nothing before the high vent is open.".to_owned();
    }
    if rising {
        return "Nobody inside the barrier while it rises.".to_owned();
    }
    if let Some(off) = last(RunEventKind::PumpOff) {
        let clear = off + STAND_CLEAR_S;
        if now_s < clear {
            let until = app.clock(run.shown(clear));
            return format!("Stand clear until {until}: nobody inside the barrier for the first 10 minutes at pressure.");
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

fn countdown(run: &Run, derived: Option<&Derived>, schedule: &[Step], reached: usize, now_s: f64) -> Option<Countdown> {
    let until =
        |words: &str, until_s: f64| Countdown { words: words.to_owned(), until: run.shown(until_s), left_s: (until_s - now_s).max(0.0) };
    if run.last_s(RunEventKind::Released).or(run.last_s(RunEventKind::HoldEnded)).is_some() {
        return None;
    }
    if let Some((_, end)) = derived.and_then(|d| waits_until_s(run, d)) {
        return Some(until("wait", end));
    }
    if let Some(start) = clock_from_s(run, derived).filter(|_| run.booked().contains(&RunEventKind::PumpOff)) {
        return Some(until("hold", start + run.attempt.frozen.hold().s()));
    }
    let words = match derived.and_then(Derived::lowering) {
        _ if reached != schedule.len() => "hold this step",
        Some(_) => "stretch",
        None => "settle",
    };
    Some(until(words, rest_until_s(run, schedule, reached)?))
}

/// That the clock was set anew, for as long as somebody may still wonder at its times.
fn clock_was_set(app: &App, run: &Run, now_s: f64) -> Option<String> {
    let set = run.clock_set().into_iter().rfind(|c| now_s - c.t_s <= CLOCK_SET_S)?;
    let which = if set.by_s < 0.0 { "back" } else { "forward" };
    Some(format!(
        "The server's clock was set {which} by {} and showed {} then. Readings, ages and countdowns go on by a count that nobody sets; check the times that you type.",
        quantity::format::span(set.by_s.abs()),
        app.clock(run.shown(set.t_s))
    ))
}

fn warnings(
    app: &App,
    run: &Run,
    channels: &[ChannelView],
    agreements: &[Agreement],
    curve: Option<&PumpingView>,
    falling: Option<&Falling>,
    now_s: f64,
) -> Vec<String> {
    let mut out: Vec<String> = curve.and_then(|c| c.giving_way).map(|g| g.sentence().to_owned()).into_iter().collect();
    out.extend(falling.map(|f| f.sentence.clone()).filter(|s| !s.is_empty()));
    out.extend(clock_was_set(app, run, now_s));
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
