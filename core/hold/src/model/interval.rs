//! A coarse reading is an interval: expectation propagation over blocks.
//!
//! A block whose readings all show one division says that its value lies within that division, one that shows two says
//! where the value crosses. Each block's likelihood is replaced by the normal one that gives the same mean and variance
//! together with all other readings.

use super::blocks::Cell;

/// The normal stand-in for a block's readings.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Site {
    /// Value.
    pub(crate) value: f64,
    /// Variance.
    pub(crate) variance: f64,
}

/// What everything else says about a block.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Cavity {
    /// Mean.
    pub(crate) mean: f64,
    /// Variance.
    pub(crate) variance: f64,
}

/// A block of coarse readings.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Coarse<'a> {
    /// What was read.
    pub(crate) cell: &'a Cell,
    /// Division.
    pub(crate) division: f64,
    /// Standard deviation of a reading before it is rounded.
    pub(crate) sd: f64,
    /// How the value changes within the block, per second.
    pub(crate) slope: f64,
}

const SQRT_2: f64 = std::f64::consts::SQRT_2;

/// Logarithm of the standard normal distribution function's difference between two points, a < b.
fn log_between(a: f64, b: f64) -> f64 {
    use statrs::function::erf::erfc;
    if a < -6.5 && b > 6.5 {
        // well inside
        return 0.0;
    }
    if a > 12.0 || b < -12.0 {
        let d = if a > 0.0 { a } else { -b };
        return -0.5 * d * d - (d * (std::f64::consts::TAU).sqrt()).ln();
    }
    // both on one side: the tail that is small is the one that keeps its digits
    let value = if a > 0.0 {
        0.5 * (erfc(a / SQRT_2) - erfc(b / SQRT_2))
    } else if b < 0.0 {
        0.5 * (erfc(-b / SQRT_2) - erfc(-a / SQRT_2))
    } else {
        1.0 - 0.5 * erfc(b / SQRT_2) - 0.5 * erfc(-a / SQRT_2)
    };
    if value > 1e-290 {
        value.ln()
    } else {
        // far out: leading term of the tail
        let d = if a > 0.0 { a } else { -b };
        -0.5 * d * d - (d * (std::f64::consts::TAU).sqrt()).ln()
    }
}

impl Coarse<'_> {
    /// Log likelihood of the value in the middle of the block. Of a run the two ends count by themselves, the rest in its middle.
    fn log_likelihood(&self, x: f64) -> f64 {
        let half = 0.5 * self.division;
        let one = |value: f64, at: f64| {
            let here = x + self.slope * at;
            log_between((value - half - here) / self.sd, (value + half - here) / self.sd)
        };
        self.cell
            .runs
            .iter()
            .map(|r| match r.count {
                n if n < 1.5 => one(r.value, r.from),
                n => {
                    one(r.value, r.from) + one(r.value, r.to) + (n - 2.0) * if n > 2.5 { one(r.value, 0.5 * (r.from + r.to)) } else { 0.0 }
                }
            })
            .sum()
    }

    /// The first stand-in: the mean with the spread of rounding, shared by the `alike` blocks that show the same division.
    pub(crate) fn first(&self, alike: f64) -> Site {
        let n = self.cell.count;
        Site { value: self.cell.mean, variance: self.sd * self.sd / n + self.division * self.division / 12.0 * alike }
    }

    /// The stand-in that matches mean and variance with the cavity, and the logarithm of the readings' probability given the cavity.
    pub(crate) fn matched(&self, cavity: Cavity) -> (Site, f64) {
        let (lo, hi) = self.cell.range;
        let reach = 0.5 * self.division
            + 4.0 * self.sd
            + self.slope.abs() * self.cell.runs.iter().map(|r| r.to.abs().max(r.from.abs())).fold(0.0, f64::max);
        let sd = cavity.variance.sqrt();
        let (mut from, mut to) = ((lo - reach).max(cavity.mean - 7.0 * sd), (hi + reach).min(cavity.mean + 7.0 * sd));
        if to <= from {
            // the readings are far from what everything else says: their own range with the nearest edge
            (from, to) = if cavity.mean > hi { (hi - reach, hi + reach) } else { (lo - reach, lo + reach) };
        }
        let log_density = |x: f64| self.log_likelihood(x) - 0.5 * (x - cavity.mean).powi(2) / cavity.variance;
        let mut moments = (0.0, 0.0);
        let (mut step, mut log_probability) = (0.0, 0.0);
        // once over the whole range, once more where it matters
        for count in POINTS {
            step = (to - from) / (count - 1) as f64;
            let points: Vec<(f64, f64)> = (0..count).map(|i| from + i as f64 * step).map(|x| (x, log_density(x))).collect();
            let most = points.iter().map(|p| p.1).fold(f64::NEG_INFINITY, f64::max);
            let weights: Vec<(f64, f64)> = points.iter().map(|(x, l)| (*x, (l - most).exp())).collect();
            let sum: f64 = weights.iter().map(|w| w.1).sum();
            log_probability = most + (sum * step).ln() - 0.5 * (std::f64::consts::TAU * cavity.variance).ln();
            let mean = weights.iter().map(|(x, w)| x * w).sum::<f64>() / sum;
            moments = (mean, weights.iter().map(|(x, w)| (x - mean).powi(2) * w).sum::<f64>() / sum);
            let matter = |p: &&(f64, f64)| p.1 > most - 14.0;
            let first = points.iter().find(matter).map_or(from, |p| p.0);
            let last = points.iter().rev().find(matter).map_or(to, |p| p.0);
            (from, to) = ((first - step).max(from), (last + step).min(to));
        }
        let (mean, variance) = (moments.0, moments.1.max(step * step / 12.0));
        let precision = 1.0 / variance - 1.0 / cavity.variance;
        let least = LEAST_PRECISION / (self.division * self.division);
        if precision < least {
            // a flat likelihood says nothing more than the cavity
            return (Site { value: mean, variance: 1.0 / least }, log_probability);
        }
        // no block tells more than its readings would without rounding; one that seems to stands against all else
        let most = self.cell.count / (self.sd * self.sd);
        if precision > most {
            return (Site { value: mean, variance: 1.0 / most }, log_probability);
        }
        let value = (mean / variance - cavity.mean / cavity.variance) / precision;
        (Site { value, variance: 1.0 / precision }, log_probability)
    }
}

/// Least precision of a stand-in, over that of its division.
const LEAST_PRECISION: f64 = 1e-6;
/// Points of the two quadratures.
const POINTS: [usize; 2] = [25, 41];
