//! Figures of a hold as people read them, in the units in which its sentences are said.

use crate::case::HoldCase;
use quantity::dimension::{Dimension, scales};
use quantity::show::{self, AtGauge, Figures, Toward, in_scale};
use quantity::{GaugePressure, PressureDifference, VolumeFlow};

fn leak_of(case: &HoldCase) -> Dimension {
    if case.is_gas() { Dimension::NormalLeakM3PerS } else { Dimension::LeakM3PerS }
}

/// A leak rate: L/h from a tenth of a litre up, mL/h below; gallons where they are read.
pub fn flow(flow: VolumeFlow, case: &HoldCase) -> String {
    show::amount(flow.m3_per_s(), leak_of(case), &case.units(), Figures::Said, Toward::Nearest)
}

/// Two leak rates in one unit: "0.30 to 0.90 L/h".
pub fn flow_range(lo: VolumeFlow, hi: VolumeFlow, case: &HoldCase) -> String {
    let (lo, hi) = (lo.m3_per_s(), hi.m3_per_s());
    let Some(scale) = show::chosen(hi, scales(leak_of(case), &case.units())) else { return String::new() };
    let figure = |v: f64| show::significant(v * scale.factor, scale.said, Toward::Nearest);
    format!("{} to {}", figure(lo), in_scale(hi, scale, Figures::Said, Toward::Nearest))
}

/// How pressures of a case are said: to its gauge's division, and no coarser than a hundredth of a bar.
#[derive(Debug, Clone, Copy)]
pub struct Shown(AtGauge);

impl Shown {
    /// Of a case.
    pub fn of(case: &HoldCase) -> Self {
        let division = PressureDifference::from_pa(show::fine_step(case.gauge.unit, case.gauge.division_pa));
        Self(AtGauge { dial: case.gauge.unit, division, unit: case.units().pressure })
    }

    /// The least that is said.
    pub fn step(self) -> PressureDifference {
        self.0.division
    }

    /// A change without its unit.
    pub fn figure(self, by: PressureDifference) -> String {
        self.0.figure(GaugePressure::from_pa(by.pa()), Toward::Nearest)
    }

    /// A change.
    pub fn change(self, by: PressureDifference) -> String {
        self.pressure(GaugePressure::from_pa(by.pa()))
    }

    /// A pressure.
    pub fn pressure(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Nearest)
    }

    /// What is needed.
    pub fn up(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Up)
    }

    /// What is allowed.
    pub fn down(self, p: GaugePressure) -> String {
        self.0.text(p, Toward::Down)
    }
}
