//! Rows: duplicates, gaps and jumps of the clock, told apart by the logger's own counter.

use super::defect::{Defect, Kind};
use crate::input::{Hold, Record};

/// The record with each row once and times on the counter's clock.
pub(super) fn in_order(hold: &Hold, raw: &Record, defects: &mut Vec<Defect>, stands: &dyn Fn(&Defect) -> bool) -> Record {
    let keep = once(raw, defects);
    let mut record = if keep.len() == raw.time_s.len() { raw.clone() } else { rows_of(raw, &keep) };
    let step = interval(hold, &record);
    clock(step, &mut record, defects, stands);
    gaps(step, &record, defects);
    record
}

/// Some rows of a record.
fn rows_of(raw: &Record, keep: &[usize]) -> Record {
    let of = |all: &Vec<f64>| keep.iter().map(|i| all[*i]).collect();
    Record { sample_no: raw.sample_no.as_ref().map(of), time_s: of(&raw.time_s), channels: raw.channels.iter().map(of).collect() }
}

/// Rows that are not a repetition of the one before.
fn once(raw: &Record, defects: &mut Vec<Defect>) -> Vec<usize> {
    let n = raw.time_s.len();
    let same = |a: f64, b: f64| a == b || (a.is_nan() && b.is_nan());
    let mut keep = Vec::with_capacity(n);
    let (mut first, mut last, mut rows) = (f64::NAN, f64::NAN, Vec::new());
    for i in 0..n {
        let repeats = i > 0
            && same(raw.time_s[i], raw.time_s[i - 1])
            && raw.sample_no.as_ref().is_none_or(|s| same(s[i], s[i - 1]))
            && raw.channels.iter().all(|c| same(c[i], c[i - 1]));
        if repeats {
            if rows.is_empty() {
                first = raw.time_s[i];
            }
            last = raw.time_s[i];
            rows.push(keep.len() - 1);
        } else {
            keep.push(i);
        }
    }
    if !rows.is_empty() {
        defects.push(Defect { kind: Kind::Duplicate, channel: None, start_s: first, end_s: last, jump_s: None, rows });
    }
    keep
}

/// Of more rows than this, some tell the time between them as well as all.
const ENOUGH: usize = 5000;

/// Time per count, s: the middle one of rows all over the record; the plan's where there is no counter.
fn interval(hold: &Hold, record: &Record) -> f64 {
    let counted = |i: &usize| record.sample_no.as_ref().is_none_or(|s| s[*i] - s[*i - 1] == 1.0);
    let rows = (1..record.time_s.len()).step_by(record.time_s.len() / ENOUGH + 1).filter(counted);
    let mut steps: Vec<f64> = rows.map(|i| record.time_s[i] - record.time_s[i - 1]).filter(|s| *s > 0.0).collect();
    if steps.is_empty() {
        return hold.interval_s;
    }
    let middle = steps.len() / 2;
    *steps.select_nth_unstable_by(middle, f64::total_cmp).1
}

/// Where the logged time does not follow the counter, the clock was set anew; from there the counter tells the time.
fn clock(step: f64, record: &mut Record, defects: &mut Vec<Defect>, stands: &dyn Fn(&Defect) -> bool) {
    let slack = (0.6 * step).max(1.5);
    let n = record.time_s.len();
    let logged = record.time_s.clone();
    let mut moved = 0.0;
    for i in 1..n {
        let passed = logged[i] - logged[i - 1];
        let jump = match &record.sample_no {
            Some(s) => passed - (s[i] - s[i - 1]).max(1.0) * step,
            // without a counter only time that runs backwards is sure
            None if passed < 0.0 => passed - step,
            None => 0.0,
        };
        if jump.abs() > slack {
            let defect = Defect {
                kind: Kind::ClockJump,
                channel: None,
                start_s: logged[i],
                end_s: logged[n - 1],
                jump_s: Some(jump),
                rows: (i..n).collect(),
            };
            if !stands(&defect) || record.sample_no.is_none() {
                moved += jump;
            }
            defects.push(defect);
        }
        record.time_s[i] -= moved;
    }
}

/// Time as it was recorded of a time on the counter's clock.
pub(super) fn on_record(defects: &[Defect], t: f64) -> f64 {
    let mut moved = 0.0;
    for d in defects.iter().filter(|d| d.kind == Kind::ClockJump) {
        let jump = d.jump_s.unwrap_or(0.0);
        // a jump at a recorded time, on the counter's clock
        if t >= d.start_s - jump - moved - 1e-6 {
            moved += jump;
        }
    }
    t + moved
}

/// Times as they were recorded of times on the counter's clock.
pub(super) fn all_on_record(defects: &[Defect], times: &[f64]) -> Vec<f64> {
    let jumps: Vec<Defect> = defects.iter().filter(|d| d.kind == Kind::ClockJump).cloned().collect();
    if jumps.is_empty() { times.to_vec() } else { times.iter().map(|t| on_record(&jumps, *t)).collect() }
}

fn gaps(step: f64, record: &Record, defects: &mut Vec<Defect>) {
    let jumps: Vec<Defect> = defects.iter().filter(|d| d.kind == Kind::ClockJump).cloned().collect();
    for i in 1..record.time_s.len() {
        let missing = match &record.sample_no {
            Some(s) => s[i] - s[i - 1] > 1.5,
            None => record.time_s[i] - record.time_s[i - 1] > 2.5 * step,
        };
        if missing {
            defects.push(Defect {
                kind: Kind::Gap,
                channel: None,
                start_s: on_record(&jumps, record.time_s[i - 1]),
                end_s: on_record(&jumps, record.time_s[i]),
                jump_s: None,
                rows: vec![i - 1, i],
            });
        }
    }
}
