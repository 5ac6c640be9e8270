//! Density of the fluid and its slopes over a small box, by a two-dimensional Chebyshev series.

use crate::input::Fluid;
use physics::water;
use quantity::{AbsolutePressure, Temperature};

const N: usize = 7;

/// Density ρ(T, p) with its first derivatives, kg/m³, K, Pa. Within 1e-9 of the equation of state over 30 K × 100 bar.
#[derive(Debug, Clone)]
pub(crate) struct DensityBox {
    mid: (f64, f64),
    half: (f64, f64),
    coefficients: [[f64; N]; N],
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

fn state(fluid: Fluid, t_c: f64, p_pa: f64) -> Result<f64, String> {
    let (t, p) = (Temperature::from_c(t_c), AbsolutePressure::from_pa(p_pa));
    match fluid {
        Fluid::Water => water::state(t, p).map(|s| s.density.kg_m3()).map_err(|e| e.to_string()),
        Fluid::Gas(gas) => gas.state(t, p).map(|s| s.density.kg_m3()).map_err(|e| e.to_string()),
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

/// Chebyshev polynomials and their derivatives at `x`.
fn polynomials(x: f64) -> ([f64; N], [f64; N]) {
    let (mut t, mut d) = ([0.0; N], [0.0; N]);
    t[0] = 1.0;
    t[1] = x;
    d[1] = 1.0;
    for k in 2..N {
        t[k] = 2.0 * x * t[k - 1] - t[k - 2];
        d[k] = 2.0 * t[k - 1] + 2.0 * x * d[k - 1] - d[k - 2];
    }
    (t, d)
}

/// Density at one temperature over the pressures of a box.
#[derive(Debug, Clone, Copy)]
pub(crate) struct DensityLine {
    mid: f64,
    half: f64,
    coefficients: [f64; N],
}

impl DensityLine {
    /// ρ, kg/m³, and ∂ρ/∂p.
    pub(crate) fn at(&self, p_pa: f64) -> (f64, f64) {
        let y = (p_pa - self.mid) / self.half;
        let yc = y.clamp(-1.0, 1.0);
        let (t, d) = polynomials(yc);
        let (mut value, mut slope) = (0.0, 0.0);
        for (c, (t, d)) in self.coefficients.iter().zip(t.iter().zip(&d)) {
            value += c * t;
            slope += c * d;
        }
        (value + slope * (y - yc), slope / self.half)
    }
}

impl DensityBox {
    /// Over a box of temperature (°C) and pressure (Pa absolute), cut to where the fluid is a liquid or a gas.
    pub(crate) fn new(fluid: Fluid, t_c: (f64, f64), p_pa: (f64, f64)) -> Result<Self, String> {
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
        let basis: Vec<[f64; N]> = (0..N).map(|i| polynomials(node(i)).0).collect();
        let mut coefficients = [[0.0; N]; N];
        for (a, row) in coefficients.iter_mut().enumerate() {
            for (b, c) in row.iter_mut().enumerate() {
                let mut sum = 0.0;
                for i in 0..N {
                    for j in 0..N {
                        sum += values[i][j] * basis[i][a] * basis[j][b];
                    }
                }
                let norm = |k: usize| if k == 0 { 1.0 } else { 2.0 } / N as f64;
                *c = sum * norm(a) * norm(b);
            }
        }
        Ok(Self { mid, half, coefficients })
    }

    /// Density at one temperature, for many pressures.
    pub(crate) fn along(&self, t_c: f64) -> DensityLine {
        let x = (t_c - self.mid.0) / self.half.0;
        let xc = x.clamp(-1.0, 1.0);
        let (tx, dx) = polynomials(xc);
        let mut coefficients = [0.0; N];
        for i in 0..N {
            let share = tx[i] + dx[i] * (x - xc);
            for (c, of) in coefficients.iter_mut().zip(&self.coefficients[i]) {
                *c += share * of;
            }
        }
        DensityLine { mid: self.mid.1, half: self.half.1, coefficients }
    }

    /// Density at a point; beyond the box its edge value with its slope carried on.
    pub(crate) fn at(&self, t_c: f64, p_pa: f64) -> Density {
        let (x, y) = ((t_c - self.mid.0) / self.half.0, (p_pa - self.mid.1) / self.half.1);
        let (xc, yc) = (x.clamp(-1.0, 1.0), y.clamp(-1.0, 1.0));
        let ((tx, dx), (ty, dy)) = (polynomials(xc), polynomials(yc));
        let (mut value, mut per_x, mut per_y) = (0.0, 0.0, 0.0);
        for i in 0..N {
            let row = &self.coefficients[i];
            let (mut along, mut slope) = (0.0, 0.0);
            for j in 0..N {
                along += row[j] * ty[j];
                slope += row[j] * dy[j];
            }
            value += tx[i] * along;
            per_x += dx[i] * along;
            per_y += tx[i] * slope;
        }
        value += per_x * (x - xc) + per_y * (y - yc);
        Density { value, per_k: per_x / self.half.0, per_pa: per_y / self.half.1 }
    }
}
