//! What the screens of a run show at one moment.

use crate::channels::ChannelView;
use crate::countdown::{Countdown, WaitsFor};
use crate::curve::{PumpingView, pumping};
use crate::now::{Now, Tell};
use crate::run::Run;
use crate::warnings::Seen;
use moment::Instant;
use pack::schedule::Step;
use quantity::GaugePressure;
use rules::system::Derived;
use serde::Serialize;
use terms::EventKind;
use watch::agreement::Agreement;
use watch::falling::{Falling, falling};
use watch::forecast::{Forecast, Lines, forecast, rate};

/// Rate below which a needle stands still, divisions of the gauge a minute.
const STILL_DIVISIONS_PER_MIN: f64 = 3.0;
/// It rises, whoever pumps, when it goes so many times as fast as a needle that stands still.
const RISES: f64 = 10.0;
/// An older reading says nothing about where the needle goes, s.
const TELLS_WAY_S: f64 = 30.0;

/// One moment of a run.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct LiveView {
    /// The installation's clock.
    pub now: Instant,
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

impl Run {
    /// The moment now.
    pub fn live(&self, now: &Now, tell: &Tell, on_the_rig: bool) -> LiveView {
        let derived = self.window();
        let reached = self.reached();
        let off = self.events().iter().any(|e| matches!(e.kind, EventKind::PumpOff | EventKind::Repump | EventKind::Bleed));
        let next_step = if off { None } else { self.schedule(tell.say).into_iter().nth(reached) };
        let channels = self.channels(now);
        let agreements = derived.map(|d| self.agreements(&channels, d.density_kg_m3)).unwrap_or_default();
        let needle = self.needle(now);
        let by_itself = self.facts().gauge.as_ref().is_some_and(|g| g.connection.is_some());
        let last = needle.readings.last().copied();
        // what came late is as old as it came
        let heard_s = now.heard_s.filter(|_| needle.typed_by.is_none()).map_or(0.0, |h| h * now.rate);
        let age_s = last.map(|l| (now.s - l.0).max(heard_s));
        let curve = pumping(self, now.s);
        let forecast =
            last.zip(derived).and_then(|(last, d)| self.ahead(d, curve.as_ref(), &needle.readings, last, next_step.as_ref(), now));
        let pumped = curve.as_ref().is_some_and(|c| c.strokes_per_min > 0.0);
        let rising = pumped || forecast.as_ref().is_some_and(|f| f.rate_pa_per_s > RISES * self.still());
        let countdown = self.countdown(now, tell);
        let left_s = countdown.as_ref().filter(|c| c.waits_for == WaitsFor::Hold).map(|c| c.left_s);
        let falling = derived.zip(left_s).map(|(d, left)| falling(&needle.readings, d.hold_least_pa(), self.facts().division(), left));
        let seen = Seen { channels: &channels, agreements: &agreements, curve: curve.as_ref(), falling: falling.as_ref() };
        LiveView {
            now: now.at,
            clock_rate: now.rate,
            last_seq: self.last_seq(),
            recorded: self.facts().recorded,
            on_the_rig,
            pressure_pa: last.map(|l| l.1.pa()),
            silent: by_itself && !self.over() && (needle.typed_by.is_some() || age_s.is_none_or(|a| a > now.silent_s())),
            age_s,
            temperature_c: self.last_temperature(),
            instruction: self.instruction(now, tell),
            barrier: self.barrier(now, tell, rising),
            warnings: self.warnings(now, tell, &seen),
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
    fn still(&self) -> f64 {
        self.facts().division().pa() * STILL_DIVISIONS_PER_MIN / 60.0
    }

    fn ahead(
        &self,
        derived: &Derived,
        curve: Option<&PumpingView>,
        readings: &[(f64, GaugePressure)],
        (t, p): (f64, GaugePressure),
        next: Option<&Step>,
        now: &Now,
    ) -> Option<Forecast> {
        let day = derived.day.as_ref()?;
        let rate = if now.s - t > TELLS_WAY_S { 0.0 } else { rate(readings) };
        let lines = Lines { target: next.map(|s| s.target_pa), alarm: day.alarm_pa, stop_line: day.stop_line_pa, upper: derived.upper_pa };
        let reaction = self.facts().system.site.reaction();
        Some(forecast(p, rate, curve.and_then(|c| c.per_stroke_pa), self.still(), lines, reaction))
    }
}
