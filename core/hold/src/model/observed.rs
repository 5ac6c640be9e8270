//! Readings as numbers with a variance; coarse ones matched to their intervals.

use super::blocks::{Block, Cell};
use super::columns::ChannelRows;
use super::interval::{Cavity, Coarse, Matched, Site};
use super::noise::{Averaged, Correlated, is_quiet, rounding, variance_of_mean};
use super::normal_equations::{Solved, Whitened};
use super::whitening::Whitening;
use super::within::Within;
use crate::input::{Hold, Place};
use nalgebra::{DMatrix, DVector};
use std::cell::RefCell;
use std::sync::Arc;

/// A channel's readings as numbers with a variance.
#[derive(Debug, Clone)]
pub(crate) struct Observed {
    /// A value with its variance for each block.
    pub(crate) sites: Vec<Site>,
    /// The blocks as the noise sees them.
    pub(crate) averaged: Vec<Averaged>,
    /// Logarithm of what the intervals' probability is over that of the stand-ins.
    pub(crate) correction: f64,
    /// True when readings count as intervals.
    pub(crate) coarse: bool,
    /// Rounding that errs alike from block to block, where it is not in the stand-ins.
    rounding: Option<Correlated>,
    whitenings: RefCell<Vec<Kept>>,
    /// What each stand-in was matched with last, and the match.
    matched: Vec<Option<Match>>,
    /// The probability of a reading within a division, where readings count as intervals.
    within: Option<Arc<Within>>,
    /// The last step of each stand-in in natural parameters, where the next may go on from it.
    half_steps: Vec<Option<[f64; 2]>>,
}

/// A block's cavity and slope with what they led to.
#[derive(Debug, Clone, Copy)]
struct Match {
    cavity: Cavity,
    slope: f64,
    found: Matched,
}

impl Match {
    /// True when another cavity and slope would lead to nearly the same.
    fn stands(&self, cavity: Cavity, slope: f64, length: f64) -> bool {
        let sd = cavity.variance.sqrt();
        (self.cavity.mean - cavity.mean).abs() < NEARLY * sd
            && (self.cavity.variance / cavity.variance - 1.0).abs() < NEARLY
            && (self.slope - slope).abs() * length < NEARLY * sd
    }

    /// The same for a block that has other readings by now: it does not stand, but the value is still near.
    fn of_fewer_readings(self) -> Self {
        Self { slope: f64::INFINITY, ..self }
    }

    /// Where the value is about to be with a cavity that moved.
    fn near(&self, cavity: Cavity) -> (f64, f64) {
        let moved = (cavity.mean - self.cavity.mean).abs();
        (self.found.range.0 - moved, self.found.range.1 + moved)
    }
}

/// How many times a step leads as far as all that follow it, where each is as much of the one before (Aitken): at most twice.
fn on(before: f64, step: f64) -> f64 {
    let kept = step / before;
    if (0.0..=0.5).contains(&kept) { 1.0 / (1.0 - kept) } else { 1.0 }
}

/// A cavity that moved by less than this share of its standard deviation is matched as it was.
const NEARLY: f64 = 0.01;

/// A whitening with the noise that it is for.
type Kept = (Option<Correlated>, Arc<(Whitening, f64)>);

impl Observed {
    /// Of readings as numbers.
    pub(crate) fn new(sites: Vec<Site>, averaged: Vec<Averaged>, coarse: bool) -> Self {
        let (matched, half_steps) = (vec![None; sites.len()], vec![None; sites.len()]);
        Self { sites, averaged, correction: 0.0, coarse, rounding: None, whitenings: RefCell::default(), matched, half_steps, within: None }
    }

    /// What takes this noise out; made once for readings that stay as they are.
    pub(crate) fn whitening(&self, noise: Option<Correlated>) -> Arc<(Whitening, f64)> {
        if let Some((_, kept)) = self.whitenings.borrow().iter().find(|k| k.0 == noise) {
            return Arc::clone(kept);
        }
        let made = Arc::new(Whitening::new(self, noise));
        self.whitenings.borrow_mut().push((noise, Arc::clone(&made)));
        made
    }
}

impl Observed {
    /// The same number of readings of these values, wherever they happened to cross from one division to the next.
    pub(crate) fn forget_crossings(&mut self, hold: &Hold, channel: usize, values: &DVector<f64>) {
        let (division, sd) = hold.noise_of(channel);
        for (site, block) in self.sites.iter_mut().zip(&self.averaged) {
            site.variance = sd * sd / block.count;
        }
        let times: Vec<f64> = self.averaged.iter().map(|a| a.t).collect();
        self.rounding = Some(rounding(division, &times, values.as_slice()));
        self.whitenings.get_mut().clear();
    }

    /// LinearisedPoint-ins are about to be matched to something else.
    pub(crate) fn begin_anew(&mut self) {
        self.half_steps.fill(None);
    }

    /// So many times the variance is allowed.
    pub(crate) fn allow(&mut self, times: f64) {
        self.sites.iter_mut().for_each(|s| s.variance *= times);
        self.whitenings.get_mut().clear();
    }

    /// Begins with the stand-ins of coarse readings as they were for a record that was little shorter.
    pub(crate) fn stand_in_as(&mut self, was: &Self) {
        if self.coarse && was.coarse && self.sites.len() == was.sites.len() {
            self.sites.clone_from(&was.sites);
            self.matched = was.matched.iter().map(|m| m.map(Match::of_fewer_readings)).collect();
            self.whitenings.get_mut().clear();
        }
    }

    /// What errs alike from block to block: this noise, and rounding.
    pub(crate) fn alike(&self, noise: Option<Correlated>) -> impl Iterator<Item = Correlated> {
        noise.into_iter().chain(self.rounding)
    }
}

/// True when a channel's readings count as intervals.
pub(crate) fn is_coarse(hold: &Hold, blocks: &[Block], channel: usize) -> bool {
    let (division, sd) = hold.noise_of(channel);
    let read = || blocks.iter().map(|b| &b.cells[channel]).filter(|c| c.count > 0.5);
    is_quiet(sd, division) && 2 * read().filter(|c| !c.runs.is_empty()).count() >= read().count()
}

/// Variance of the mean of a block that sweeps over several divisions: rounding errs alike at the ends of the sweep only.
fn swept_variance(cell: &Cell, division: f64, sd: f64) -> f64 {
    let divisions = 1.0 + (cell.range.1 - cell.range.0) / division;
    sd * sd / cell.count + division * division / 12.0 / (divisions * divisions)
}

/// Readings of a channel as numbers; `between_nodes` is the variance of the air about its straight pieces.
pub(crate) fn observe(hold: &Hold, blocks: &[Block], rows: &ChannelRows, between_nodes: f64) -> Observed {
    let (division, sd) = hold.noise_of(rows.channel);
    let read: Vec<&Block> = rows.blocks.iter().map(|b| &blocks[*b]).collect();
    let coarse = is_coarse(hold, blocks, rows.channel);
    let in_air = rows.channel.checked_sub(hold.gauges.len()).is_some_and(|t| hold.thermometers[t].place == Place::Ambient);
    let finer = if in_air && !coarse { between_nodes } else { 0.0 };
    let mut averaged = Vec::new();
    let mut sites = Vec::new();
    for b in &read {
        let cell = &b.cells[rows.channel];
        averaged.push(Averaged { t: b.t, length: b.length, count: cell.count });
        let site = if coarse && cell.runs.is_empty() {
            Site { value: cell.mean, variance: swept_variance(cell, division, sd) }
        } else if coarse {
            let single = |c: &Cell| (c.runs.len() == 1).then(|| c.runs[0].value);
            let alike = match single(cell) {
                Some(v) => read.iter().filter(|b| single(&b.cells[rows.channel]) == Some(v)).count(),
                None => 1,
            };
            // the mean with the spread of rounding, shared by the blocks that show the same division
            let sd = sd.max(LEAST_SD * division);
            Site { value: cell.mean, variance: sd * sd / cell.count + division * division / 12.0 * alike as f64 }
        } else {
            Site { value: cell.mean, variance: variance_of_mean(sd, division, cell.count) }
        };
        sites.push(Site { variance: site.variance + finer, ..site });
    }
    let within = coarse.then(|| Arc::new(Within::new(division / sd.max(LEAST_SD * division))));
    Observed { within, ..Observed::new(sites, averaged, coarse) }
}

/// A reading before it is rounded errs by at least this share of its division.
const LEAST_SD: f64 = 0.02;

/// Moves the stand-ins of a coarse channel to match its intervals; by how much at most, in standard deviations of what all else says.
pub(crate) fn refine(
    hold: &Hold,
    blocks: &[Block],
    rows: &ChannelRows,
    observed: &mut Observed,
    whitened: &Whitened,
    solved: &Solved,
    sds: &DVector<f64>,
) -> f64 {
    let (division, sd) = hold.noise_of(rows.channel);
    let Some(within) = observed.within.clone() else { return 0.0 };
    let m = observed.sites.len();
    let observed_t: Vec<f64> = observed.averaged.iter().map(|a| a.t).collect();
    // Q = R⁻¹ − R⁻¹J Σ JᵀR⁻¹ with Σ the posterior from all readings
    let z = &whitened.by.0;
    let mut u = DMatrix::zeros(sds.len(), m);
    let mut q_r = whitened.readings().clone_owned();
    for (j, jacobian) in whitened.jacobian() {
        q_r.axpy(-solved.x[j], &jacobian, 1.0);
        let mut inverse_of = jacobian.clone_owned();
        z.back(inverse_of.as_mut_slice());
        u.row_mut(j).iter_mut().zip(inverse_of.iter()).for_each(|(u, v)| *u = v * sds[j]);
    }
    solved.forward(&mut u);
    z.back(q_r.as_mut_slice());
    let precisions = z.precisions();
    let read: Vec<&Block> = rows.blocks.iter().map(|b| &blocks[*b]).collect();
    let slope = |i: usize| {
        // a stroke between two blocks is no slope of either
        let stroke = |a: usize, b: usize| hold.steps.iter().any(|s| s.start_s < observed_t[b] && s.end_s > observed_t[a]);
        let (a, b) = (i.saturating_sub(1), (i + 1).min(m - 1));
        let (a, b) = (if stroke(a, i) { i } else { a }, if stroke(i, b) { i } else { b });
        let dt = observed_t[b] - observed_t[a];
        if dt > 0.0 { (rows.expected[b] - rows.expected[a]) / dt } else { 0.0 }
    };
    let (mut correction, mut moved) = (0.0, 0.0f64);
    for i in (0..m).filter(|i| !read[*i].cells[rows.channel].runs.is_empty()) {
        let q = precisions[i] - u.column(i).norm_squared();
        if q <= 0.0 {
            continue;
        }
        let site = observed.sites[i];
        let cavity_variance = 1.0 / q - site.variance;
        if cavity_variance <= 0.0 {
            continue;
        }
        let cavity = Cavity { mean: site.value - q_r[i] / q, variance: cavity_variance };
        let cell = &read[i].cells[rows.channel];
        let coarse = Coarse { cell, division, sd: sd.max(LEAST_SD * division), slope: slope(i), within: &within };
        let known = observed.matched[i];
        let Matched { site: new, log_probability, .. } = match known {
            Some(known) if known.stands(cavity, coarse.slope, observed.averaged[i].length) => known.found,
            _ => {
                let found = coarse.matched(cavity, known.map(|k| k.near(cavity)));
                observed.matched[i] = Some(Match { cavity, slope: coarse.slope, found });
                found
            }
        };
        // half way in natural parameters, and once on to where two such steps lead: never farther than the match
        let (p_old, p_new) = (1.0 / site.variance, 1.0 / new.variance);
        let (h_old, h_new) = (p_old * site.value, p_new * new.value);
        let half = [0.5 * (p_new - p_old), 0.5 * (h_new - h_old)];
        let before = observed.half_steps[i].take();
        let times = before.map_or(1.0, |before| on(before[0], half[0]).min(on(before[1], half[1])));
        if before.is_none() {
            observed.half_steps[i] = Some(half);
        }
        let p = p_old + times * half[0];
        let v = (h_old + times * half[1]) / p;
        observed.sites[i] = Site { value: v, variance: 1.0 / p };
        // what the stand-in says of the value together with all else, before and after
        let said = |value: f64, p: f64| (cavity.mean / cavity_variance + value * p) / (1.0 / cavity_variance + p);
        moved = moved.max((said(v, p) - said(site.value, p_old)).abs() / cavity_variance.sqrt());
        let together = cavity_variance + site.variance;
        correction += log_probability + 0.5 * (std::f64::consts::TAU * together).ln() + 0.5 * (cavity.mean - site.value).powi(2) / together;
    }
    observed.correction = correction;
    observed.whitenings.get_mut().clear();
    moved
}
