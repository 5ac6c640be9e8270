//! Readings gathered into blocks: their mean, their number and the divisions that were read.

use crate::input::{Record, Step};

/// Equal readings one after the other.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Run {
    /// What was read.
    pub(crate) value: f64,
    /// First and last time from the middle of the block, s.
    pub(crate) from: f64,
    /// Last.
    pub(crate) to: f64,
    /// How many.
    pub(crate) count: f64,
}

/// What one channel read within a block.
#[derive(Debug, Clone, Default)]
pub(crate) struct Cell {
    /// How many readings.
    pub(crate) count: f64,
    /// Their mean; NaN without any.
    pub(crate) mean: f64,
    /// Least and greatest.
    pub(crate) range: (f64, f64),
    /// Runs of equal readings; empty when there are more than a handful over several divisions: there the mean tells all.
    pub(crate) runs: Vec<Run>,
}

/// One stretch of time.
#[derive(Debug, Clone)]
pub(crate) struct Block {
    /// Mean time of its readings, s.
    pub(crate) t: f64,
    /// Time that its readings stand for, s; nil for a single one.
    pub(crate) length: f64,
    /// Its channels.
    pub(crate) cells: Vec<Cell>,
}

/// Of a block with more runs than this only the number of each reading is kept, where there are no more than two different ones.
const RUNS: usize = 10;

/// Blocks of a hold: at most about `most`, none across a step. Readings within a step are left out.
pub(crate) fn gather(record: &Record, length: f64, steps: &[Step], most: usize) -> Vec<Block> {
    let spans = spans(length, steps);
    let in_spans: f64 = spans.iter().map(|s| s.1 - s.0).sum();
    let mut blocks = Vec::new();
    let mut row = 0;
    for (from, to) in spans {
        while row < record.time_s.len() && record.time_s[row] < from {
            row += 1;
        }
        let first = row;
        while row < record.time_s.len() && record.time_s[row] <= to {
            row += 1;
        }
        let rows = row - first;
        let wanted = ((most as f64 * (to - from) / in_spans).round() as usize).clamp(2, most);
        let mut at = first;
        if rows <= wanted {
            blocks.extend((first..row).map(|r| block(record, r..r + 1)));
        } else {
            for b in 0..wanted {
                let until = from + (to - from) * graded((b + 1) as f64 / wanted as f64);
                let start = at;
                while at < row && (record.time_s[at] < until || b + 1 == wanted) {
                    at += 1;
                }
                if at > start {
                    blocks.push(block(record, start..at));
                }
            }
        }
    }
    blocks.retain(|b| b.cells.iter().any(|c| c.count > 0.0));
    blocks
}

/// Blocks grow from the start: what relaxes does so at first.
fn graded(u: f64) -> f64 {
    const GROWTH: f64 = 6.0;
    ((1.0 + GROWTH).powf(u) - 1.0) / GROWTH
}

/// The stretches of the hold between its steps.
fn spans(length: f64, steps: &[Step]) -> Vec<(f64, f64)> {
    let mut cuts: Vec<(f64, f64)> = steps.iter().map(|s| (s.start_s, s.end_s)).filter(|s| s.1 > 0.0 && s.0 < length).collect();
    cuts.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (mut spans, mut from) = (Vec::new(), -1e-9);
    for (start, end) in cuts {
        if start > from {
            spans.push((from, start - 1e-9));
        }
        from = from.max(end + 1e-9);
    }
    if from < length {
        spans.push((from, length * (1.0 + 1e-6)));
    }
    spans
}

fn block(record: &Record, rows: std::ops::Range<usize>) -> Block {
    let times = &record.time_s[rows.clone()];
    let n = times.len() as f64;
    let t = times.iter().sum::<f64>() / n;
    let length = if times.len() > 1 { (times[times.len() - 1] - times[0]) * n / (n - 1.0) } else { 0.0 };
    Block { t, length, cells: record.channels.iter().map(|c| cell(&c[rows.clone()], times, t)).collect() }
}

fn cell(readings: &[f64], times: &[f64], middle: f64) -> Cell {
    let (mut count, mut sum, mut range) = (0.0, 0.0, (f64::INFINITY, f64::NEG_INFINITY));
    let mut runs: Vec<Run> = Vec::new();
    let mut many = false;
    for (v, t) in readings.iter().copied().zip(times).filter(|(v, _)| !v.is_nan()) {
        count += 1.0;
        sum += v;
        range = (range.0.min(v), range.1.max(v));
        if many {
            continue;
        }
        let at = t - middle;
        if let Some(run) = runs.last_mut().filter(|r| r.value == v) {
            run.to = at;
            run.count += 1.0;
        } else if runs.len() < RUNS {
            runs.push(Run { value: v, from: at, to: at, count: 1.0 });
        } else {
            many = true;
        }
    }
    if many {
        runs = counted(readings);
    }
    Cell { count, mean: sum / count, range, runs }
}

/// Two different readings with their number, as if all had been taken in the middle; nothing where the block sweeps over more.
fn counted(readings: &[f64]) -> Vec<Run> {
    let mut out: Vec<Run> = Vec::new();
    for v in readings.iter().copied().filter(|v| !v.is_nan()) {
        if let Some(run) = out.iter_mut().find(|r| r.value == v) {
            run.count += 1.0;
        } else if out.len() < 2 {
            out.push(Run { value: v, from: 0.0, to: 0.0, count: 1.0 });
        } else {
            return Vec::new();
        }
    }
    out
}
