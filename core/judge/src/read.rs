//! A pressure with its time, and a part of a run in time.

use quantity::{GaugePressure, RunTime, Span};
use serde::Serialize;

/// A pressure as it was read.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Read {
    /// When.
    pub t: RunTime,
    /// What.
    pub p: GaugePressure,
}

/// The greatest of some pressures; none of none.
pub(crate) fn most(of: impl IntoIterator<Item = GaugePressure>) -> Option<GaugePressure> {
    of.into_iter().reduce(GaugePressure::max)
}

/// The least of some pressures; none of none.
pub(crate) fn least(of: impl IntoIterator<Item = GaugePressure>) -> Option<GaugePressure> {
    of.into_iter().reduce(GaugePressure::min)
}

/// From one time to another, both with it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct TimeRange {
    /// From.
    pub start: RunTime,
    /// To.
    pub end: RunTime,
}

impl TimeRange {
    /// True for a time in it.
    pub fn contains(self, t: RunTime) -> bool {
        t >= self.start && t <= self.end
    }

    /// How long it is.
    pub fn length(self) -> Span {
        self.end - self.start
    }
}
