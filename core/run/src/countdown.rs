//! What is waited for, and until when.

use crate::now::Now;
use crate::run::Run;
use judge::read::TimeRange;
use judge::segments::Clock;
use moment::Instant;
use pack::low_gas;
use quantity::RunTime;
use rules::accept::{QuickFall, counts_water};
use rules::system::Derived;
use serde::{Deserialize, Serialize};
use terms::EventKind;

/// What is waited for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WaitsFor {
    /// the low gas test is watched
    LowGas,
    /// water, metal and surroundings come together
    Soak,
    /// a step of the raise
    Step,
    /// the wall stretches at test pressure
    Stretch,
    /// it settles at test pressure
    Settle,
    /// it falls with the pump off, before it is lowered quickly
    Fall,
    /// the hold
    Hold,
}

impl WaitsFor {
    /// In words, before the time that is left.
    pub const fn words(self) -> &'static str {
        match self {
            Self::LowGas => "watch for bubbles",
            Self::Soak => "let it soak",
            Self::Step => "hold this step",
            Self::Stretch => "stretch",
            Self::Settle => "settle",
            Self::Fall => "wait",
            Self::Hold => "hold",
        }
    }
}

/// A time to wait for.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Countdown {
    /// What for.
    pub waits_for: WaitsFor,
    /// The same in words.
    pub words: String,
    /// When it is over, as the installation's clock will show it.
    pub until: Instant,
    /// The same as people say it.
    pub until_words: String,
    /// Seconds left; nil when over.
    pub left_s: f64,
}

impl Run {
    /// When the rest at the step that was reached last is over, s from the release; none before the first.
    pub fn rest_until_s(&self) -> Option<f64> {
        let (schedule, reached) = (&self.facts().schedule, self.reached());
        let step = schedule.get(reached.checked_sub(1)?)?;
        let at = self.last_s(EventKind::StepReached)?;
        let rest = if reached == schedule.len() { step.hold_s - self.frozen().hold().s() } else { step.hold_s };
        Some(at + rest.max(0.0))
    }

    /// When the clock of a hold was started last, s from the release: when the pump was taken off, or by a stroke that starts it anew; none before.
    pub fn clock_from_s(&self) -> Option<f64> {
        let events = self.judged_events();
        let off = events.iter().rfind(|e| e.kind == EventKind::PumpOff)?.t_s;
        let since = TimeRange { start: off, end: RunTime::from_s(f64::INFINITY) };
        Some(self.clock().restarted(&events, since).unwrap_or(off).s())
    }

    /// What starts its clock anew.
    pub(crate) fn clock(&self) -> Clock {
        Clock {
            counts_water: self.window().is_some_and(|d| counts_water(&d.criteria)),
            one_repump: self.frozen().specification.answer("repump").key == "once",
        }
    }

    /// Until when a run waits with the pump off for the quick fall that its basis asks for, s from the release; none before and after.
    pub fn waits_until_s(&self) -> Option<(QuickFall, f64)> {
        let quick = self.window()?.lowering()?.quick?;
        let off = self.last_s(EventKind::PumpOff)?;
        let lowered = self.last_s(EventKind::Bleed).is_some_and(|bled| bled > off);
        (!lowered && !self.has(EventKind::HoldEnded)).then(|| (quick, off + quick.wait_s.s()))
    }

    /// What is waited for, and until when, s from the release.
    pub fn waits(&self) -> Option<(WaitsFor, f64)> {
        if self.over() || self.has(EventKind::HoldEnded) {
            return None;
        }
        if let Some(low_gas::Stage::On { since_s, leaks: false, .. }) = self.low_gas().filter(|_| !self.has(EventKind::Filled)) {
            return Some((WaitsFor::LowGas, since_s + low_gas::HELD.s()));
        }
        if let Some(soak) = self.soak().filter(|_| self.reached() == 0 && !self.has(EventKind::PumpOff)) {
            return Some((WaitsFor::Soak, soak.until_s));
        }
        if let Some((_, end)) = self.waits_until_s() {
            return Some((WaitsFor::Fall, end));
        }
        if let Some(start) = self.clock_from_s().filter(|_| self.has(EventKind::PumpOff)) {
            return Some((WaitsFor::Hold, start + self.frozen().hold().s()));
        }
        let words = match self.window().and_then(Derived::lowering) {
            _ if self.reached() != self.facts().schedule.len() => WaitsFor::Step,
            Some(_) => WaitsFor::Stretch,
            None => WaitsFor::Settle,
        };
        Some((words, self.rest_until_s()?))
    }

    /// The same as a countdown.
    pub fn countdown(&self, now: &Now, tell: &crate::Tell) -> Option<Countdown> {
        let (waits_for, until_s) = self.waits()?;
        let until = self.shown(until_s);
        Some(Countdown {
            waits_for,
            words: waits_for.words().to_owned(),
            until,
            until_words: tell.time(until),
            left_s: (until_s - now.s).max(0.0),
        })
    }
}
