//! When a hold that goes on as it does will have settled the question.

use crate::case::HoldCase;
use crate::finding::{Finding, find};

/// Time at which the finding will be settled, s from the case's origin; none when it is settled, or when time alone does not settle it.
///
/// A leak is settled when its interval excludes zero, tightness when the least leak that the hold could have shown is the one asked for. Both
/// half-widths shrink at least as fast as 1/T (an offset of thermometer or gauge over the time; the slope in noise as T^-1.5), so the time
/// that is still needed is at most that of 1/T. An upper estimate; it is made anew with every reading.
pub fn settles_at(case: &HoldCase) -> Option<f64> {
    let found = find(case);
    let leak = found.leak.filter(|_| found.finding != Finding::LeakShown)?;
    let asked = case.acceptance.required_sensitivity_m3_per_s?.m3_per_s();
    let so_far = case.hold_end_s - case.hold_start_s;
    let need = leak.detection_limit_m3_per_s / asked;
    (need > 1.0 && need.is_finite() && so_far > 60.0).then_some(case.hold_start_s + so_far * need)
}
