//! Pressures of a rule in the gauge's unit.

use crate::case::HoldCase;
use crate::words::pressure;
use quantity::PressureUnit;

/// How a case's pressures are written.
#[derive(Debug, Clone, Copy)]
pub(super) struct Shown {
    unit: PressureUnit,
    resolution: f64,
}

impl Shown {
    /// In the unit of its gauge, no coarser than a hundredth of a bar.
    pub(super) fn of(case: &HoldCase) -> Self {
        Self { unit: case.gauge.unit, resolution: case.gauge.division_pa.pa().min(1e3) }
    }
    /// A pressure, or a difference.
    pub(super) fn pressure(self, pa: f64) -> String {
        format!("{}\u{a0}{}", pressure(pa, self.resolution, self.unit), self.unit.symbol())
    }
    /// A difference.
    pub(super) fn difference(self, pa: f64) -> String {
        self.pressure(pa)
    }
    /// A margin.
    pub(super) fn signed(self, pa: f64) -> String {
        self.pressure(pa)
    }
}
