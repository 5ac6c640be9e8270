//! Figures of a hold as people read them, in the units in which its sentences are said.

use crate::case::HoldCase;
use quantity::dimension::{Dimension, scales};
use quantity::show::{self, AtGauge, Figures, Toward, in_scale};
use quantity::{GaugePressure, PressureDifference};

fn leak_of(case: &HoldCase) -> Dimension {
    if case.is_gas() { Dimension::NormalLeakM3PerS } else { Dimension::LeakM3PerS }
}

/// A leak rate: L/h from a tenth of a litre up, mL/h below; gallons where they are read.
pub fn flow(m3_per_s: f64, case: &HoldCase) -> String {
    show::amount(m3_per_s, leak_of(case), &case.units(), Figures::Said, Toward::Nearest)
}

/// Two leak rates in one unit: "0.30 to 0.90 L/h".
pub fn flow_range(lo: f64, hi: f64, case: &HoldCase) -> String {
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

    /// The least that is said, Pa.
    pub fn step(self) -> f64 {
        self.0.division.pa()
    }

    /// Without its unit.
    pub fn figure(self, pa: f64) -> String {
        self.0.figure(GaugePressure::from_pa(pa), Toward::Nearest)
    }

    /// With its unit.
    pub fn pressure(self, pa: f64) -> String {
        self.0.text(GaugePressure::from_pa(pa), Toward::Nearest)
    }

    /// What is needed.
    pub fn up(self, pa: f64) -> String {
        self.0.text(GaugePressure::from_pa(pa), Toward::Up)
    }

    /// What is allowed.
    pub fn down(self, pa: f64) -> String {
        self.0.text(GaugePressure::from_pa(pa), Toward::Down)
    }
}
