//! The Helmholtz energy of water (IAPWS R6-95, equations 5 and 6, tables 4 and 5).

use super::coefficients::POWER;
use crate::helmholtz::{Derivatives, Gaussian};

const IDEAL: [(f64, f64); 5] =
    [(0.012_436, 1.287_289_67), (0.973_15, 3.537_342_22), (1.279_50, 7.740_737_08), (0.969_56, 9.244_377_96), (0.248_73, 27.507_510_5)];
/// Terms 52–54.
const GAUSSIAN: [Gaussian; 3] = [
    Gaussian { n: -0.313_062_603_234_35e2, d: 3, t: 0, alpha: 20.0, beta: 150.0, gamma: 1.21, epsilon: 1.0 },
    Gaussian { n: 0.315_461_402_377_81e2, d: 3, t: 1, alpha: 20.0, beta: 150.0, gamma: 1.21, epsilon: 1.0 },
    Gaussian { n: -0.252_131_543_416_95e4, d: 3, t: 4, alpha: 20.0, beta: 250.0, gamma: 1.25, epsilon: 1.0 },
];
/// Critical-region terms 55 and 56: n, a, b, B, C, D, A, β.
const CRITICAL: [[f64; 8]; 2] =
    [[-0.148_746_408_567_24, 3.5, 0.85, 0.2, 28.0, 700.0, 0.32, 0.3], [0.318_061_108_784_44, 3.5, 0.95, 0.2, 32.0, 800.0, 0.32, 0.3]];

/// Ideal-gas part φ° (release, equation 5).
pub fn ideal(delta: f64, tau: f64) -> Derivatives {
    let mut f = Derivatives::ideal_lead(delta, tau, -8.320_446_483_749_7, 6.683_210_527_593_2, 3.006_32);
    for (n, g) in IDEAL {
        f.add_vibration(tau, n, g);
    }
    f
}

/// Residual part φʳ (release, equation 6).
pub fn residual(delta: f64, tau: f64) -> Derivatives {
    let mut f = Derivatives::default();
    f.add_power(delta, tau, &POWER);
    f.add_gaussian(delta, tau, &GAUSSIAN);
    add_critical(&mut f, delta, tau);
    f
}

fn add_critical(f: &mut Derivatives, delta: f64, tau: f64) {
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
        f.value += n * p * delta * psi;
        f.d += n * (p * (psi + delta * psi_d) + p_d * delta * psi);
        f.dd += n * (p * (2.0 * psi_d + delta * psi_dd) + 2.0 * p_d * (psi + delta * psi_d) + p_dd * delta * psi);
        f.t += n * delta * (p_t * psi + p * psi_t);
        f.tt += n * delta * (p_tt * psi + 2.0 * p_t * psi_t + p * psi_tt);
        f.dt += n * (p * (psi_t + delta * psi_dt) + delta * p_d * psi_t + p_t * (psi + delta * psi_d) + p_dt * delta * psi);
    }
}
