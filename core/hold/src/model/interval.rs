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

/// Logarithm of the standard normal distribution function, from a table: cubic between points, whose slopes are exact.
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
        let ((a, da), (b, db)) = (self.points[i], self.points[i + 1]);
        let v = 1.0 - u;
        a * v * v * (1.0 + 2.0 * u) + da * u * v * v + b * u * u * (3.0 - 2.0 * u) - db * u * u * v
    }
}

/// Logarithm of the standard normal distribution function's difference between two points, a < b.
fn log_between(a: f64, b: f64) -> f64 {
    static TABLE: std::sync::OnceLock<LogNormal> = std::sync::OnceLock::new();
    if a < -6.5 && b > 6.5 {
        // well inside
        return 0.0;
    }
    let table = TABLE.get_or_init(LogNormal::new);
    // on the side where the tail is small, which is the one that keeps its digits
    let (low, high) = if a + b > 0.0 { (table.at(-b), table.at(-a)) } else { (table.at(a), table.at(b)) };
    if low < high - 36.0 { high } else { high + (-(low - high).exp()).ln_1p() }
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
            .map(|r| {
                let middle = 0.5 * (r.from + r.to);
                let moves = self.slope.abs() * (r.to - r.from) > 0.05 * self.sd;
                match r.count {
                    n if n < 1.5 || !moves => n * one(r.value, middle),
                    n => one(r.value, r.from) + one(r.value, r.to) + (n - 2.0) * if n > 2.5 { one(r.value, middle) } else { 0.0 },
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
const POINTS: [usize; 2] = [17, 27];
