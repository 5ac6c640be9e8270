//! Repumps and bleeds that nobody booked: the pressure steps within less than a minute and stays.

use super::defect::{Defect, Kind};
use super::spikes::middle_absolute;
use crate::input::{Hold, Record, Step};

/// A pump stroke or a bleed takes up to about this long, s (common practice).
const LONG: f64 = 45.0;
/// Readings on each side that a step is measured against.
const SIDE: usize = 8;

/// Steps with what the fit is to make of them: a free volume between the last reading before and the first after.
pub(super) fn find(hold: &Hold, record: &Record) -> Vec<(Defect, Step)> {
    let gauge = &hold.gauges[0];
    let rows: Vec<usize> = (0..record.time_s.len()).filter(|i| !record.channels[0][*i].is_nan()).collect();
    if rows.len() < 24 {
        return Vec::new();
    }
    let t: Vec<f64> = rows.iter().map(|i| record.time_s[*i]).collect();
    let x: Vec<f64> = rows.iter().map(|i| record.channels[0][*i]).collect();
    let n = x.len();
    let mut step: Vec<f64> = (1..n).map(|i| t[i] - t[i - 1]).collect();
    let middle = step.len() / 2;
    let interval = *step.select_nth_unstable_by(middle, f64::total_cmp).1;
    let wide = ((LONG / interval).ceil() as usize).max(1);
    // jump across each window, both sides carried on by their own lines
    let score = |i: usize| -> f64 {
        let (a, b) = (i, i + wide);
        if a < 2 || b + 3 > n {
            return 0.0;
        }
        let before = a.saturating_sub(SIDE)..a + 1;
        let after = b..(b + SIDE + 1).min(n);
        let mid = 0.5 * (t[a] + t[b]);
        line_at(&t[after.clone()], &x[after], mid) - line_at(&t[before.clone()], &x[before], mid)
    };
    let scores: Vec<f64> = (0..n - wide).map(score).collect();
    let usual = 1.4826 * middle_absolute(scores.iter().copied().filter(|s| *s != 0.0));
    let noise = (gauge.white_sd_pa.powi(2) + gauge.resolution_pa.powi(2) / 12.0).sqrt();
    let far = (9.0 * usual).max(8.0 * noise).max(0.0025 * hold.pressure_pa).max(1.5 * gauge.resolution_pa);
    let mut out: Vec<(Defect, Step)> = Vec::new();
    let mut taken = vec![false; n];
    loop {
        let best = (0..scores.len()).filter(|i| !taken[*i]).max_by(|a, b| scores[*a].abs().total_cmp(&scores[*b].abs()));
        let Some(i) = best.filter(|i| scores[*i].abs() > far) else { break };
        let reach = SIDE + wide;
        taken[i.saturating_sub(reach)..(i + reach + 1).min(n)].fill(true);
        let (from, to) = edges(&x, i, wide, scores[i]);
        let sharp = (x[to] - x[from]).abs() > 0.6 * scores[i].abs();
        // a gap hides what happened in it, and heat may do it too
        let whole = t[to] - t[from] <= LONG + 2.5 * interval;
        let booked = hold.steps.iter().any(|s| t[from] < s.end_s + interval + 60.0 && t[to] > s.start_s - interval - 60.0);
        if !sharp || !whole || booked || !others_agree(hold, record, rows[from], rows[to], scores[i]) || out.len() > 4 {
            continue;
        }
        let kind = if scores[i] > 0.0 { Kind::Repump } else { Kind::Bleed };
        let defect = Defect::of_rows(kind, 0, vec![rows[from], rows[to]]);
        out.push((defect, Step { start_s: t[from] + 0.01 * interval, end_s: t[to] - 0.01 * interval, volume: None }));
    }
    out
}

/// Value at `at` of a straight line through points.
fn line_at(t: &[f64], x: &[f64], at: f64) -> f64 {
    let n = t.len() as f64;
    let (mt, mx) = (t.iter().sum::<f64>() / n, x.iter().sum::<f64>() / n);
    let (mut sxy, mut sxx) = (0.0, 0.0);
    for (t, x) in t.iter().zip(x) {
        sxy += (t - mt) * (x - mx);
        sxx += (t - mt) * (t - mt);
    }
    mx + if sxx > 0.0 { sxy / sxx * (at - mt) } else { 0.0 }
}

/// First and last reading of the change within a window.
fn edges(x: &[f64], i: usize, wide: usize, jump: f64) -> (usize, usize) {
    let (mut from, mut to) = (i, (i + wide).min(x.len() - 1));
    let moves = |a: usize, b: usize| (x[b] - x[a]) * jump.signum() > 0.1 * jump.abs();
    while from > 0 && moves(from - 1, from) {
        from -= 1;
    }
    while from + 1 < to && !moves(from, from + 1) {
        from += 1;
    }
    while to + 1 < x.len() && moves(to, to + 1) {
        to += 1;
    }
    while to > from + 1 && !moves(to - 1, to) {
        to -= 1;
    }
    (from, to)
}

/// Every other gauge that was read at both ends moved alike.
fn others_agree(hold: &Hold, record: &Record, from: usize, to: usize, jump: f64) -> bool {
    (1..hold.gauges.len()).all(|g| {
        let (a, b) = (record.channels[g][from], record.channels[g][to]);
        let division = hold.gauges[g].resolution_pa;
        a.is_nan() || b.is_nan() || ((b - a) - jump).abs() < 0.5 * jump.abs() + 1.5 * division
    })
}
