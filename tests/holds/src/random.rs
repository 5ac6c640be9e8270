//! Random draws from one seed.

use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// A stream of draws.
pub struct Random(ChaCha8Rng);

impl Random {
    /// From a seed.
    pub fn new(seed: u64) -> Self {
        Self(ChaCha8Rng::seed_from_u64(seed))
    }
    /// Between two values.
    pub fn between(&mut self, a: f64, b: f64) -> f64 {
        a + (b - a) * self.0.random::<f64>()
    }
    /// Between two values, evenly in the logarithm.
    pub fn log_between(&mut self, a: f64, b: f64) -> f64 {
        self.between(a.ln(), b.ln()).exp()
    }
    /// Standard normal (Box and Muller).
    pub fn normal(&mut self) -> f64 {
        let (u, v) = (1.0 - self.0.random::<f64>(), self.0.random::<f64>());
        (-2.0 * u.ln()).sqrt() * (std::f64::consts::TAU * v).cos()
    }
    /// True with a probability.
    pub fn chance(&mut self, p: f64) -> bool {
        self.0.random::<f64>() < p
    }
    /// One of several.
    pub fn one_of<T: Copy>(&mut self, of: &[T]) -> T {
        of[((self.0.random::<f64>() * of.len() as f64) as usize).min(of.len() - 1)]
    }
    /// Rounded to a few significant digits, as people write figures down.
    pub fn rounded(x: f64, digits: i32) -> f64 {
        if x == 0.0 {
            return 0.0;
        }
        let scale = 10f64.powi(digits - 1 - x.abs().log10().floor() as i32);
        (x * scale).round() / scale
    }
}
