//! What follows from a release once and for all: window, steps, which channel is what.

use crate::frozen::Frozen;
use crate::hold_case;
use crate::rows::Channel;
use judge::case::{HoldGauge, Thermometer};
use pack::instrument::{Instrument, InstrumentKind};
use pack::schedule::{Raise, Step, steps};
use quantity::{GaugePressure, PressureDifference};
use rules::system::{Derived, Refusal, System};

/// What follows from a release.
#[derive(Debug, Clone)]
pub struct Facts {
    /// The system as frozen.
    pub system: System,
    /// What was derived when it was released; of a release by an earlier version, what is derived of it now.
    pub derived: Result<Derived, Refusal>,
    /// Steps of the raise; empty while no pressure suits every part.
    pub schedule: Vec<Step>,
    /// The gauge that the test is read from, as certified.
    pub gauge: Option<Instrument>,
    /// Channel of that gauge, recorded by itself or not.
    pub gauge_channel: Option<u8>,
    /// Channel of the thermometer.
    pub thermometer_channel: Option<u8>,
    /// Channel of the stroke counter.
    pub counter_channel: Option<u8>,
    /// Further gauges, as far as a hold can use them.
    pub also_gauges: Vec<HoldGauge>,
    /// Further thermometers, as far as a hold can use them.
    pub also_thermometers: Vec<Thermometer>,
    /// What the recorder reads a row of the hold from.
    pub polled: Polled,
    /// True when any instrument is recorded by itself.
    pub recorded: bool,
}

/// Channels that the recorder reads by itself, with the end of each one's scale, Pa.
#[derive(Debug, Clone, Default)]
pub struct Polled {
    /// The gauge.
    pub gauge: Option<(u8, f64)>,
    /// The thermometer.
    pub thermometer: Option<u8>,
    /// Further gauges, then further thermometers.
    pub others: Vec<(Option<u8>, f64)>,
}

impl Facts {
    /// Of a release.
    pub fn of(frozen: &Frozen) -> Self {
        let system = frozen.system();
        let derived = frozen.derived.clone().map_or_else(|| rules::system::derive(&system), Ok);
        let schedule = derived
            .as_ref()
            .ok()
            .filter(|d| d.day.is_some())
            .map_or_else(Vec::new, |d| steps(&Raise::of(&frozen.plan, d, system.gauge.division_pa, system.at_gauge(), frozen.hold())));
        let all = &frozen.instruments;
        let place = |of: &dyn Fn(&Instrument) -> bool| all.iter().position(of).and_then(|i| u8::try_from(i).ok());
        let polled = |tag: &str| place(&|i: &Instrument| i.tag == tag && i.connection.is_some());
        let end_of = |tag: &str| all.iter().find(|i| i.tag == tag).and_then(|i| i.full_scale_pa).map_or(f64::INFINITY, GaugePressure::pa);
        let (also_gauges, also_thermometers) = hold_case::further(&frozen.plan, all);
        let others: Vec<(Option<u8>, f64)> = also_gauges
            .iter()
            .map(|g| (polled(&g.tag), end_of(&g.tag)))
            .chain(also_thermometers.iter().map(|t| (polled(&t.tag), f64::INFINITY)))
            .collect();
        let tag = &frozen.plan.gauge_tag;
        Self {
            gauge: all.iter().find(|i| i.tag == *tag && i.kind == InstrumentKind::Gauge).cloned(),
            gauge_channel: place(&|i: &Instrument| i.tag == *tag),
            thermometer_channel: place(&|i: &Instrument| i.tag == frozen.plan.thermometer_tag),
            counter_channel: place(&|i: &Instrument| i.kind == InstrumentKind::StrokeCounter),
            polled: Polled {
                gauge: polled(tag).map(|c| (c, end_of(tag))),
                thermometer: polled(&frozen.plan.thermometer_tag),
                others: if others.iter().all(|o| o.0.is_none()) { Vec::new() } else { others },
            },
            recorded: all.iter().any(|i| i.connection.is_some()),
            system,
            derived,
            schedule,
            also_gauges,
            also_thermometers,
        }
    }

    /// Place of a further gauge or thermometer in a reading's `also`.
    pub fn further(&self, channel: Channel, tag: &str) -> Option<usize> {
        match channel {
            Channel::Pressure => self.also_gauges.iter().position(|g| g.tag == tag),
            Channel::Temperature => self.also_thermometers.iter().position(|t| t.tag == tag).map(|i| self.also_gauges.len() + i),
        }
    }

    /// The window; none where nothing can be derived of it.
    pub fn window(&self) -> Option<&Derived> {
        self.derived.as_ref().ok()
    }

    /// Division of the gauge, or what one that states none is taken for.
    pub fn division(&self) -> PressureDifference {
        self.gauge.as_ref().and_then(|g| g.division_pa).unwrap_or(PressureDifference::from_pa(1e3))
    }
}
