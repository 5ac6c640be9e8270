//! The stretches of a run, found from readings and events together: fill, ramp, intermediate holds, stabilising, hold, reduction, release.

use crate::case::{Boundary, Event, MovedBoundary};
use crate::read::{self, Read, TimeRange};
use quantity::{GaugePressure, RunTime, Span};
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
    /// at test pressure, held before a repump or a bleed started the clock anew; judged by nothing of the hold
    #[strum(message = "held before the clock started anew")]
    HeldBefore,
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
    #[schema(value_type = f64)]
    pub start_s: RunTime,
    /// To, s.
    #[schema(value_type = f64)]
    pub end_s: RunTime,
    /// Where readings and events put its beginning, where a person moved that, s.
    #[schema(value_type = Option<f64>)]
    pub found_start_s: Option<RunTime>,
}

/// A rise or a fall by less than this share of the greatest pressure is none.
const STANDS: f64 = 0.02;
/// Below this share of the greatest pressure there is none yet: water stands in the line.
const NO_PRESSURE: f64 = 0.05;
/// Above this share of it, or of the lower bound where that is more, the test pressure is reached.
const REACHED: f64 = 0.95;
/// What is looked at in one piece.
const PIECE: Span = Span::from_s(60.0);
/// After the end was booked, or the release, a fall of this share begins it.
const LET_OUT: f64 = 0.05;

/// The repump that ends the settling comes at most this long after it (common practice).
const BROUGHT_WITHIN: Span = Span::from_s(600.0);

/// A gauge that settles below the band once the pump is off is back in it within so long; later than that the hold begins where the pump stopped.
const IN_BAND_WITHIN: Span = Span::from_s(900.0);

/// Times that people write down are of the minute.
const BY_THE_MINUTE: Span = Span::from_s(60.0);

/// How the pressure is brought to where the hold begins, once the pump is off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Brought {
    /// It is left as it is.
    Not,
    /// It settles for so long, and may be brought back once.
    Back(Span),
    /// It is lowered by a bleed, before or after the pump was taken off.
    Lowered,
    /// It waits, and is lowered quickly by a bleed: before that nothing is held, unless the run is over.
    LoweredAfterWait,
}

/// What starts the clock of a hold anew.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Clock {
    /// Water that is measured where the basis allows for it does not.
    pub counts_water: bool,
    /// One repump in the hold does not, as the project's specification may have it.
    pub one_repump: bool,
}

impl Clock {
    /// When it was started last within a time, of what happened in it; none where it runs from its beginning.
    pub fn restarted(self, events: &[Event], hold: TimeRange) -> Option<RunTime> {
        let mut inside: Vec<&Event> =
            events.iter().filter(|e| starts_clock(e, self.counts_water) && e.t_s > hold.start && e.t_s < hold.end).collect();
        inside.sort_by(|a, b| a.t_s.total_cmp(&b.t_s));
        let first = inside.iter().position(|e| e.kind == EventKind::Repump).filter(|_| self.one_repump);
        let counts = inside.iter().enumerate().filter(|(i, _)| first != Some(*i));
        counts.map(|(_, e)| e.t_s).next_back()
    }
}

/// The hold within a run: from where the pump was last stopped with the pressure in its band, to the end that was called, to where the pressure
/// was let out, or to the last reading. None while the pump has not been stopped.
///
/// Where the basis lets the pressure settle and be brought back once, the hold begins at that repump, and where it has it lowered, at that bleed. Water
/// that is pumped in or let out later starts it anew, so that every rule has one start; where the clock lets it, it is a step within the hold, and the readings on
/// both sides of it count.
///
/// Where the look is taken at a lower pressure (`reduced`), a bleed from which on the pressure stays below the bound ends it.
pub fn hold_of(
    events: &[Event],
    readings: &[Read],
    lower: GaugePressure,
    brought: Brought,
    reduced: bool,
    clock: Clock,
) -> Option<TimeRange> {
    let end_of_time = RunTime::from_s(f64::INFINITY);
    let at = |kind| events.iter().filter(move |e| e.kind == kind).map(|e| e.t_s);
    let ended = at(EventKind::HoldEnded).fold(end_of_time, RunTime::min);
    let last = readings.last()?.t.min(ended);
    let off = at(EventKind::PumpOff).filter(|t| *t <= last).reduce(RunTime::max)?;
    let after = |kind| at(kind).filter(move |t| *t > off && *t < last);
    let lowered = matches!(brought, Brought::Lowered | Brought::LoweredAfterWait);
    let over = ended.is_finite() || at(EventKind::Released).next().is_some();
    let brought = match brought {
        Brought::LoweredAfterWait if !over => Some(after(EventKind::Bleed).max_by(RunTime::total_cmp)?),
        Brought::Not => None,
        Brought::Back(time) => after(EventKind::Repump).filter(|t| *t <= off + time + BROUGHT_WITHIN).min_by(RunTime::total_cmp),
        Brought::Lowered | Brought::LoweredAfterWait => after(EventKind::Bleed).max_by(RunTime::total_cmp),
    };
    let off = brought.unwrap_or(off);
    // a gauge that is still settling below the band is not yet the hold, but one that never gets there is; what was lowered is not raised again
    let (before, after_off) = readings.split_at(readings.partition_point(|r| r.t < off));
    let enough = |r: &Read| r.p >= lower.times(1.0 - 1e-6);
    let soon = after_off.iter().take_while(|r| r.t < off + IN_BAND_WITHIN);
    let in_band = soon.into_iter().find(|r| enough(r)).filter(|_| !lowered);
    // where readings are few, one that was written down by the minute may stand just before the second at which the pump was booked as off
    let few = after_off.first().is_none_or(|r| r.t - off > BY_THE_MINUTE);
    let written = before.last().is_some_and(|r| off - r.t <= BY_THE_MINUTE && enough(r));
    let start = if few && written { off } else { in_band.map_or(off, |r| r.t) };
    let below = |t: RunTime| {
        let mut after = readings.iter().filter(|r| r.t > t + PIECE && r.t <= last).peekable();
        after.peek().is_some() && after.all(|r| r.p < lower)
    };
    let lowered_for_look = at(EventKind::Bleed).filter(|t| reduced && *t > start).find(|t| below(*t));
    let end = match at(EventKind::Released).filter(|t| *t > start).chain(lowered_for_look).reduce(RunTime::min) {
        // what falls after the end that was called is no part of it; a fall that began before it is
        Some(released) if released > ended => {
            let from = let_out_from(readings, start, ended);
            if readings.iter().any(|r| r.t > from && r.t <= ended) { from } else { last }
        }
        Some(released) => let_out_from(readings, start, released).min(last),
        None => last,
    };
    let start = if lowered { start } else { clock.restarted(events, TimeRange { start, end }).unwrap_or(start) };
    (end > start).then_some(TimeRange { start, end })
}

/// Where the fall that was booked as the release began: back from it, piece by piece, as long as each fell.
fn let_out_from(readings: &[Read], start: RunTime, released: RunTime) -> RunTime {
    let held: Vec<Read> = readings.iter().copied().filter(|r| r.t >= start && r.t <= released).collect();
    let Some(first) = held.first() else { return released };
    let mut end = held.len() - 1;
    while let Some(before) = held[..end].iter().rposition(|r| held[end].t - r.t >= PIECE) {
        if (held[before].p - held[end].p).pa() <= LET_OUT * first.p.pa() {
            break;
        }
        end = before;
    }
    held[end].t
}

/// Readings so near the start of a hold tell by how much it was lowered there.
pub const LOWERED_NEAR: Span = Span::from_s(900.0);

/// Pressures before and after a hold was begun by lowering it, as read near its start: the greatest before, the least of the first three after, for
/// the reading at the start itself may still be of the pressure before it. None where it was not read on both sides.
pub fn lowered_as_read(readings: &[Read], start: RunTime) -> Option<(GaugePressure, GaugePressure)> {
    let near = || readings.iter().filter(|r| (r.t - start).abs() <= LOWERED_NEAR);
    let before = read::most(near().filter(|r| r.t <= start).map(|r| r.p))?;
    let after = read::least(near().filter(|r| r.t >= start).take(3).map(|r| r.p))?;
    Some((before, after))
}

/// True for what starts the clock of a hold anew: the pump taken off, water let out, a fitting tightened, and water pumped in unless it is measured where the basis allows for
/// it.
pub fn starts_clock(event: &Event, counts_water: bool) -> bool {
    match event.kind {
        EventKind::PumpOff | EventKind::Bleed | EventKind::NippedUp => true,
        EventKind::Repump => !(counts_water && event.volume_m3.is_some()),
        _ => false,
    }
}

/// The hold after what a person moved.
pub fn moved(found: TimeRange, corrections: &[MovedBoundary]) -> TimeRange {
    let last = |b: Boundary| corrections.iter().rev().find(|m| m.boundary == b).map(|m| m.moved_s);
    let (start, end) = (last(Boundary::Start).unwrap_or(found.start), last(Boundary::End).unwrap_or(found.end));
    if end > start { TimeRange { start, end } } else { found }
}

/// Every stretch of a run whose pressure is to stay above `lower`, in the order of time, with the boundaries that a person moved: each between
/// where its neighbours begin and end.
pub fn stretches(
    events: &[Event],
    readings: &[Read],
    lower: GaugePressure,
    hold: Option<TimeRange>,
    corrections: &[MovedBoundary],
) -> Vec<RunStretch> {
    let mut out = stretches_found(events, readings, lower, hold);
    for m in corrections.iter().filter(|m| m.boundary == Boundary::Between) {
        let Some(at) = place_of(&out, hold, m.found_s) else { continue };
        let room = room(&out, at);
        if m.moved_s > room.start && m.moved_s < room.end {
            out[at].found_start_s = Some(m.found_s);
            out[at].start_s = m.moved_s;
            out[at - 1].end_s = m.moved_s;
        }
    }
    out
}

/// Which stretch begins at a boundary that was found there and may be moved: neither the first nor an end of the hold.
fn place_of(stretches: &[RunStretch], hold: Option<TimeRange>, found: RunTime) -> Option<usize> {
    let of_hold = |s: &RunStretch| s.kind == StretchKind::Hold;
    (1..stretches.len()).find(|i| {
        let s = &stretches[*i];
        (s.found_start_s.unwrap_or(s.start_s) - found).abs().s() < 0.5 && !(hold.is_some() && (of_hold(s) || of_hold(&stretches[i - 1])))
    })
}

/// When a stretch may begin: after the one before began, and before it ends itself.
fn room(stretches: &[RunStretch], at: usize) -> TimeRange {
    TimeRange { start: stretches[at - 1].start_s, end: stretches[at].end_s }
}

/// Between which times a boundary that was found there may be put; none where no stretch begins there that may.
pub fn room_of(stretches: &[RunStretch], hold: Option<TimeRange>, found: RunTime) -> Option<TimeRange> {
    place_of(stretches, hold, found).map(|at| room(stretches, at))
}

/// When the test pressure was reached, where a person said so by moving the end of the last raise before the hold.
pub fn raised_at(stretches: &[RunStretch], hold_start: RunTime) -> Option<RunTime> {
    let last = stretches.windows(2).rfind(|s| s[0].kind == StretchKind::Ramp && s[0].end_s <= hold_start)?;
    last[1].found_start_s.map(|_| last[1].start_s)
}

/// The same as found.
fn stretches_found(events: &[Event], readings: &[Read], lower: GaugePressure, hold: Option<TimeRange>) -> Vec<RunStretch> {
    let pa = |r: &Read| r.p.pa();
    let most = readings.iter().map(pa).fold(0.0, f64::max);
    // a run that has not got there yet only stops on the way; where the pressure is lowered before the hold, that is still no stop on the way up
    let held = hold.and_then(|h| readings.iter().find(|r| r.t >= h.start)).map_or(f64::INFINITY, pa);
    let test = most.max(lower.pa()).min(held);
    let off = events.iter().filter(|e| e.kind == EventKind::PumpOff).map(|e| e.t_s).reduce(RunTime::max);
    let mut out: Vec<RunStretch> = Vec::new();
    let mut put = |kind, start_s: RunTime, end_s: RunTime| {
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
        let j = readings[i + 1..].iter().position(|r| r.t - from.t >= PIECE).map_or(readings.len() - 1, |k| i + 1 + k);
        let to = readings[j];
        let (rise, middle) = (pa(&to) - pa(&from), from.t + (to.t - from.t) * 0.5);
        let kind = match hold {
            Some(held) if held.contains(middle) => StretchKind::Hold,
            Some(held) if middle > held.end => {
                if pa(&to) > 0.2 * most && rise.abs() < STANDS * most {
                    StretchKind::Reduction
                } else {
                    StretchKind::Release
                }
            }
            _ if from.p.max(to.p).pa() < NO_PRESSURE * most => StretchKind::Fill,
            _ if rise > STANDS * most * ((to.t - from.t) / PIECE).min(1.0) => StretchKind::Ramp,
            _ if off.is_some_and(|off| middle >= off) || from.p.min(to.p).pa() > REACHED * test => StretchKind::Stabilise,
            _ => StretchKind::IntermediateHold,
        };
        put(kind, from.t, to.t);
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
