//! Repumps and bleeds that nobody booked: the pressure steps within less than a minute and stays.

use super::defect::{Defect, Kind};
use super::spikes::middle_absolute;
use super::stuck::STROKE;
use crate::input::{Hold, Record, Step};

/// Readings on each side that a step is measured against: more where noise hides it, fewer where heat bends the pressure.
const SIDES: [usize; 2] = [8, 4];
/// Fewer are taken where steps between neighbours come out this much smaller.
const CALMER: f64 = 0.6;

/// Steps with what the fit is to make of them: a free volume between the last reading before and the first after.
pub(super) fn find(hold: &Hold, record: &Record) -> Vec<(Defect, Step)> {
    // the gauge that sees the smallest step
    let sees = |g: usize| hold.gauges[g].resolution_pa + 5.0 * hold.gauges[g].white_sd_pa;
    let Some(finest) = (0..hold.gauges.len()).min_by(|a, b| sees(*a).total_cmp(&sees(*b))) else { return Vec::new() };
    let gauge = &hold.gauges[finest];
    let Pieces { t, x, rows, each } = pieces(record, finest);
    let n = x.len();
    if n < 24 {
        return Vec::new();
    }
    let mut step: Vec<f64> = (1..n).map(|i| t[i] - t[i - 1]).collect();
    let middle = step.len() / 2;
    let interval = *step.select_nth_unstable_by(middle, f64::total_cmp).1;
    let wide = ((STROKE / interval).ceil() as usize).max(1);
    // jump across each window, both sides carried on by their own lines
    let lines = |i: usize, side: usize| -> Option<(Line, Line)> {
        // the reading at either edge may be half way already
        let (a, b) = (i, i + wide + 1);
        if a < 3 || b + 3 > n {
            return None;
        }
        let before = a.saturating_sub(side)..a;
        let after = b..(b + side).min(n);
        Some((Line::through(&t[before.clone()], &x[before]), Line::through(&t[after.clone()], &x[after])))
    };
    let score = |i: usize, side: usize| -> f64 {
        let mid = 0.5 * (t[i] + t[i + wide]);
        lines(i, side).map_or(0.0, |(before, after)| after.at(mid) - before.at(mid))
    };
    let of_side = |side: usize| {
        let scores: Vec<f64> = (0..n - wide).map(|i| score(i, side)).collect();
        let usual = 1.4826 * middle_absolute(scores.iter().copied());
        (side, scores, usual)
    };
    let [many, few] = SIDES.map(of_side);
    let (side, scores, usual) = if few.2 < CALMER * many.2 { few } else { many };
    let noise = ((gauge.white_sd_pa.powi(2) + gauge.resolution_pa.powi(2) / 12.0) / each).sqrt();
    // rounding alone moves the lines of a quiet gauge by less than a division
    let rounded = if gauge.resolution_pa > 2.5 * gauge.white_sd_pa {
        6.0 * (usual - 0.5 * gauge.resolution_pa).max(0.0) + 2.2 * gauge.resolution_pa
    } else {
        f64::INFINITY
    };
    let far = (6.0 * usual).min(rounded).max(5.0 * noise).max(0.0025 * hold.pressure_pa).max(1.6 * gauge.resolution_pa);
    let mut taken = vec![false; n];
    let mut out: Vec<(Defect, Step)> = Vec::new();
    loop {
        let best = (0..scores.len()).filter(|i| !taken[*i]).max_by(|a, b| scores[*a].abs().total_cmp(&scores[*b].abs()));
        let Some(i) = best.filter(|i| scores[*i].abs() > far) else { break };
        let reach = side + wide;
        taken[i.saturating_sub(reach)..(i + reach + 1).min(n)].fill(true);
        let Some((before, after)) = lines(i, side) else { continue };
        let slope = 0.5 * (before.slope + after.slope);
        let flat: Vec<f64> = t.iter().zip(&x).map(|(t, x)| x - slope * t).collect();
        let (from, to) = edges(&flat, i, wide, (scores[i], (6.0 * noise).max(1.2 * gauge.resolution_pa)));
        let long = t[to] - t[from];
        let sharp = (flat[to] - flat[from]).abs() > 0.6 * scores[i].abs();
        // heat moves the pressure too, but before and after alike
        let rate = |line: &Line| (line.slope - slope).abs() * long + line.off;
        let beyond_heat = scores[i].abs() > 4.0 * rate(&before).max(rate(&after));
        // a gap hides what happened in it, and heat may do it too
        let whole = long <= STROKE + 2.1 * interval;
        let booked = hold.steps.iter().any(|s| t[from] < s.end_s + interval + 60.0 && t[to] > s.start_s - interval - 60.0);
        if !sharp
            || !whole
            || goes_on(&t, &flat, (from, to)) > 0.35 * scores[i].abs()
            || !beyond_heat
            || booked
            || !others_agree(hold, record, finest, (rows[from].1, rows[to].0), scores[i])
            || out.len() > 4
        {
            continue;
        }
        let kind = if scores[i] > 0.0 { Kind::Repump } else { Kind::Bleed };
        let defect = Defect::of_rows(kind, finest, vec![rows[from].1, rows[to].0]);
        out.push((defect, Step { start_s: t[from] + 0.01 * interval, end_s: t[to] - 0.01 * interval, volume: None }));
    }
    out
}

/// Readings taken together over this long, s, where they come quicker.
const PIECE: f64 = 5.0;

/// Readings of a channel, taken together where they come quicker than a step is long.
struct Pieces {
    t: Vec<f64>,
    x: Vec<f64>,
    /// First and last row of each.
    rows: Vec<(usize, usize)>,
    /// Readings in one, in the mean.
    each: f64,
}

fn pieces(record: &Record, channel: usize) -> Pieces {
    let (mut t, mut x, mut rows): (Vec<f64>, Vec<f64>, Vec<(usize, usize)>) = (Vec::new(), Vec::new(), Vec::new());
    let (mut from, mut count, mut read) = (f64::NEG_INFINITY, 0.0, 0.0);
    for (i, (at, value)) in record.time_s.iter().zip(&record.channels[channel]).enumerate().filter(|(_, (_, v))| !v.is_nan()) {
        read += 1.0;
        match (t.last_mut(), x.last_mut(), rows.last_mut()) {
            (Some(t), Some(x), Some(rows)) if at - from < PIECE => {
                count += 1.0;
                *t += (at - *t) / count;
                *x += (value - *x) / count;
                rows.1 = i;
            }
            _ => {
                (from, count) = (*at, 1.0);
                t.push(*at);
                x.push(*value);
                rows.push((i, i));
            }
        }
    }
    let each = (read / (t.len().max(1) as f64)).max(1.0);
    Pieces { t, x, rows, each }
}

/// A straight line through points.
struct Line {
    middle: (f64, f64),
    slope: f64,
    /// Mean distance of the points from it.
    off: f64,
}

impl Line {
    fn through(t: &[f64], x: &[f64]) -> Self {
        let n = t.len() as f64;
        let (mt, mx) = (t.iter().sum::<f64>() / n, x.iter().sum::<f64>() / n);
        let (mut sxy, mut sxx) = (0.0, 0.0);
        for (t, x) in t.iter().zip(x) {
            sxy += (t - mt) * (x - mx);
            sxx += (t - mt) * (t - mt);
        }
        let slope = if sxx > 0.0 { sxy / sxx } else { 0.0 };
        let off = t.iter().zip(x).map(|(t, x)| (x - mx - slope * (t - mt)).abs()).sum::<f64>() / n;
        Self { middle: (mt, mx), slope, off }
    }

    fn at(&self, t: f64) -> f64 {
        self.middle.1 + self.slope * (t - self.middle.0)
    }
}

/// First and last reading of the change within a window.
fn edges(x: &[f64], i: usize, wide: usize, (jump, noise): (f64, f64)) -> (usize, usize) {
    let (mut from, mut to) = (i, (i + wide).min(x.len() - 1));
    let least = (0.1 * jump.abs()).min(noise.max(0.01 * jump.abs()));
    let moves = |a: usize, b: usize| (x[b] - x[a]) * jump.signum() > least;
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

/// How far the pressure goes, at most, in as long before and after a change: a stroke is over, heat goes on.
fn goes_on(t: &[f64], x: &[f64], (from, to): (usize, usize)) -> f64 {
    let long = t[to] - t[from];
    let before = t.partition_point(|u| *u < t[from] - long);
    let after = t.partition_point(|u| *u <= t[to] + long).saturating_sub(1).max(to);
    (x[from] - x[before]).abs().max((x[after] - x[to]).abs())
}

/// Every other gauge that was read at both ends moved alike.
fn others_agree(hold: &Hold, record: &Record, finest: usize, (from, to): (usize, usize), jump: f64) -> bool {
    (0..hold.gauges.len()).filter(|g| *g != finest).all(|g| {
        let (a, b) = (record.channels[g][from], record.channels[g][to]);
        let division = hold.gauges[g].resolution_pa;
        a.is_nan() || b.is_nan() || ((b - a) - jump).abs() < 0.5 * jump.abs() + 1.5 * division
    })
}
