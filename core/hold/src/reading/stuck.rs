//! Stuck and saturated gauges: the same value again and again, longer than its noise and its division can explain.

use super::defect::{Defect, Kind};
use crate::input::{Hold, Record};

/// A run of equal readings.
struct Run {
    /// Rows among the usable ones.
    from: usize,
    to: usize,
}

fn runs(x: &[f64]) -> Vec<Run> {
    let mut out: Vec<Run> = Vec::new();
    for i in 0..x.len() {
        match out.last_mut() {
            Some(r) if x[i] == x[r.from] => r.to = i,
            _ => out.push(Run { from: i, to: i }),
        }
    }
    out
}

/// Chance at which a run is called stuck rather than luck.
const LUCK: f64 = 1e-5;

/// Stretches over which a gauge is stuck or stands at its full scale.
pub(super) fn find(hold: &Hold, record: &Record, channel: usize, found: &mut Vec<Defect>) {
    let gauge = &hold.gauges[channel];
    let rows: Vec<usize> = (0..record.time_s.len()).filter(|i| !record.channels[channel][*i].is_nan()).collect();
    let x: Vec<f64> = rows.iter().map(|i| record.channels[channel][*i]).collect();
    let n = x.len();
    if n < 10 {
        return;
    }
    let all = runs(&x);
    let Some(longest) = all.iter().map(|r| r.to - r.from + 1).max() else { return };
    // how often a reading repeats the one before, the longest run left out
    let (mut pairs, mut equal) = (0.0, 0.0);
    for r in all.iter().filter(|r| r.to - r.from + 1 < longest) {
        let len = (r.to - r.from + 1) as f64;
        pairs += len;
        equal += len - 1.0;
    }
    let repeats = ((equal + 1.0) / (pairs + 2.0)).min(0.995);
    let mut jumps: Vec<f64> = all.windows(2).map(|w| (x[w[1].from] - x[w[0].to]).abs()).collect();
    jumps.sort_by(f64::total_cmp);
    let usual = if jumps.is_empty() { gauge.resolution_pa } else { jumps[jumps.len() / 2] };
    for (k, r) in all.iter().enumerate() {
        let len = r.to - r.from + 1;
        if len < 6 {
            continue;
        }
        let rows_of = || rows[r.from..=r.to].to_vec();
        if x[r.from] >= 0.995 * gauge.range_pa {
            found.push(Defect::of_rows(Kind::Saturated, channel, rows_of()));
            continue;
        }
        let lucky = n as f64 * repeats.powi(len as i32 - 1);
        // let go, it springs to where the pressure went meanwhile
        let released = all.get(k + 1).map_or(0.0, |next| (x[next.from] - x[r.to]).abs());
        let sprang = released > 2.6 * gauge.resolution_pa && released > 4.0 * gauge.white_sd_pa && released > 2.2 * usual;
        let long = len as f64 >= 0.05 * n as f64;
        let improbable = lucky < LUCK && len as f64 > 3.0 * mean_run(&all, longest);
        if improbable || (long && sprang && lucky < 0.3) {
            found.push(Defect::of_rows(Kind::Stuck, channel, rows_of()));
        }
    }
}

/// Mean length of the runs but the longest.
fn mean_run(all: &[Run], longest: usize) -> f64 {
    let others: Vec<f64> = all.iter().map(|r| r.to - r.from + 1).filter(|l| *l < longest).map(|l| l as f64).collect();
    if others.is_empty() { longest as f64 } else { others.iter().sum::<f64>() / others.len() as f64 }
}
