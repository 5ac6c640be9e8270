//! The line against noise made here, and quantiles against printed tables.

use stats::line::{LineError, with_correlated_noise};
use stats::quantile::{normal, student};

/// A small generator of its own, so that no choice of the code under test enters: xorshift and Box–Muller.
struct Noise(u64);

impl Noise {
    fn uniform(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }
    fn normal(&mut self) -> f64 {
        (-2.0 * self.uniform().max(1e-300).ln()).sqrt() * (std::f64::consts::TAU * self.uniform()).cos()
    }
}

/// Share of 2,000 records in which the 95 % interval holds the true slope.
fn coverage(n: usize, phi: f64, irregular: bool) -> f64 {
    let mut noise = Noise(0x9e37_79b9_7f4a_7c15);
    let runs = 2000;
    let mut inside = 0;
    for _ in 0..runs {
        let (mut t, mut y, mut now, mut e) = (vec![], vec![], 0.0, noise.normal());
        for _ in 0..n {
            t.push(now);
            y.push(3.0 + 0.02 * now + e);
            let step = if irregular { 0.5 + noise.uniform() } else { 1.0 };
            now += step;
            let rho = phi.powf(step);
            e = rho * e + (1.0 - rho * rho).sqrt() * noise.normal();
        }
        let fit = with_correlated_noise(&t, &y).unwrap();
        let half = student(0.975, fit.degrees) * fit.slope_sd;
        if (fit.slope - 0.02).abs() <= half {
            inside += 1;
        }
    }
    f64::from(inside) / f64::from(runs)
}

#[test]
fn the_interval_covers_at_its_rate() {
    for (n, phi, irregular) in [(30, 0.0, false), (60, 0.5, false), (120, 0.8, false), (120, 0.6, true)] {
        let share = coverage(n, phi, irregular);
        assert!((0.92..=0.985).contains(&share), "n {n}, φ {phi}: {share}");
    }
}

#[test]
fn an_exact_line_is_found_exactly() {
    let t: Vec<f64> = (0..50).map(f64::from).collect();
    let y: Vec<f64> = t.iter().map(|t| 5.0 - 0.25 * t).collect();
    let fit = with_correlated_noise(&t, &y).unwrap();
    assert!((fit.slope + 0.25).abs() < 1e-12 && (fit.intercept - 5.0).abs() < 1e-10 && fit.slope_sd < 1e-9);
}

#[test]
fn what_cannot_be_fitted_is_refused() {
    assert_eq!(with_correlated_noise(&[0., 1., 2.], &[0., 1., 2.]), Err(LineError::TooFew(3)));
    assert_eq!(with_correlated_noise(&[0., 1., 1., 2.], &[0.; 4]), Err(LineError::NotRising));
    assert_eq!(with_correlated_noise(&[0., 1., 2., 3.], &[0., f64::NAN, 0., 0.]), Err(LineError::NotRising));
}

/// NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.6.7.1 and 1.3.6.7.2.
#[test]
fn published_quantiles() {
    for (got, want) in [(normal(0.975), 1.959_964), (normal(0.999), 3.090_232), (student(0.975, 10.0), 2.228), (student(0.95, 5.0), 2.015)]
    {
        assert!((got - want).abs() < 5e-4, "{got} {want}");
    }
    assert!(normal(1.0).is_nan() && student(0.5, -1.0).is_nan());
}
