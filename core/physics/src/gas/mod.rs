//! Nitrogen and dry air by their reference equations of state.

mod coefficients;

use crate::helmholtz::Derivatives;
use coefficients::{AIR_POWER, NITROGEN_GAUSSIAN, NITROGEN_POWER};
use quantity::{AbsolutePressure, Density, Temperature};
use serde::{Deserialize, Serialize};

/// Universal gas constant of both equations, J/(mol·K).
const MOLAR_GAS_CONSTANT: f64 = 8.314_51;

/// A test gas.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Gas {
    /// nitrogen
    Nitrogen,
    /// dry air
    Air,
}

/// A gas at one temperature and pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GasState {
    /// Density ρ, kg/m³.
    pub density: Density,
    /// Compressibility factor Z = p/(ρRT).
    pub compressibility_factor: f64,
    /// Internal energy u from the equation's own zero, J/kg.
    pub internal_energy: f64,
    /// Entropy s from the equation's own zero, J/(kg·K).
    pub entropy: f64,
    /// Isobaric heat capacity c_p, J/(kg·K).
    pub heat_capacity: f64,
    /// Isochoric heat capacity c_v, J/(kg·K).
    pub isochoric_heat_capacity: f64,
}

/// The state asked for is not a gas that this equation is used for here.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{gas} at {:.0} °C and {:.1} bar absolute is outside −40 to 100 °C and 0.5 to 700 bar: check temperature and pressure", temperature.c(), pressure.bar())]
pub struct OutsideGas {
    /// its name
    pub gas: &'static str,
    /// the temperature asked for
    pub temperature: Temperature,
    /// the pressure asked for
    pub pressure: AbsolutePressure,
}

/// Coldest and warmest gas here.
pub const TEMPERATURES: [Temperature; 2] = [Temperature::from_c(-40.0), Temperature::from_c(100.0)];
/// Least and greatest pressure of it here.
pub const PRESSURES: [AbsolutePressure; 2] = [AbsolutePressure::from_bar(0.5), AbsolutePressure::from_bar(700.0)];

impl Gas {
    /// In a word.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Nitrogen => "nitrogen",
            Self::Air => "air",
        }
    }

    /// Molar mass, kg/mol.
    const fn molar_mass(self) -> f64 {
        match self {
            Self::Nitrogen => 0.028_013_48,
            Self::Air => 0.028_965_46,
        }
    }

    /// Reducing temperature, K, and density, mol/m³.
    const fn reducing(self) -> (f64, f64) {
        match self {
            Self::Nitrogen => (126.192, 11_183.901_464_580_624),
            Self::Air => (132.6312, 10_447.7),
        }
    }

    /// Temperature below which it begins to condense at one standard atmosphere, K (of the same equations, CoolProp 8.0.0).
    const fn dew_at_atmosphere(self) -> f64 {
        match self {
            Self::Nitrogen => 77.355,
            Self::Air => 81.720,
        }
    }

    /// Specific gas constant R, J/(kg·K).
    pub fn gas_constant(self) -> f64 {
        MOLAR_GAS_CONSTANT / self.molar_mass()
    }

    fn ideal(self, delta: f64, tau: f64) -> Derivatives {
        match self {
            Self::Nitrogen => {
                let mut f = Derivatives::ideal_lead(delta, tau, -12.769_527_08, -0.007_841_63, 2.5);
                for (n, t) in [(-0.000_193_481_9, -1.0), (-1.247_742e-5, -2.0), (6.678_326e-8, -3.0)] {
                    f.add_ideal_power(tau, n, t);
                }
                f.add_vibration(tau, 1.012_941, 3364.011 / 126.192);
                f
            }
            Self::Air => {
                let mut f = Derivatives::ideal_lead(delta, tau, -13.841_928_076, 17.275_266_575, 2.490_888_032);
                for (n, t) in [(6.057_194e-8, -3.0), (-2.102_747_69e-5, -2.0), (-0.000_158_860_716, -1.0), (-0.000_195_363_42, 1.5)] {
                    f.add_ideal_power(tau, n, t);
                }
                f.add_vibration(tau, 0.791_309_509, 25.363_65);
                f.add_vibration(tau, 0.212_236_768, 16.907_41);
                add_high_vibration(&mut f, tau);
                f
            }
        }
    }

    fn residual(self, delta: f64, tau: f64) -> Derivatives {
        let mut f = Derivatives::default();
        match self {
            Self::Nitrogen => {
                f.add_power(delta, tau, &NITROGEN_POWER);
                f.add_gaussian(delta, tau, &NITROGEN_GAUSSIAN);
            }
            Self::Air => f.add_power(delta, tau, &AIR_POWER),
        }
        f
    }

    /// Density by Newton's method from the ideal gas, kelvin and pascal in.
    fn density_at(self, t: f64, p: f64) -> f64 {
        let (t_r, rho_r) = self.reducing();
        let rho_r = rho_r * self.molar_mass();
        let rt = self.gas_constant() * t;
        let mut rho = p / rt;
        for _ in 0..50 {
            let delta = rho / rho_r;
            let f = self.residual(delta, t_r / t);
            let step = (p - rho * rt * (1.0 + delta * f.d)) / (rt * (1.0 + 2.0 * delta * f.d + delta * delta * f.dd));
            rho = (rho + step).max(0.2 * rho);
            if step.abs() < 1e-12 * rho {
                break;
            }
        }
        rho
    }

    fn at(self, t: f64, p: f64) -> GasState {
        let (t_r, rho_r) = self.reducing();
        let r = self.gas_constant();
        let rho = self.density_at(t, p);
        let (delta, tau) = (rho / (rho_r * self.molar_mass()), t_r / t);
        let (o, f) = (self.ideal(delta, tau), self.residual(delta, tau));
        let cv = -r * tau * tau * (o.tt + f.tt);
        let a = 1.0 + delta * f.d - delta * tau * f.dt;
        GasState {
            density: Density::from_kg_m3(rho),
            compressibility_factor: 1.0 + delta * f.d,
            internal_energy: r * t * tau * (o.t + f.t),
            entropy: r * (tau * (o.t + f.t) - o.value - f.value),
            heat_capacity: cv + r * a * a / (1.0 + 2.0 * delta * f.d + delta * delta * f.dd),
            isochoric_heat_capacity: cv,
        }
    }

    /// The gas at `temperature` and `pressure`.
    ///
    /// Formula: p = ρRT(1 + δ·φʳ_δ) solved for ρ by Newton's method from the ideal gas; energy, entropy and heat capacities from the
    /// derivatives. Range here: −40 to 100 °C, 0.5 to 700 bar absolute. Uncertainty (of the equations, this range): density 0.02 % for
    /// nitrogen, 0.1 % for air. Source: Span et al. 2000; Lemmon et al. 2000. Example: nitrogen, 20 °C, 50 bar → 57.8146 kg/m³.
    ///
    /// # Errors
    /// Outside that range.
    pub fn state(self, temperature: Temperature, pressure: AbsolutePressure) -> Result<GasState, OutsideGas> {
        let inside =
            temperature >= TEMPERATURES[0] && temperature <= TEMPERATURES[1] && pressure >= PRESSURES[0] && pressure <= PRESSURES[1];
        if !inside {
            return Err(OutsideGas { gas: self.word(), temperature, pressure });
        }
        Ok(self.at(temperature.kelvin(), pressure.pa()))
    }

    /// Pressure of the gas at a density, as when it is shut in: p = ρRT(1 + δ·φʳ_δ). Range and uncertainty as of [`Self::state`].
    pub fn pressure(self, temperature: Temperature, density: Density) -> AbsolutePressure {
        let (t_r, rho_r) = self.reducing();
        let t = temperature.kelvin();
        let delta = density.kg_m3() / (rho_r * self.molar_mass());
        AbsolutePressure::from_pa(density.kg_m3() * self.gas_constant() * t * (1.0 + delta * self.residual(delta, t_r / t).d))
    }

    /// State after an isentropic expansion from `from` to `pressure`; none where it would begin to condense.
    ///
    /// Formula: s(T, p) = s₁ solved for T by Newton's method, ds/dT = c_p/T. Range: to about one atmosphere, for which the temperature of
    /// condensation is known here.
    pub fn expanded(self, from: &GasState, start: Temperature, pressure: AbsolutePressure) -> Option<(Temperature, GasState)> {
        let dew = self.dew_at_atmosphere();
        let mut t = start.kelvin();
        for _ in 0..100 {
            let now = self.at(t, pressure.pa());
            let step = (from.entropy - now.entropy) * t / now.heat_capacity;
            t = (t + step).max(0.6 * t);
            if t < 0.9 * dew {
                return None;
            }
            if step.abs() < 1e-9 * t {
                break;
            }
        }
        (t > dew).then(|| (Temperature::from_kelvin(t), self.at(t, pressure.pa())))
    }
}

/// Air's third vibration, n·ln(2/3 + exp(gτ)).
fn add_high_vibration(f: &mut Derivatives, tau: f64) {
    let (n, c, g) = (-0.197_938_904, 2.0 / 3.0, 87.312_79);
    // exp(87 τ) overflows at low temperatures: ln(c + e^x) = x + ln(1 + c·e^−x)
    let small = c * (-g * tau).exp();
    f.value += n * (g * tau + small.ln_1p());
    f.t += n * g / (1.0 + small);
    f.tt += n * g * g * small / ((1.0 + small) * (1.0 + small));
}
