//! Faults of the record.

use crate::random::Random;
use serde::Serialize;

/// Kinds of faults.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    /// rows missing
    Gap,
    /// rows written twice
    Duplicate,
    /// single readings far off
    Spike,
    /// a gauge that shows the same value
    Stuck,
    /// psi written as bar
    WrongUnit,
    /// the logger's clock set anew
    ClockJump,
    /// pumped up again
    Repump,
    /// let out
    Bleed,
}

impl Kind {
    /// All of them.
    pub const ALL: [Self; 8] =
        [Self::Gap, Self::Duplicate, Self::Spike, Self::Stuck, Self::WrongUnit, Self::ClockJump, Self::Repump, Self::Bleed];
}

/// A fault.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Defect {
    /// Kind.
    pub kind: Kind,
    /// From, true clock, s.
    pub start_s: f64,
    /// To, s.
    pub end_s: f64,
    /// Written down by the crew.
    pub announced: bool,
    /// By how much the clock jumped, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub jump_s: Option<f64>,
    /// Channel it is in, where it is in one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub channel: Option<usize>,
}

/// One row of the record.
#[derive(Debug, Clone)]
pub struct Row {
    /// Counter of the logger.
    pub sample: u64,
    /// Logger's clock, s.
    pub time: f64,
    /// True time, s.
    pub truth: f64,
    /// Channels in bar and °C.
    pub cells: Vec<f64>,
}

/// Spoils the rows with a fault that is already placed.
pub fn spoil(random: &mut Random, rows: &mut Vec<Row>, defect: &Defect, range_bar: f64) {
    let within = |r: &Row, d: &Defect| r.truth >= d.start_s && r.truth <= d.end_s;
    let channel = defect.channel.unwrap_or(0);
    match defect.kind {
        Kind::Gap => rows.retain(|r| !within(r, defect)),
        Kind::Duplicate => {
            let mut out = Vec::with_capacity(rows.len() + 20);
            let share = (6.0 / rows.len() as f64).max(0.015);
            let mut any = false;
            let last = rows.len().saturating_sub(1);
            for (i, r) in rows.iter().enumerate() {
                out.push(r.clone());
                if random.chance(share) || (i == last && !any) {
                    out.push(r.clone());
                    any = true;
                }
            }
            *rows = out;
        }
        Kind::Spike => {
            let share = (3.0 / rows.len() as f64).max(0.005);
            let mut any = false;
            let n = rows.len();
            for (i, r) in rows.iter_mut().enumerate() {
                if i > 0 && i + 1 < n && (random.chance(share) || (i + 2 == n && !any)) {
                    let sign = if random.chance(0.5) { 1.0 } else { -1.0 };
                    let to = r.cells[channel] + sign * range_bar * random.log_between(0.02, 0.3);
                    r.cells[channel] = (to * 1000.0).round() / 1000.0;
                    any = true;
                }
            }
        }
        Kind::Stuck => {
            let mut held = None;
            for r in rows.iter_mut().filter(|r| r.truth >= defect.start_s && r.truth <= defect.end_s) {
                let value = *held.get_or_insert(r.cells[channel]);
                r.cells[channel] = value;
            }
        }
        Kind::WrongUnit => {
            for r in rows.iter_mut().filter(|r| r.truth >= defect.start_s && r.truth <= defect.end_s) {
                r.cells[channel] = (r.cells[channel] * 14.503_774 * 100.0).round() / 100.0;
            }
        }
        Kind::ClockJump => {
            let jump = defect.jump_s.unwrap_or(0.0);
            for r in rows.iter_mut().filter(|r| r.truth >= defect.start_s) {
                r.time += jump;
            }
        }
        // these are in the course itself
        Kind::Repump | Kind::Bleed => {}
    }
}
