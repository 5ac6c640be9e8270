//! Readings in another unit: psi, kilopascal or megapascal where bar was meant.

use super::defect::{Defect, Kind};
use crate::input::{Hold, Record};

/// What a bar is in units that people mix up with it.
const FACTORS: [f64; 3] = [14.503_774, 100.0, 0.1];

/// Stretches of a gauge that fit the expected pressure only in another unit.
pub(super) fn find(hold: &Hold, record: &Record, channel: usize, found: &mut Vec<Defect>) {
    let gauge = &hold.gauges[channel];
    let head = if hold.fluid == crate::input::Fluid::Water { 998.0 * 9.806_65 * gauge.elevation_m } else { 0.0 };
    let expected = hold.pressure_pa - head;
    let fits = |v: f64| v > 0.15 * expected && v < 2.2 * expected;
    let wrong = |v: f64| !v.is_nan() && !fits(v) && v > 0.02 * expected && FACTORS.iter().any(|f| fits(v / f) && (*f < 1.0 || v > 1.25 * gauge.range_pa));
    // a record that is all in one unit is not a slip of some rows
    let (mut rows, mut last) = (Vec::new(), None);
    let close = |rows: &mut Vec<usize>, found: &mut Vec<Defect>| {
        if !rows.is_empty() {
            found.push(Defect::of_rows(Kind::WrongUnit, channel, std::mem::take(rows)));
        }
    };
    for (i, v) in record.channels[channel].iter().enumerate() {
        if v.is_nan() {
            continue;
        }
        if wrong(*v) {
            rows.push(i);
            last = Some(i);
        } else if last.is_some_and(|l| i > l + 1) || !rows.is_empty() {
            close(&mut rows, found);
            last = None;
        }
    }
    close(&mut rows, found);
}
