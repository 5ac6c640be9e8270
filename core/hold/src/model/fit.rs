//! The fit: linearised about its own answer, noise and weather from the readings, averaged over candidates.

use super::average::{Component, Mixture, evidence};
use super::blocks;
use super::climb::{Climb, FROM_AFAR, FROM_NEAR, STANDS};
use super::columns::{Candidate, ChannelRows, Frame};
use super::observed::{Observed, is_coarse, observe};
use super::path::{Path, Values};
use super::prior::{self, Causes, Unknown};
use super::search::{Search, Start};
use super::setup::Setup;
use super::states::{State, States};
use super::story::{Story, Told};
use super::sums::solve;
use crate::input::{Fluid, Hold, Record};
use nalgebra::DVector;

/// Blocks that a hold is gathered into.
const BLOCKS: usize = 60;
/// Fewest instants at which a pressure was read.
const LEAST: usize = 3;
/// Starts within the hold that are looked at, as shares of it.
const LATE: [f64; 8] = [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8];
/// Share of leaks that start within a hold, before the readings (common practice: few do).
const LATE_PRIOR: f64 = 0.08;
/// Share of holds in which trapped air goes into solution, and in which gaskets set, where there are any.
pub(crate) const AIR_PRIOR: f64 = 0.25;
pub(crate) const GASKET_PRIOR: f64 = 0.12;

/// A class that weighs less beside the heaviest is left as its most probable unknowns have it.
const LIGHT: f64 = 0.007;

/// Two relaxations at once that are expected to weigh less beside the heaviest are not tried.
const UNLIKELY: f64 = 3e-4;

/// A start of the leak that weighs less within its class is left out of the average over bent unknowns.
const LIGHT_START: f64 = 1e-3;

/// A search whose evidence (its logarithm) is so far behind another's is given up.
const FAR_BEHIND: f64 = 60.0;

/// A search whose evidence is so much better than another's needs no comparison with a third.
const BETTER: f64 = 5.0;

/// A mean square of what is left beyond which readings are explained poorly.
const POOR: f64 = 4.0;

/// Causes that weigh less are not remembered, and from memory the average is taken as for a class of this weight.
const REMEMBERED: f64 = 0.01;
const HURRIED: f64 = 0.09;

/// Standard deviations from what is expected beyond which an unknown is strained.
const STRAINED: f64 = 3.0;
/// Variances are widened by this for what no candidate covers: measured on made holds.
const WIDENED: f64 = 1.25;
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
    /// Temperatures of the most probable path: for each body skin and fluid at the first and last time.
    pub heat: Vec<[f64; 4]>,
    /// Most probable unknowns: difference from what was expected, and its standard deviation before the readings.
    pub unknowns: Vec<(Unknown, f64, f64)>,
    /// Weight of each set of causes.
    pub causes: Vec<(Causes, f64)>,
    /// What the most probable path says in pressures.
    pub story: Story,
    /// Where the answer was found, for the same hold with more readings.
    pub memory: Memory,
}

/// Where an answer was found.
#[derive(Debug, Clone)]
pub struct Memory(Vec<Class>);

/// One set of causes, fitted.
#[derive(Debug, Clone)]
pub(super) struct Class {
    pub(super) causes: Causes,
    log_prior: f64,
    pub(super) unknowns: Vec<Unknown>,
    pub(super) x: DVector<f64>,
    observed: Vec<Observed>,
    pub(super) components: Vec<Component>,
    pub(super) best: State,
    /// States that carry weight, the best first.
    pub(super) likely: Vec<State>,
    /// It explains the readings poorly, and was perhaps left before it explained them as well as it can.
    poor: bool,
    /// It is of a record with fewer readings.
    remembered: bool,
}

/// Fits a hold.
///
/// # Errors
/// In a sentence, when the readings leave the fluid's range or there are too few.
pub fn fit(problem: &Problem<'_>) -> Result<Fitted, String> {
    fit_from(problem, None)
}

/// Fits a hold that was fitted before with fewer readings: only the causes that had weight, each from where it was found. What a search from
/// nothing would find besides is not looked for, so now and then a running hold wants that.
///
/// # Errors
/// As [`fit`].
pub fn fit_again(problem: &Problem<'_>, memory: &Memory) -> Result<Fitted, String> {
    fit_from(problem, Some(memory))
}

fn fit_from(problem: &Problem<'_>, memory: Option<&Memory>) -> Result<Fitted, String> {
    let hold = problem.hold;
    let blocks = blocks::gather(problem.record, hold.length_s, &hold.steps, BLOCKS);
    let read = blocks.iter().filter(|b| b.cells.iter().take(hold.gauges.len()).any(|c| c.count > 0.0)).count();
    if read < LEAST || hold.bodies.is_empty() {
        return Err(format!(
            "The hold has {read} usable pressure readings apart in time and {} bodies; a fit needs {LEAST} and one: read more often or longer.",
            hold.bodies.len()
        ));
    }
    let setup = Setup::new(hold, blocks)?;
    let coarse: Vec<bool> = (0..hold.gauges.len()).map(|g| is_coarse(hold, &setup.blocks, g)).collect();
    let states = States::new(hold, &setup.surroundings).with_coarse(&coarse);
    let fitter = Fitter { hold, setup: &setup, states: &states };
    let mut classes = memory.and_then(|m| fitter.remembered(m)).unwrap_or_else(|| fitter.classes());
    let points = if memory.is_some() { HURRIED } else { 1.0 };
    let heaviest = classes.iter().map(|c| evidence(&c.components)).fold(f64::NEG_INFINITY, f64::max);
    for class in &mut classes {
        let weight = (evidence(&class.components) - heaviest).exp();
        if weight > LIGHT {
            fitter.spread(class, weight * points);
        }
    }
    let misfit = fitter.misfit(&classes);
    // what the model leaves out, and what it misses visibly
    let widen = WIDENED * misfit.max(1.0);
    for c in classes.iter_mut().flat_map(|c| c.components.iter_mut()) {
        c.variance *= widen;
    }
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
    let (path, rows) = frame.linear(&Values { unknowns: &top.unknowns, x: top.x.clone() }, &[]);
    Ok(Fitted {
        story: fitter.story(top, &path, &rows, widen),
        heat: path.heat.iter().map(|h| [h.skin[0], h.skin[h.skin.len() - 1], h.fluid[0], h.fluid[h.fluid.len() - 1]]).collect(),
        mean: mixture.mean(),
        sd: mixture.sd(),
        lo: mixture.quantile(0.025, false),
        hi: mixture.quantile(0.975, false),
        upper_999: mixture.quantile(0.999, false),
        detection_limit: 3.29 * (limit * widen).sqrt(),
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
            .zip(top.x.iter())
            .map(|((unknown, sd), value)| (*unknown, *value, *sd))
            .collect(),
        causes: classes.iter().map(|c| (c.causes, weight(c) / sum)).collect(),
        memory: Memory(classes.iter().filter(|c| weight(c) / sum > REMEMBERED).cloned().collect()),
    })
}

pub(super) struct Fitter<'a> {
    pub(super) hold: &'a Hold,
    pub(super) setup: &'a Setup,
    pub(super) states: &'a States,
}

impl<'a> Fitter<'a> {
    /// Every set of causes that may be at work, fitted.
    fn classes(&self) -> Vec<Class> {
        let hold = self.hold;
        let water = hold.fluid == Fluid::Water;
        let (air, gaskets) = (water && hold.air_fraction > 0.0, water && hold.gasketed_joints > 0);
        let (p_air, p_gaskets) = (if air { AIR_PRIOR } else { 0.0 }, if gaskets { GASKET_PRIOR } else { 0.0 });
        let (mut classes, mut late): (Vec<Class>, Vec<Class>) = (Vec::new(), Vec::new());
        for (with_air, with_gaskets) in [(false, false), (true, false), (false, true), (true, true)] {
            if (with_air && !air) || (with_gaskets && !gaskets) {
                continue;
            }
            let weigh = if late.is_empty() { &classes } else { &late };
            if let (true, true, [neither, with_one, with_other]) = (with_air, with_gaskets, weigh.as_slice()) {
                // both at once weigh about as much as one weighs for the other
                let [neither, one, other] = [neither, with_one, with_other].map(|c| evidence(&c.components));
                if one + other - neither < one.max(other).max(neither) + UNLIKELY.ln() {
                    continue;
                }
            }
            let prior = (if with_air { p_air } else { 1.0 - p_air }) * (if with_gaskets { p_gaskets } else { 1.0 - p_gaskets });
            let causes = Causes { air: with_air, gaskets: with_gaskets, leak_from: None };
            let fit_from = |leak_from: Option<f64>, from: Option<&Class>| self.class(Causes { leak_from, ..causes }, prior.ln(), from, None, false);
            let mut class = fit_from(None, late.first().or(classes.first()));
            if let Some(first) = late.first() {
                late.push(fit_from(first.causes.leak_from, Some(first)));
            } else if classes.is_empty() && class.poor {
                // a leak that starts within the hold, and from there once more none that does
                late.extend(self.late_of(&class).map(|(causes, leak)| self.class(causes, class.log_prior, None, Some(leak), false)));
                late.retain(|l| !l.poor);
                let again = late.first().map(|l| fit_from(None, Some(l)));
                class = again.filter(|a| evidence(&a.components) > evidence(&class.components)).unwrap_or(class);
            }
            classes.push(class);
        }
        if late.is_empty() {
            self.add_late(&mut classes);
        } else {
            classes.iter_mut().for_each(|c| c.components.retain(|c| c.start == 0));
            classes.extend(late);
        }
        self.be_patient(&mut classes);
        classes
    }

    /// The causes that had weight before, each fitted from where it was; none when they are not of this hold.
    fn remembered(&self, memory: &Memory) -> Option<Vec<Class>> {
        let again = |was: &Class| {
            let known = was.unknowns == self.setup.unknowns(self.hold, was.causes) && was.likely.iter().all(|s| self.states.has(s));
            let from = Class { remembered: true, ..was.clone() };
            known.then(|| self.class(was.causes, was.log_prior, Some(&from), None, false))
        };
        memory.0.iter().map(again).collect::<Option<Vec<Class>>>().filter(|c| !c.is_empty())
    }

    /// The most likely start of a leak within the hold, as the class has it, with its mean loss.
    fn late_of(&self, class: &Class) -> Option<(Causes, f64)> {
        let late = class.components.iter().filter(|c| c.start > 0);
        let top = late.max_by(|a, b| a.log_weight.total_cmp(&b.log_weight))?;
        Some((Causes { leak_from: Some(LATE[top.start - 1] * self.hold.length_s), ..class.causes }, top.mean))
    }

    /// Fits one set of causes, from where another was found, or from there with another leak. Without patience, readings that are explained poorly
    /// are left so.
    fn class(&self, causes: Causes, log_prior: f64, from: Option<&Class>, leak: Option<f64>, patient: bool) -> Class {
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
            remembered: false,
        };
        // noise and unknowns in turn: the readings say how much noise there is once the unknowns fit
        for round in 0..if from.is_some() { 2 } else { 4 } {
            for i in 0..if !coarse {
                1
            } else if round == 0 && from.is_none() {
                5
            } else {
                3
            } {
                let afar = round == 0 && i == 0 && from.is_none();
                let damping = if afar { FROM_AFAR } else { FROM_NEAR };
                let found = self.climb(&frame, &state, damping, patient).converge(values, &mut observed, coarse);
                values = found.values;
                class.poor = found.misfit > POOR;
                if found.moved < STANDS || (class.poor && !patient) {
                    break;
                }
            }
            class.x.copy_from(&values.x);
            class.observed.clone_from(&observed);
            class.best = state.clone();
            self.average(&mut class, &frame, from.map(|f| f.likely.as_slice()));
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

    fn climb<'b>(&'b self, frame: &'b Frame<'b>, state: &'b State, damping: f64, patient: bool) -> Climb<'b> {
        Climb { setup: self.setup, hold: self.hold, frame, states: self.states, state, damping, patient }
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
            remembered: false,
        };
        for round in 0..3 {
            let state = quiet.best.clone();
            let climb = self.climb(frame, &state, FROM_NEAR, false);
            let mut values = Values { unknowns: &class.unknowns, x: quiet.x.clone() };
            for _ in 0..if coarse { 3 } else { 1 } {
                let found = climb.converge(values, &mut quiet.observed, coarse);
                values = found.values;
                if found.moved < STANDS {
                    break;
                }
            }
            quiet.x.copy_from(&values.x);
            self.average(&mut quiet, frame, None);
            let behind = evidence(&class.components) - evidence(&quiet.components);
            if (round > 0 && quiet.best.noise == state.noise) || behind > FAR_BEHIND {
                break;
            }
        }
        quiet
    }

    /// What the heaviest class says in pressures.
    fn story(&self, top: &Class, path: &Path, rows: &[ChannelRows], widen: f64) -> Story {
        let gauge = &rows[0];
        let (Some(first), Some(last)) = (gauge.at.first(), gauge.at.len().checked_sub(1)) else { return Story::default() };
        let n = top.unknowns.len();
        let sds = self.setup.sds(self.hold, &top.unknowns, self.states.weathers[top.best.weather]);
        let solved = solve(&self.search(top, rows, &top.x, &[]).total_of(&top.best), &sds, n);
        let answers = |row: usize| gauge.answers.row(row).iter().copied().collect();
        Told {
            setup: self.setup,
            hold: self.hold,
            values: Values { unknowns: &top.unknowns, x: top.x.clone() },
            path,
            leak_from: top.causes.leak_from.unwrap_or(0.0),
            answers: (answers(last), answers(0)),
            shown: gauge.expected[0] - path.p[*first],
            solved: &solved,
            sds: &sds,
            widen,
        }
        .story()
    }

    /// Mean square of the standardised residuals of the heaviest class.
    fn misfit(&self, classes: &[Class]) -> f64 {
        let Some(top) = classes.iter().max_by(|a, b| evidence(&a.components).total_cmp(&evidence(&b.components))) else { return 1.0 };
        let frame = self.setup.frame(self.hold, top.causes.leak_from.unwrap_or(0.0));
        let (_, rows) = frame.linear(&Values { unknowns: &top.unknowns, x: top.x.clone() }, &[]);
        self.search(top, &rows, &top.x, &[]).misfit(&top.best)
    }

    pub(super) fn search<'b>(&'b self, class: &'b Class, rows: &'b [ChannelRows], x: &'b DVector<f64>, starts: &'b [Start]) -> Search<'b> {
        Search {
            setup: self.setup,
            hold: self.hold,
            states: self.states,
            unknowns: &class.unknowns,
            rows,
            observed: &class.observed,
            x,
            starts,
            held: &[],
        }
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

    /// Averages a class over noise, weather and the start of the leak.
    fn average(&self, class: &mut Class, frame: &Frame<'_>, near: Option<&[State]>) {
        let values = Values { unknowns: &class.unknowns, x: class.x.clone() };
        let (path, rows) = frame.linear(&values, &self.candidates(class));
        let starts = self.starts(class, &path);
        let search = self.search(class, &rows, &class.x, &starts);
        let (components, seen) = match near {
            None => search.explore(&class.best),
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

    /// Where a late start carries weight, the leak's start becomes an unknown of its own.
    fn add_late(&self, classes: &mut Vec<Class>) {
        let all: Vec<Component> = classes.iter().flat_map(|c| c.components.iter().copied()).collect();
        let whole = evidence(&all);
        let mut order: Vec<usize> = (0..classes.len()).collect();
        order.sort_by(|a, b| evidence(&classes[*b].components).total_cmp(&evidence(&classes[*a].components)));
        let mut added: Vec<Class> = Vec::new();
        for i in order {
            let class = &classes[i];
            let late: Vec<Component> = class.components.iter().filter(|c| c.start > 0).copied().collect();
            let own = evidence(&class.components);
            if late.is_empty() || evidence(&late) - own < 0.15f64.ln() || own - whole < -40.0 {
                continue;
            }
            let Some((causes, leak)) = self.late_of(class) else { continue };
            let fitted = match added.first() {
                // near where the heaviest was found
                Some(first) => {
                    self.class(Causes { leak_from: first.causes.leak_from, ..class.causes }, class.log_prior, Some(first), None, false)
                }
                None => {
                    let fit_from = |from| self.class(causes, class.log_prior, from, Some(leak), false);
                    // where a leak from the start had to be made up for, what it left is no place to begin
                    let anew = self.is_strained(class).then(|| fit_from(None)).filter(|a| !a.poor);
                    match anew {
                        Some(anew) if evidence(&anew.components) > evidence(&class.components) + BETTER => anew,
                        anew => {
                            let near = fit_from(Some(class));
                            anew.filter(|a| evidence(&a.components) > evidence(&near.components)).unwrap_or(near)
                        }
                    }
                }
            };
            classes[i].components.retain(|c| c.start == 0);
            added.push(fitted);
        }
        classes.extend(added);
    }

    /// Where nothing explains the readings, the heaviest is fitted again with patience.
    fn be_patient(&self, classes: &mut [Class]) {
        let Some(top) = classes.iter_mut().max_by(|a, b| evidence(&a.components).total_cmp(&evidence(&b.components))) else { return };
        if top.poor {
            let again = self.class(top.causes, top.log_prior, top.causes.leak_from.and(Some(&*top)), None, true);
            if evidence(&again.components) > evidence(&top.components) {
                *top = again;
            }
        }
    }

    /// True when some of the unknowns are farther from what is expected than they can be believed to be.
    fn is_strained(&self, class: &Class) -> bool {
        let sds = self.setup.sds(self.hold, &class.unknowns, self.states.weathers[class.best.weather]);
        class.x.iter().zip(sds.iter()).any(|(x, sd)| x.abs() > STRAINED * sd)
    }

    /// Variance of the leak with none, under a class.
    fn no_leak_variance(&self, class: &Class) -> f64 {
        let frame = self.setup.frame(self.hold, 0.0);
        let mut x = class.x.clone();
        let n = x.len();
        x[n - 1] = 0.0;
        let values = Values { unknowns: &class.unknowns, x: x.clone() };
        let (_, rows) = frame.linear(&values, &[Candidate::LeakFrom(0.0)]);
        let starts = [Start { leak: 0, shift: None, log_prior: 0.0, end_over_mean: 1.0, late: false }];
        // where a quiet reading would cross from one division to the next is chance: the limit is that of any record by these instruments
        let mut any = class.observed.clone();
        for (o, r) in any.iter_mut().zip(&rows).filter(|(o, _)| o.coarse) {
            o.forget_crossings(self.hold, r.channel, &r.expected);
        }
        let search = Search { observed: &any, ..self.search(class, &rows, &x, &starts) };
        search.components(std::slice::from_ref(&class.best))[0].variance
    }
}
