//! The hour at which a run is looked at, and how it is told.

use moment::{Instant, Zone};
use rules::say::Say;

/// The hour at which a run is looked at.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Now {
    /// What the installation's clock shows.
    pub at: Instant,
    /// The same, s from the release, by the run's own time.
    pub s: f64,
    /// How many times faster than the real one the clock runs.
    pub rate: f64,
    /// Time between two readings of the recorder, s.
    pub every_s: f64,
    /// For how long nothing has come from the recorder since its last instant came, s; none where none came.
    pub heard_s: Option<f64>,
}

/// A recorded figure that is older than this is not now, s of the real clock.
const SILENT_S: f64 = 3.0;

impl Now {
    /// By the installation's clock, with nothing heard from a recorder.
    pub fn by_clock(run: &crate::Run, at: Instant) -> Self {
        Self { at, s: run.now_s(at), rate: 1.0, every_s: 1.0, heard_s: None }
    }

    /// While the recorder speaks, its own time is the run's: a clock that somebody sets moves neither ages nor countdowns.
    pub fn by_recorder(run: &crate::Run, at: Instant, rate: f64, every_s: f64, heard_s: Option<f64>) -> Self {
        let clock = Self { at, s: run.now_s(at), rate, every_s, heard_s };
        let last = run.ticks().last().map(|t| run.seconds_us(t.run_us));
        match last.zip(heard_s).filter(|(_, heard)| heard * rate <= clock.silent_s()) {
            Some((last, heard)) => Self { s: last + heard * rate, ..clock },
            None => clock,
        }
    }

    /// A recorded figure that is older than this is not now, s.
    pub fn silent_s(&self) -> f64 {
        SILENT_S.mul_add(self.rate, self.every_s)
    }
}

/// How a run is told: units, zone, and the day on which it is read.
#[derive(Debug, Clone)]
pub struct Tell {
    /// How pressures are said.
    pub say: Say,
    /// Whose clock.
    pub zone: Zone,
    /// The hour at which it is read: times of another day are said with their day.
    pub at: Instant,
}

impl Tell {
    /// A time as people say it.
    pub fn time(&self, at: Instant) -> String {
        self.zone.said(at, self.at)
    }
}
