//! The probability that a reading lies within a division, as logarithms from a table.

use std::sync::OnceLock;

/// Logarithm of the standard normal distribution function, from a table: cubic between points, whose slopes are exact.
#[derive(Debug)]
struct LogNormal {
    points: Vec<(f64, f64)>,
}

/// The table's range and the points in one.
const TABLE: (f64, f64) = (-30.0, 8.5);
const IN_ONE: f64 = 64.0;

impl LogNormal {
    fn new() -> Self {
        let count = ((TABLE.1 - TABLE.0) * IN_ONE) as usize + 2;
        let at = |i: usize| {
            let x = TABLE.0 + i as f64 / IN_ONE;
            let log = if x < -25.0 {
                // the first terms of the tail
                let y = 1.0 / (x * x);
                -0.5 * x * x - (-x * std::f64::consts::TAU.sqrt()).ln() + (-y * (1.0 - 2.5 * y)).ln_1p()
            } else {
                (0.5 * statrs::function::erf::erfc(-x * std::f64::consts::FRAC_1_SQRT_2)).ln()
            };
            let density = -0.5 * x * x - 0.5 * std::f64::consts::TAU.ln();
            (log, (density - log).exp() / IN_ONE)
        };
        Self { points: (0..count).map(at).collect() }
    }

    fn at(&self, x: f64) -> f64 {
        if x >= TABLE.1 {
            return 0.0;
        }
        if x <= TABLE.0 {
            return -0.5 * x * x - (-x * std::f64::consts::TAU.sqrt()).ln();
        }
        let place = (x - TABLE.0) * IN_ONE;
        let i = place as usize;
        let u = place - i as f64;
        cubic(self.points[i], self.points[i + 1], u)
    }
}

/// What less than this power of e of something does not change.
const NOTHING: f64 = 14.0;

/// Logarithm of the standard normal distribution function's difference between two points, a < b.
fn log_between(table: &LogNormal, a: f64, b: f64) -> f64 {
    // on the side where the tail is small, which is the one that keeps its digits
    let (low, high) = if a + b > 0.0 { (-b, -a) } else { (a, b) };
    let whole = table.at(high);
    let beyond = table.at(low) - whole;
    if beyond < -NOTHING { whole } else { whole + (-beyond.exp()).ln_1p() }
}

/// Logarithm of the probability that a standard normal error leaves a value within a division of one width.
#[derive(Debug)]
pub(crate) struct Within {
    /// Width of the division, standard deviations.
    width: f64,
    normal: &'static LogNormal,
    /// At even distances from the middle with the slope over one of them; empty where the far edge never counts.
    points: Vec<(f64, f64)>,
}

/// Beyond such a width only the nearer edge counts.
const WIDE: f64 = 11.0;
/// Standard deviations beyond the edge that the table goes on for.
const BEYOND: f64 = 9.0;
/// Its points in one.
const FINE: f64 = 32.0;

impl Within {
    pub(crate) fn new(width: f64) -> Self {
        static NORMAL: OnceLock<LogNormal> = OnceLock::new();
        let normal = NORMAL.get_or_init(LogNormal::new);
        let half = 0.5 * width;
        let at = |i: usize| {
            let z = i as f64 / FINE;
            let log = log_between(normal, -z - half, half - z);
            let density = |x: f64| (-0.5 * x * x - 0.5 * std::f64::consts::TAU.ln() - log).exp();
            (log, (density(z + half) - density(half - z)) / FINE)
        };
        let count = if width < WIDE { ((half + BEYOND) * FINE) as usize + 2 } else { 0 };
        Self { width, normal, points: (0..count).map(at).collect() }
    }

    /// For a value so many standard deviations from the middle of the division.
    pub(crate) fn at(&self, from_middle: f64) -> f64 {
        let z = from_middle.abs();
        if self.points.is_empty() {
            return self.normal.at(0.5 * self.width - z);
        }
        let place = z * FINE;
        let i = place as usize;
        match self.points.get(i..i + 2) {
            Some([a, b]) => cubic(*a, *b, place - i as f64),
            _ => log_between(self.normal, -z - 0.5 * self.width, 0.5 * self.width - z),
        }
    }
}

/// Between two points with their slopes.
fn cubic((a, da): (f64, f64), (b, db): (f64, f64), u: f64) -> f64 {
    let v = 1.0 - u;
    a * v * v * (1.0 + 2.0 * u) + da * u * v * v + b * u * u * (3.0 - 2.0 * u) - db * u * u * v
}

#[cfg(test)]
mod tests {
    use super::Within;
    use proptest::prelude::*;
    use statrs::distribution::{ContinuousCDF, Normal};

    proptest! {
        #[test]
        fn it_is_the_normal_probability_between_the_edges(width in 0.5f64..40.0, share in -1.5f64..1.5) {
            let z = share * (0.5 * width + 3.0);
            let (a, b) = (-z - 0.5 * width, 0.5 * width - z);
            let normal = Normal::standard();
            let (low, high) = if a + b > 0.0 { (-b, -a) } else { (a, b) };
            let expected = (normal.cdf(high) - normal.cdf(low)).ln();
            let found = Within::new(width).at(z);
            prop_assert!((found - expected).abs() < 1e-5 + 1e-6 * expected.abs(), "{found} {expected}");
        }
    }
}
