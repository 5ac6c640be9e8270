//! Flow through a small hole.

use quantity::{Density, GaugePressure, Length, VolumeFlow};

/// Discharge coefficient of a sharp-edged hole (common practice).
pub const SHARP_EDGE: f64 = 0.61;

/// Diameter of the sharp-edged round hole that would lose `flow` at `pressure`.
///
/// Formula: Q = C_d·A·√(2Δp/ρ). Range: turbulent flow; below about 0.1 mm real leaks are laminar and the figure is only a
/// picture of the size. Source: Torricelli with a discharge coefficient of 0.61.
pub fn equivalent_diameter(flow: VolumeFlow, pressure: GaugePressure, density: Density) -> Length {
    let speed = (2.0 * pressure.pa().max(0.0) / density.kg_m3()).sqrt();
    let area = flow.m3_per_s().max(0.0) / (SHARP_EDGE * speed.max(1e-9));
    Length::from_m((area / std::f64::consts::FRAC_PI_4).sqrt())
}
