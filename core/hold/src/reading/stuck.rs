//! Stuck and saturated gauges: the same value again and again, longer than its noise and its division can explain.

use super::defect::{Defect, Kind};
use crate::input::{Gauge, Hold, Record};

/// A run of equal readings.
struct Run {
    /// Rows among the usable ones.
    from: usize,
    to: usize,
}

fn runs(x: &[f64]) -> Vec<Run> {
    let mut out: Vec<Run> = Vec::with_capacity(x.len());
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
/// Runs shorter than this say nothing.
const SHORT: usize = 6;

/// A pump stroke or a bleed takes up to about this long, s (common practice).
pub(super) const STROKE: f64 = 45.0;

/// Stretches over which a gauge is stuck or stands at its full scale.
pub(super) fn find(hold: &Hold, record: &Record, channel: usize, found: &mut Vec<Defect>) {
    let gauge = &hold.gauges[channel];
    let rows: Vec<usize> = (0..record.time_s.len()).filter(|i| !record.channels[channel][*i].is_nan()).collect();
    let x: Vec<f64> = rows.iter().map(|i| record.channels[channel][*i]).collect();
    let n = x.len();
    if n < 10 {
        return;
    }
    let repeats = repeats(gauge);
    let all = runs(&x);
    let mut springs: Vec<f64> = all.windows(2).map(|w| (x[w[1].from] - x[w[0].to]).abs()).collect();
    let middle = springs.len() / 2;
    let usual = if springs.is_empty() { gauge.resolution_pa } else { *springs.select_nth_unstable_by(middle, f64::total_cmp).1 };
    for (k, r) in all.iter().enumerate() {
        let len = r.to - r.from + 1;
        if len < SHORT {
            continue;
        }
        let rows_of = || rows[r.from..=r.to].to_vec();
        if x[r.from] >= 0.995 * gauge.range_pa {
            found.push(Defect::of_rows(Kind::Saturated, channel, rows_of()));
            continue;
        }
        let improbable = n as f64 * repeats.powi(len as i32 - 1) < LUCK;
        // let go, it springs to where the pressure went meanwhile
        let released = all.get(k + 1).map_or(0.0, |next| (x[next.from] - x[r.to]).abs());
        let long = len as f64 >= 0.05 * n as f64;
        let sprang = long
            && released > 2.6 * gauge.resolution_pa
            && released > 5.0 * gauge.white_sd_pa
            && released > 2.2 * usual
            && goes_on(&record.time_s, &rows, &x, r, released)
            && !others_spring(hold, record, channel, (rows[r.to], rows[r.to + 1]), released);
        if improbable
            || sprang
            || against_trend(gauge, (&record.time_s, &rows, &x), r)
            || against_others(hold, record, channel, &rows[r.from..=r.to])
        {
            found.push(Defect::of_rows(Kind::Stuck, channel, rows_of()));
        }
    }
}

/// A released gauge springs as far as the pressure went meanwhile: it must have been moving before or after. A pump stroke springs from rest.
fn goes_on(time: &[f64], rows: &[usize], x: &[f64], r: &Run, released: f64) -> bool {
    let next = r.to + 1;
    let len = r.to - r.from + 1;
    let rate = |a: usize, b: usize| (x[b] - x[a]) / (time[rows[b]] - time[rows[a]]).max(1e-9);
    let stuck_for = time[rows[r.to]] - time[rows[r.from]];
    let pause = time[rows[next]] - time[rows[r.to]];
    let past = past_stroke(time, rows, next);
    let after = rate(past, (past + len.max(4)).min(x.len() - 1));
    let before = if r.from > 0 { rate(r.from.saturating_sub(len.max(4)), r.from) } else { 0.0 };
    let along = |v: f64| if v * (x[next] - x[r.to]) > 0.0 { v.abs() } else { 0.0 };
    let (before, after) = (along(before) * stuck_for, along(after) * stuck_for);
    pause < 3.0 * stuck_for / (len - 1) as f64 && before.max(after) > 0.3 * released && after > 0.12 * released
}

/// The reading after which a stroke that began at this one is over: what goes on after that is the pressure.
fn past_stroke(time: &[f64], rows: &[usize], from: usize) -> usize {
    // times rise
    let past = from + rows[from..].partition_point(|i| time[*i] - time[rows[from]] < STROKE);
    if past + 1 < rows.len() { past } else { from }
}

/// Another gauge springs at the same reading: the pressure did.
fn others_spring(hold: &Hold, record: &Record, channel: usize, (last, next): (usize, usize), released: f64) -> bool {
    (0..hold.gauges.len()).filter(|g| *g != channel).any(|g| {
        let (a, b) = (record.channels[g][last], record.channels[g][next]);
        ((b - a).abs() - released).abs() < 0.3 * released + hold.gauges[g].resolution_pa
    })
}

/// Chance that a reading repeats the one before at a steady pressure, at most: the noise stays within one division.
fn repeats(gauge: &Gauge) -> f64 {
    let spread = 0.85 * gauge.white_sd_pa;
    if spread <= 0.0 { 1.0 } else { statrs::function::erf::erf(gauge.resolution_pa / (2.0 * std::f64::consts::SQRT_2 * spread)) }
}

/// The pressure falls (or rises) before and after, by divisions that the run does not show.
fn against_trend(gauge: &Gauge, (time, rows, x): (&[f64], &[usize], &[f64]), r: &Run) -> bool {
    let len = r.to - r.from + 1;
    let side = (len / 2).max(5);
    if r.from < side || r.to + 1 >= x.len() {
        return false;
    }
    let past = past_stroke(time, rows, r.to + 1);
    if past + side > x.len() {
        return false;
    }
    let before = (x[r.from] - x[r.from - side]) / side as f64;
    let after = (x[past + side - 1] - x[past]) / side as f64;
    let least = before.abs().min(after.abs());
    before * after > 0.0 && least * len as f64 > 3.2 * gauge.resolution_pa + 8.0 * gauge.white_sd_pa
}

/// Another gauge moved meanwhile.
fn against_others(hold: &Hold, record: &Record, channel: usize, rows: &[usize]) -> bool {
    let gauge = &hold.gauges[channel];
    (0..hold.gauges.len()).filter(|g| *g != channel).any(|g| {
        let other = &hold.gauges[g];
        let read: Vec<f64> = rows.iter().map(|i| record.channels[g][*i]).filter(|v| !v.is_nan()).collect();
        if read.len() < SHORT {
            return false;
        }
        let middle = |v: &[f64]| {
            let mut v = v.to_vec();
            v.sort_by(f64::total_cmp);
            v[v.len() / 2]
        };
        let third = (read.len() / 4).max(3).min(read.len());
        let moved = (middle(&read[read.len() - third..]) - middle(&read[..third])).abs();
        moved > 1.7 * gauge.resolution_pa + 2.0 * other.resolution_pa + 6.0 * (gauge.white_sd_pa + other.white_sd_pa)
    })
}
