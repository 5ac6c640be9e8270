//! The fold.

use crate::curve::Curve;
use crate::facts::Facts;
use crate::frozen::Frozen;
use crate::merged::{self, Merged};
use crate::rows::{ClockSet, CorrectionRow, EventRow, ReadingRow, Recording, Row, Rows, Tick};
use judge::case::{Event, Reading};
use judge::read::Read;
use moment::Instant;
use quantity::{RunTime, Volume};
use rules::accept::Criterion;
use rules::system::Derived;
use std::sync::Arc;
use terms::EventKind;

/// A run: what was frozen, and the rows that came in. What it says does not depend on the order in which they came.
#[derive(Debug, Clone)]
pub struct Run {
    released_at: Instant,
    frozen: Arc<Frozen>,
    facts: Arc<Facts>,
    rows: Rows,
    merged: Merged,
    curve: Curve,
}

/// Puts a row into its place by a key; the same key again replaces it. Gives back whether anything is another than before, and whether it came last.
fn put<T: PartialEq, K: Ord>(all: &mut Vec<T>, row: T, key: impl Fn(&T) -> K) -> Placed {
    let at = all.partition_point(|r| key(r) < key(&row));
    match all.get_mut(at) {
        Some(there) if key(there) == key(&row) => {
            if *there == row {
                return Placed::Known;
            }
            *there = row;
            Placed::Within
        }
        Some(_) => {
            all.insert(at, row);
            Placed::Within
        }
        None => {
            all.push(row);
            Placed::Last
        }
    }
}

#[derive(PartialEq, Eq)]
enum Placed {
    Known,
    Within,
    Last,
}

impl Run {
    /// A run of which nothing has come in yet.
    pub fn new(released_at: Instant, frozen: Arc<Frozen>) -> Self {
        let facts = Arc::new(Facts::of(&frozen));
        Self { released_at, frozen, facts, rows: Rows::default(), merged: Merged::default(), curve: Curve::default() }
    }

    /// A run with its rows.
    pub fn of(released_at: Instant, frozen: Arc<Frozen>, rows: Rows) -> Self {
        let mut run = Self::new(released_at, frozen);
        run.add_all(rows.into_rows());
        run
    }

    /// Takes a row in. One that is there already changes nothing; a typed reading that is there is replaced, for it may be struck out since.
    pub fn add(&mut self, row: Row) {
        if self.place(row) {
            self.refold();
        }
    }

    /// Takes rows in, as if one after the other.
    pub fn add_all(&mut self, rows: impl IntoIterator<Item = Row>) {
        let mut again = false;
        for row in rows {
            // nothing is folded on what is folded anew afterwards
            again |= if again { self.keep(row) != Placed::Known } else { self.place(row) };
        }
        if again {
            self.refold();
        }
    }

    /// Puts a row where it belongs and folds it, where that can be done by itself; true where all has to be folded anew.
    fn place(&mut self, row: Row) -> bool {
        let off_before = self.pump_off_s();
        let tick = matches!(row, Row::Tick(_));
        let event = matches!(row, Row::Event(_));
        let pumped = matches!(&row, Row::Event(e) if matches!(e.kind, EventKind::Stroked | EventKind::Pumped | EventKind::Filled));
        let corrects = matches!(row, Row::ClockSet(_) | Row::Correction(_) | Row::LetOutBefore(_));
        match self.keep(row) {
            Placed::Known => false,
            Placed::Last if tick => {
                self.fold_last_tick();
                false
            }
            _ if corrects => false,
            // readings do not depend on events, and the curve on nothing but the first end of pumping and what was pumped by hand
            _ if event => {
                if pumped || self.pump_off_s() != off_before {
                    self.fold_curve();
                }
                false
            }
            _ => true,
        }
    }

    fn keep(&mut self, row: Row) -> Placed {
        let rows = &mut self.rows;
        match row {
            Row::Event(e) => put(&mut rows.events, e, |e| (e.at.us() - e.lead_us, e.id.clone())),
            Row::Reading(r) => put(&mut rows.typed, r, |r| (r.at.us() - r.lead_us, r.id.clone())),
            Row::Recording(r) => put(&mut rows.recordings, r, |r| (r.stored_at, r.id.clone())),
            Row::Tick(t) => put(&mut rows.ticks, t, |t| t.seq),
            Row::ClockSet(c) => put(&mut rows.clock_sets, c, |c| (c.run_us, c.at_us)),
            Row::Correction(c) => put(&mut rows.corrections, c, |c| (c.at, c.id.clone())),
            Row::LetOutBefore(at) => {
                let latest = rows.let_out_before.map_or(at, |b| b.max(at));
                if rows.let_out_before.replace(latest) == Some(latest) { Placed::Known } else { Placed::Within }
            }
        }
    }

    fn refold(&mut self) {
        let mut all: Vec<Reading> = Vec::with_capacity(self.rows.ticks.len() + self.rows.typed.len());
        all.extend(self.rows.typed.iter().filter_map(|r| merged::of_typed(r, RunTime::from_s(self.typed_s(r)), &self.facts)));
        let logged = self.rows.recordings.iter().flat_map(|r| &r.rows);
        all.extend(logged.map(|r| merged::of_logger(r, RunTime::from_s(self.seconds_us(r.at_us)))));
        all.extend(
            self.rows.ticks.iter().filter_map(|t| merged::of_tick(t, RunTime::from_s(self.seconds_us(t.run_us)), &self.facts.polled)),
        );
        self.merged = Merged::of(all);
        self.fold_curve();
    }

    fn fold_curve(&mut self) {
        if self.facts.counter_channel.is_none() {
            self.curve = Curve::by_hand(self);
            return;
        }
        let mut curve = Curve::default();
        let off_s = self.pump_off_s();
        for t in &self.rows.ticks {
            curve.add(t, self.seconds_us(t.run_us), &self.facts, off_s);
        }
        self.curve = curve;
    }

    fn fold_last_tick(&mut self) {
        let off_s = self.pump_off_s();
        let Some(tick) = self.rows.ticks.last() else { return };
        let t_s = (i128::from(tick.run_us) - i128::from(self.released_at.us())) as f64 * 1e-6;
        self.curve.add(tick, t_s, &self.facts, off_s);
        if let Some(reading) = merged::of_tick(tick, RunTime::from_s(t_s), &self.facts.polled) {
            self.merged.append(reading);
        }
    }

    /// When it was released: the zero of its times.
    pub fn released_at(&self) -> Instant {
        self.released_at
    }

    /// What was frozen.
    pub fn frozen(&self) -> &Frozen {
        &self.frozen
    }

    /// What follows from that.
    pub fn facts(&self) -> &Facts {
        &self.facts
    }

    /// The rows that came in.
    pub fn rows(&self) -> &Rows {
        &self.rows
    }

    /// Readings of all sources in time order.
    pub fn readings(&self) -> &[Reading] {
        self.merged.readings()
    }

    /// Their pressures.
    pub fn pressures(&self) -> &[Read] {
        self.merged.pressures()
    }

    /// The moves of the stroke counter.
    pub fn curve(&self) -> &Curve {
        &self.curve
    }

    /// Events in the order of the run's own time.
    pub fn events(&self) -> &[EventRow] {
        &self.rows.events
    }

    /// Typed readings in the order of the run's own time.
    pub fn typed(&self) -> &[ReadingRow] {
        &self.rows.typed
    }

    /// Loggers' files in the order in which they came.
    pub fn recordings(&self) -> &[Recording] {
        &self.rows.recordings
    }

    /// How many rows loggers' files have.
    pub fn logged(&self) -> usize {
        self.rows.recordings.iter().map(|r| r.rows.len()).sum()
    }

    /// Instants of the recorder in their sequence.
    pub fn ticks(&self) -> &[Tick] {
        &self.rows.ticks
    }

    /// Last number of the recorder's sequence; nil before the first.
    pub fn last_seq(&self) -> u64 {
        self.rows.ticks.last().map_or(0, |t| t.seq)
    }

    /// When the installation's clock was set anew while it recorded.
    pub fn clock_sets(&self) -> &[ClockSet] {
        &self.rows.clock_sets
    }

    /// What a person corrected in how it is read.
    pub fn corrections(&self) -> &[CorrectionRow] {
        &self.rows.corrections
    }

    /// The window; none where nothing can be derived of what was frozen.
    pub fn window(&self) -> Option<&Derived> {
        self.facts.window()
    }

    /// Seconds from the release to an instant on a clock that stands `lead_us` ahead of the run's own time.
    pub fn seconds(&self, at: Instant, lead_us: i64) -> f64 {
        at.since_s(self.released_at) - lead_us as f64 * 1e-6
    }

    /// The same for µs since 1970 of the run's own time.
    pub fn seconds_us(&self, run_us: i64) -> f64 {
        Instant::from_us(run_us).since_s(self.released_at)
    }

    /// When an event was, s from the release.
    pub fn event_s(&self, e: &EventRow) -> f64 {
        self.seconds(e.at, e.lead_us)
    }

    /// When a reading was typed to have been, s from the release.
    pub fn typed_s(&self, r: &ReadingRow) -> f64 {
        self.seconds(r.at, r.lead_us)
    }

    /// How far the installation's clock stands ahead of the run's own time for an instant that somebody reads on it or types now, µs: as it
    /// has stood since it was set last, and as before for a time that it did not show again since.
    pub fn lead_us(&self, at: Instant) -> i64 {
        self.rows.clock_sets.iter().rev().find(|c| c.at_us <= at.us()).map_or(0, |c| c.lead_us)
    }

    fn last_lead_us(&self) -> i64 {
        self.rows.clock_sets.last().map_or(0, |c| c.lead_us)
    }

    /// Seconds from the release that the installation's clock means when it shows an instant now.
    pub fn now_s(&self, now: Instant) -> f64 {
        self.seconds(now, self.last_lead_us())
    }

    /// The instant that the installation's clock shows, as it stands now, at a time from the release.
    pub fn shown(&self, t_s: f64) -> Instant {
        self.released_at.plus_s(t_s).plus_us(self.last_lead_us())
    }

    /// When an event of a kind was last, s from the release; none where there was none.
    pub fn last_s(&self, kind: EventKind) -> Option<f64> {
        self.rows.events.iter().rfind(|e| e.kind == kind).map(|e| self.event_s(e))
    }

    /// When the pump was first booked as off, s from the release; never where it was not.
    pub fn pump_off_s(&self) -> f64 {
        let first = self.rows.events.iter().find(|e| e.kind == EventKind::PumpOff);
        first.map_or(f64::INFINITY, |e| self.event_s(e))
    }

    /// Kinds of the events booked.
    pub fn booked(&self) -> Vec<EventKind> {
        self.rows.events.iter().map(|e| e.kind).collect()
    }

    /// True when an event of a kind was booked.
    pub fn has(&self, kind: EventKind) -> bool {
        self.rows.events.iter().any(|e| e.kind == kind)
    }

    /// Steps booked as reached.
    pub fn reached(&self) -> usize {
        self.rows.events.iter().filter(|e| e.kind == EventKind::StepReached).count()
    }

    /// True once the pressure was released.
    pub fn over(&self) -> bool {
        self.has(EventKind::Released)
    }

    /// True while nothing was booked, typed or brought, and no gauge has read pressure lately: nobody has begun.
    pub fn untouched(&self) -> bool {
        let rows = &self.rows;
        rows.events.is_empty() && rows.typed.is_empty() && self.logged() == 0 && !crate::situation::pressed(self)
    }

    /// Until when the system rests without pressure after the test before, where its basis asks for that; none before the first.
    pub fn rests_until(&self) -> Option<Instant> {
        let criteria = &self.window()?.criteria;
        let rest = criteria.iter().find_map(|c| if let Criterion::WholeTest(w) = c { Some(w.rest_s) } else { None })?;
        Some(self.rows.let_out_before?.plus_s(rest.s()))
    }

    /// Events as the judge reads them.
    pub fn judged_events(&self) -> Vec<Event> {
        self.rows
            .events
            .iter()
            // a look at one class of places is not yet the look at every joint
            .filter(|e| e.kind.is_judged() && (e.kind != EventKind::LookDone || e.place.is_none()))
            .map(|e| Event {
                t_s: RunTime::from_s(self.event_s(e)),
                kind: e.kind,
                place: e.place,
                volume_m3: e.volume_m3.map(Volume::from_m3),
            })
            .collect()
    }
}
