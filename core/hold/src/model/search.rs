//! Candidates under every state of noise and weather about the most probable one.

use super::average::{Component, evidence};
use super::columns::ChannelRows;
use super::normal_equations::{NormalEquations, factored, solve, whiten};
use super::observed::Observed;
use super::prior::Unknown;
use super::setup::Setup;
use super::states::{State, States};
use crate::input::Hold;
use nalgebra::{DMatrix, DVector};

/// When the leak starts: which candidate is its mean loss, which the shift of its start.
#[derive(Debug, Clone)]
pub(crate) struct Start {
    /// Candidate of the mean loss.
    pub(crate) leak: usize,
    /// Candidate of the shift with its standard deviation, s.
    pub(crate) shift: Option<(usize, f64)>,
    /// Logarithm of its weight before the readings.
    pub(crate) log_prior: f64,
    /// Rate at the end over the mean loss.
    pub(crate) end_over_mean: f64,
    /// It starts within the hold. Nothing but a leak does, and a leak only loses: such a candidate weighs what of it is positive.
    pub(crate) late: bool,
}

/// Logarithm of the share of a component that is a loss.
fn log_positive(c: &Component) -> f64 {
    let z = c.mean / c.variance.sqrt();
    if z < -6.0 {
        // leading term of the tail
        return -0.5 * z * z - (-z * std::f64::consts::TAU.sqrt()).ln();
    }
    (0.5 * statrs::function::erf::erfc(-z / std::f64::consts::SQRT_2)).ln()
}

#[derive(Clone, Copy)]
pub(crate) struct Search<'a> {
    pub(crate) setup: &'a Setup,
    pub(crate) hold: &'a Hold,
    pub(crate) states: &'a States,
    pub(crate) unknowns: &'a [Unknown],
    pub(crate) rows: &'a [ChannelRows],
    pub(crate) observed: &'a [Observed],
    pub(crate) x: &'a DVector<f64>,
    pub(crate) starts: &'a [Start],
    /// Unknowns that are held at their value; their entries of `x` are nil.
    pub(crate) held: &'a [usize],
}

type Cache = Vec<Option<NormalEquations>>;

impl Search<'_> {
    fn gauges(&self) -> usize {
        self.hold.gauges.len()
    }

    fn thermometer_sums(&self) -> NormalEquations {
        let mut total = NormalEquations::zero(self.unknowns.len(), self.rows[0].candidates.ncols());
        for (r, o) in self.rows.iter().zip(self.observed).filter(|(r, _)| r.channel >= self.gauges()) {
            whiten(r, o, None, self.x).add_to(&mut total);
        }
        total
    }

    fn total(&self, state: &State, cache: &mut Cache, thermometers: &NormalEquations) -> NormalEquations {
        let mut total = thermometers.clone();
        for g in 0..self.gauges() {
            let at = g * self.states.noises[0].len() + state.noise[g];
            let sums = cache[at].get_or_insert_with(|| {
                whiten(&self.rows[g], &self.observed[g], Some(self.states.noises[g][state.noise[g]]), self.x).sums()
            });
            total.add(sums);
        }
        total
    }

    /// Components of some states.
    pub(crate) fn components(&self, states: &[State]) -> Vec<Component> {
        let mut cache: Cache = vec![None; self.gauges() * self.states.noises[0].len()];
        let thermometers = self.thermometer_sums();
        states.iter().flat_map(|s| self.components_with(s, &mut cache, &thermometers)).collect()
    }

    /// Components of one state, each candidate's weight by docs/judging.md, equation 4.
    fn components_with(&self, state: &State, cache: &mut Cache, thermometers: &NormalEquations) -> Vec<Component> {
        let total = self.total(state, cache, thermometers);
        let n = self.unknowns.len() - 1;
        let mut sds = self.setup.sds(self.hold, self.unknowns, self.states.weathers[state.weather]);
        for i in self.held {
            sds[*i] = 0.0;
        }
        let solved = solve(&total, &sds, n);
        let l = solved.lower.l_dirty();
        let log_det_m = 2.0 * (0..n).map(|i| l[(i, i)].ln()).sum::<f64>();
        let intervals: f64 = self.observed.iter().map(|o| o.correction).sum();
        let base =
            self.states.log_prior(state) + intervals - 0.5 * (total.readings() - solved.w.norm_squared() + log_det_m + total.log_det);
        let mut u = total.of_both(&sds, n);
        solved.forward(&mut u);
        let g = total.of_candidates() - u.transpose() * &u;
        let b = total.readings_and_candidates() - u.transpose() * &solved.w;
        let signed = |c: Component, s: &Start| Component { log_weight: c.log_weight + if s.late { log_positive(&c) } else { 0.0 }, ..c };
        self.starts.iter().enumerate().map(|(i, s)| signed(self.component(i, s, &g, &b, base), s)).collect()
    }

    /// The leak that starts so, everything else integrated out.
    fn component(&self, index: usize, start: &Start, g: &DMatrix<f64>, b: &DVector<f64>, base: f64) -> Component {
        let leak_sd = self.setup.free / self.hold.length_s;
        let i = start.leak;
        let alone = g[(i, i)] * leak_sd * leak_sd + 1.0;
        let mean = leak_sd * leak_sd * b[i] / alone;
        let Some((shift, shift_sd)) = start.shift else {
            return Component {
                log_weight: base + start.log_prior + 0.5 * leak_sd * leak_sd * b[i] * b[i] / alone - 0.5 * alone.ln(),
                mean,
                variance: leak_sd * leak_sd / alone,
                end_over_mean: start.end_over_mean,
                start: index,
            };
        };
        // the shift of the start of a leak of about this mean
        let columns = [i, shift];
        let sd = [leak_sd, shift_sd * mean];
        let precision = DMatrix::from_fn(2, 2, |a, c| g[(columns[a], columns[c])] * sd[a] * sd[c] + f64::from(u8::from(a == c)));
        let right = DVector::from_fn(2, |a, _| b[columns[a]] * sd[a]);
        let lower = factored(precision);
        let solution = lower.solve(&right);
        let log_det = 2.0 * (0..2).map(|k| lower.l_dirty()[(k, k)].ln()).sum::<f64>();
        let mut e = DVector::zeros(2);
        e[0] = 1.0;
        lower.l_dirty().solve_lower_triangular_mut(&mut e);
        Component {
            log_weight: base + start.log_prior + 0.5 * right.dot(&solution) - 0.5 * log_det,
            mean: leak_sd * solution[0],
            variance: leak_sd * leak_sd * e.norm_squared(),
            end_over_mean: start.end_over_mean,
            start: index,
        }
    }

    /// Explores noise and weather one after the other about the best; every state seen is part of the average.
    ///
    /// Unless the whole is wanted it is left where the noise turns out to be another: the unknowns are sought anew with that.
    pub(crate) fn explore(&self, middle: &State, whole: bool) -> (Vec<Component>, Vec<(State, f64)>) {
        let mut seen = Seen::of(self, middle);
        let states = self.states;
        for gauge in 0..self.gauges() {
            seen.along(|best, by| states.louder(best, gauge, by));
        }
        if !whole && seen.best.noise != middle.noise {
            for gauge in 0..self.gauges() {
                seen.along(|best, by| states.longer(best, gauge, by));
            }
            for weather in 0..states.weathers.len() {
                seen.is_better(State { weather, ..seen.best.clone() });
            }
            return seen.sorted();
        }
        // uphill until every neighbour is lower
        for _ in 0..12 {
            let before = seen.best.clone();
            for state in states.next_to(&before) {
                seen.is_better(state);
            }
            if before == seen.best {
                break;
            }
        }
        seen.sorted()
    }

    /// Components of some states, with the evidence of each.
    pub(crate) fn among(&self, states: &[State]) -> (Vec<Component>, Vec<(State, f64)>) {
        let thermometers = self.thermometer_sums();
        let mut cache: Cache = vec![None; self.gauges() * self.states.noises[0].len()];
        let (mut all, mut seen) = (Vec::new(), Vec::new());
        for state in states {
            let components = self.components_with(state, &mut cache, &thermometers);
            seen.push((state.clone(), weight_of(&components)));
            all.extend(components);
        }
        seen.sort_by(|a, b| b.1.total_cmp(&a.1));
        (all, seen)
    }

    /// Everything that the readings say about the unknowns in one state.
    pub(crate) fn total_of(&self, state: &State) -> NormalEquations {
        let mut cache: Cache = vec![None; self.gauges() * self.states.noises[0].len()];
        let thermometers = self.thermometer_sums();
        self.total(state, &mut cache, &thermometers)
    }
}

/// States of noise and weather that were looked at, and the best of them.
struct Seen<'a> {
    search: &'a Search<'a>,
    thermometers: NormalEquations,
    cache: Cache,
    components: Vec<Component>,
    states: Vec<(State, f64)>,
    best: State,
    top: f64,
}

impl<'a> Seen<'a> {
    fn of(search: &'a Search<'a>, first: &State) -> Self {
        let cache = vec![None; search.gauges() * search.states.noises[0].len()];
        let thermometers = search.thermometer_sums();
        let best = first.clone();
        let mut seen = Self { search, thermometers, cache, components: Vec::new(), states: Vec::new(), best, top: f64::NEG_INFINITY };
        seen.is_better(first.clone());
        seen
    }

    /// True for a state that weighs more than the best so far, which it is from then on.
    fn is_better(&mut self, state: State) -> bool {
        if self.states.iter().any(|(s, _)| *s == state) {
            return false;
        }
        let components = self.search.components_with(&state, &mut self.cache, &self.thermometers);
        let weight = weight_of(&components);
        self.components.extend(components);
        self.states.push((state.clone(), weight));
        let better = weight > self.top;
        if better {
            (self.top, self.best) = (weight, state);
        }
        better
    }

    /// Steps one way and the other for as long as each is better than the one before.
    fn along(&mut self, step: impl Fn(&State, isize) -> Option<State>) {
        for by in [-1, 1] {
            while let Some(state) = step(&self.best, by) {
                if !self.is_better(state) {
                    break;
                }
            }
        }
    }

    fn sorted(mut self) -> (Vec<Component>, Vec<(State, f64)>) {
        self.states.sort_by(|a, b| b.1.total_cmp(&a.1));
        (self.components, self.states)
    }
}

/// Logarithm of a state's weight; nothing where it is no number, as where noise was taken out of readings that it cannot explain.
fn weight_of(components: &[Component]) -> f64 {
    let weight = evidence(components);
    if weight.is_nan() { f64::NEG_INFINITY } else { weight }
}
