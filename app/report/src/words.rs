//! Figures and kinds in words, as the paper prints them.

use judge::acceptance::Verdict;
use judge::finding::Finding;
use quantity::format::{decimals_of, significant};
use quantity::{GaugePressure, PressureUnit};
use rules::derivation::{Amount, Dimension};

/// How pressures of a record are printed: in the gauge's unit, to the gauge's division.
#[derive(Debug, Clone, Copy)]
pub struct Scale {
    /// Unit.
    pub unit: PressureUnit,
    /// Decimals of the gauge.
    pub decimals: usize,
}

impl Scale {
    /// That of a gauge.
    pub fn new(unit: PressureUnit, division_pa: f64) -> Self {
        Self { unit, decimals: decimals_of(division_pa / unit.pa()) }
    }
    /// A gauge pressure with its unit.
    pub fn gauge(&self, p: GaugePressure) -> String {
        quantity::format::gauge_pressure(p, self.unit, self.decimals)
    }
    /// An amount of a derivation.
    pub fn amount(&self, a: Amount) -> String {
        let fine = self.decimals + 1;
        let pressure = |decimals| format!("{:.*}\u{a0}{}", decimals, a.value / self.unit.pa(), self.unit.symbol());
        match a.dimension {
            Dimension::GaugePressurePa => pressure(self.decimals.max(2)),
            Dimension::PressureDifferencePa => pressure(fine.max(3)),
            Dimension::StressPa => format!("{}\u{a0}MPa", significant(a.value / 1e6, 4)),
            Dimension::LengthM => format!("{}\u{a0}m", significant(a.value, 5)),
            Dimension::TemperatureC => format!("{}\u{a0}°C", significant(a.value, 4)),
            Dimension::TemperatureDifferenceK => format!("{}\u{a0}K", significant(a.value, 3)),
            Dimension::DensityKgM3 => format!("{:.1}\u{a0}kg/m³", a.value),
            Dimension::VolumeM3 => format!("{}\u{a0}L", significant(a.value * 1e3, 4)),
            Dimension::PressurePerKelvinPaPerK => format!("{}\u{a0}{}/K", significant(a.value / self.unit.pa(), 3), self.unit.symbol()),
            Dimension::TimeS => quantity::format::span(a.value),
            Dimension::ForceN => format!("{}\u{a0}kN", significant(a.value / 1e3, 4)),
            Dimension::EnergyJ => format!("{}\u{a0}kJ", significant(a.value / 1e3, 4)),
            Dimension::MassKg => format!("{}\u{a0}kg", significant(a.value, 3)),
            Dimension::VolumeFlowM3PerS => format!("{}\u{a0}L/min", significant(a.value * 6e4, 3)),
            Dimension::LeakM3PerS => judge::words::flow(a.value, false),
            Dimension::NormalLeakM3PerS => judge::words::flow(a.value, true),
            Dimension::AreaM2 => format!("{}\u{a0}m²", significant(a.value, 3)),
            Dimension::Share => format!("{}\u{a0}%", significant(a.value * 100.0, 3)),
            Dimension::Number => significant(a.value, 5),
        }
    }
}

/// Verdict as a word.
pub const fn verdict(v: Verdict) -> &'static str {
    match v {
        Verdict::Pass => "Pass",
        Verdict::Fail => "Fail",
        Verdict::NotShown => "Not shown",
    }
}

/// Finding as a clause.
pub const fn finding(f: Finding) -> &'static str {
    match f {
        Finding::LeakShown => "a leak is shown",
        Finding::TightTo => "no leak is shown",
        Finding::NotShown => "the record supports no finding",
    }
}

/// An instant of a record as people read it: date and clock in UTC.
pub fn instant(rfc3339: &str) -> String {
    rfc3339.get(..19).map_or_else(|| rfc3339.to_owned(), |t| format!("{} UTC", t.replace('T', " ")))
}

/// Only the clock of it.
pub fn clock(rfc3339: &str) -> &str {
    rfc3339.get(11..19).unwrap_or(rfc3339)
}

/// The clock, in UTC, so many seconds after the release of a record; with the date where it is another day's.
pub fn clock_after(released_at: &str, seconds: f64) -> String {
    use time::format_description::well_known::Rfc3339;
    let Ok(released) = time::OffsetDateTime::parse(released_at, &Rfc3339) else { return format!("{seconds:.0} s of the run") };
    let at = released + time::Duration::seconds_f64(seconds.round());
    let Ok(words) = at.format(&Rfc3339) else { return format!("{seconds:.0} s of the run") };
    if at.date() == released.date() { clock(&words).to_owned() } else { instant(&words) }
}

#[cfg(test)]
mod tests {
    use super::clock_after;

    #[test]
    fn a_time_of_the_run_is_told_by_the_clock_and_by_the_date_on_another_day() {
        let after = |s| clock_after("2026-06-01T22:30:15.25Z", s);
        assert_eq!([after(0.0), after(90.4), after(7200.0)], ["22:30:15", "22:31:45", "2026-06-02 00:30:15 UTC"]);
        assert_eq!(clock_after("no time", 12.6), "13 s of the run");
    }
}
