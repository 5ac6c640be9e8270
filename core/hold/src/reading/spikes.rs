//! Spikes: one or two readings far from neighbours that agree with one another.

use super::defect::{Defect, Kind};
use crate::input::{Hold, Record};

/// Middle value of the absolute values; nil of none.
pub(super) fn middle_absolute(values: impl Iterator<Item = f64>) -> f64 {
    let mut all: Vec<f64> = values.map(f64::abs).filter(|v| !v.is_nan()).collect();
    if all.is_empty() {
        return 0.0;
    }
    let middle = all.len() / 2;
    *all.select_nth_unstable_by(middle, f64::total_cmp).1
}

/// Spikes of a channel, together as one defect from the first to the last.
pub(super) fn find(hold: &Hold, record: &Record, channel: usize, found: &mut Vec<Defect>) {
    let (division, noise) = hold.noise_of(channel);
    let rows: Vec<usize> = (0..record.time_s.len()).filter(|i| !record.channels[channel][*i].is_nan()).collect();
    if rows.len() < 8 {
        return;
    }
    let x: Vec<f64> = rows.iter().map(|i| record.channels[channel][*i]).collect();
    let off = |i: usize| x[i] - 0.5 * (x[i - 1] + x[i + 1]);
    let usual = 1.4826 * middle_absolute((1..x.len() - 1).map(off));
    let floor = (1.5 * (noise * noise + division * division / 12.0)).sqrt();
    let far = 7.0 * usual.max(floor) + division;
    let mut spikes = Vec::new();
    let mut i = 1;
    while i + 1 < x.len() {
        let d = off(i);
        let apart = (x[i + 1] - x[i - 1]).abs();
        if d.abs() > far && apart < 0.5 * d.abs() && single(&x, i, far) && !corner(&x, i, d) {
            spikes.push(rows[i]);
            i += 2;
            continue;
        }
        i += 1;
    }
    if !spikes.is_empty() {
        found.push(Defect::of_rows(Kind::Spike, channel, spikes));
    }
}

/// True when the reading lies on the line that comes to it or on the one that leaves it: the channel turned there, as when a cloud comes.
fn corner(x: &[f64], i: usize, d: f64) -> bool {
    let from = |a: Option<usize>, b: usize| a.and_then(|a| x.get(a)).map_or(f64::INFINITY, |a| (x[i] - (2.0 * x[b] - a)).abs());
    from(i.checked_sub(2), i - 1).min(from(Some(i + 2), i + 1)) < 0.7 * d.abs()
}

/// True when the reading is far from both neighbours on the same side, and not the neighbour of a farther one.
fn single(x: &[f64], i: usize, far: f64) -> bool {
    let (before, after) = (x[i] - x[i - 1], x[i] - x[i + 1]);
    before * after > 0.0 && before.abs().min(after.abs()) > 0.6 * far
}
