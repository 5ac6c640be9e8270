//! Temperature of the water from what a thermometer read.

use crate::case::{HoldCase, Location, Thermometer};

/// Temperature of the water at each time: the readings, interpolated, through a first-order lag. None when they cover
/// less than four fifths of the hold.
pub(crate) fn of_water(case: &HoldCase, thermometer: &Thermometer, lag_s: f64, at: &[f64]) -> Option<Vec<f64>> {
    let read: Vec<(f64, f64)> = case.readings.iter().filter_map(|r| Some((r.t_s, r.temperature_c?.c()))).collect();
    let within: Vec<f64> = read.iter().map(|r| r.0).filter(|t| *t >= case.hold_start_s && *t <= case.hold_end_s).collect();
    let covered = within.last()? - within.first()?;
    if within.len() < 2 || covered < 0.8 * (case.hold_end_s - case.hold_start_s) {
        return None;
    }
    let lagged: Vec<(f64, f64)> = if thermometer.location == Location::Water || lag_s <= 0.0 {
        read
    } else {
        let mut out = Vec::with_capacity(read.len());
        let mut now = read[0].1;
        for (i, r) in read.iter().enumerate() {
            if i > 0 {
                let (dt, drive) = ((r.0 - read[i - 1].0).max(1e-9), read[i - 1].1);
                let rate = (r.1 - drive) / dt;
                // exact response to a drive that changes linearly over the step
                let e = (-dt / lag_s).exp();
                now = r.1 - rate * lag_s + (now - drive + rate * lag_s) * e;
            }
            out.push((r.0, now));
        }
        out
    };
    Some(at.iter().map(|t| interpolate(&lagged, *t)).collect())
}

fn interpolate(points: &[(f64, f64)], t: f64) -> f64 {
    let i = points.partition_point(|p| p.0 <= t);
    match (i.checked_sub(1).map(|j| points[j]), points.get(i)) {
        (None, Some(next)) => next.1,
        (Some(before), None) => before.1,
        (Some(a), Some(b)) => a.1 + (b.1 - a.1) * (t - a.0) / (b.0 - a.0),
        (None, None) => f64::NAN,
    }
}
