//! Where the hold begins and ends.

use crate::case::{Event, EventKind};

/// The hold within a run: from the last time the pump was stopped (or pumped again) to the end that was called, or to
/// the last reading. None while the pump has not been stopped.
pub fn hold_of(events: &[Event], last_reading_s: Option<f64>) -> Option<(f64, f64)> {
    let ended = events.iter().filter(|e| e.kind == EventKind::HoldEnded).map(|e| e.t_s).fold(f64::INFINITY, f64::min);
    let end = last_reading_s?.min(ended);
    let start = events
        .iter()
        .filter(|e| matches!(e.kind, EventKind::PumpOff | EventKind::Repump | EventKind::Bleed) && e.t_s <= end)
        .map(|e| e.t_s)
        .fold(f64::NEG_INFINITY, f64::max);
    (start.is_finite() && end > start).then_some((start, end))
}
