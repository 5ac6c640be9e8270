//! Readings of all sources in the order of time.

use crate::facts::{Facts, Polled};
use crate::rows::{Channel, LoggerRow, ReadingRow, Tick};
use judge::case::Reading;
use judge::read::Read;
use quantity::{GaugePressure, RunTime, Temperature};

/// Readings in time order, and their pressures once more: what the bounds of a hold are looked for in.
#[derive(Debug, Clone, Default)]
pub struct Merged {
    readings: Vec<Reading>,
    pressures: Vec<Read>,
}

impl Merged {
    /// All of them, of one time those that were typed first, then those of loggers, then the recorder's.
    pub fn of(mut all: Vec<Reading>) -> Self {
        all.sort_by(|a, b| a.t_s.total_cmp(&b.t_s));
        let pressures = all.iter().filter_map(|r| Some(Read { t: r.t_s, p: r.pressure_pa? })).collect();
        Self { readings: all, pressures }
    }

    /// Adds the recorder's latest: it stands behind all that is not later.
    pub fn append(&mut self, reading: Reading) {
        let t = reading.t_s;
        if let Some(p) = reading.pressure_pa {
            let at = self.pressures.partition_point(|r| r.t <= t);
            self.pressures.insert(at, Read { t, p });
        }
        let at = self.readings.partition_point(|r| r.t_s <= t);
        self.readings.insert(at, reading);
    }

    /// Readings in time order.
    pub fn readings(&self) -> &[Reading] {
        &self.readings
    }

    /// Pressures in time order.
    pub fn pressures(&self) -> &[Read] {
        &self.pressures
    }
}

/// A typed reading as the judge reads it; none where it was struck out, or was read from something that is no instrument of the run.
pub fn of_typed(row: &ReadingRow, t: RunTime, facts: &Facts) -> Option<Reading> {
    if row.struck.is_some() {
        return None;
    }
    let Some(tag) = &row.of else {
        return Some(match row.channel {
            Channel::Pressure => Reading::new(t, Some(GaugePressure::from_pa(row.value)), None),
            Channel::Temperature => Reading::new(t, None, Some(Temperature::from_c(row.value))),
        });
    };
    let place = facts.further(row.channel, tag)?;
    let mut also = vec![None; place + 1];
    also[place] = Some(row.value);
    Some(Reading { also, ..Reading::new(t, None, None) })
}

/// A logger's row as the judge reads it.
pub fn of_logger(row: &LoggerRow, t: RunTime) -> Reading {
    Reading::new(t, row.pressure_pa.map(GaugePressure::from_pa), row.temperature_c.map(Temperature::from_c))
}

/// What the recorder read; a channel that did not answer, or stood at the end of its scale, gives no reading.
pub fn of_tick(tick: &Tick, t: RunTime, polled: &Polled) -> Option<Reading> {
    let of = |at: Option<u8>| at.and_then(|c| tick.value(c));
    let pressure = polled.gauge.and_then(|(c, end)| tick.value(c).filter(|p| *p < end)).map(GaugePressure::from_pa);
    let temperature = of(polled.thermometer).map(Temperature::from_c);
    (pressure.is_some() || temperature.is_some()).then(|| Reading {
        also: polled.others.iter().map(|(at, end)| of(*at).filter(|v| v < end)).collect(),
        ..Reading::new(t, pressure, temperature)
    })
}
