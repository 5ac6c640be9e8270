//! Figures and kinds in words, as the paper prints them.

use moment::{Instant, Zone};
use quantity::format::decimals_of;
use quantity::show::{Figures, Toward};
use quantity::{PressureDifference, PressureUnit, Units};
use record::sealed::{Parts, RecordedEvent};
use rules::derivation::{Amount, Dimension};
use rules::say::{AtGauge, Say};

/// How figures of a record are printed: in its gauge's unit and those that go with it, each rounded to the safe side.
#[derive(Debug, Clone, Copy)]
pub struct Scale {
    /// What is read at the gauge.
    pub gauge: AtGauge,
    /// All else.
    pub say: Say,
    unit: PressureUnit,
    decimals: usize,
}

impl Scale {
    /// That of a gauge.
    pub fn new(unit: PressureUnit, division: PressureDifference) -> Self {
        let say = Say::from(unit);
        Self { gauge: AtGauge::new(say, unit, Some(division)), say, unit, decimals: decimals_of(division.pa() / unit.pa()) }
    }

    /// What is read at another gauge, as far as its own dial tells.
    pub fn other(&self, dial: PressureUnit, division: PressureDifference) -> AtGauge {
        AtGauge::new(self.say, dial, Some(division))
    }

    /// The figure that an event was booked with; empty where it has none.
    pub fn figure(&self, e: &RecordedEvent) -> String {
        let Some((value, dimension)) = e.figure.zip(e.kind.figure()) else { return String::new() };
        match serde_json::from_value::<Dimension>(dimension.into()) {
            Ok(Dimension::GaugePressurePa) => self.say.p(quantity::GaugePressure::from_pa(value)),
            Ok(Dimension::TimeS) => quantity::format::span(quantity::Span::from_s(value)),
            Ok(of) => quantity::show::amount(value, of, &Units::from(self.unit), Figures::Said, Toward::Nearest),
            Err(_) => format!("{value}"),
        }
    }

    /// An amount of a derivation.
    pub fn amount(&self, a: Amount) -> String {
        let fine = self.decimals + 1;
        let pressure = |decimals| format!("{:.*}\u{a0}{}", decimals, a.value / self.unit.pa(), self.unit.symbol());
        match a.dimension {
            Dimension::GaugePressurePa => pressure(self.decimals.max(2)),
            Dimension::PressureDifferencePa => pressure(fine.max(3)),
            _ => quantity::show::amount(a.value, a.dimension, &Units::from(self.unit), Figures::Exact, Toward::Nearest),
        }
    }
}

/// The times of a record, in its zone; in universal time, named so, before its format had one.
#[derive(Debug, Clone)]
pub struct Times {
    zone: Zone,
    released_at: Option<Instant>,
}

impl Times {
    /// Of a record.
    pub fn of(parts: &Parts) -> Self {
        Self { zone: parts.zone(), released_at: Instant::parse(&parts.subject.released_at) }
    }

    /// Name of the zone.
    pub fn zone(&self) -> &str {
        self.zone.name()
    }

    /// Date, clock and how far it is ahead of universal time.
    pub fn instant(&self, rfc3339: &str) -> String {
        Instant::parse(rfc3339).map_or_else(|| rfc3339.to_owned(), |at| self.zone.full(at))
    }

    /// Only the clock of it; with its day where that is not the day of the release.
    pub fn clock(&self, rfc3339: &str) -> String {
        Instant::parse(rfc3339).map_or_else(|| rfc3339.to_owned(), |at| self.told(at))
    }

    /// The clock so many seconds after the release.
    pub fn after(&self, seconds: f64) -> String {
        self.released_at.map_or_else(|| format!("{seconds:.0} s of the run"), |r| self.told(r.plus_s(seconds.round())))
    }

    fn told(&self, at: Instant) -> String {
        let same = self.released_at.is_some_and(|r| self.zone.day(r) == self.zone.day(at));
        let clock = self.zone.clock_to_second(at);
        if same { clock } else { format!("{} {clock}", self.zone.day(at)) }
    }

    /// What the clock shows so many seconds after the release, to the second.
    pub fn clock_at(&self, t_s: f64) -> String {
        self.released_at.map_or_else(String::new, |r| self.zone.clock_to_second(r.plus_s(t_s + 1e-3)))
    }

    /// Seconds of the day, by its clock, at the release.
    pub fn day_zero(&self) -> f64 {
        self.released_at.map_or(0.0, |r| (r.us().div_euclid(1_000_000) + i64::from(self.zone.ahead_s(r))).rem_euclid(86_400) as f64)
    }

    /// Seconds from the release to an instant.
    pub fn since_release(&self, rfc3339: &str) -> Option<f64> {
        Some(Instant::parse(rfc3339)?.since_s(self.released_at?))
    }

    /// When the clock of the zone is put forward or back between two times of the run, s from the release, with a sentence.
    pub fn changes(&self, from_s: f64, to_s: f64) -> Vec<(f64, String)> {
        let Some(r) = self.released_at else { return Vec::new() };
        let changes = self.zone.changes(r.plus_s(from_s), r.plus_s(to_s));
        changes.into_iter().map(|c| (c.at.since_s(r), c.sentence(&self.zone))).collect()
    }
}

#[cfg(test)]
impl Times {
    /// Of a run that was released then.
    pub fn at(zone: &str, released_at: &str) -> Self {
        Self { zone: Zone::named(zone).unwrap(), released_at: Instant::parse(released_at) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_time_of_the_run_is_told_by_the_clock_of_its_zone_and_by_the_date_on_another_day() {
        let times = Times { zone: Zone::named("Asia/Kathmandu").unwrap(), released_at: Instant::parse("2026-06-01T16:45:15.25Z") };
        let after = |s| times.after(s);
        assert_eq!([after(0.0), after(90.4), after(7200.0)], ["22:30:15", "22:31:45", "2026-06-02 00:30:15"]);
        assert_eq!(times.instant("2026-06-01T16:45:15Z"), "2026-06-01 22:30:15 +05:45");
        assert!((times.day_zero() - (22.0 * 3600.0 + 30.0 * 60.0 + 15.0)).abs() < 1e-9);
        let lost = Times { zone: Zone::utc(), released_at: None };
        assert_eq!((lost.after(12.6), lost.clock("no time")), ("13 s of the run".to_owned(), "no time".to_owned()));
    }
}
