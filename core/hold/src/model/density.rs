//! Density of the fluid and its slopes over a small box, by a two-dimensional Chebyshev series.

use super::error::FitError;
use crate::input::Fluid;
use physics::water;
use quantity::{AbsolutePressure, Temperature};

/// Nodes in each direction; the rows of coefficients have one more, nil, so that they fill a register.
const N: usize = 7;
const M: usize = 8;

/// Density ρ(T, p) with its first derivatives, kg/m³, K, Pa. Within 1e-9 of the equation of state over 30 K × 100 bar.
#[derive(Debug, Clone)]
pub(crate) struct DensityBox {
    mid: (f64, f64),
    half: (f64, f64),
    /// Of powers: of the temperature (rows) and of the pressure, both from −1 to 1 over the box.
    coefficients: [[f64; M]; N],
}

/// Density and its slopes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Density {
    /// ρ, kg/m³.
    pub(crate) value: f64,
    /// ∂ρ/∂T, kg/(m³·K).
    pub(crate) per_k: f64,
    /// ∂ρ/∂p, kg/(m³·Pa).
    pub(crate) per_pa: f64,
}

fn state(fluid: Fluid, t_c: f64, p_pa: f64) -> Result<f64, FitError> {
    let (t, p) = (Temperature::from_c(t_c), AbsolutePressure::from_pa(p_pa));
    match fluid {
        Fluid::Water => Ok(water::state(t, p)?.density.kg_m3()),
        Fluid::Gas(gas) => Ok(gas.state(t, p)?.density.kg_m3()),
    }
}

/// Density at 0 °C and 101 325 Pa, to which normal litres refer; none for water, whose litres are those of the line.
pub(crate) fn normal_density(fluid: Fluid) -> Option<f64> {
    match fluid {
        Fluid::Water => None,
        Fluid::Gas(gas) => {
            // pV = nRT: normal volumes of leak testing are those of an ideal gas
            Some(101_325.0 / (gas.gas_constant() * 273.15))
        }
    }
}

fn node(i: usize) -> f64 {
    (std::f64::consts::PI * (i as f64 + 0.5) / N as f64).cos()
}

/// Chebyshev polynomials at `x`.
fn polynomials(x: f64) -> [f64; N] {
    let mut t = [0.0; N];
    t[0] = 1.0;
    t[1] = x;
    for k in 2..N {
        t[k] = 2.0 * x * t[k - 1] - t[k - 2];
    }
    t
}

/// Coefficients of the powers of `x` in each Chebyshev polynomial.
fn powers() -> [[f64; N]; N] {
    let mut of = [[0.0; N]; N];
    of[0][0] = 1.0;
    of[1][1] = 1.0;
    for k in 2..N {
        for i in 0..N {
            of[k][i] = if i > 0 { 2.0 * of[k - 1][i - 1] } else { 0.0 } - of[k - 2][i];
        }
    }
    of
}

/// A series of powers with its slope, carried on straight beyond −1 and 1.
fn series(coefficients: &[f64; M], y: f64) -> (f64, f64) {
    let yc = y.clamp(-1.0, 1.0);
    let (mut value, mut slope) = (coefficients[N - 1], 0.0);
    for c in coefficients[..N - 1].iter().rev() {
        slope = slope * yc + value;
        value = value * yc + c;
    }
    (value + slope * (y - yc), slope)
}

/// Density at one temperature over the pressures of a box.
#[derive(Debug, Clone, Copy)]
pub(crate) struct DensityLine {
    mid: f64,
    half: f64,
    coefficients: [f64; M],
}

impl DensityLine {
    /// ρ, kg/m³, and ∂ρ/∂p.
    pub(crate) fn at(&self, p_pa: f64) -> (f64, f64) {
        let (value, slope) = series(&self.coefficients, (p_pa - self.mid) / self.half);
        (value, slope / self.half)
    }
}

impl DensityBox {
    /// Over a box of temperature (°C) and pressure (Pa absolute), cut to where the fluid is a liquid or a gas.
    pub(crate) fn new(fluid: Fluid, t_c: (f64, f64), p_pa: (f64, f64)) -> Result<Self, FitError> {
        let t_c = match fluid {
            Fluid::Water => (t_c.0.max(0.11), t_c.1.min(99.9)),
            Fluid::Gas(_) => (t_c.0.max(-39.0), t_c.1.min(99.0)),
        };
        let p_pa = (p_pa.0.max(0.6e5), p_pa.1.max(0.9e5));
        let mid = (0.5 * (t_c.0 + t_c.1), 0.5 * (p_pa.0 + p_pa.1));
        let half = ((0.5 * (t_c.1 - t_c.0)).max(0.1), (0.5 * (p_pa.1 - p_pa.0)).max(1e4));
        let mut values = [[0.0; N]; N];
        for (i, row) in values.iter_mut().enumerate() {
            for (j, value) in row.iter_mut().enumerate() {
                *value = state(fluid, mid.0 + half.0 * node(i), mid.1 + half.1 * node(j))?;
            }
        }
        let basis: Vec<[f64; N]> = (0..N).map(|i| polynomials(node(i))).collect();
        let powers = powers();
        let mut coefficients = [[0.0; M]; N];
        for (a, in_t) in powers.iter().enumerate() {
            for (b, in_p) in powers.iter().enumerate() {
                let mut sum = 0.0;
                for i in 0..N {
                    for j in 0..N {
                        sum += values[i][j] * basis[i][a] * basis[j][b];
                    }
                }
                let norm = |k: usize| if k == 0 { 1.0 } else { 2.0 } / N as f64;
                for (row, t) in coefficients.iter_mut().zip(in_t) {
                    for (c, p) in row.iter_mut().zip(in_p) {
                        *c += sum * norm(a) * norm(b) * t * p;
                    }
                }
            }
        }
        Ok(Self { mid, half, coefficients })
    }

    /// Series of the pressure at one temperature and its slope with the temperature, both carried on straight beyond the box.
    fn rows(&self, t_c: f64) -> ([f64; M], [f64; M]) {
        let x = (t_c - self.mid.0) / self.half.0;
        let xc = x.clamp(-1.0, 1.0);
        let (mut value, mut slope) = (self.coefficients[N - 1], [0.0; M]);
        for row in self.coefficients[..N - 1].iter().rev() {
            for ((v, s), c) in value.iter_mut().zip(slope.iter_mut()).zip(row) {
                *s = *s * xc + *v;
                *v = *v * xc + c;
            }
        }
        value.iter_mut().zip(&slope).for_each(|(v, s)| *v += s * (x - xc));
        (value, slope)
    }

    /// Density at one temperature, for many pressures.
    pub(crate) fn along(&self, t_c: f64) -> DensityLine {
        let x = (t_c - self.mid.0) / self.half.0;
        if x.abs() > 1.0 {
            return DensityLine { mid: self.mid.1, half: self.half.1, coefficients: self.rows(t_c).0 };
        }
        let mut coefficients = self.coefficients[N - 1];
        for row in self.coefficients[..N - 1].iter().rev() {
            coefficients.iter_mut().zip(row).for_each(|(v, c)| *v = *v * x + c);
        }
        DensityLine { mid: self.mid.1, half: self.half.1, coefficients }
    }

    /// Density at a point; beyond the box its edge value with its slope carried on.
    pub(crate) fn at(&self, t_c: f64, p_pa: f64) -> Density {
        let (row, slope) = self.rows(t_c);
        let y = (p_pa - self.mid.1) / self.half.1;
        let (value, per_y) = series(&row, y);
        Density { value, per_k: series(&slope, y).0 / self.half.0, per_pa: per_y / self.half.1 }
    }
}
