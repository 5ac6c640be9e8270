//! Liquid water by IAPWS-95.

mod coefficients;
pub mod helmholtz;
mod saturation;
mod table;

use quantity::{AbsolutePressure, Density, Temperature};
pub use saturation::saturation;
pub use table::DensityTable;

/// Critical density, kg/m³ (IAPWS R6-95).
pub const CRITICAL_DENSITY: f64 = 322.0;
/// Critical temperature, K (IAPWS R6-95).
pub const CRITICAL_TEMPERATURE: f64 = 647.096;
/// Specific gas constant, J/(kg·K) (IAPWS R6-95).
pub const GAS_CONSTANT: f64 = 461.518_05;

/// State of liquid water at one temperature and pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Water {
    /// Density, kg/m³.
    pub density: Density,
    /// Isothermal compressibility κ_T = (1/ρ)(∂ρ/∂p)_T, 1/Pa.
    pub compressibility_per_pa: f64,
    /// Isobaric expansion β = −(1/ρ)(∂ρ/∂T)_p, 1/K. Negative below about 4 °C near 1 bar.
    pub expansion_per_k: f64,
    /// Isobaric heat capacity, J/(kg·K).
    pub heat_capacity: f64,
}

/// The state asked for is not liquid water that this equation is used for here.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("water at {:.1} °C and {:.1} bar absolute is outside 0.1–100 °C and 0.5–3000 bar: check temperature and pressure", temperature.c(), pressure.bar())]
pub struct OutsideLiquidWater {
    /// the temperature asked for
    pub temperature: Temperature,
    /// the pressure asked for
    pub pressure: AbsolutePressure,
}

/// Coldest and warmest liquid water here.
pub const TEMPERATURES: [Temperature; 2] = [Temperature::from_c(0.1), Temperature::from_c(100.0)];
/// Least and greatest pressure of it here.
pub const PRESSURES: [AbsolutePressure; 2] = [AbsolutePressure::from_bar(0.5), AbsolutePressure::from_bar(3000.0)];

/// Liquid water at `temperature` and `pressure`.
///
/// Formula: p = ρRT(1 + δ·φʳ_δ) solved for ρ by Newton's method from the liquid side; κ_T and β from its derivatives.
/// Range here: 0.1–100 °C, 0.5–3000 bar absolute, the liquid side. Uncertainty (of the release, liquid below 100 MPa): density
/// 0.001–0.02 %. Source: IAPWS R6-95(2018). Example: 20 °C, 1.01325 bar → 998.207 kg/m³.
///
/// # Errors
/// Outside that range.
pub fn state(temperature: Temperature, pressure: AbsolutePressure) -> Result<Water, OutsideLiquidWater> {
    let inside = temperature >= TEMPERATURES[0] && temperature <= TEMPERATURES[1] && pressure >= PRESSURES[0] && pressure <= PRESSURES[1];
    if !inside {
        return Err(OutsideLiquidWater { temperature, pressure });
    }
    let t = temperature.kelvin();
    let tau = CRITICAL_TEMPERATURE / t;
    let rt = GAS_CONSTANT * t;
    let mut rho = 1000.0 * (1.0 + 4.5e-10 * (pressure.pa() - 1e5)).min(1.25);
    let mut f = helmholtz::residual(rho / CRITICAL_DENSITY, tau);
    for _ in 0..20 {
        let delta = rho / CRITICAL_DENSITY;
        f = helmholtz::residual(delta, tau);
        let p = rho * rt * (1.0 + delta * f.d);
        let dp_drho = rt * (1.0 + 2.0 * delta * f.d + delta * delta * f.dd);
        let step = (pressure.pa() - p) / dp_drho;
        rho += step;
        if step.abs() < 1e-9 * rho {
            break;
        }
    }
    let delta = rho / CRITICAL_DENSITY;
    let dp_drho = rt * (1.0 + 2.0 * delta * f.d + delta * delta * f.dd);
    let dp_dt = rho * GAS_CONSTANT * (1.0 + delta * f.d - delta * tau * f.dt);
    let cv = -GAS_CONSTANT * tau * tau * (helmholtz::ideal(delta, tau).tt + f.tt);
    Ok(Water {
        density: Density::from_kg_m3(rho),
        compressibility_per_pa: 1.0 / (rho * dp_drho),
        expansion_per_k: dp_dt / (rho * dp_drho),
        heat_capacity: cv + t * dp_dt * dp_dt / (rho * rho * dp_drho),
    })
}
