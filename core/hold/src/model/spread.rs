//! The average over lags and times of relaxation, which are nonlinear parameters.

use super::average::{Component, evidence};
use super::class::Class;
use super::columns::{Candidate, Frame};
use super::fit::Fitter;
use super::normal_equations::solve;
use super::path::{self, Values, Weighed};
use super::prior::Unknown;
use super::search::{Search, Start};
use super::states::State;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};
use statrs::distribution::{ContinuousCDF, Normal};

/// Lags and times that the average is taken over point by point, at most.
const MOST_NONLINEAR: usize = 4;
/// The points lie this much wider than the most probable ones' curvature says.
const WIDER: f64 = 1.4;

/// Width of each point's neighbourhood for one to four of them, in standard deviations.
const KERNEL: [f64; 4] = [0.3, 0.4, 0.5, 0.6];

/// Below the first of these weights among all classes smaller sets of points are enough, below the second one of them.
const LIGHT: [f64; 2] = [0.4, 0.1];
/// Pairs of points in a set for one to four lags and times, and in a smaller one.
const PAIRS: [[u32; 4]; 2] = [[3, 4, 5, 6], [2, 2, 3, 4]];

/// Points of a standard normal distribution in `d` dimensions: the middle, and pairs opposite to one another from an additive recurrence
/// on the unit cube.
fn points(d: usize, set: u32, pairs: u32) -> Vec<DVector<f64>> {
    let normal = Normal::standard();
    // roots of x^(d+1) = x + 1
    let root: f64 = [1.618_033_988_749_895, 1.324_717_957_244_746, 1.220_744_084_605_759_5, 1.167_303_978_261_418_7][d - 1];
    let mut out = vec![DVector::zeros(d)];
    for k in 0..pairs {
        let one = DVector::from_fn(d, |a, _| {
            // in one dimension, evenly over one side
            let at = if d == 1 {
                0.5 + 0.5 * (f64::from(k) + 0.75) / f64::from(pairs)
            } else {
                (0.5 + root.powi(-(a as i32) - 1) * f64::from(set * pairs + k + 1)).fract()
            };
            normal.inverse_cdf(at.clamp(0.004, 0.996))
        });
        out.push(-&one);
        out.push(one);
    }
    out
}

/// Until so many points carry the weight, for one to four lags and times, another set is taken about where it lies, so many sets at most;
/// and what the spread of the points is widened by there, as a share of the first.
const ENOUGH: [f64; 4] = [2.75, 3.75, 5.25, 6.25];
const SETS: u32 = 5;
const SMOOTHED: f64 = 0.25;

/// A class about its most probable lags and times.
struct Around<'a> {
    fitter: &'a Fitter<'a>,
    class: &'a Class,
    frame: Frame<'a>,
    candidates: Vec<Candidate>,
    starts: Vec<Start>,
    /// Lags and times that the average is taken over.
    held: Vec<usize>,
    /// Their columns of the covariance, in units of the standard deviations before the readings, and the factor of their own.
    columns: Vec<DVector<f64>>,
    lower: Cholesky<f64, Dyn>,
    sds: DVector<f64>,
    /// Variance of the leak that goes through them.
    through: f64,
}

/// A normal distribution that points are taken from, in standard deviations along the factor's columns from the most probable lags and times.
struct Proposal {
    middle: DVector<f64>,
    spread: Cholesky<f64, Dyn>,
}

impl Proposal {
    fn log_density(&self, u: &DVector<f64>) -> f64 {
        let l = self.spread.l_dirty();
        let mut z = u - &self.middle;
        l.solve_lower_triangular_mut(&mut z);
        -0.5 * z.norm_squared() - (0..z.len()).map(|i| l[(i, i)].ln()).sum::<f64>()
    }
}

/// What is found at one point.
struct Found {
    u: DVector<f64>,
    /// For each state of noise and weather that was asked for, the leak for each start.
    of_states: Vec<Vec<Component>>,
    /// Logarithm of the probability of the lags and times before the readings.
    prior: f64,
}

impl Found {
    /// Logarithm of the probability of the point.
    fn log_weight(&self) -> f64 {
        evidence(&self.of_states[0]) + self.prior
    }
}

impl Around<'_> {
    /// Everything else solved anew at a point.
    fn at(&self, u: DVector<f64>, states: &[State]) -> Found {
        let gain = self.lower.solve(&(self.lower.l() * &u));
        let mut x = self.class.x.clone();
        for j in 0..x.len() {
            let moved: f64 = self.columns.iter().zip(gain.iter()).map(|(c, g)| c[j] * g).sum();
            x[j] += moved * self.sds[j];
        }
        let (_, rows) = self.frame.linear(&Values { unknowns: &self.class.unknowns, x: x.clone() }, &self.candidates);
        let mut prior = 0.0;
        for i in &self.held {
            prior -= 0.5 * (x[*i] / self.sds[*i]).powi(2);
            x[*i] = 0.0;
        }
        let search = Search { held: &self.held, ..self.fitter.search(self.class, &rows, &x, &self.starts) };
        Found { u, of_states: states.iter().map(|s| search.components(std::slice::from_ref(s))).collect(), prior }
    }

    /// The average over points.
    fn average(&self, weight: f64) -> Vec<Component> {
        // no state of noise and weather that can be counted with
        if self.class.likely.is_empty() {
            return Vec::new();
        }
        let d = self.held.len();
        let middle = self.at(DVector::zeros(d), &self.class.likely);
        let wide = Cholesky::new(DMatrix::identity(d, d) * WIDER * WIDER);
        let mut proposals: Vec<Proposal> = wide.map(|spread| Proposal { middle: DVector::zeros(d), spread }).into_iter().collect();
        // the first set's middle is the most probable point
        let mut found = vec![Found { u: middle.u.clone(), of_states: middle.of_states[..1].to_vec(), prior: middle.prior }];
        let pairs = PAIRS[usize::from(weight < LIGHT[0])][d - 1];
        let sets = if weight < LIGHT[1] { 1 } else { SETS };
        for set in 0..sets {
            let Some(last) = proposals.last() else { return Vec::new() };
            let factor = last.spread.l();
            let points = points(d, set, pairs);
            let new = points[usize::from(set == 0)..].iter().map(|p| self.at(&last.middle + &factor * p, &self.class.likely[..1]));
            let new: Vec<Found> = new.collect();
            found.extend(new);
            let weights = normalised(&found, &proposals);
            let carry = 1.0 / weights.iter().map(|w| w * w).sum::<f64>();
            if carry >= ENOUGH[d - 1] * weight.sqrt() || !carry.is_finite() || set + 1 == sets {
                break;
            }
            proposals.extend(about_the_weight(&found, &weights));
        }
        // each point stands for its neighbourhood: what the leak changes within it
        let near = KERNEL[d - 1].powi(2) * self.through;
        let mut components = Vec::new();
        for f in &found {
            let log_q = log_mixed(&proposals, &f.u) + (found.len() as f64).ln();
            let log_scale: f64 = (0..d).map(|i| self.lower.l_dirty()[(i, i)].ln()).sum();
            // what the other likely states of noise and weather say besides the first, they say at the middle
            for other in &middle.of_states {
                for ((c, first), other) in f.of_states[0].iter().zip(&middle.of_states[0]).zip(other) {
                    components.push(Component {
                        mean: c.mean + other.mean - first.mean,
                        variance: c.variance * other.variance / first.variance + near,
                        log_weight: c.log_weight + other.log_weight - first.log_weight + f.prior - log_q + log_scale,
                        ..*c
                    });
                }
            }
        }
        components
    }
}

/// Logarithm of the mean density of some proposals at a point.
fn log_mixed(proposals: &[Proposal], u: &DVector<f64>) -> f64 {
    let logs: Vec<f64> = proposals.iter().map(|p| p.log_density(u)).collect();
    let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    most + (logs.iter().map(|l| (l - most).exp()).sum::<f64>() / logs.len() as f64).ln()
}

/// Weights of points, summing to one.
fn normalised(found: &[Found], proposals: &[Proposal]) -> Vec<f64> {
    let logs: Vec<f64> = found.iter().map(|f| f.log_weight() - log_mixed(proposals, &f.u)).collect();
    let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let weights: Vec<f64> = logs.iter().map(|l| (l - most).exp()).collect();
    let sum: f64 = weights.iter().sum();
    weights.into_iter().map(|w| w / sum).collect()
}

/// A proposal with the mean and the covariance of weighted points, somewhat wider.
fn about_the_weight(found: &[Found], weights: &[f64]) -> Option<Proposal> {
    let d = found.first()?.u.len();
    let middle = found.iter().zip(weights).fold(DVector::zeros(d), |sum, (f, w)| sum + &f.u * *w);
    let mut covariance = DMatrix::identity(d, d) * SMOOTHED;
    for (f, w) in found.iter().zip(weights) {
        let off = &f.u - &middle;
        covariance += &off * off.transpose() * *w * WIDER;
    }
    Some(Proposal { middle, spread: Cholesky::new(covariance)? })
}

impl Fitter<'_> {
    /// What the leak's interval rests on is not linear in the lags and in the times of relaxation: the average over them is taken over
    /// points about the most probable ones, each with everything else solved anew, weighted by importance. `weight` is the class's share in all.
    pub(super) fn spread(&self, class: &mut Class, weight: f64) {
        let components = self.around(class).map(|around| around.average(weight));
        if let Some(components) = components.filter(|c| c.iter().all(|c| c.log_weight.is_finite() && c.mean.is_finite())) {
            class.components = components;
        }
    }

    /// None when no lag or time matters.
    fn around<'b>(&'b self, class: &'b Class) -> Option<Around<'b>> {
        let frame = self.setup.frame(self.hold, class.causes.leak_from.unwrap_or(0.0));
        let (path, rows) = frame.linear(&Values { unknowns: &class.unknowns, x: class.x.clone() }, &[]);
        let (candidates, starts) = self.weighty(class, &path);
        let n = class.unknowns.len();
        let sds = self.setup.sds(self.hold, &class.unknowns, self.states.weathers[class.best.weather]);
        let total = self.search(class, &rows, &class.x, &[]).total_of(&class.best);
        let solved = solve(&total, &sds, n);
        // columns of the covariance in units of the standard deviations before the readings
        let column = |i: usize| {
            let mut e = DVector::zeros(n);
            e[i] = 1.0;
            solved.lower.solve(&e)
        };
        let leak = column(n - 1);
        let leak_sd = leak[n - 1].sqrt() * sds[n - 1];
        let end = path.p.len() - 1;
        let per_leak = (path.of_loss(self.hold, &[self.hold.length_s].repeat(end + 1))[end]).abs();
        let pressure_at = |i: usize, by: f64| {
            let mut x = class.x.clone();
            x[i] += by;
            let values = Values { unknowns: &class.unknowns, x };
            let from = (self.setup.start_pa, class.causes.leak_from.unwrap_or(0.0));
            path::solve(self.hold, &self.setup.grid, &self.setup.surroundings, &self.setup.content, &values, from, Weighed::No).p[end]
        };
        let mut nonlinear: Vec<(usize, f64)> = Vec::new();
        for (i, u) in class.unknowns.iter().enumerate() {
            if !matches!(u, Unknown::SkinLag(_) | Unknown::FluidLag(_) | Unknown::AirTime | Unknown::GasketTime | Unknown::LeakStart) {
                continue;
            }
            let own = column(i)[i];
            let along = leak[i].abs() / (leak[n - 1] * own).sqrt();
            // how far the pressure at the end bends over one and a half standard deviations, as a leak
            let reach = 1.5 * own.sqrt() * sds[i];
            let bend = (pressure_at(i, reach) + pressure_at(i, -reach) - 2.0 * path.p[end]).abs() / per_leak / leak_sd;
            let matters = along.max(0.5 * bend);
            if matters > 0.08 {
                nonlinear.push((i, matters));
            }
        }
        nonlinear.sort_by(|a, b| b.1.total_cmp(&a.1));
        nonlinear.truncate(MOST_NONLINEAR);
        let held: Vec<usize> = nonlinear.iter().map(|b| b.0).collect();
        if held.is_empty() {
            return None;
        }
        let d = held.len();
        let columns: Vec<DVector<f64>> = held.iter().map(|i| column(*i)).collect();
        let lower = Cholesky::new(DMatrix::from_fn(d, d, |a, b| columns[b][held[a]]))?;
        let to_leak = DVector::from_fn(d, |a, _| columns[a][n - 1] * sds[n - 1]);
        let through = to_leak.dot(&lower.solve(&to_leak));
        Some(Around { fitter: self, class, frame, candidates, starts, held, columns, lower, sds, through })
    }
}
