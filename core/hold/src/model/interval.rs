//! A coarse reading is an interval: expectation propagation over blocks.
//!
//! A block whose readings all show one division says that its value lies within that division, one that shows two says
//! where the value crosses. Each block's likelihood is replaced by the normal one that gives the same mean and variance
//! together with all other readings.

use super::blocks::Cell;
use super::within::Within;
use smallvec::SmallVec;

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
    /// The probability of a reading within a division.
    pub(crate) within: &'a Within,
}

/// A term of a block's likelihood: where the middle of the division is when the middle of the block is at nil, in standard deviations, and how many
/// readings it stands for.
#[derive(Debug, Clone, Copy)]
struct Term {
    middle: f64,
    count: f64,
}

impl Coarse<'_> {
    /// Terms of the log likelihood of the value in the middle of the block. Of a run the two ends count by themselves, the rest in its middle.
    fn terms(&self) -> SmallVec<[Term; 8]> {
        let mut out: SmallVec<[Term; 8]> = SmallVec::new();
        let mut term = |value: f64, at: f64, count: f64| {
            let middle = (value - self.slope * at) / self.sd;
            match out.iter_mut().find(|t| (t.middle - middle).abs() < AS_ONE) {
                Some(t) => {
                    t.middle += (middle - t.middle) * count / (t.count + count);
                    t.count += count;
                }
                None => out.push(Term { middle, count }),
            }
        };
        for r in &self.cell.runs {
            let middle = 0.5 * (r.from + r.to);
            let moves = self.slope.abs() * (r.to - r.from) > 0.05 * self.sd;
            if r.count < 1.5 || !moves {
                term(r.value, middle, r.count);
            } else {
                term(r.value, r.from, 1.0);
                term(r.value, r.to, 1.0);
                if r.count > 2.5 {
                    term(r.value, middle, r.count - 2.0);
                }
            }
        }
        out
    }

    /// The stand-in that matches mean and variance with the cavity; `known` is where the value was with a cavity that was little different.
    pub(crate) fn matched(&self, cavity: Cavity, known: Option<(f64, f64)>) -> Matched {
        let terms = self.terms();
        let log_density = |x: f64| {
            let z = x / self.sd;
            terms.iter().map(|t| t.count * self.within.at(z - t.middle)).sum::<f64>() - 0.5 * (x - cavity.mean).powi(2) / cavity.variance
        };
        let near = known.map(|range| Moments::over(log_density, range, POINTS.1)).filter(Moments::is_whole);
        let found = near.unwrap_or_else(|| {
            let whole = Moments::over(log_density, self.range(cavity), POINTS.0);
            Moments::over(log_density, whole.matters, POINTS.1)
        });
        let log_probability = found.log_integral - 0.5 * (std::f64::consts::TAU * cavity.variance).ln();
        let (mean, variance) = (found.mean, found.variance.max(found.step * found.step / 12.0));
        let matched =
            |value: f64, precision: f64| Matched { site: Site { value, variance: 1.0 / precision }, log_probability, range: found.matters };
        let precision = 1.0 / variance - 1.0 / cavity.variance;
        let least = LEAST_PRECISION / (self.division * self.division);
        if precision < least {
            // a flat likelihood says nothing more than the cavity
            return matched(mean, least);
        }
        // no block tells more than its readings would without rounding; one that seems to stands against all else
        let most = self.cell.count / (self.sd * self.sd);
        if precision > most {
            return matched(mean, most);
        }
        matched((mean / variance - cavity.mean / cavity.variance) / precision, precision)
    }

    /// Where the value can be.
    fn range(&self, cavity: Cavity) -> (f64, f64) {
        let (lo, hi) = self.cell.range;
        let reach = 0.5 * self.division
            + 4.0 * self.sd
            + self.slope.abs() * self.cell.runs.iter().map(|r| r.to.abs().max(r.from.abs())).fold(0.0, f64::max);
        let sd = cavity.variance.sqrt();
        let (from, to) = ((lo - reach).max(cavity.mean - 7.0 * sd), (hi + reach).min(cavity.mean + 7.0 * sd));
        if to > from {
            return (from, to);
        }
        // the readings are far from what everything else says: their own range with the nearest edge
        if cavity.mean > hi { (hi - reach, hi + reach) } else { (lo - reach, lo + reach) }
    }
}

/// A stand-in that was matched.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Matched {
    /// The stand-in.
    pub(crate) site: Site,
    /// Logarithm of the readings' probability given the cavity.
    pub(crate) log_probability: f64,
    /// Where the value is, with some room on both sides.
    pub(crate) range: (f64, f64),
}

/// Moments of a density by sums over even points.
struct Moments {
    mean: f64,
    variance: f64,
    log_integral: f64,
    step: f64,
    /// Where the density matters, one step farther on both sides, within the range.
    matters: (f64, f64),
    /// How many points matter, and whether the density does not at either end.
    points: usize,
    ends: bool,
}

impl Moments {
    fn over(log_density: impl Fn(f64) -> f64, (from, to): (f64, f64), count: usize) -> Self {
        let step = (to - from) / (count - 1) as f64;
        let logs: SmallVec<[f64; 32]> = (0..count).map(|i| log_density(from + i as f64 * step)).collect();
        let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        // counted from the middle of the range, in steps
        let (mut sum, mut first, mut second) = (0.0, 0.0, 0.0);
        let middle = 0.5 * (count - 1) as f64;
        for (i, log) in logs.iter().enumerate().filter(|(_, log)| **log > most - 40.0) {
            let (w, u) = ((log - most).exp(), i as f64 - middle);
            sum += w;
            first += w * u;
            second += w * u * u;
        }
        let mean = first / sum;
        let matter = |log: &f64| *log > most - MATTERS;
        let (a, b) = (logs.iter().position(matter).unwrap_or(0), logs.iter().rposition(matter).unwrap_or(count - 1));
        let at = |i: usize| from + i as f64 * step;
        Self {
            mean: from + (mean + middle) * step,
            variance: (second / sum - mean * mean).max(0.0) * step * step,
            log_integral: most + (sum * step).ln(),
            step,
            matters: (at(a.saturating_sub(1)), at((b + 1).min(count - 1))),
            points: b + 1 - a,
            ends: a == 0 || b == count - 1,
        }
    }

    /// True when the range held everything that matters, and fills it well enough.
    fn is_whole(&self) -> bool {
        !self.ends && self.points >= FILLED
    }
}

/// A density that is less than this power of e below its greatest does not matter.
const MATTERS: f64 = 14.0;
/// Points that have to matter.
const FILLED: usize = 15;
/// Terms whose edges are less than so many standard deviations apart are one.
const AS_ONE: f64 = 0.1;
/// Least precision of a stand-in, over that of its division.
const LEAST_PRECISION: f64 = 1e-6;
/// Points over the whole range, and over where it matters.
const POINTS: (usize, usize) = (17, 27);
