//! Spikes: one or two readings far from neighbours that agree with one another.

use super::defect::{Defect, Kind};
use crate::input::{Hold, Record};

/// Middle value of the absolute values; nil of none.
pub(super) fn middle_absolute(values: impl Iterator<Item = f64>) -> f64 {
    let mut all = Vec::with_capacity(values.size_hint().1.unwrap_or(0));
    all.extend(values.map(f64::abs).filter(|v| !v.is_nan()));
    if all.is_empty() {
        return 0.0;
    }
    let middle = all.len() / 2;
    *all.select_nth_unstable_by(middle, f64::total_cmp).1
}

/// Spikes of a channel, together as one defect from the first to the last. Looked for again without those found, for spikes hide one another.
pub(super) fn find(hold: &Hold, record: &Record, channel: usize, found: &mut Vec<Defect>) {
    let readings = &record.channels[channel];
    let mut rows = Vec::with_capacity(readings.len());
    rows.extend((0..readings.len()).filter(|i| !readings[*i].is_nan()));
    let mut spikes = Vec::new();
    for _ in 0..PASSES {
        let seen = once(hold, record, channel, &rows);
        if seen.is_empty() {
            break;
        }
        rows.retain(|r| !seen.contains(r));
        spikes.extend(seen);
    }
    if !spikes.is_empty() {
        spikes.sort_unstable();
        found.push(Defect::of_rows(Kind::Spike, channel, spikes));
    }
}

/// Of more readings than this, some tell what is usual as well as all.
const ENOUGH: usize = 5000;
/// How often a channel is gone through.
const PASSES: usize = 3;

/// Spikes among some rows.
fn once(hold: &Hold, record: &Record, channel: usize, rows: &[usize]) -> Vec<usize> {
    let (division, noise) = hold.noise_of(channel);
    let mut spikes = Vec::new();
    if rows.len() < 8 {
        return spikes;
    }
    let channel = &record.channels[channel];
    let x: Vec<f64> = rows.iter().map(|i| channel[*i]).collect();
    let off = |three: &[f64]| three[1] - 0.5 * (three[0] + three[2]);
    let usual = 1.4826 * middle_absolute(x.windows(3).step_by(x.len() / ENOUGH + 1).map(off));
    let floor = (1.5 * (noise * noise + division * division / 12.0)).sqrt();
    let far = 7.0 * usual.max(floor) + division;
    let mut next = 1;
    for (i, three) in (1..).zip(x.windows(3)) {
        let d = off(three);
        // the neighbour of a spike is none
        if d.abs() > far && i >= next && (three[2] - three[0]).abs() < 0.5 * d.abs() && single(&x, i, far) && !corner(&x, i, d) {
            spikes.push(rows[i]);
            next = i + 2;
        }
    }
    spikes
}

/// True when the reading goes on as the channel comes to it, or as it leaves it, over three readings: the channel turned there, as when a
/// cloud comes.
fn corner(x: &[f64], i: usize, d: f64) -> bool {
    let along = |at: [Option<usize>; 3]| {
        let [Some(a), Some(b), Some(c)] = at.map(|k| k.and_then(|k| x.get(k))) else { return false };
        let steps = [x[i] - a, a - b, b - c];
        (steps[0] - steps[1]).abs() < 0.7 * d.abs() && steps.windows(2).all(|s| (0.4..2.5).contains(&(s[0] / s[1])))
    };
    along([1, 2, 3].map(|k| i.checked_sub(k))) || along([1, 2, 3].map(|k| Some(i + k)))
}

/// True when the reading is far from both neighbours on the same side, and not the neighbour of a farther one.
fn single(x: &[f64], i: usize, far: f64) -> bool {
    let (before, after) = (x[i] - x[i - 1], x[i] - x[i + 1]);
    before * after > 0.0 && before.abs().min(after.abs()) > 0.6 * far
}
