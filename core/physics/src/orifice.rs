//! Flow through a small hole.

use crate::gas::Gas;
use quantity::{AbsolutePressure, Density, GaugePressure, Length, Temperature, VolumeFlow};

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

/// Diameter of the sharp-edged round hole that would lose `flow` (normal m³/s: 0 °C, 101 325 Pa) of a gas from `pressure` and `temperature`.
///
/// Formula: choked flow of an ideal diatomic gas, ṁ = C_d·A·p·√(γ/(R·T))·(2/(γ+1))^((γ+1)/(2(γ−1))), γ = 1.4. Range: upstream pressure
/// above about twice the atmosphere; below that the hole is a little larger. Source: isentropic flow with a discharge coefficient of 0.61.
pub fn equivalent_diameter_of_gas(gas: Gas, flow: VolumeFlow, pressure: AbsolutePressure, temperature: Temperature) -> Length {
    const GAMMA: f64 = 1.4;
    let normal_density = 101_325.0 / (gas.gas_constant() * 273.15);
    let mass = flow.m3_per_s().max(0.0) * normal_density;
    let choked = (2.0 / (GAMMA + 1.0)).powf((GAMMA + 1.0) / (2.0 * (GAMMA - 1.0)));
    let per_area = SHARP_EDGE * pressure.pa() * (GAMMA / (gas.gas_constant() * temperature.kelvin())).sqrt() * choked;
    Length::from_m((mass / per_area.max(1e-9) / std::f64::consts::FRAC_PI_4).sqrt())
}
