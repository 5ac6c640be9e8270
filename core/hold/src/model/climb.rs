//! The search for the most probable unknowns.

use super::columns::Frame;
use super::observed::{Observed, refine};
use super::path::Values;
use super::prior::Unknown;
use super::setup::Setup;
use super::states::{State, States};
use super::sums::{Sums, Whitened, solve, whiten};
use crate::input::Hold;
use nalgebra::{Cholesky, DVector};

/// The search for the most probable unknowns with one state of noise and weather.
pub(crate) struct Climb<'a> {
    pub(crate) setup: &'a Setup,
    pub(crate) hold: &'a Hold,
    pub(crate) frame: &'a Frame<'a>,
    pub(crate) states: &'a States,
    pub(crate) state: &'a State,
}

impl Climb<'_> {
    /// Levenberg and Marquardt's search; at the end coarse readings are matched anew about the answer.
    pub(crate) fn converge<'v>(&self, from: Values<'v>, observed: &mut [Observed], coarse: bool) -> (Values<'v>, f64) {
        let n = from.unknowns.len();
        let sds = self.setup.sds(self.hold, from.unknowns, self.states.weathers[self.state.weather]);
        let mut here = from;
        let mut worth = f64::INFINITY;
        let mut damping = FIRST_DAMPING;
        let mut base: Option<(DVector<f64>, Sums)> = None;
        for _ in 0..ROUNDS {
            let (_, rows) = self.frame.linear(&here, &[]);
            let whitened: Vec<Whitened> =
                rows.iter().zip(observed.iter()).map(|(r, o)| whiten(r, o, self.states.noise(self.state, r.channel), &here.x)).collect();
            let prior: f64 = here.x.iter().zip(sds.iter()).map(|(x, s)| if *s > 0.0 { (x / s).powi(2) } else { 0.0 }).sum();
            let now = whitened.iter().map(|w| (&w.r - &w.j * &here.x).norm_squared()).sum::<f64>() + prior;
            if now.is_nan() || now > worth + 1e-3 {
                // back, and a shorter step
                damping *= 8.0;
                if damping > 1e6 {
                    break;
                }
            } else {
                let gained = worth - now;
                worth = now;
                let mut total = Sums::zero(n, 0);
                whitened.iter().for_each(|w| total.add(&w.sums()));
                if gained < ENOUGH {
                    if coarse {
                        let solved = solve(&total, &sds, n);
                        for ((r, o), w) in rows.iter().zip(observed.iter_mut()).zip(&whitened) {
                            if o.coarse {
                                refine(self.hold, &self.setup.blocks, r, o, w, &solved, &sds);
                            }
                        }
                    }
                    return (here, worth);
                }
                damping /= 6.0;
                base = Some((here.x.clone(), total));
            }
            let Some((from, total)) = &base else { break };
            let mut change = step(total, from, &sds, damping);
            for (j, u) in here.unknowns.iter().enumerate() {
                let most = match u {
                    Unknown::SkinLag(_) | Unknown::FluidLag(_) | Unknown::AirTime | Unknown::GasketTime => 0.7,
                    Unknown::LeakStart => 0.15 * self.hold.length_s,
                    Unknown::Stretch(_) => 0.3,
                    _ => continue,
                };
                change[j] = change[j].clamp(-most, most);
            }
            here.x = from + change;
        }
        if let Some((from, _)) = base {
            here.x = from;
        }
        (here, worth)
    }
}

/// Most linearisations of one search.
const ROUNDS: usize = 30;
/// A gain of the objective (twice the log of the probability) below which the search ends.
const ENOUGH: f64 = 0.02;
const FIRST_DAMPING: f64 = 3.0;

/// Step of Levenberg and Marquardt, in units of each unknown's standard deviation.
fn step(total: &Sums, from: &DVector<f64>, sds: &DVector<f64>, damping: f64) -> DVector<f64> {
    let n = from.len();
    let z = DVector::from_fn(n, |i, _| if sds[i] > 0.0 { from[i] / sds[i] } else { 0.0 });
    let mut m = total.jj.clone();
    for j in 0..n {
        for i in 0..n {
            m[(i, j)] *= sds[i] * sds[j];
        }
        m[(j, j)] += 1.0;
    }
    let right = DVector::from_fn(n, |i, _| sds[i] * total.jr[i]) - &m * &z;
    for j in 0..n {
        m[(j, j)] += damping;
    }
    let mut change = Cholesky::new_with_substitute(m, 1e-9).expect("a substitute was given").solve(&right);
    for i in 0..n {
        change[i] *= sds[i];
    }
    change
}
