//! The dimensionless Helmholtz energy of water and its derivatives (IAPWS R6-95, tables 4 and 5).

use super::coefficients::POWER;

/// φ and its derivatives with respect to δ = ρ/ρc (d) and τ = Tc/T (t).
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Derivatives {
    /// φ
    pub value: f64,
    /// ∂φ/∂δ
    pub d: f64,
    /// ∂²φ/∂δ²
    pub dd: f64,
    /// ∂φ/∂τ
    pub t: f64,
    /// ∂²φ/∂τ²
    pub tt: f64,
    /// ∂²φ/∂δ∂τ
    pub dt: f64,
}

const IDEAL: [(f64, f64); 5] =
    [(0.012_436, 1.287_289_67), (0.973_15, 3.537_342_22), (1.279_50, 7.740_737_08), (0.969_56, 9.244_377_96), (0.248_73, 27.507_510_5)];
/// Gaussian-bell terms 52–54: n, d, t, α, β, γ, ε.
const GAUSSIAN: [(f64, i32, i32, f64, f64, f64, f64); 3] = [
    (-0.313_062_603_234_35e2, 3, 0, 20.0, 150.0, 1.21, 1.0),
    (0.315_461_402_377_81e2, 3, 1, 20.0, 150.0, 1.21, 1.0),
    (-0.252_131_543_416_95e4, 3, 4, 20.0, 250.0, 1.25, 1.0),
];
/// Critical-region terms 55 and 56: n, a, b, B, C, D, A, β.
const CRITICAL: [[f64; 8]; 2] =
    [[-0.148_746_408_567_24, 3.5, 0.85, 0.2, 28.0, 700.0, 0.32, 0.3], [0.318_061_108_784_44, 3.5, 0.95, 0.2, 32.0, 800.0, 0.32, 0.3]];

impl Derivatives {
    /// Ideal-gas part φ° (release, equation 5).
    pub fn ideal(delta: f64, tau: f64) -> Self {
        let (n1, n2, n3) = (-8.320_446_483_749_7, 6.683_210_527_593_2, 3.006_32);
        let mut f = Self {
            value: delta.ln() + n1 + n2 * tau + n3 * tau.ln(),
            d: 1.0 / delta,
            dd: -1.0 / (delta * delta),
            t: n2 + n3 / tau,
            tt: -n3 / (tau * tau),
            dt: 0.0,
        };
        for (n, g) in IDEAL {
            let e = (-g * tau).exp();
            f.value += n * (1.0 - e).ln();
            f.t += n * g * (1.0 / (1.0 - e) - 1.0);
            f.tt -= n * g * g * e / ((1.0 - e) * (1.0 - e));
        }
        f
    }

    /// Residual part φʳ (release, equation 6).
    pub fn residual(delta: f64, tau: f64) -> Self {
        let mut f = Self::default();
        let log_tau = tau.ln();
        for term in &POWER {
            let d = f64::from(term.d);
            let c = f64::from(term.c);
            let dc = if term.c > 0 { delta.powi(term.c) } else { 0.0 };
            let base = term.n * delta.powi(term.d) * (term.t * log_tau - dc).exp();
            let first = d - c * dc;
            f.value += base;
            f.d += base * first / delta;
            f.dd += base * (first * (first - 1.0) - c * c * dc) / (delta * delta);
            f.t += base * term.t / tau;
            f.tt += base * term.t * (term.t - 1.0) / (tau * tau);
            f.dt += base * first * term.t / (delta * tau);
        }
        f.add_gaussian(delta, tau);
        f.add_critical(delta, tau);
        f
    }

    fn add_gaussian(&mut self, delta: f64, tau: f64) {
        for (n, d, t, alpha, beta, gamma, eps) in GAUSSIAN {
            let base = n * delta.powi(d) * tau.powi(t) * (-alpha * (delta - eps).powi(2) - beta * (tau - gamma).powi(2)).exp();
            let (d, t) = (f64::from(d), f64::from(t));
            let in_d = d / delta - 2.0 * alpha * (delta - eps);
            let in_t = t / tau - 2.0 * beta * (tau - gamma);
            self.value += base;
            self.d += base * in_d;
            self.dd += base * (in_d * in_d - d / (delta * delta) - 2.0 * alpha);
            self.t += base * in_t;
            self.tt += base * (in_t * in_t - t / (tau * tau) - 2.0 * beta);
            self.dt += base * in_d * in_t;
        }
    }

    fn add_critical(&mut self, delta: f64, tau: f64) {
        for [n, a, b, big_b, big_c, big_d, big_a, beta] in CRITICAL {
            let x = delta - 1.0;
            let x2 = (x * x).max(1e-300);
            let theta = (1.0 - tau) + big_a * x2.powf(0.5 / beta);
            let dist = (theta * theta + big_b * x2.powf(a)).max(1e-300);
            let psi = (-big_c * x2 - big_d * (tau - 1.0).powi(2)).exp();
            if psi == 0.0 {
                continue;
            }
            let inner = big_a * theta * (2.0 / beta) * x2.powf(0.5 / beta - 1.0) + 2.0 * big_b * a * x2.powf(a - 1.0);
            let dist_d = x * inner;
            let dist_dd = inner
                + x2 * (4.0 * big_b * a * (a - 1.0) * x2.powf(a - 2.0)
                    + 2.0 * (big_a / beta).powi(2) * x2.powf(0.5 / beta - 1.0).powi(2)
                    + big_a * theta * (4.0 / beta) * (0.5 / beta - 1.0) * x2.powf(0.5 / beta - 2.0));
            let p = dist.powf(b);
            let p1 = b * dist.powf(b - 1.0);
            let p2 = b * (b - 1.0) * dist.powf(b - 2.0);
            let p_d = p1 * dist_d;
            let p_dd = p1 * dist_dd + p2 * dist_d * dist_d;
            let p_t = -2.0 * theta * p1;
            let p_tt = 2.0 * p1 + 4.0 * theta * theta * p2;
            let p_dt = -big_a * (2.0 / beta) * p1 * x * x2.powf(0.5 / beta - 1.0) - 2.0 * theta * p2 * dist_d;
            let psi_d = -2.0 * big_c * x * psi;
            let psi_dd = (2.0 * big_c * x2 - 1.0) * 2.0 * big_c * psi;
            let psi_t = -2.0 * big_d * (tau - 1.0) * psi;
            let psi_tt = (2.0 * big_d * (tau - 1.0).powi(2) - 1.0) * 2.0 * big_d * psi;
            let psi_dt = 4.0 * big_c * big_d * x * (tau - 1.0) * psi;
            self.value += n * p * delta * psi;
            self.d += n * (p * (psi + delta * psi_d) + p_d * delta * psi);
            self.dd += n * (p * (2.0 * psi_d + delta * psi_dd) + 2.0 * p_d * (psi + delta * psi_d) + p_dd * delta * psi);
            self.t += n * delta * (p_t * psi + p * psi_t);
            self.tt += n * delta * (p_tt * psi + 2.0 * p_t * psi_t + p * psi_tt);
            self.dt += n * (p * (psi_t + delta * psi_dt) + delta * p_d * psi_t + p_t * (psi + delta * psi_d) + p_dt * delta * psi);
        }
    }
}
