//! The search for the most probable unknowns.

use super::columns::{ChannelRows, Frame};
use super::observed::{Observed, refine};
use super::path::Values;
use super::prior::Unknown;
use super::setup::Setup;
use super::states::{State, States};
use super::sums::{Sums, Whitened, scaled, solve, whiten};
use super::whitening::Whitening;
use crate::input::Hold;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};
use std::sync::Arc;

/// The search for the most probable unknowns with one state of noise and weather.
pub(crate) struct Climb<'a> {
    pub(crate) setup: &'a Setup,
    pub(crate) hold: &'a Hold,
    pub(crate) frame: &'a Frame<'a>,
    pub(crate) states: &'a States,
    pub(crate) state: &'a State,
    /// Damping of the first step.
    pub(crate) damping: f64,
    /// Whether it goes on where the readings are explained hopelessly.
    pub(crate) patient: bool,
}

/// Where a search ended.
pub(crate) struct Climbed<'v> {
    /// The answer.
    pub(crate) values: Values<'v>,
    /// By how much the stand-ins of coarse readings still moved.
    pub(crate) moved: f64,
    /// Twice the negative logarithm of the probability over the number of readings, before they moved.
    pub(crate) misfit: f64,
}

impl Climb<'_> {
    /// Levenberg and Marquardt's search; at the end coarse readings are matched anew about the answer.
    ///
    /// Answers of the readings to the unknowns change little from step to step: some steps are taken with the same answers, each with what is
    /// expected solved anew, before they are worked out again.
    pub(crate) fn converge<'v>(&self, from: Values<'v>, observed: &mut [Observed], coarse: bool) -> Climbed<'v> {
        let sds = self.setup.sds(self.hold, from.unknowns, self.states.weathers[self.state.weather]);
        let mut here = from;
        let mut damping = self.damping;
        let (_, mut rows) = self.frame.linear(&here, &[]);
        let mut worth = self.worth(&rows, observed, &here.x, &sds);
        let readings = observed.iter().map(|o| o.sites.len()).sum::<usize>() as f64;
        for round in 0..ROUNDS {
            if !self.patient && round >= HOPELESS.0 && worth > HOPELESS.1 * readings {
                break;
            }
            let total = self.sums(&rows, observed, &here.x, |_| true);
            let before = worth;
            let mut stepped = false;
            let mut last_gain = f64::INFINITY;
            let mut curved: Option<Curved> = None;
            for inner in 0..WITH_THE_SAME {
                let gradient = self.gradient(&rows, observed, &here.x, &sds);
                let expected: Vec<DVector<f64>> = rows.iter().map(|r| r.expected.clone()).collect();
                if curved.as_ref().is_none_or(|c| damping != c.damping) {
                    curved = Some(Curved::new(&total, &sds, here.unknowns, damping));
                }
                let Some(curved) = &curved else { break };
                let mut tried = self.tried(&here, curved, &gradient, &sds);
                if let (0, Some(step)) = (inner, &tried.straight)
                    && let Some(bend) = self.bend(&here, &mut rows, observed, (step, &curved.factor), &sds)
                {
                    tried.values.x += bend.component_mul(&sds);
                }
                let tried = tried.values;
                let step = (&tried.x - &here.x).zip_map(&sds, |step, sd| if sd > 0.0 { step / sd } else { 0.0 });
                let promised = 2.0 * gradient.dot(&step) - step.dot(&(&curved.curvature * &step));
                self.frame.expect(&tried, &mut rows);
                let now = self.worth(&rows, observed, &tried.x, &sds);
                if now.is_nan() || now > worth + 1e-3 {
                    // back, and a shorter step
                    rows.iter_mut().zip(expected).for_each(|(r, e)| r.expected = e);
                    if stepped {
                        // the answers are too old for another step
                        break;
                    }
                    damping *= 8.0;
                    if damping > MOST_DAMPING {
                        break;
                    }
                    continue;
                }
                last_gain = worth - now;
                worth = now;
                here = tried;
                stepped = true;
                damping *= match last_gain / promised.max(f64::MIN_POSITIVE) {
                    kept if kept > 0.7 => 1.0 / 6.0,
                    kept if kept > 0.25 => 1.0,
                    _ => 2.0,
                };
                if last_gain < ENOUGH {
                    break;
                }
            }
            let enough = ENOUGH.max(POOR_ENOUGH * (worth - readings));
            if damping > MOST_DAMPING || (stepped && last_gain < enough && before - worth < enough) {
                break;
            }
            if stepped {
                (_, rows) = self.frame.linear(&here, &[]);
            }
        }
        let mut first = 0.0f64;
        // what the other readings say stays
        let mut fine: Option<Sums> = None;
        for pass in 0..if coarse { MATCHED_WITH_THE_SAME } else { 0 } {
            let whitened = self.whitened(&rows, observed, &here.x, |o| o.coarse);
            let mut total = fine.get_or_insert_with(|| self.sums(&rows, observed, &here.x, |o| !o.coarse)).clone();
            whitened.iter().for_each(|w| w.add_to(&mut total));
            let solved = solve(&total, &sds, sds.len());
            let mut moved = 0.0f64;
            for ((r, o), w) in rows.iter().zip(observed.iter_mut()).filter(|(_, o)| o.coarse).zip(&whitened) {
                moved = moved.max(refine(self.hold, &self.setup.blocks, r, o, w, &solved, &sds));
            }
            if pass == 0 {
                first = moved;
            }
            if moved < STANDS {
                break;
            }
        }
        Climbed { values: here, moved: first, misfit: worth / readings }
    }

    /// Some of the channels with their noise taken out.
    fn whitened(&self, rows: &[ChannelRows], observed: &[Observed], x: &DVector<f64>, which: impl Fn(&Observed) -> bool) -> Vec<Whitened> {
        let of = |(r, o)| whiten(r, o, self.states.noise(self.state, r.channel), x);
        rows.iter().zip(observed).filter(|(_, o)| which(o)).map(of).collect()
    }

    fn sums(&self, rows: &[ChannelRows], observed: &[Observed], x: &DVector<f64>, which: impl Fn(&Observed) -> bool) -> Sums {
        let mut total = Sums::zero(x.len(), 0);
        self.whitened(rows, observed, x, which).iter().for_each(|w| w.add_to(&mut total));
        total
    }

    /// What is left of each channel's readings, its noise taken out.
    fn left<'b>(
        &'b self,
        rows: &'b [ChannelRows],
        observed: &'b [Observed],
    ) -> impl Iterator<Item = (&'b ChannelRows, Arc<(Whitening, f64)>, DVector<f64>)> {
        rows.iter().zip(observed).map(|(r, o)| {
            let left: Vec<f64> = o.sites.iter().zip(r.expected.iter()).map(|(s, e)| s.value - e).collect();
            let by = o.whitening(self.states.noise(self.state, r.channel));
            let left = DVector::from_vec(by.0.vector(left));
            (r, by, left)
        })
    }

    /// Twice the negative logarithm of the probability, up to a constant.
    fn worth(&self, rows: &[ChannelRows], observed: &[Observed], x: &DVector<f64>, sds: &DVector<f64>) -> f64 {
        let prior: f64 = x.iter().zip(sds.iter()).map(|(x, s)| if *s > 0.0 { (x / s).powi(2) } else { 0.0 }).sum();
        self.left(rows, observed).map(|(_, _, left)| left.norm_squared()).sum::<f64>() + prior
    }

    /// Half the slope of that, downhill, in units of each unknown's standard deviation.
    fn gradient(&self, rows: &[ChannelRows], observed: &[Observed], x: &DVector<f64>, sds: &DVector<f64>) -> DVector<f64> {
        let mut out = DVector::zeros(x.len());
        for (r, by, mut left) in self.left(rows, observed) {
            by.0.back(left.as_mut_slice());
            out.gemv_tr(1.0, &r.answers, &left, 1.0);
        }
        for j in 0..x.len() {
            out[j] = if sds[j] > 0.0 { out[j] * sds[j] - x[j] / sds[j] } else { 0.0 };
        }
        out
    }

    /// How far an unknown may go in one step from where it is; endless for those in which the model is straight.
    fn most(&self, unknown: Unknown, at: f64) -> f64 {
        match unknown {
            // less than none would be none, and from there no reading would lead back
            Unknown::Air => 0.4 * (self.hold.air_fraction + at).max(1e-3 * (self.hold.air_fraction + self.hold.air_fraction_unc_95)),
            Unknown::SkinLag(_) | Unknown::FluidLag(_) | Unknown::AirTime | Unknown::GasketTime => 0.7,
            Unknown::LeakStart => 0.15 * self.hold.length_s,
            Unknown::Stretch(_) => 0.3,
            _ => f64::INFINITY,
        }
    }

    /// A step in which no unknown goes farther than it may; those that would stop there, and the others go as suits that.
    fn tried<'v>(&self, here: &Values<'v>, curved: &Curved, gradient: &DVector<f64>, sds: &DVector<f64>) -> Tried<'v> {
        let n = gradient.len();
        let most = |j: usize| self.most(here.unknowns[j], here.x[j]) / sds[j].max(1e-300);
        let Curved { curvature, factor, .. } = curved;
        let mut change = factor.solve(gradient);
        let stopped: Vec<usize> = (0..n).filter(|j| change[*j].abs() > most(*j)).collect();
        let mut straight = None;
        if stopped.is_empty() {
            straight = Some(change.clone());
        } else {
            let mut right = gradient.clone();
            let mut rest = curvature.clone();
            for &j in &stopped {
                let at = change[j].clamp(-most(j), most(j));
                right.axpy(-at, &curvature.column(j), 1.0);
                change[j] = at;
            }
            for &j in &stopped {
                rest.row_mut(j).fill(0.0);
                rest.column_mut(j).fill(0.0);
                rest[(j, j)] = 1.0;
                right[j] = 0.0;
            }
            let others = Cholesky::new_with_substitute(rest, 1e-9).expect("a substitute was given").solve(&right);
            (0..n).filter(|j| !stopped.contains(j)).for_each(|j| change[j] = others[j].clamp(-most(j), most(j)));
        }
        change.component_mul_assign(sds);
        Tried { values: Values { unknowns: here.unknowns, x: &here.x + change }, straight }
    }

    /// What a step lacks for the bend of the model along it (Transtrum and Sethna's geodesic acceleration), in units of the standard deviations;
    /// none where it is more than a part of the step.
    fn bend(
        &self,
        here: &Values<'_>,
        rows: &mut [ChannelRows],
        observed: &[Observed],
        (step, factor): (&DVector<f64>, &Cholesky<f64, Dyn>),
        sds: &DVector<f64>,
    ) -> Option<DVector<f64>> {
        let along = step.component_mul(sds);
        let ahead = Values { unknowns: here.unknowns, x: &here.x + &along * AHEAD };
        let before: Vec<DVector<f64>> = rows.iter().map(|r| r.expected.clone()).collect();
        self.frame.expect(&ahead, rows);
        let mut right = DVector::zeros(sds.len());
        for ((r, o), before) in rows.iter_mut().zip(observed).zip(before) {
            let mut second = (&r.expected - &before - &r.answers * &along * AHEAD) * (-1.0 / (AHEAD * AHEAD));
            let by = o.whitening(self.states.noise(self.state, r.channel));
            second.copy_from_slice(&by.0.vector(second.as_slice().to_vec()));
            by.0.back(second.as_mut_slice());
            right.gemv_tr(1.0, &r.answers, &second, 1.0);
            r.expected = before;
        }
        right.component_mul_assign(sds);
        let bend = factor.solve(&right);
        (bend.norm() <= MOST_BEND * step.norm()).then_some(bend)
    }
}

/// A step that is tried.
struct Tried<'v> {
    values: Values<'v>,
    /// The step by itself, in units of the standard deviations, where no unknown was stopped.
    straight: Option<DVector<f64>>,
}

/// Curvature with so much damping, and its factor.
struct Curved {
    damping: f64,
    curvature: DMatrix<f64>,
    factor: Cholesky<f64, Dyn>,
}

impl Curved {
    fn new(total: &Sums, sds: &DVector<f64>, unknowns: &[Unknown], damping: f64) -> Self {
        let curvature = curvature(total, sds, unknowns, damping);
        let factor = Cholesky::new_with_substitute(curvature.clone(), 1e-9).expect("a substitute was given");
        Self { damping, curvature, factor }
    }
}

/// How far along a step its bend is looked at, and the most of it beside the step.
const AHEAD: f64 = 0.1;
const MOST_BEND: f64 = 0.4;
/// Steps that are taken with the same answers.
const WITH_THE_SAME: usize = 3;
/// Times that coarse readings are matched with the same answers.
const MATCHED_WITH_THE_SAME: usize = 4;
/// Stand-ins of coarse readings that move by less than this many standard deviations stand.
pub(super) const STANDS: f64 = 0.02;
/// Most linearisations of one search.
const ROUNDS: usize = 25;
/// Linearisations after which such a mean square of what is left is hopeless.
const HOPELESS: (usize, f64) = (10, 25.0);
/// A gain of the objective (twice the log of the probability) below which the search ends.
const ENOUGH: f64 = 0.1;
/// The same where the readings are explained poorly, as a share of what is left unexplained.
const POOR_ENOUGH: f64 = 3e-3;
/// Damping of the first step from nothing, and from near the answer.
pub(super) const FROM_AFAR: f64 = 30.0;
pub(super) const FROM_NEAR: f64 = 0.01;
/// Beyond this damping nothing moves.
const MOST_DAMPING: f64 = 1e6;

/// Curvature in units of each unknown's standard deviation, damped as Levenberg and Marquardt have it: in proportion to what is known of each.
/// What acts in a straight way and is not known at all beforehand is not damped: a leak is a leak before lags are strained to make up for it.
fn curvature(total: &Sums, sds: &DVector<f64>, unknowns: &[Unknown], damping: f64) -> DMatrix<f64> {
    let n = sds.len();
    let mut m = scaled(total, sds, n);
    for j in 0..n {
        if !matches!(unknowns[j], Unknown::StartPressure | Unknown::Leak | Unknown::Step(_)) {
            m[(j, j)] *= 1.0 + damping;
        }
    }
    m.fill_upper_triangle_with_lower_triangle();
    m
}
