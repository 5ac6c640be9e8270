//! From the rows of a run to the case that the judge reads.

use crate::curve::air_found;
use crate::hold_case;
use crate::run::Run;
use judge::HoldCase;
use judge::case::{Acceptance, ClockSet, HeatBefore, Lowered, Reading};
use judge::read::{Read, TimeRange};
use judge::segments::{Brought, RunStretch, StretchKind};
use moment::Zone;
use pack::instrument::IsoDate;
use quantity::{RunTime, Span, TemperatureDifference};
use rules::system::Derived;
use terms::{EventKind, ThermometerPlace};

/// A thermometer in the water counts for the filling when it was read so near it.
const READ_AT_FILLING: Span = Span::from_s(900.0);
/// How well the water's temperature at filling is known where it was read (95 %).
const READ_FILL: TemperatureDifference = TemperatureDifference::from_k(0.6);
/// What the gauge showed later than this after all was let out is watched, and is no part of the record, s.
const AFTER_LET_OUT_S: f64 = 1.0;

impl Run {
    /// The hold as readings and events have it, with what a person moved; none while it has not begun.
    pub fn hold(&self) -> Option<TimeRange> {
        let derived = self.window()?;
        let let_out = self.let_out_s();
        let read = self.pressures();
        let read = &read[..read.partition_point(|r| r.t.s() <= let_out)];
        let moved: Vec<_> = self.corrections().iter().filter_map(crate::rows::CorrectionRow::moved).collect();
        Some(judge::segments::moved(self.hold_found(derived, read)?, &moved))
    }

    fn hold_found(&self, derived: &Derived, pressures: &[Read]) -> Option<TimeRange> {
        let brought = match derived.settle_s {
            _ if derived.lowering().is_some_and(|l| l.quick.is_some()) => Brought::LoweredAfterWait,
            _ if derived.lowering().is_some() => Brought::Lowered,
            s if s > Span::ZERO => Brought::Back(s),
            _ => Brought::Not,
        };
        judge::segments::hold_of(
            &self.judged_events(),
            pressures,
            derived.hold_lower_pa(),
            brought,
            derived.looks_at_pa().is_some(),
            self.clock(),
        )
    }

    /// The recorder's instants that are part of the record: up to when all was let out.
    pub fn recorded_ticks(&self) -> &[crate::rows::Tick] {
        let let_out = self.let_out_s();
        &self.ticks()[..self.ticks().partition_point(|t| self.seconds_us(t.run_us) <= let_out)]
    }

    /// Until when the recorder's instants are part of the record, µs since 1970 of the run's own time.
    pub fn recorded_until_us(&self) -> i64 {
        let let_out = self.let_out_s();
        if let_out.is_finite() { self.released_at().plus_s(let_out).us() } else { i64::MAX }
    }

    /// The rows that are part of the record.
    pub fn recorded_rows(&self) -> crate::rows::Rows {
        let r = self.rows();
        crate::rows::Rows {
            events: r.events.clone(),
            typed: r.typed.clone(),
            recordings: r.recordings.clone(),
            ticks: self.recorded_ticks().to_vec(),
            clock_sets: r.clock_sets.clone(),
            corrections: r.corrections.clone(),
            let_out_before: r.let_out_before,
        }
    }

    /// Until when what was read is part of the record, s from the release.
    fn let_out_s(&self) -> f64 {
        self.last_s(EventKind::Released).map_or(f64::INFINITY, |s| s + AFTER_LET_OUT_S)
    }

    /// The stretches of the run, with the boundaries that a person moved.
    pub fn stretches(&self) -> Vec<RunStretch> {
        let Some(derived) = self.window() else { return Vec::new() };
        let moved: Vec<_> = self.corrections().iter().filter_map(crate::rows::CorrectionRow::moved).collect();
        let (events, hold) = (self.judged_events(), self.hold());
        let mut all = judge::segments::stretches(&events, self.pressures(), derived.lower_pa, hold, &moved);
        let anew = |start: RunTime| {
            let starts = |e: &judge::case::Event| matches!(e.kind, EventKind::Repump | EventKind::Bleed | EventKind::NippedUp);
            events.iter().any(|e| starts(e) && (e.t_s - start).abs() < Span::from_s(1.0))
        };
        // what the basis lets settle and bring back is no earlier hold
        let settles = derived.settle_s > Span::ZERO || derived.lowering().is_some();
        if let Some(at) = all.iter().position(|s| s.kind == StretchKind::Hold).filter(|_| !settles && hold.is_some_and(|h| anew(h.start)))
            // the repump itself may be a rise of its own between the two
            && let Some(before) = all[..at].iter_mut().rev().find(|s| s.kind != StretchKind::Ramp).filter(|s| s.kind == StretchKind::Stabilise)
        {
            before.kind = StretchKind::HeldBefore;
        }
        all
    }

    /// The case for the judge; none while the hold has not begun and nothing was let out, or nothing can be derived of what was frozen. Certificates count by the days of `zone`.
    pub fn case(&self, zone: &Zone) -> Option<HoldCase> {
        let derived = self.window()?;
        let f = self.frozen();
        let let_out = self.let_out_s();
        let upto = self.readings().partition_point(|r| r.t_s.s() <= let_out);
        let readings: Vec<Reading> = self.readings()[..upto].to_vec();
        let pressures = &self.pressures()[..self.pressures().partition_point(|r| r.t.s() <= let_out)];
        let events = self.judged_events();
        let held = self.hold();
        // let out before a hold began, it is judged by what was seen
        let hold = held.or_else(|| {
            let out = RunTime::from_s(self.last_s(EventKind::Released)?);
            Some(TimeRange { start: out, end: out })
        })?;
        let moved: Vec<_> = self.corrections().iter().filter_map(crate::rows::CorrectionRow::moved).collect();
        let planned = hold_case::planned(&f.title, &f.plan, &self.facts().system, &f.instruments, derived, f.hold())?;
        let air = air_found(self).filter(|a| a.determinable);
        let filled = self.events().iter().find(|e| e.kind == EventKind::Filled).map(|e| RunTime::from_s(self.event_s(e)));
        let stretches = judge::segments::stretches(&events, pressures, derived.lower_pa, held, &moved);
        let at_pressure = judge::segments::raised_at(&stretches, hold.start).or_else(|| self.pressure_reached(derived, pressures));
        Some(HoldCase {
            // from the pumping curve where that tells it, else what was stated to stay in, with what a careful venting leaves in doubt
            air_fraction: air.as_ref().map_or(planned.air_fraction, |a| a.fraction),
            air_fraction_unc_95: air.as_ref().map_or(planned.air_fraction_unc_95, |a| 0.5 * (a.hi_95 - a.lo_95)),
            heat: self.heat(planned.heat, &readings, filled, hold.start),
            at_pressure_s: at_pressure.map_or(Span::ZERO, |t| (hold.start - t).max(Span::ZERO)),
            lowered: planned.lowered.map(|l| lowered(l, pressures, hold.start)),
            let_out_before_s: self.rows().let_out_before.map(|at| RunTime::from_s(self.seconds(at, 0))),
            acceptance: Acceptance { instrument_objections: self.instrument_objections(zone, hold.start), ..planned.acceptance },
            clock_set: self.clock_set(),
            overruled: self.corrections().iter().filter_map(crate::rows::CorrectionRow::overruled).collect(),
            moved,
            decided: self.corrections().iter().rev().find_map(crate::rows::CorrectionRow::decided),
            readings,
            stopped: held.is_none(),
            hold_start_s: hold.start,
            hold_end_s: hold.end,
            events,
            ..planned
        })
    }

    /// When the clock was set anew, and by how much.
    pub fn clock_set(&self) -> Vec<ClockSet> {
        let mut lead = 0;
        let by = |c: &crate::rows::ClockSet| {
            let by_s = (c.lead_us - std::mem::replace(&mut lead, c.lead_us)) as f64 * 1e-6;
            ClockSet { t_s: RunTime::from_s(self.seconds_us(c.run_us)), by_s: Span::from_s(by_s) }
        };
        self.clock_sets().iter().map(by).collect()
    }

    /// When the test pressure was reached: as read first, or as it was booked where nothing was read from then on.
    fn pressure_reached(&self, derived: &Derived, read: &[Read]) -> Option<RunTime> {
        let enough = derived.lower_pa.times(0.95);
        let first = read.iter().find(|r| r.p >= enough).map(|r| r.t);
        let steps = self.facts().schedule.len();
        let booked = self.events().iter().filter(|e| e.kind == EventKind::StepReached).nth(steps.saturating_sub(1));
        let unread = |at: RunTime| first.is_none_or(|f| !read.iter().any(|r| r.t >= at && r.t < f));
        let booked = booked.map(|e| RunTime::from_s(self.event_s(e))).filter(|at| unread(*at));
        booked.into_iter().chain(first).reduce(RunTime::min)
    }

    /// What is known of heat: a thermometer in the water that was read when it was filled says how warm it came.
    fn heat(&self, planned: HeatBefore, readings: &[Reading], filled: Option<RunTime>, hold_start: RunTime) -> HeatBefore {
        let soak_s = filled.map_or(planned.soak_s, |t| (hold_start - t).max(Span::ZERO));
        let in_water = self.frozen().plan.thermometer_place == ThermometerPlace::Water;
        let booked = self.booked_temperatures(EventKind::WaterWas);
        let read = filled.and_then(|t| {
            let read = readings.iter().filter(|_| in_water).filter_map(|r| Some((r.t_s, r.temperature_c?)));
            let near = read.chain(booked.iter().copied()).min_by(|a, b| (a.0 - t).abs().total_cmp(&(b.0 - t).abs()))?;
            Some(near.1).filter(|_| (near.0 - t).abs() < READ_AT_FILLING)
        });
        match read {
            Some(fill_c) => HeatBefore { fill_c, fill_unc_95_k: READ_FILL, soak_s, ..planned },
            None => HeatBefore { soak_s, ..planned },
        }
    }

    /// What speaks against the instruments on the day of the hold.
    fn instrument_objections(&self, zone: &Zone, hold_start: RunTime) -> Vec<String> {
        let day = IsoDate(zone.day(self.released_at().plus_s(hold_start.s())));
        let by_date = self.frozen().instruments.iter().filter_map(|i| i.objection(&day));
        let past_scale = self.events().iter().filter(|e| e.kind == EventKind::BeyondScale).map(|e| {
            let tag = e.of.as_deref().unwrap_or("A gauge");
            format!("{tag} was driven past its scale: what it reads counts for nothing before it is checked and calibrated again.")
        });
        by_date.chain(past_scale).collect()
    }
}

/// By how much it was lowered as read about the start of the hold, and how long before: in the middle between the last reading above and the start.
fn lowered(planned: Lowered, read: &[Read], hold_start: RunTime) -> Lowered {
    let Some((before, after)) = judge::segments::lowered_as_read(read, hold_start).filter(|(before, after)| before > after) else {
        return planned;
    };
    let by_pa = before - after;
    let above = read.iter().rfind(|r| r.t <= hold_start && r.p > after + by_pa * 0.5);
    Lowered { by_pa, before_s: above.map_or(Span::ZERO, |r| (hold_start - r.t) * 0.5) }
}
