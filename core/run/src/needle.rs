//! What the gauge that the test is read from read last.

use crate::now::Now;
use crate::rows::Channel;
use crate::run::Run;
use judge::read::Read;
use quantity::{GaugePressure, RunTime};

/// Instants of the recorder that a needle's way is told from.
const TRAIL: usize = 800;
/// Instants among which the last temperature is looked for.
const WARMTH: usize = 30;

/// The needle.
#[derive(Debug, Clone, PartialEq)]
pub struct Needle {
    /// Its last readings in the order in which they came, s from the release.
    pub readings: Vec<(f64, GaugePressure)>,
    /// Who typed the last; none where the recorder read it.
    pub typed_by: Option<String>,
}

impl Run {
    /// The recorder's readings in the order of its sequence; what was typed only where the recorder says nothing, and never what lies ahead.
    pub fn needle(&self, now: &Now) -> Needle {
        let gauge = self.facts().gauge_channel;
        let ticks = self.ticks();
        let recorded: Vec<(f64, GaugePressure)> = ticks[ticks.len().saturating_sub(TRAIL)..]
            .iter()
            .filter_map(|t| Some((self.seconds_us(t.run_us), GaugePressure::from_pa(t.value(gauge?)?))))
            .collect();
        let typed = || {
            let all = self.typed().iter().rev().take(TRAIL);
            all.filter(|r| r.is_first(Channel::Pressure) && self.typed_s(r) <= now.s)
        };
        let by_recorder = |recorded| Needle { readings: recorded, typed_by: None };
        let Some(last_typed) = typed().next() else { return by_recorder(recorded) };
        match recorded.last() {
            Some(last) if now.s - last.0 <= now.silent_s() || self.typed_s(last_typed) <= last.0 => by_recorder(recorded),
            _ => {
                let mut readings: Vec<_> = typed().map(|r| (self.typed_s(r), GaugePressure::from_pa(r.value))).collect();
                readings.reverse();
                Needle { readings, typed_by: Some(last_typed.person.clone()) }
            }
        }
    }

    /// The last pressure: the recorder's last before what was typed, and never one that lies ahead.
    pub fn last_read(&self, now_s: f64) -> Option<Read> {
        let gauge = self.facts().gauge_channel;
        let recorded = self.ticks().iter().rev().find_map(|t| {
            let p = GaugePressure::from_pa(t.value(gauge?)?);
            Some(Read { t: RunTime::from_s(self.seconds_us(t.run_us)), p })
        });
        recorded.or_else(|| self.pressures().iter().rfind(|r| r.t.s() <= now_s).copied())
    }

    /// The last temperature, °C.
    pub fn last_temperature(&self) -> Option<f64> {
        let place = self.facts().thermometer_channel;
        let polled = self.ticks().iter().rev().take(WARMTH).find_map(|t| t.value(place?));
        polled.or_else(|| self.typed().iter().rfind(|r| r.is_first(Channel::Temperature)).map(|r| r.value))
    }
}
