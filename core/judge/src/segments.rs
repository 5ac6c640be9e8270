//! The stretches of a run, found from readings and events together: fill, ramp, intermediate holds, stabilising, hold, reduction, release.

use crate::case::{Boundary, Event, MovedBoundary};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};
use terms::EventKind;

/// Kinds of stretches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum StretchKind {
    /// filling, without pressure
    #[strum(message = "filling")]
    Fill,
    /// the pressure is raised
    #[strum(message = "raising")]
    Ramp,
    /// a stop on the way up
    #[strum(message = "stop")]
    IntermediateHold,
    /// at test pressure, before the hold counts
    #[strum(message = "settling")]
    Stabilise,
    /// the hold
    #[strum(message = "hold")]
    Hold,
    /// after the hold and still under pressure, as it is or lowered, for the look
    #[strum(message = "after the hold")]
    Reduction,
    /// the pressure is let out
    #[strum(message = "letting out")]
    Release,
}

/// A stretch of a run.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RunStretch {
    /// What it is.
    pub kind: StretchKind,
    /// From, s.
    pub start_s: f64,
    /// To, s.
    pub end_s: f64,
    /// Where readings and events put its beginning, where a person moved that, s.
    pub found_start_s: Option<f64>,
}

/// A rise or a fall by less than this share of the greatest pressure is none.
const STANDS: f64 = 0.02;
/// Below this share of the greatest pressure there is none yet: water stands in the line.
const NO_PRESSURE: f64 = 0.05;
/// Above this share of it, or of the lower bound where that is more, the test pressure is reached.
const REACHED: f64 = 0.95;
/// What is looked at in one piece, s.
const PIECE: f64 = 60.0;
/// After the end was booked, or the release, a fall of this share begins it.
const LET_OUT: f64 = 0.05;

/// The repump that ends the settling comes at most this long after it, s (common practice).
const BROUGHT_WITHIN: f64 = 600.0;

/// A gauge that settles below the band once the pump is off is back in it within so long, s; later than that the hold begins where the pump stopped.
const IN_BAND_WITHIN: f64 = 900.0;

/// How the pressure is brought to where the hold begins, once the pump is off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Brought {
    /// It is left as it is.
    Not,
    /// It settles for so long, s, and may be brought back once.
    Back(f64),
    /// It is lowered by a bleed, before or after the pump was taken off.
    Lowered,
    /// It waits, and is lowered quickly by a bleed: before that nothing is held, unless the run is over.
    LoweredAfterWait,
}

/// The hold within a run: from where the pump was last stopped with the pressure in its band, to the end that was called, to where the pressure
/// was let out, or to the last reading. None while the pump has not been stopped.
///
/// Where the basis lets the pressure settle and be brought back once, the hold begins at that repump, and where it has it lowered, at that bleed. Water
/// that is pumped in or let out later is a step within the hold: the readings on both sides of it count.
///
/// Where the look is taken at a lower pressure (`reduced`), a bleed from which on the pressure stays below the bound ends it.
pub fn hold_of(events: &[Event], readings: &[(f64, f64)], lower_pa: f64, brought: Brought, reduced: bool) -> Option<(f64, f64)> {
    let at = |kind| events.iter().filter(move |e| e.kind == kind).map(|e| e.t_s);
    let ended = at(EventKind::HoldEnded).fold(f64::INFINITY, f64::min);
    let last = readings.last()?.0.min(ended);
    let off = at(EventKind::PumpOff).filter(|t| *t <= last).fold(f64::NEG_INFINITY, f64::max);
    if !off.is_finite() {
        return None;
    }
    let after = |kind| at(kind).filter(move |t| *t > off && *t < last);
    let lowered = matches!(brought, Brought::Lowered | Brought::LoweredAfterWait);
    let over = ended.is_finite() || at(EventKind::Released).next().is_some();
    let brought = match brought {
        Brought::LoweredAfterWait if !over => Some(after(EventKind::Bleed).max_by(f64::total_cmp)?),
        Brought::Not => None,
        Brought::Back(time_s) => after(EventKind::Repump).filter(|t| *t <= off + time_s + BROUGHT_WITHIN).min_by(f64::total_cmp),
        Brought::Lowered | Brought::LoweredAfterWait => after(EventKind::Bleed).max_by(f64::total_cmp),
    };
    let off = brought.unwrap_or(off);
    // a gauge that is still settling below the band is not yet the hold, but one that never gets there is; what was lowered is not raised again
    let soon = readings[readings.partition_point(|r| r.0 < off)..].iter().take_while(|r| r.0 < off + IN_BAND_WITHIN);
    let in_band = soon.into_iter().find(|r| r.1 >= lower_pa * (1.0 - 1e-6)).filter(|_| !lowered);
    let start = in_band.map_or(off, |r| r.0);
    let below = |t: f64| {
        let mut after = readings.iter().filter(|r| r.0 > t + PIECE && r.0 <= last).peekable();
        after.peek().is_some() && after.all(|r| r.1 < lower_pa)
    };
    let lowered_for_look = at(EventKind::Bleed).filter(|t| reduced && *t > start).find(|t| below(*t));
    let end = match at(EventKind::Released).filter(|t| *t > start).chain(lowered_for_look).reduce(f64::min) {
        // what falls after the end that was called is no part of it; a fall that began before it is
        Some(released) if released > ended => {
            let from = let_out_from(readings, start, ended);
            if readings.iter().any(|r| r.0 > from && r.0 <= ended) { from } else { last }
        }
        Some(released) => let_out_from(readings, start, released).min(last),
        None => last,
    };
    (end > start).then_some((start, end))
}

/// Where the fall that was booked as the release began: back from it, piece by piece, as long as each fell.
fn let_out_from(readings: &[(f64, f64)], start: f64, released: f64) -> f64 {
    let held: Vec<(f64, f64)> = readings.iter().copied().filter(|r| r.0 >= start && r.0 <= released).collect();
    let Some(first) = held.first() else { return released };
    let mut end = held.len() - 1;
    while let Some(before) = held[..end].iter().rposition(|r| held[end].0 - r.0 >= PIECE) {
        if held[before].1 - held[end].1 <= LET_OUT * first.1 {
            break;
        }
        end = before;
    }
    held[end].0
}

/// Readings so near the start of a hold tell by how much it was lowered there, s.
pub const LOWERED_NEAR: f64 = 900.0;

/// Pressures before and after a hold was begun by lowering it, as read near its start: the greatest before, the least of the first three after, for
/// the reading at the start itself may still be of the pressure before it. None where it was not read on both sides.
pub fn lowered_as_read(readings: &[(f64, f64)], start: f64) -> Option<(f64, f64)> {
    let near = || readings.iter().filter(|r| (r.0 - start).abs() <= LOWERED_NEAR);
    let before = near().filter(|r| r.0 <= start).map(|r| r.1).reduce(f64::max)?;
    let after = near().filter(|r| r.0 >= start).take(3).map(|r| r.1).reduce(f64::min)?;
    Some((before, after))
}

/// True for what starts the clock of a hold anew: the pump taken off, water let out, and water pumped in unless it is measured where the basis allows for
/// it.
pub fn starts_clock(event: &Event, counts_water: bool) -> bool {
    match event.kind {
        EventKind::PumpOff | EventKind::Bleed => true,
        EventKind::Repump => !(counts_water && event.volume_m3.is_some()),
        _ => false,
    }
}

/// The hold after what a person moved.
pub fn moved(found: (f64, f64), corrections: &[MovedBoundary]) -> (f64, f64) {
    let last = |b: Boundary| corrections.iter().rev().find(|m| m.boundary == b).map(|m| m.moved_s);
    let (start, end) = (last(Boundary::Start).unwrap_or(found.0), last(Boundary::End).unwrap_or(found.1));
    if end > start { (start, end) } else { found }
}

/// Every stretch of a run whose pressure is to stay above `lower_pa`, in the order of time, with the boundaries that a person moved: each between
/// where its neighbours begin and end.
pub fn stretches(
    events: &[Event],
    readings: &[(f64, f64)],
    lower_pa: f64,
    hold: Option<(f64, f64)>,
    corrections: &[MovedBoundary],
) -> Vec<RunStretch> {
    let mut out = stretches_found(events, readings, lower_pa, hold);
    for m in corrections.iter().filter(|m| m.boundary == Boundary::Between) {
        let Some(at) = place_of(&out, hold, m.found_s) else { continue };
        let (from, to) = room(&out, at);
        if m.moved_s > from && m.moved_s < to {
            out[at].found_start_s = Some(m.found_s);
            out[at].start_s = m.moved_s;
            out[at - 1].end_s = m.moved_s;
        }
    }
    out
}

/// Which stretch begins at a boundary that was found there and may be moved: neither the first nor an end of the hold.
fn place_of(stretches: &[RunStretch], hold: Option<(f64, f64)>, found_s: f64) -> Option<usize> {
    let of_hold = |s: &RunStretch| s.kind == StretchKind::Hold;
    (1..stretches.len()).find(|i| {
        let s = &stretches[*i];
        (s.found_start_s.unwrap_or(s.start_s) - found_s).abs() < 0.5 && !(hold.is_some() && (of_hold(s) || of_hold(&stretches[i - 1])))
    })
}

/// When a stretch may begin: after the one before began, and before it ends itself.
fn room(stretches: &[RunStretch], at: usize) -> (f64, f64) {
    (stretches[at - 1].start_s, stretches[at].end_s)
}

/// Between which times a boundary that was found there may be put, s; none where no stretch begins there that may.
pub fn room_of(stretches: &[RunStretch], hold: Option<(f64, f64)>, found_s: f64) -> Option<(f64, f64)> {
    place_of(stretches, hold, found_s).map(|at| room(stretches, at))
}

/// When the test pressure was reached, where a person said so by moving the end of the last raise before the hold.
pub fn raised_at(stretches: &[RunStretch], hold_start_s: f64) -> Option<f64> {
    let last = stretches.windows(2).rfind(|s| s[0].kind == StretchKind::Ramp && s[0].end_s <= hold_start_s)?;
    last[1].found_start_s.map(|_| last[1].start_s)
}

/// The same as found.
fn stretches_found(events: &[Event], readings: &[(f64, f64)], lower_pa: f64, hold: Option<(f64, f64)>) -> Vec<RunStretch> {
    let most = readings.iter().map(|r| r.1).fold(0.0, f64::max);
    // a run that has not got there yet only stops on the way; where the pressure is lowered before the hold, that is still no stop on the way up
    let held = hold.and_then(|h| readings.iter().find(|r| r.0 >= h.0)).map_or(f64::INFINITY, |r| r.1);
    let test = most.max(lower_pa).min(held);
    let off = events.iter().filter(|e| e.kind == EventKind::PumpOff).map(|e| e.t_s).fold(f64::NAN, f64::max);
    let mut out: Vec<RunStretch> = Vec::new();
    let mut put = |kind, start_s: f64, end_s: f64| {
        if end_s <= start_s {
            return;
        }
        match out.last_mut() {
            Some(l) if l.kind == kind => l.end_s = end_s,
            _ => out.push(RunStretch { kind, start_s, end_s, found_start_s: None }),
        }
    };
    let mut i = 0;
    while i + 1 < readings.len() {
        let from = readings[i];
        let j = readings[i + 1..].iter().position(|r| r.0 - from.0 >= PIECE).map_or(readings.len() - 1, |k| i + 1 + k);
        let to = readings[j];
        let (rise, middle) = (to.1 - from.1, 0.5 * (from.0 + to.0));
        let kind = match hold {
            Some((start, end)) if middle >= start && middle <= end => StretchKind::Hold,
            Some((_, end)) if middle > end => {
                if to.1 > 0.2 * most && rise.abs() < STANDS * most {
                    StretchKind::Reduction
                } else {
                    StretchKind::Release
                }
            }
            _ if from.1.max(to.1) < NO_PRESSURE * most => StretchKind::Fill,
            _ if rise > STANDS * most * ((to.0 - from.0) / PIECE).min(1.0) => StretchKind::Ramp,
            _ if middle >= off || from.1.min(to.1) > REACHED * test => StretchKind::Stabilise,
            _ => StretchKind::IntermediateHold,
        };
        put(kind, from.0, to.0);
        i = j;
    }
    // a fall from the hold to where the pressure stands again lets nothing out yet: it is lowered for the look
    for i in (1..out.len()).rev() {
        if (out[i - 1].kind, out[i].kind) == (StretchKind::Release, StretchKind::Reduction) {
            out[i - 1].kind = StretchKind::Reduction;
            out[i - 1].end_s = out[i].end_s;
            out.remove(i);
        }
    }
    out
}
