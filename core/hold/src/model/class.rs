//! One set of causes: its most probable unknowns, noise and weather, and the leak that follows.

use super::average::{Component, evidence};
use super::columns::{Candidate, Frame};
use super::fit::Fitter;
use super::observed::{Observed, observe};
use super::optimise::{Optimiser, STANDS};
use super::path::{Path, Values};
use super::prior::{self, Causes, Unknown};
use super::search::Start;
use super::states::State;
use crate::input::Fluid;
use nalgebra::DVector;

/// Starts within the hold that are looked at, as shares of it.
pub(super) const LATE: [f64; 8] = [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8];
/// Share of leaks that start within a hold, before the readings (common practice: few do).
const LATE_PRIOR: f64 = 0.08;
/// A start of the leak that weighs less within its class is left out of the average over nonlinear unknowns.
const LIGHT_START: f64 = 1e-3;
/// A search whose evidence (its logarithm) is so far behind another's is given up.
const FAR_BEHIND: f64 = 60.0;
/// A mean square of what is left beyond which readings are explained poorly.
const POOR: f64 = 4.0;
/// A mean square of what a thermometer leaves beyond which weather is quicker than the nodes of the surroundings.
const TOO_MUCH: f64 = 1.6;
/// Standard deviations from what is expected beyond which an unknown is strained.
const STRAINED: f64 = 3.0;

/// One set of causes, fitted.
#[derive(Debug, Clone)]
pub(super) struct Class {
    pub(super) causes: Causes,
    pub(super) log_prior: f64,
    pub(super) unknowns: Vec<Unknown>,
    pub(super) x: DVector<f64>,
    pub(super) observed: Vec<Observed>,
    pub(super) components: Vec<Component>,
    pub(super) best: State,
    /// States that carry weight, the best first.
    pub(super) likely: Vec<State>,
    /// It explains the readings poorly, and was perhaps left before it explained them as well as it can.
    pub(super) poor: bool,
    /// More is allowed of a thermometer than its own noise.
    pub(super) allowed: bool,
    /// It is of a record with fewer readings.
    pub(super) remembered: bool,
}

impl Fitter<'_> {
    /// Fits one set of causes, from where another was found, or from there with another leak. Without patience, readings that are explained poorly
    /// are left so.
    pub(super) fn class(&self, causes: Causes, log_prior: f64, from: Option<&Class>, leak: Option<f64>, patient: bool) -> Class {
        let unknowns = self.setup.unknowns(self.hold, causes);
        let frame = self.setup.frame(self.hold, causes.leak_from.unwrap_or(0.0));
        let mut x = DVector::zeros(unknowns.len());
        if let Some(from) = from {
            for (j, u) in unknowns.iter().enumerate() {
                // a cause that was not there begins with little of itself: with all that is expected of it the path would be far off
                let new = match u {
                    Unknown::AirShare => -0.9 * prior::AIR_SHARE.0,
                    Unknown::GasketShare => -0.9 * prior::GASKET_SHARE.0,
                    _ => 0.0,
                };
                x[j] = from.unknowns.iter().position(|v| v == u).map_or(new, |i| from.x[i]);
            }
        }
        if let (Some(leak), Some(last)) = (leak, x.len().checked_sub(1)) {
            // the leak is the last unknown
            x[last] = leak;
        }
        let mut state = from.map_or_else(|| self.states.first(), |f| f.best.clone());
        let mut values = Values { unknowns: &unknowns, x };
        let (_, rows) = frame.linear(&values, &[]);
        let mut observed = match from {
            Some(f) if !f.remembered => f.observed.clone(),
            _ => rows.iter().map(|r| observe(self.hold, &self.setup.blocks, r, self.setup.between_nodes(self.hold))).collect(),
        };
        if let Some(f) = from.filter(|f| f.remembered) {
            observed.iter_mut().zip(&f.observed).for_each(|(o, was)| o.stand_in_as(was));
        }
        let coarse = observed.iter().any(|o| o.coarse);
        let mut class = Class {
            causes,
            log_prior,
            unknowns: unknowns.clone(),
            x: values.x.clone(),
            observed: observed.clone(),
            components: Vec::new(),
            best: state.clone(),
            likely: Vec::new(),
            poor: false,
            allowed: false,
            remembered: false,
        };
        // noise and unknowns in turn: the readings say how much noise there is once the unknowns fit
        let rounds = if from.is_some() { 2 } else { 4 };
        for round in 0..rounds {
            let tries = if round == 0 && from.is_none() { 2 } else { 3 };
            for _ in 0..tries {
                let found = self.optimiser(&frame, &state, patient).optimise(values, &mut observed, coarse);
                values = found.values;
                let allowed = from.is_none_or(|f| f.remembered) && self.allow_for_weather(&frame, &values, &mut observed);
                class.allowed |= allowed;
                class.poor = found.misfit > POOR && !allowed;
                if !allowed && (found.moved < STANDS || (class.poor && !patient)) {
                    break;
                }
            }
            class.x.copy_from(&values.x);
            class.observed.clone_from(&observed);
            class.best = state.clone();
            self.average(&mut class, &frame, from.map(|f| f.likely.as_slice()), round + 1 == rounds);
            if class.best.noise == state.noise || (class.poor && !patient) {
                break;
            }
            state = class.best.clone();
        }
        if from.is_none() && !class.poor && self.states.is_loud(&class.best) {
            // so much noise may stand for unknowns that were not found: the same from little noise, and the better of the two
            let quiet = self.quiet(&class, &frame, coarse);
            if evidence(&quiet.components) > evidence(&class.components) {
                return quiet;
            }
        }
        class
    }

    fn optimiser<'b>(&'b self, frame: &'b Frame<'b>, state: &'b State, patient: bool) -> Optimiser<'b> {
        Optimiser { setup: self.setup, hold: self.hold, frame, states: self.states, state, patient }
    }

    /// The class again, from where it was found but with little noise.
    fn quiet(&self, class: &Class, frame: &Frame<'_>, coarse: bool) -> Class {
        let mut quiet = Class {
            causes: class.causes,
            log_prior: class.log_prior,
            unknowns: class.unknowns.clone(),
            x: class.x.clone(),
            observed: class.observed.clone(),
            components: Vec::new(),
            best: self.states.quiet(&class.best),
            likely: Vec::new(),
            poor: false,
            allowed: class.allowed,
            remembered: false,
        };
        for round in 0..3 {
            let state = quiet.best.clone();
            let optimiser = self.optimiser(frame, &state, false);
            let mut values = Values { unknowns: &class.unknowns, x: quiet.x.clone() };
            for _ in 0..if coarse { 3 } else { 1 } {
                let found = optimiser.optimise(values, &mut quiet.observed, coarse);
                values = found.values;
                if found.moved < STANDS {
                    break;
                }
            }
            quiet.x.copy_from(&values.x);
            self.average(&mut quiet, frame, None, round == 2);
            let behind = evidence(&class.components) - evidence(&quiet.components);
            if (round > 0 && quiet.best.noise == state.noise) || behind > FAR_BEHIND {
                break;
            }
        }
        quiet
    }

    /// Where the leak of a class starts, s; none for one that may start anywhere.
    fn leak_start(&self, class: &Class) -> Option<f64> {
        let values = Values { unknowns: &class.unknowns, x: class.x.clone() };
        class.causes.leak_from.map(|s| (s + values.of(Unknown::LeakStart)).clamp(0.0, 0.97 * self.hold.length_s))
    }

    pub(super) fn candidates(&self, class: &Class) -> Vec<Candidate> {
        let length = self.hold.length_s;
        let at = self.leak_start(class);
        let mut candidates = vec![Candidate::LeakFrom(at.unwrap_or(0.0))];
        if at.is_none() {
            candidates.extend(LATE.iter().map(|s| Candidate::LeakFrom(s * length)));
            candidates.extend(LATE.iter().map(|s| Candidate::StartShift(s * length)));
        }
        candidates
    }

    pub(super) fn starts(&self, class: &Class, path: &Path) -> Vec<Start> {
        let length = self.hold.length_s;
        let at = self.leak_start(class);
        let end = self.end_over_mean(path);
        let late = LATE_PRIOR / LATE.len() as f64;
        let mut starts = vec![Start {
            leak: 0,
            shift: None,
            log_prior: class.log_prior + if at.is_some() { LATE_PRIOR } else { 1.0 - LATE_PRIOR }.ln(),
            end_over_mean: end * length / (length - at.unwrap_or(0.0)),
            late: at.is_some(),
        }];
        if at.is_none() {
            for (i, s) in LATE.iter().enumerate() {
                starts.push(Start {
                    leak: 1 + i,
                    shift: Some((1 + LATE.len() + i, 0.1 * length / 12f64.sqrt())),
                    log_prior: class.log_prior + late.ln(),
                    end_over_mean: end / (1.0 - s),
                    late: true,
                });
            }
        }
        starts
    }

    /// Starts of the leak that carry weight in a class, with their candidates.
    pub(super) fn weighty(&self, class: &Class, path: &Path) -> (Vec<Candidate>, Vec<Start>) {
        let (all, starts) = (self.candidates(class), self.starts(class, path));
        let whole = evidence(&class.components);
        let (mut candidates, mut kept) = (Vec::new(), Vec::new());
        for (i, start) in starts.into_iter().enumerate() {
            let own: Vec<Component> = class.components.iter().filter(|c| c.start == i).copied().collect();
            if own.is_empty() || evidence(&own) < whole + LIGHT_START.ln() {
                continue;
            }
            candidates.push(all[start.leak]);
            let leak = candidates.len() - 1;
            let shift = start.shift.map(|(j, sd)| {
                candidates.push(all[j]);
                (candidates.len() - 1, sd)
            });
            kept.push(Start { leak, shift, ..start });
        }
        (candidates, kept)
    }

    /// Averages a class over noise, weather and the start of the leak; unless the `whole` is wanted, only until the noise turns out to be another.
    fn average(&self, class: &mut Class, frame: &Frame<'_>, near: Option<&[State]>, whole: bool) {
        let values = Values { unknowns: &class.unknowns, x: class.x.clone() };
        let (path, rows) = frame.linear(&values, &self.candidates(class));
        let starts = self.starts(class, &path);
        let search = self.search(class, &rows, &class.x, &starts);
        let (components, seen) = match near {
            None => search.explore(&class.best, whole),
            Some(states) => search.among(states),
        };
        class.components = components;
        // a state whose weight is no number tells nothing; without any, the one that was begun with stays
        let best = seen.first().filter(|s| s.1.is_finite());
        class.best = best.map_or_else(|| class.best.clone(), |s| s.0.clone());
        class.likely = match best {
            Some(best) => seen.iter().take_while(|s| s.1 > best.1 - 2.5).take(3).map(|s| s.0.clone()).collect(),
            None => vec![class.best.clone()],
        };
    }

    /// Rate of an orifice at the end over its mean.
    fn end_over_mean(&self, path: &Path) -> f64 {
        let flow = |p: f64| match self.hold.fluid {
            Fluid::Water => (p - self.hold.atmosphere_pa).max(1.0).sqrt(),
            Fluid::Gas(_) => p,
        };
        let mean = path.p.iter().map(|p| flow(*p)).sum::<f64>() / path.p.len() as f64;
        path.p.last().map_or(1.0, |p| flow(*p) / mean)
    }

    /// Weather that is quicker than the nodes of the surroundings leaves more of a thermometer's readings than its noise: that much is allowed.
    /// True when more had to be than before.
    fn allow_for_weather(&self, frame: &Frame<'_>, values: &Values<'_>, observed: &mut [Observed]) -> bool {
        let gauges = self.hold.gauges.len();
        if !self.setup.surroundings.has_air() || observed[gauges..].iter().all(|o| o.coarse) {
            return false;
        }
        let (_, rows) = frame.linear(values, &[]);
        let mut more = false;
        for (o, r) in observed[gauges..].iter_mut().zip(&rows[gauges..]).filter(|(o, _)| !o.coarse && !o.sites.is_empty()) {
            let left = o.sites.iter().zip(r.expected.iter()).map(|(s, e)| (s.value - e).powi(2) / s.variance);
            let mean = left.sum::<f64>() / o.sites.len() as f64;
            if mean > TOO_MUCH {
                o.allow(mean);
                more = true;
            }
        }
        more
    }

    /// True when some of the unknowns are farther from what is expected than they can be believed to be, or more had to be allowed of a
    /// thermometer.
    pub(super) fn is_strained(&self, class: &Class) -> bool {
        if class.allowed {
            return true;
        }
        let sds = self.setup.sds(self.hold, &class.unknowns, self.states.weathers[class.best.weather]);
        class.x.iter().zip(sds.iter()).any(|(x, sd)| x.abs() > STRAINED * sd)
    }
}
