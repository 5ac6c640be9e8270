//! From what is stored of a run to the case that the judge reads.

use crate::attempt_view::schedule_of;
use crate::hold_case::{self, CAREFUL_VENTING};
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::correction::CorrectionRow;
use crate::store::event::EventRow;
use crate::store::reading::{Channel, ReadingRow};
use crate::store::tick::{ClockSet, Tick};
use formats::logger::LoggerRow;
use judge::HoldCase;
use judge::case::{Acceptance, Event, EventKind, HeatBefore, HoldGauge, Lowered, Reading, Thermometer};
use judge::segments::{Brought, RunStretch};
use pack::instrument::{Instrument, InstrumentKind};
use pack::plan::ThermometerPlace;
use pack::run::RunEventKind;
use quantity::{GaugePressure, PressureDifference, Temperature};
use rules::accept::Criterion;
use rules::say::Say;
use rules::specification::Specification;
use rules::system::{Derived, Refusal, System};
use time::OffsetDateTime;

/// Everything stored of one run.
#[derive(Debug, Clone)]
pub struct Run {
    /// The attempt.
    pub attempt: AttemptRow,
    /// Its events.
    pub events: Vec<EventRow>,
    /// Its typed readings.
    pub typed: Vec<ReadingRow>,
    /// Its loggers' rows.
    pub logged: Vec<LoggerRow>,
    /// What the recorder read.
    pub ticks: Vec<Tick>,
    /// Zone of the site: a certificate counts by its days.
    pub zone: std::sync::Arc<str>,
    /// True once the recorder has read pressure at the gauge, or does so now.
    pub pressed: bool,
    /// When the installation's clock was set anew while it recorded.
    pub clock_sets: Vec<ClockSet>,
    /// What a person corrected in how it is read.
    pub corrections: Vec<CorrectionRow>,
    /// When the pressure of the attempt before it was let out.
    pub let_out_before: Option<OffsetDateTime>,
}

impl Run {
    /// Reads all of an attempt.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn load(app: &App, attempt: AttemptRow) -> Result<Self, crate::problem::Problem> {
        let ticks = crate::store::tick::after(&app.db, &attempt.id, 0).await?;
        Ok(Self { ticks, ..Self::load_booked(app, attempt).await? })
    }

    /// Reads an attempt without what the recorder read.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn load_booked(app: &App, attempt: AttemptRow) -> Result<Self, crate::problem::Problem> {
        let id = attempt.id.clone();
        let mut run = Self {
            ticks: Vec::new(),
            pressed: false,
            zone: app.zone.clone(),
            clock_sets: crate::store::tick::clock_sets(&app.db, &id).await?,
            corrections: crate::store::correction::of_attempt(&app.db, &id).await?,
            events: crate::store::event::of_attempt(&app.db, &id).await?,
            typed: crate::store::reading::of_attempt(&app.db, &id).await?,
            logged: crate::store::recording::rows_of_attempt(&app.db, &id).await?,
            let_out_before: crate::store::event::let_out_before(&app.db, &attempt.pack_id, attempt.number).await?,
            attempt,
        };
        if run.untouched() {
            let last = crate::store::tick::last(&app.db, &id).await?;
            run.pressed = crate::situation::pressed(&run, &last);
        }
        Ok(run)
    }

    /// Seconds from the release to an instant on a clock that stands `lead_us` ahead of the run's own time.
    pub fn seconds(&self, at: OffsetDateTime, lead_us: i64) -> f64 {
        (at - self.attempt.released_at).as_seconds_f64() - lead_us as f64 * 1e-6
    }

    /// The same for µs since 1970 of the run's own time.
    pub fn seconds_us(&self, run_us: i64) -> f64 {
        (i128::from(run_us) - self.attempt.released_at.unix_timestamp_nanos() / 1000) as f64 * 1e-6
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
    pub fn lead_us(&self, at: OffsetDateTime) -> i64 {
        let at_us = crate::clock::us(at);
        self.clock_sets.iter().rev().find(|c| c.at_us <= at_us).map_or(0, |c| c.lead_us)
    }

    /// Now, s from the release.
    pub fn now_s(&self, app: &App) -> f64 {
        let now = app.clock.now();
        self.seconds(now, self.clock_sets.last().map_or(0, |c| c.lead_us))
    }

    /// The instant that the installation's clock shows, as it stands now, at a time from the release.
    pub fn shown(&self, t_s: f64) -> OffsetDateTime {
        let lead = self.clock_sets.last().map_or(0, |c| c.lead_us);
        self.attempt.released_at + time::Duration::seconds_f64(t_s) + time::Duration::microseconds(lead)
    }

    /// When an event of a kind was last, s from the release; none where there was none.
    pub fn last_s(&self, kind: RunEventKind) -> Option<f64> {
        self.events.iter().rfind(|e| e.kind == kind).map(|e| self.event_s(e))
    }

    /// Kinds of the events booked.
    pub fn booked(&self) -> Vec<RunEventKind> {
        self.events.iter().map(|e| e.kind).collect()
    }

    /// Until when the system rests without pressure after the test before, where its basis asks for that; none before the first.
    pub fn rests_until(&self, derived: &Derived) -> Option<OffsetDateTime> {
        let rest = derived.criteria.iter().find_map(|c| if let Criterion::WholeTest(w) = c { Some(w.rest_s) } else { None })?;
        Some(self.let_out_before? + time::Duration::seconds_f64(rest.s()))
    }

    /// What was derived when it was released; of a release by an earlier version, what is derived of it now.
    ///
    /// # Errors
    /// When nothing can be derived of it now.
    pub fn derived(&self) -> Result<Derived, Refusal> {
        self.attempt.frozen.derived.clone().map_or_else(|| rules::system::derive(&self.system()), Ok)
    }

    /// True while nothing was booked, typed or brought, and no gauge has read pressure: nobody has begun.
    fn untouched(&self) -> bool {
        self.events.is_empty() && self.typed.is_empty() && self.logged.is_empty() && !self.pressed
    }

    /// Why the release no longer stands: rules or the project's library changed since, and what follows from the same plan is another thing now.
    /// None once the run has begun: it goes on under the rules of its release.
    pub fn withdrawn_under(&self, specification: &Specification) -> Option<String> {
        let changed = self.untouched().then(|| self.differs_under(specification)).flatten()?;
        Some(format!(
            "The release is withdrawn: rules or the project's library changed, and {changed}. Look at Derive, and release it anew."
        ))
    }

    /// What somebody who is under pressure has to know: what follows from the plan is another thing today. None before the run has begun, or after it.
    fn warned_under(&self, specification: &Specification) -> Option<String> {
        if self.untouched() || self.over() {
            return None;
        }
        let changed = self.differs_under(specification)?;
        Some(format!(
            "Since the release rules or the project's library changed, and {changed}. This run goes on under the window of its release: go no higher before the engineer has looked at it."
        ))
    }

    /// How today's rules and library see the plan that was released, where they see it otherwise.
    fn differs_under(&self, specification: &Specification) -> Option<String> {
        let f = &self.attempt.frozen;
        let now = rules::system::derive(&f.plan.system(&f.title, f.parts.clone(), &f.instruments, specification));
        let then = self.derived();
        let say = Say(f.plan.worked_in);
        let window = |d: &Derived| format!("{} to {}", say.up(d.lower_pa), say.down(d.upper_pa));
        let differs = |a: &Derived, b: &Derived| {
            (a.lower_pa - b.lower_pa).pa().abs() > 1.0
                || (a.upper_pa - b.upper_pa).pa().abs() > 1.0
                || a.day.as_ref().map(|d| d.planned_pa) != b.day.as_ref().map(|d| d.planned_pa)
        };
        Some(match (&then, &now) {
            (_, Err(e)) => format!("today it is refused: {}", e.say(say)),
            (_, Ok(now)) if !now.objections.is_empty() => {
                let open: Vec<&str> = now.objections.iter().map(|o| o.sentence.as_str()).collect();
                format!("today this stands against it: {}", open.join(" ").trim_end_matches('.'))
            }
            (Ok(then), Ok(now)) if differs(then, now) => {
                let planned = |d: &Derived| d.day.as_ref().map_or_else(|| "nothing".to_owned(), |d| say.p(d.planned_pa));
                format!(
                    "it was released for {} (planned {}), and today {} follow from the same plan (planned {})",
                    window(then),
                    planned(then),
                    window(now),
                    planned(now)
                )
            }
            _ => return None,
        })
    }

    /// What somebody under pressure has to know of what the project lays down now.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn warned(&self, app: &App) -> Result<Option<String>, crate::problem::Problem> {
        Ok(self.warned_under(&crate::store::specification::get(&app.db).await?.specification))
    }

    /// Why the release no longer stands under what the project lays down now.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn withdrawn(&self, app: &App) -> Result<Option<String>, crate::problem::Problem> {
        Ok(self.withdrawn_under(&crate::store::specification::get(&app.db).await?.specification))
    }

    /// True once the pressure was released.
    pub fn over(&self) -> bool {
        self.booked().contains(&RunEventKind::Released)
    }

    /// The gauge as certified.
    pub fn gauge(&self) -> Option<&Instrument> {
        let plan = &self.attempt.frozen.plan;
        self.attempt.frozen.instruments.iter().find(|i| i.tag == plan.gauge_tag && i.kind == InstrumentKind::Gauge)
    }

    /// The system as frozen.
    pub fn system(&self) -> System {
        let f = &self.attempt.frozen;
        f.plan.system(&f.title, f.parts.clone(), &f.instruments, &f.specification)
    }

    /// Readings of all sources in time order, s from the release.
    pub fn readings(&self) -> Vec<Reading> {
        let typed = self.typed.iter().filter(|r| r.struck.is_none()).map(|r| match r.channel {
            Channel::Pressure => Reading::new(self.typed_s(r), Some(GaugePressure::from_pa(r.value)), None),
            Channel::Temperature => Reading::new(self.typed_s(r), None, Some(Temperature::from_c(r.value))),
        });
        let logged = self.logged.iter().map(|r| {
            Reading::new(self.seconds_us(r.at_us), r.pressure_pa.map(GaugePressure::from_pa), r.temperature_c.map(Temperature::from_c))
        });
        let mut all: Vec<Reading> = typed.chain(logged).chain(self.polled()).collect();
        all.sort_by(|a, b| a.t_s.total_cmp(&b.t_s));
        all
    }

    /// Instruments of the plan beside gauge and thermometer, gauges first, as far as a hold can use them.
    pub fn also(&self) -> (Vec<HoldGauge>, Vec<Thermometer>) {
        hold_case::further(&self.attempt.frozen.plan, &self.attempt.frozen.instruments)
    }

    /// What the recorder read; a channel that did not answer, or stood at the end of its scale, gives no reading.
    fn polled(&self) -> impl Iterator<Item = Reading> + '_ {
        let f = &self.attempt.frozen;
        let place = |tag: &str| f.instruments.iter().position(|i| i.tag == tag && i.connection.is_some());
        let end_of = |tag: &str| {
            f.instruments.iter().find(|i| i.tag == tag).and_then(|i| i.full_scale_pa).map_or(f64::INFINITY, quantity::GaugePressure::pa)
        };
        let (gauges, thermometers) = self.also();
        let (gauge, thermometer) = (place(&f.plan.gauge_tag), place(&f.plan.thermometer_tag));
        let end = end_of(&f.plan.gauge_tag);
        let others: Vec<(Option<usize>, f64)> = gauges
            .iter()
            .map(|g| (place(&g.tag), end_of(&g.tag)))
            .chain(thermometers.iter().map(|t| (place(&t.tag), f64::INFINITY)))
            .collect();
        let none_read = others.iter().all(|o| o.0.is_none());
        self.ticks.iter().filter_map(move |t| {
            let of = |at: Option<usize>| t.values.iter().find(|v| Some(usize::from(v.channel)) == at).and_then(|v| v.value);
            let also = if none_read { Vec::new() } else { others.iter().map(|(at, end)| of(*at).filter(|v| v < end)).collect() };
            let reading = Reading {
                also,
                ..Reading::new(
                    self.seconds_us(t.run_us),
                    of(gauge).filter(|p| *p < end).map(GaugePressure::from_pa),
                    of(thermometer).map(Temperature::from_c),
                )
            };
            (reading.pressure_pa.is_some() || reading.temperature_c.is_some()).then_some(reading)
        })
    }

    /// Events as the judge reads them.
    pub fn judged_events(&self) -> Vec<Event> {
        self.events
            .iter()
            // a look at one class of places is not yet the look at every joint
            .filter(|e| e.kind != RunEventKind::LookDone || e.place.is_none())
            .filter_map(|e| Some(Event { t_s: self.event_s(e), kind: judged_kind(e.kind)?, place: e.place, volume_m3: e.volume_m3 }))
            .collect()
    }

    /// The stretches of the run, with the boundaries that a person moved.
    pub fn stretches(&self, derived: &Derived, case: Option<&HoldCase>) -> Vec<RunStretch> {
        let hold = case.map(|c| (c.hold_start_s, c.hold_end_s));
        judge::segments::stretches(
            &self.judged_events(),
            &pressures(&self.readings()),
            derived.lower_pa.pa(),
            hold,
            case.map_or(&[], |c| &c.moved),
        )
    }

    /// Start and end of the hold as readings and events have it, s from the release.
    fn hold_found(&self, readings: &[Reading], events: &[Event], derived: &Derived) -> Option<(f64, f64)> {
        let brought = match derived.settle_s {
            _ if derived.lowering().is_some_and(|l| l.quick.is_some()) => Brought::LoweredAfterWait,
            _ if derived.lowering().is_some() => Brought::Lowered,
            s if s > 0.0 => Brought::Back(s),
            _ => Brought::Not,
        };
        judge::segments::hold_of(events, &pressures(readings), derived.hold_lower_pa().pa(), brought, derived.looks_at_pa().is_some())
    }

    /// The case for the judge; none while the hold has not begun.
    pub fn case(&self, derived: &Derived) -> Option<HoldCase> {
        let f = &self.attempt.frozen;
        let readings = self.readings();
        let events = self.judged_events();
        let moved: Vec<_> = self.corrections.iter().filter_map(CorrectionRow::moved).collect();
        // what the gauge showed once all was let out is watched, and is no part of the record
        let let_out = self.last_s(RunEventKind::Released).unwrap_or(f64::INFINITY);
        let readings: Vec<Reading> = readings.into_iter().filter(|r| r.t_s <= let_out + 1.0).collect();
        let (hold_start_s, hold_end_s) = judge::segments::moved(self.hold_found(&readings, &events, derived)?, &moved);
        let system = self.system();
        let planned = hold_case::planned(&f.title, &f.plan, &system, &f.instruments, derived, f.hold().s())?;
        let air = self.air(derived);
        let filled = self.events.iter().find(|e| e.kind == RunEventKind::Filled).map(|e| self.event_s(e));
        let stretches =
            judge::segments::stretches(&events, &pressures(&readings), derived.lower_pa.pa(), Some((hold_start_s, hold_end_s)), &moved);
        let at_pressure = judge::segments::raised_at(&stretches, hold_start_s).or_else(|| self.reached(derived, &readings));
        Some(HoldCase {
            air_fraction: air.0,
            air_fraction_unc_95: air.1,
            heat: self.heat(planned.heat, &readings, filled, hold_start_s),
            at_pressure_s: at_pressure.map_or(0.0, |t| (hold_start_s - t).max(0.0)),
            lowered: planned.lowered.map(|l| lowered(l, &readings, hold_start_s)),
            let_out_before_s: self.let_out_before.map(|at| self.seconds(at, 0)),
            acceptance: Acceptance { instrument_objections: self.objections(hold_start_s), ..planned.acceptance },
            clock_set: self.clock_set(),
            overruled: self.corrections.iter().filter_map(CorrectionRow::overruled).collect(),
            moved,
            readings,
            hold_start_s,
            hold_end_s,
            events,
            ..planned
        })
    }

    /// When the clock was set anew, and by how much.
    pub fn clock_set(&self) -> Vec<judge::case::ClockSet> {
        let mut lead = 0;
        let by = |c: &ClockSet| {
            let by_s = (c.lead_us - std::mem::replace(&mut lead, c.lead_us)) as f64 * 1e-6;
            judge::case::ClockSet { t_s: self.seconds_us(c.run_us), by_s }
        };
        self.clock_sets.iter().map(by).collect()
    }

    /// When the test pressure was reached, s: as read first, or as it was booked where nothing was read from then on.
    fn reached(&self, derived: &Derived, readings: &[Reading]) -> Option<f64> {
        let read = readings.iter().filter(|r| r.pressure_pa.is_some());
        let first = read.clone().find(|r| r.pressure_pa.is_some_and(|p| p >= derived.lower_pa.times(0.95))).map(|r| r.t_s);
        let steps = schedule_of(self, derived).len();
        let booked = self.events.iter().filter(|e| e.kind == RunEventKind::StepReached).nth(steps.saturating_sub(1));
        let booked = booked.map(|e| self.event_s(e)).filter(|at| first.is_none_or(|f| !read.clone().any(|r| r.t_s >= *at && r.t_s < f)));
        booked.into_iter().chain(first).reduce(f64::min)
    }

    /// What is known of heat: a thermometer in the water that was read when it was filled says how warm it came.
    fn heat(&self, planned: HeatBefore, readings: &[Reading], filled: Option<f64>, hold_start_s: f64) -> HeatBefore {
        let soak_s = filled.map_or(planned.soak_s, |t| (hold_start_s - t).max(0.0));
        let in_water = self.attempt.frozen.plan.thermometer_place == ThermometerPlace::Water;
        let read = filled.filter(|_| in_water).and_then(|t| {
            let near =
                readings.iter().filter(|r| r.temperature_c.is_some()).min_by(|a, b| (a.t_s - t).abs().total_cmp(&(b.t_s - t).abs()))?;
            near.temperature_c.filter(|_| (near.t_s - t).abs() < 900.0)
        });
        match read {
            Some(fill_c) => HeatBefore { fill_c, fill_unc_95_k: 0.6, soak_s, ..planned },
            None => HeatBefore { soak_s, ..planned },
        }
    }

    /// Air at filling with its half-width (95 %): from the pumping curve where that tells it, else none with what a careful venting leaves in
    /// doubt (common practice).
    fn air(&self, derived: &Derived) -> (f64, f64) {
        let found = crate::live::pumping(self, derived, &self.ticks, f64::INFINITY).and_then(|c| c.air).filter(|a| a.determinable);
        found.map_or((0.0, CAREFUL_VENTING), |a| (a.fraction, 0.5 * (a.hi_95 - a.lo_95)))
    }

    /// What speaks against the instruments on the day of the hold.
    fn objections(&self, hold_start_s: f64) -> Vec<String> {
        let day = crate::state::day(&self.zone, self.attempt.released_at + time::Duration::seconds_f64(hold_start_s));
        self.attempt.frozen.instruments.iter().filter_map(|i| i.objection(&day)).collect()
    }
}

/// By how much it was lowered as read about the start of the hold, and how long before: in the middle between the last reading above and the start.
fn lowered(planned: Lowered, readings: &[Reading], hold_start_s: f64) -> Lowered {
    let read = pressures(readings);
    let Some((before, after)) = judge::segments::lowered_as_read(&read, hold_start_s).filter(|(before, after)| before > after) else {
        return planned;
    };
    let above = read.iter().rfind(|r| r.0 <= hold_start_s && r.1 > 0.5 * (before + after));
    Lowered { by_pa: PressureDifference::from_pa(before - after), before_s: above.map_or(0.0, |r| 0.5 * (hold_start_s - r.0)) }
}

/// Pressures with their times.
fn pressures(readings: &[Reading]) -> Vec<(f64, f64)> {
    readings.iter().filter_map(|r| Some((r.t_s, r.pressure_pa?.pa()))).collect()
}

/// Which events matter to the judge.
fn judged_kind(kind: RunEventKind) -> Option<EventKind> {
    Some(match kind {
        RunEventKind::StepReached => EventKind::StepReached,
        RunEventKind::PumpOff => EventKind::PumpOff,
        RunEventKind::LookDone => EventKind::LookDone,
        RunEventKind::LeakSeen => EventKind::LeakSeen,
        RunEventKind::Repump => EventKind::Repump,
        RunEventKind::Bleed => EventKind::Bleed,
        RunEventKind::HoldEnded => EventKind::HoldEnded,
        RunEventKind::Released => EventKind::Released,
        RunEventKind::Filled | RunEventKind::VentOpened | RunEventKind::Drained | RunEventKind::Noted => {
            return None;
        }
    })
}
