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
    let wrong = |v: f64| {
        !v.is_nan() && !fits(v) && v > 0.02 * expected && FACTORS.iter().any(|f| fits(v / f) && (*f < 1.0 || v > 1.25 * gauge.range_pa))
    };
    let x = &record.channels[channel];
    let read: Vec<usize> = (0..x.len()).filter(|i| !x[*i].is_nan()).collect();
    let mut k = 0;
    while k < read.len() {
        if !wrong(x[read[k]]) {
            k += 1;
            continue;
        }
        let first = k;
        while k < read.len() && wrong(x[read[k]]) {
            k += 1;
        }
        // a slip springs by its factor at both ends, a pressure that runs away does not
        let springs = |a: usize, b: usize| (x[read[a]] / x[read[b]]).max(x[read[b]] / x[read[a]]) > 3.0;
        let starts = first == 0 || springs(first - 1, first);
        let ends = k == read.len() || springs(k - 1, k);
        if starts && ends && !(first == 0 && k == read.len()) {
            found.push(Defect::of_rows(Kind::WrongUnit, channel, read[first..k].to_vec()));
        }
    }
}
