//! The fit: linearised about its own answer, noise and weather from the readings, averaged over candidates.

use super::average::{Component, Mixture};
use super::blocks;
use super::climb::Climb;
use super::columns::{Candidate, ChannelRows, Frame};
use super::observed::{Observed, observe};
use super::path::{Path, Values};
use super::prior::{Causes, Unknown};
use super::search::{Search, Start};
use super::setup::Setup;
use super::states::{State, States};
use crate::input::{Fluid, Hold, Record};
use nalgebra::DVector;

/// Blocks that a hold is gathered into.
const BLOCKS: usize = 72;
/// Starts within the hold that are looked at, as shares of it.
const LATE: [f64; 8] = [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8];
/// Share of leaks that start within a hold, before the readings (common practice: few do).
const LATE_PRIOR: f64 = 0.08;
/// Share of holds in which trapped air goes into solution, and in which gaskets set, where there are any.
const AIR_PRIOR: f64 = 0.25;
const GASKET_PRIOR: f64 = 0.12;

/// A hold with its usable readings.
#[derive(Debug, Clone)]
pub struct Problem<'a> {
    /// What is known.
    pub hold: &'a Hold,
    /// Readings that the fit may use: times rise, what is left out is NaN.
    pub record: &'a Record,
}

/// What the fit says; volumes per time at line conditions, normal volumes for gas.
#[derive(Debug, Clone)]
pub struct Fitted {
    /// Mean loss over the hold, m³/s.
    pub mean: f64,
    /// Its standard deviation.
    pub sd: f64,
    /// Lower end of its 95 % interval.
    pub lo: f64,
    /// Upper end of its 95 % interval.
    pub hi: f64,
    /// One-sided 99.9 % upper limit.
    pub upper_999: f64,
    /// Least loss that this record could have shown.
    pub detection_limit: f64,
    /// Rate at the end of the hold with the ends of its 95 % interval.
    pub end_rate: (f64, f64, f64),
    /// Misfit: mean square of the standardised residuals.
    pub misfit: f64,
    /// For each channel: time, what was read, what the most probable path gives.
    pub compared: Vec<Vec<(f64, f64, f64)>>,
    /// Most probable unknowns, in words.
    pub unknowns: Vec<(String, f64, f64)>,
    /// Weight of each set of causes.
    pub weights: Vec<(String, f64)>,
}

/// One set of causes, fitted.
struct Class {
    causes: Causes,
    log_prior: f64,
    unknowns: Vec<Unknown>,
    x: DVector<f64>,
    observed: Vec<Observed>,
    components: Vec<Component>,
    best: State,
}

/// Fits a hold.
///
/// # Errors
/// In a sentence, when the readings leave the fluid's range or there are too few.
pub fn fit(problem: &Problem<'_>) -> Result<Fitted, String> {
    let hold = problem.hold;
    let blocks = blocks::gather(problem.record, hold.length_s, &hold.steps, BLOCKS);
    let setup = Setup::new(hold, blocks)?;
    let states = States::new(hold, &setup.surroundings);
    let fitter = Fitter { hold, setup: &setup, states: &states };
    let mut classes: Vec<Class> = Vec::new();
    let water = hold.fluid == Fluid::Water;
    let (air, gaskets) = (water && hold.air_fraction > 0.0, water && hold.gasketed_joints > 0);
    let (p_air, p_gaskets) = (if air { AIR_PRIOR } else { 0.0 }, if gaskets { GASKET_PRIOR } else { 0.0 });
    for (with_air, with_gaskets) in [(false, false), (true, false), (false, true), (true, true)] {
        if (with_air && !air) || (with_gaskets && !gaskets) {
            continue;
        }
        let prior = (if with_air { p_air } else { 1.0 - p_air }) * (if with_gaskets { p_gaskets } else { 1.0 - p_gaskets });
        let causes = Causes { air: with_air, gaskets: with_gaskets, leak_from: None };
        classes.push(fitter.class(causes, prior.ln(), classes.first()));
    }
    fitter.add_late(&mut classes);
    let all: Vec<Component> = classes.iter().flat_map(|c| c.components.iter().copied()).collect();
    let mixture = Mixture::new(&all);
    let heaviest = classes.iter().map(|c| evidence(&c.components)).fold(f64::NEG_INFINITY, f64::max);
    let weight = |c: &Class| (evidence(&c.components) - heaviest).exp();
    let sum: f64 = classes.iter().map(weight).sum();
    // the limit: each cause with no leak, weighted as the readings weigh it
    let mut limit = 0.0;
    for class in &classes {
        let w = weight(class) / sum;
        if w > 1e-3 {
            limit += w * fitter.no_leak_variance(class);
        }
    }
    let top = classes.iter().max_by(|a, b| evidence(&a.components).total_cmp(&evidence(&b.components))).ok_or("No cause was fitted.")?;
    let frame = setup.frame(hold, top.causes.leak_from.unwrap_or(0.0));
    let (_, rows) = frame.linear(&Values { unknowns: &top.unknowns, x: top.x.clone() }, &[]);
    let misfit = fitter.search(top, &rows, &top.x, &[]).misfit(&top.best);
    Ok(Fitted {
        mean: mixture.mean(),
        sd: mixture.sd(),
        lo: mixture.quantile(0.025, false),
        hi: mixture.quantile(0.975, false),
        upper_999: mixture.quantile(0.999, false),
        detection_limit: 3.29 * limit.sqrt(),
        end_rate: (
            mixture.parts().iter().map(|(w, c)| w * c.mean * c.end_over_mean).sum(),
            mixture.quantile(0.025, true),
            mixture.quantile(0.975, true),
        ),
        misfit,
        compared: rows
            .iter()
            .zip(&top.observed)
            .map(|(r, o)| (0..r.at.len()).map(|i| (setup.grid.times[r.at[i]], o.sites[i].value, r.expected[i])).collect())
            .collect(),
        unknowns: top
            .unknowns
            .iter()
            .zip(setup.sds(hold, &top.unknowns, states.weathers[top.best.weather]).iter())
            .enumerate()
            .map(|(i, (u, sd))| (format!("{u:?}"), top.x[i], *sd))
            .collect(),
        weights: classes.iter().map(|c| (format!("{:?} {:?} mean {:.4} sd {:.4} L/h, {:?}", c.causes, c.best, Mixture::new(&c.components).mean() * 3.6e6, Mixture::new(&c.components).sd() * 3.6e6, c.unknowns.iter().zip(c.x.iter()).filter(|(u, _)| matches!(u, Unknown::AirShare | Unknown::AirTime | Unknown::SkinLag(_) | Unknown::FluidLag(_) | Unknown::Surroundings(0) | Unknown::Filling)).map(|(u, x)| format!("{u:?} {x:.3}")).collect::<Vec<_>>()), weight(c) / sum)).collect(),
    })
}

/// Logarithm of the sum of the weights.
pub(crate) fn evidence(components: &[Component]) -> f64 {
    let most = components.iter().map(|c| c.log_weight).fold(f64::NEG_INFINITY, f64::max);
    most + components.iter().map(|c| (c.log_weight - most).exp()).sum::<f64>().ln()
}

struct Fitter<'a> {
    hold: &'a Hold,
    setup: &'a Setup,
    states: &'a States,
}

impl<'a> Fitter<'a> {
    /// Fits one set of causes, from where another was found.
    fn class(&self, causes: Causes, log_prior: f64, from: Option<&Class>) -> Class {
        let unknowns = self.setup.unknowns(self.hold, causes);
        let frame = self.setup.frame(self.hold, causes.leak_from.unwrap_or(0.0));
        let mut x = DVector::zeros(unknowns.len());
        if let Some(from) = from {
            for (j, u) in unknowns.iter().enumerate() {
                x[j] = from.unknowns.iter().position(|v| v == u).map_or(0.0, |i| from.x[i]);
            }
        }
        let mut state = from.map_or_else(|| self.states.first(), |f| f.best.clone());
        let mut values = Values { unknowns: &unknowns, x };
        let (_, rows) = frame.linear(&values, &[]);
        let mut observed = match from {
            Some(f) => f.observed.clone(),
            None => rows.iter().map(|r| observe(self.hold, &self.setup.blocks, r)).collect(),
        };
        let coarse = observed.iter().any(|o| o.coarse);
        let mut class =
            Class { causes, log_prior, unknowns: unknowns.clone(), x: values.x.clone(), observed: observed.clone(), components: Vec::new(), best: state.clone() };
        // where another cause was found may be a hollow of its own: begin from nothing too
        if from.is_some() && causes.leak_from.is_none() {
            let climb = Climb { setup: self.setup, hold: self.hold, frame: &frame, states: self.states, state: &state };
            let there = climb.converge(values, &mut observed.clone(), false);
            let nothing = Values { unknowns: &unknowns, x: DVector::zeros(unknowns.len()) };
            let anew = climb.converge(nothing, &mut observed.clone(), false);
            values = if anew.1 < there.1 { anew.0 } else { there.0 };
        }
        // noise and unknowns in turn: the readings say how much noise there is once the unknowns fit
        for _ in 0..4 {
            let climb = Climb { setup: self.setup, hold: self.hold, frame: &frame, states: self.states, state: &state };
            for _ in 0..if coarse { 5 } else { 1 } {
                values = climb.converge(values, &mut observed, coarse).0;
            }
            class.x.copy_from(&values.x);
            class.observed.clone_from(&observed);
            class.best = state.clone();
            self.average(&mut class, &frame);
            if class.best.noise == state.noise {
                break;
            }
            state = class.best.clone();
        }
        class
    }

    fn search<'b>(&'b self, class: &'b Class, rows: &'b [ChannelRows], x: &'b DVector<f64>, starts: &'b [Start]) -> Search<'b> {
        Search {
            setup: self.setup,
            hold: self.hold,
            states: self.states,
            unknowns: &class.unknowns,
            rows,
            observed: &class.observed,
            x,
            starts,
        }
    }

    /// Averages a class over noise, weather and the start of the leak.
    fn average(&self, class: &mut Class, frame: &Frame<'_>) {
        let length = self.hold.length_s;
        let values = Values { unknowns: &class.unknowns, x: class.x.clone() };
        let at = class.causes.leak_from.map(|s| (s + values.of(Unknown::LeakStart)).clamp(0.0, 0.97 * length));
        let mut candidates = vec![Candidate::LeakFrom(at.unwrap_or(0.0))];
        if at.is_none() {
            candidates.extend(LATE.iter().map(|s| Candidate::LeakFrom(s * length)));
            candidates.extend(LATE.iter().map(|s| Candidate::StartShift(s * length)));
        }
        let (path, rows) = frame.linear(&values, &candidates);
        let end = self.end_over_mean(&path);
        let late = LATE_PRIOR / LATE.len() as f64;
        let mut starts = vec![Start {
            leak: 0,
            shift: None,
            log_prior: class.log_prior + if at.is_some() { LATE_PRIOR } else { 1.0 - LATE_PRIOR }.ln(),
            end_over_mean: end * length / (length - at.unwrap_or(0.0)),
        }];
        if at.is_none() {
            for (i, s) in LATE.iter().enumerate() {
                starts.push(Start {
                    leak: 1 + i,
                    shift: Some((1 + LATE.len() + i, 0.1 * length / 12f64.sqrt())),
                    log_prior: class.log_prior + late.ln(),
                    end_over_mean: end / (1.0 - s),
                });
            }
        }
        let (components, best) = self.search(class, &rows, &class.x, &starts).explore(&class.best);
        class.components = components;
        class.best = best;
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

    /// Where a late start carries weight, the leak's start becomes an unknown of its own.
    fn add_late(&self, classes: &mut Vec<Class>) {
        let all: Vec<Component> = classes.iter().flat_map(|c| c.components.iter().copied()).collect();
        let whole = evidence(&all);
        let mut added = Vec::new();
        for class in classes.iter_mut() {
            let late: Vec<Component> = class.components.iter().filter(|c| c.start > 0).copied().collect();
            if late.is_empty() || evidence(&late) - whole < 0.1f64.ln() {
                continue;
            }
            let Some(top) = late.iter().max_by(|a, b| a.log_weight.total_cmp(&b.log_weight)) else { continue };
            let from = LATE[top.start - 1] * self.hold.length_s;
            let causes = Causes { leak_from: Some(from), ..class.causes };
            let fitted = self.class(causes, class.log_prior, Some(class));
            class.components.retain(|c| c.start == 0);
            added.push(fitted);
        }
        classes.extend(added);
    }

    /// Variance of the leak with none, under a class.
    fn no_leak_variance(&self, class: &Class) -> f64 {
        let frame = self.setup.frame(self.hold, 0.0);
        let mut x = class.x.clone();
        let n = x.len();
        x[n - 1] = 0.0;
        let values = Values { unknowns: &class.unknowns, x: x.clone() };
        let (_, rows) = frame.linear(&values, &[Candidate::LeakFrom(0.0)]);
        let starts = [Start { leak: 0, shift: None, log_prior: 0.0, end_over_mean: 1.0 }];
        self.search(class, &rows, &x, &starts).components(&class.best)[0].variance
    }
}
