//! Before the raise: the low gas test as it was made, temperatures as they were booked, and the wait that follows from them.

use crate::run::Run;
use pack::low_gas::{Planned, Stage};
use quantity::{RunTime, Span, Temperature, TemperatureDifference};
use serde::{Deserialize, Serialize};
use terms::EventKind;

/// What may be left between water and surroundings when a hold begins (common practice).
const REST: TemperatureDifference = TemperatureDifference::from_k(1.0);

/// How long water and metal take to follow their surroundings, of temperatures that somebody read.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Soak {
    /// The water, or the metal where only that was read.
    #[schema(value_type = f64)]
    pub water: Temperature,
    /// The surroundings.
    #[schema(value_type = f64)]
    pub air: Temperature,
    /// How long from when they were read.
    #[schema(value_type = f64)]
    pub takes: Span,
    /// When it is over, s from the release.
    pub until_s: f64,
}

impl Run {
    /// The low gas test that was planned, where nothing speaks against it.
    pub fn low_gas_planned(&self) -> Option<Planned> {
        let pretest = self.window()?.pretest.as_ref().filter(|p| p.refused.is_none())?;
        Some(Planned { pressure: pretest.pressure_pa, cap: pretest.cap_pa.unwrap_or(pretest.pressure_pa) })
    }

    /// How far it has come; none where none is planned.
    pub fn low_gas(&self) -> Option<Stage> {
        let planned = self.low_gas_planned()?;
        let booked: Vec<(EventKind, f64)> = self.events().iter().map(|e| (e.kind, self.event_s(e))).collect();
        Some(Stage::of(Some(planned), &booked))
    }

    /// Temperatures that were booked by hand, with their times.
    pub(crate) fn booked_temperatures(&self, kind: EventKind) -> Vec<(RunTime, Temperature)> {
        let of = self.events().iter().filter(|e| e.kind == kind);
        of.filter_map(|e| Some((RunTime::from_s(self.event_s(e)), Temperature::from_c(e.figure?)))).collect()
    }

    /// The wait that the temperatures ask for that were booked since it was filled; none before somebody read water (or metal) and surroundings.
    pub fn soak(&self) -> Option<Soak> {
        let tau = self.window()?.time_constant_s?;
        self.last_s(EventKind::Filled)?;
        let last = |kind| self.booked_temperatures(kind).pop();
        let (read_at, water) = last(EventKind::WaterWas).or_else(|| last(EventKind::MetalWas))?;
        let (_, air) = last(EventKind::AirWas)?;
        let apart = (air - water).abs();
        let takes = if apart <= REST { Span::ZERO } else { physics::heat::soak_time(tau, apart, REST) };
        Some(Soak { water, air, takes, until_s: (read_at + takes).s() })
    }
}
