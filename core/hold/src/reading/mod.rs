//! Reading the record: what is wrong with it, named with time and channel, and what is left for the fit. Nothing is repaired in silence:
//! everything that is left out or moved stands in the list of defects, and each can be overruled.

mod defect;
mod rows;
mod spikes;
mod steps;
mod stuck;
mod units;

pub use defect::{Defect, Kind};

use crate::input::{Hold, Record, Step};

/// A record that has been looked through.
#[derive(Debug, Clone)]
pub struct ReadRecord {
    /// What was found, in the order of time.
    pub defects: Vec<Defect>,
    /// Readings for the fit: times rise on the counter's clock, what is left out is NaN.
    pub record: Record,
    /// Booked repumps and bleeds with those that were found.
    pub steps: Vec<Step>,
}

/// Looks a record through.
pub fn read(hold: &Hold, raw: &Record) -> ReadRecord {
    read_but(hold, raw, &[])
}

/// Looks a record through and lets what a person has overruled stand as it was recorded.
pub fn read_but(hold: &Hold, raw: &Record, overruled: &[Defect]) -> ReadRecord {
    let stands = |d: &Defect| overruled.iter().any(|o| o.kind == d.kind && o.channel == d.channel && (o.start_s - d.start_s).abs() < 1e-6);
    let mut defects = Vec::new();
    let mut record = rows::in_order(hold, raw, &mut defects, &stands);
    let gauges = hold.gauges.len();
    let recorded = rows::all_on_record(&defects, &record.time_s);
    type Search = fn(&Hold, &Record, usize, &mut Vec<Defect>);
    // units first, for a slip of units looks like a spike and like a step; each search over every channel before the next
    for (search, gauges_only) in [(units::find as Search, true), (spikes::find, false), (stuck::find, true)] {
        for channel in 0..if gauges_only { gauges } else { record.channels.len() } {
            let mut found = Vec::new();
            search(hold, &record, channel, &mut found);
            let found: Vec<Defect> = found.into_iter().map(|d| d.on_clock(&recorded)).collect();
            leave_out(&mut record, channel, &found, &stands);
            defects.extend(found);
        }
    }
    let mut all = hold.steps.clone();
    for (defect, step) in steps::find(hold, &record) {
        let defect = defect.on_clock(&recorded);
        if !stands(&defect) {
            all.push(step);
        }
        defects.push(defect);
    }
    defects.retain(|d| !stands(d));
    defects.sort_by(|a, b| a.start_s.total_cmp(&b.start_s));
    ReadRecord { defects, record, steps: all }
}

fn leave_out(record: &mut Record, channel: usize, found: &[Defect], stands: &dyn Fn(&Defect) -> bool) {
    for defect in found.iter().filter(|d| !stands(d)) {
        for row in &defect.rows {
            record.channels[channel][*row] = f64::NAN;
        }
    }
}
