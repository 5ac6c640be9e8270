//! From what is stored of a run to the case that the judge reads.

use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::event::EventRow;
use crate::store::reading::{Channel, ReadingRow};
use crate::store::tick::Tick;
use formats::logger::LoggerRow;
use judge::HoldCase;
use judge::case::{Acceptance, Claim, Event, EventKind, HoldGauge, Location, Reading, Thermometer};
use pack::instrument::{Instrument, InstrumentKind, IsoDate};
use pack::plan::{Plan, ThermometerPlace};
use pack::run::RunEventKind;
use physics::heat;
use quantity::{GaugePressure, Temperature};
use rules::system::{Derived, System};
use time::OffsetDateTime;

/// What a careful venting leaves in doubt of the air, share of the volume (95 %; common practice).
const CAREFUL_VENTING: f64 = 0.001;

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
        Ok(Self {
            ticks: Vec::new(),
            events: crate::store::event::of_attempt(&app.db, &id).await?,
            typed: crate::store::reading::of_attempt(&app.db, &id).await?,
            logged: crate::store::recording::rows_of_attempt(&app.db, &id).await?,
            attempt,
        })
    }

    /// Seconds from the release to an instant.
    pub fn seconds(&self, at: OffsetDateTime) -> f64 {
        (at - self.attempt.released_at).as_seconds_f64()
    }

    /// The same for µs since 1970.
    pub fn seconds_us(&self, at_us: i64) -> f64 {
        (i128::from(at_us) - self.attempt.released_at.unix_timestamp_nanos() / 1000) as f64 * 1e-6
    }

    /// Kinds of the events booked.
    pub fn booked(&self) -> Vec<RunEventKind> {
        self.events.iter().map(|e| e.kind).collect()
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
        let typed = self.typed.iter().map(|r| {
            let blank = Reading { t_s: self.seconds(r.at), pressure_pa: None, temperature_c: None };
            match r.channel {
                Channel::Pressure => Reading { pressure_pa: Some(GaugePressure::from_pa(r.value)), ..blank },
                Channel::Temperature => Reading { temperature_c: Some(Temperature::from_c(r.value)), ..blank },
            }
        });
        let logged = self.logged.iter().map(|r| Reading {
            t_s: self.seconds_us(r.at_us),
            pressure_pa: r.pressure_pa.map(GaugePressure::from_pa),
            temperature_c: r.temperature_c.map(Temperature::from_c),
        });
        let mut all: Vec<Reading> = typed.chain(logged).chain(self.polled()).collect();
        all.sort_by(|a, b| a.t_s.total_cmp(&b.t_s));
        all
    }

    /// What the recorder read of gauge and thermometer; a channel that did not answer, or stood at the end of its scale, gives no reading.
    fn polled(&self) -> impl Iterator<Item = Reading> + '_ {
        let f = &self.attempt.frozen;
        let place = |tag: &str| f.instruments.iter().position(|i| i.tag == tag && i.connection.is_some());
        let (gauge, thermometer) = (place(&f.plan.gauge_tag), place(&f.plan.thermometer_tag));
        let end = self.gauge().and_then(|g| g.full_scale_pa).map_or(f64::INFINITY, quantity::GaugePressure::pa);
        self.ticks.iter().filter_map(move |t| {
            let of = |at: Option<usize>| t.values.iter().find(|v| Some(usize::from(v.channel)) == at).and_then(|v| v.value);
            let reading = Reading {
                t_s: self.seconds_us(t.at_us),
                pressure_pa: of(gauge).filter(|p| *p < end).map(GaugePressure::from_pa),
                temperature_c: of(thermometer).map(Temperature::from_c),
            };
            (reading.pressure_pa.is_some() || reading.temperature_c.is_some()).then_some(reading)
        })
    }

    /// The case for the judge; none while the hold has not begun.
    pub fn case(&self, derived: &Derived) -> Option<HoldCase> {
        let plan = &self.attempt.frozen.plan;
        let readings = self.readings();
        let events: Vec<Event> = self
            .events
            .iter()
            // a look at one class of places is not yet the look at every joint
            .filter(|e| e.kind != RunEventKind::LookDone || e.place.is_none())
            .filter_map(|e| Some(Event { t_s: self.seconds(e.at), kind: judged_kind(e.kind)?, place: e.place }))
            .collect();
        let last = readings.iter().filter(|r| r.pressure_pa.is_some()).map(|r| r.t_s).next_back();
        let (hold_start_s, hold_end_s) = judge::segments::hold_of(&events, last)?;
        let system = self.system();
        let gauge = self.gauge()?;
        let air = self.air(derived);
        Some(HoldCase {
            title: self.attempt.frozen.title.clone(),
            segments: system.shut_in().map(|s| s.segments).unwrap_or_default(),
            air_fraction: air.0,
            air_fraction_unc_95: air.1,
            volume_unc_95_rel: 0.05,
            wall_unc_95_rel: 0.10,
            atmosphere_pa: quantity::STANDARD_ATMOSPHERE,
            gauge: HoldGauge {
                tag: gauge.tag.clone(),
                division_pa: gauge.division_pa?,
                full_scale_pa: gauge.full_scale_pa?,
                error_of_scale: gauge.error_of_scale?,
                unit: gauge.unit,
            },
            thermometer: self.thermometer(plan, &system),
            acceptance: Acceptance {
                claim: match plan.claim {
                    pack::plan::Claim::Strength => Claim::Strength,
                    pack::plan::Claim::Tightness => Claim::Tightness,
                    pack::plan::Claim::Both => Claim::Both,
                },
                lower_pa: derived.lower_pa,
                upper_pa: derived.upper_pa,
                hold_floor_s: self.attempt.frozen.hold().s(),
                required_sensitivity_m3_per_s: plan.required_sensitivity_m3_per_s,
                instrument_objections: self.objections(hold_start_s),
            },
            readings,
            hold_start_s,
            hold_end_s,
            events,
        })
    }

    /// Air at filling with its half-width (95 %): from the pumping curve where that tells it, else none with what a careful venting leaves in
    /// doubt (common practice).
    fn air(&self, derived: &Derived) -> (f64, f64) {
        let found = crate::live::pumping(self, derived, &self.ticks, f64::INFINITY).and_then(|c| c.air).filter(|a| a.determinable);
        found.map_or((0.0, CAREFUL_VENTING), |a| (a.fraction, 0.5 * (a.hi_95 - a.lo_95)))
    }

    fn thermometer(&self, plan: &Plan, system: &System) -> Option<Thermometer> {
        let i = self.attempt.frozen.instruments.iter().find(|i| i.tag == plan.thermometer_tag && i.kind == InstrumentKind::Thermometer)?;
        let shut_in = system.shut_in()?;
        let widest = shut_in.segments.iter().max_by(|a, b| a.volume_m3.m3().total_cmp(&b.volume_m3.m3()))?;
        let (location, lag) = match plan.thermometer_place {
            ThermometerPlace::Water => (Location::Water, 0.0),
            ThermometerPlace::Skin => (Location::Skin, heat::water_after_skin(widest.outside_diameter_m - widest.wall_m * 2.0).s()),
            ThermometerPlace::Ambient => {
                (Location::Ambient, heat::time_constant(widest.outside_diameter_m, widest.wall_m, heat::STILL_AIR_W_PER_M2K).s())
            }
        };
        Some(Thermometer {
            tag: i.tag.clone(),
            location,
            division_k: i.division_k?,
            error_k: i.error_k?,
            water_lag_s: lag,
            lag_factor_95: 2.5,
        })
    }

    /// What speaks against the instruments on the day of the hold.
    fn objections(&self, hold_start_s: f64) -> Vec<String> {
        let day = (self.attempt.released_at + time::Duration::seconds_f64(hold_start_s)).date();
        let day = IsoDate(format!("{:04}-{:02}-{:02}", day.year(), u8::from(day.month()), day.day()));
        self.attempt.frozen.instruments.iter().filter_map(|i| i.objection(&day)).collect()
    }
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
        RunEventKind::Filled | RunEventKind::Released | RunEventKind::VentOpened | RunEventKind::Drained | RunEventKind::Noted => {
            return None;
        }
    })
}
