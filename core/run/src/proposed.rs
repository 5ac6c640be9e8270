//! What a logger's file shows of the run's course: steps, pump off, end of the hold, release. A person confirms it, and it is not typed again.

use crate::now::Tell;
use crate::run::Run;
use crate::situation::At;
use judge::read::Read;
use moment::Instant;
use quantity::{GaugePressure, Span};
use serde::Serialize;
use terms::{EventKind, Term};

/// A pressure rests where it changes by no more than this share within [`REST`].
const STILL: f64 = 0.005;
/// For how long a pressure is looked at to see whether it rests.
const REST: Span = Span::from_s(60.0);
/// A fall to less than this share of what was held ends the hold.
const LET_OUT: f64 = 0.95;

/// What a file shows, to be booked by one act.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Proposed {
    /// What.
    pub kind: EventKind,
    /// When the file shows it.
    pub at: Instant,
    /// The gauge then, Pa.
    #[schema(value_type = f64)]
    pub pressure_pa: GaugePressure,
    /// In words.
    pub words: String,
}

/// Readings from one on, until so long after it.
fn soon(reads: &[Read], from: usize) -> &[Read] {
    let end = reads[from].t + REST;
    let to = reads.partition_point(|r| r.t <= end);
    &reads[from..to.max(from + 1)]
}

/// The first reading from an index on that is high enough, and from which the pressure does not rise on.
fn rests(reads: &[Read], from: usize, least: GaugePressure) -> Option<usize> {
    (from..reads.len()).find(|i| {
        let here = reads[*i].p;
        here >= least && soon(reads, *i).iter().all(|r| (r.p - here).pa() <= STILL * here.pa())
    })
}

impl Run {
    /// What the loggers' files of a run show that is not booked yet, in the order of time; nothing without a file, and nothing before the filling is booked.
    pub fn proposed(&self, tell: &Tell) -> Vec<Proposed> {
        let Some(derived) = self.window().filter(|_| self.logged() > 0 && self.has(EventKind::Filled) && !self.over()) else {
            return Vec::new();
        };
        let reads = self.pressures();
        let clock = |i: usize| self.shown(reads[i].t.s());
        let zero = At::new(self, self.shown(reads.last().map_or(0.0, |r| r.t.s())), 1.0).gauges().first().map(pack::acts::GaugeRead::zero);
        let say = self.at_gauge(tell.say);
        let one = |kind: EventKind, i: usize, words: String| Proposed { kind, at: clock(i), pressure_pa: reads[i].p, words };
        let begun = self.last_s(EventKind::StepReached).or_else(|| self.last_s(EventKind::Filled)).unwrap_or(0.0);
        let mut from = reads.partition_point(|r| r.t.s() < begun);
        let mut all = Vec::new();
        let off = self.has(EventKind::PumpOff);
        let error = self.facts().system.gauge.error();
        let schedule = &self.facts().schedule;
        if !off {
            for (n, step) in schedule.iter().enumerate().skip(self.reached()) {
                let next = schedule.get(n + 1).map(|s| s.target_pa);
                let target = pack::acts::Target::step(step.target_pa, next, error);
                let least = GaugePressure::from_pa(target.pressure.pa() - target.short.pa());
                let Some(i) = rests(reads, from, least).filter(|i| (reads[*i].p - target.pressure).pa() <= target.beyond.pa()) else {
                    break;
                };
                all.push(one(EventKind::StepReached, i, format!("step {} reached, at {}", n + 1, say.p(reads[i].p))));
                from = i;
            }
        }
        let raised = self.reached() + all.len() == schedule.len();
        if !off
            && raised
            && let Some(i) = rests(reads, from, derived.lower_pa)
        {
            all.push(one(EventKind::PumpOff, i, format!("pump off, at {}", say.p(reads[i].p))));
            from = i;
        }
        if off || all.last().is_some_and(|p| p.kind == EventKind::PumpOff) {
            self.end(&mut all, from, zero, &one);
        }
        all
    }

    /// The end of the hold and the release, where the file shows that it fell to zero and stayed there.
    fn end(&self, all: &mut Vec<Proposed>, from: usize, zero: Option<GaugePressure>, one: &dyn Fn(EventKind, usize, String) -> Proposed) {
        let reads = self.pressures();
        let Some(zero) = zero else { return };
        let Some(last_up) = reads.iter().rposition(|r| r.p > zero) else { return };
        let out = last_up + 1;
        if out >= reads.len() || out <= from {
            return;
        }
        let held = reads[from..out].iter().map(|r| r.p).fold(GaugePressure::from_pa(0.0), GaugePressure::max);
        if let Some(end) = (from..out).rev().find(|i| reads[*i].p >= held.times(LET_OUT)).filter(|_| !self.has(EventKind::HoldEnded)) {
            all.push(one(EventKind::HoldEnded, end, EventKind::HoldEnded.words().to_owned()));
        }
        all.push(one(EventKind::Released, out, EventKind::Released.words().to_owned()));
    }
}
