//! The fit: linearised about its own answer, noise and weather from the readings, averaged over candidates.

use super::average::{Component, Mixture, evidence};
use super::blocks;
use super::class::Class;
use super::columns::{Candidate, ChannelRows};
use super::error::FitError;
use super::normal_equations::{Solved, solve};
use super::observed::is_coarse;
use super::path::{Path, Values};
use super::prior::{Causes, Unknown};
use super::search::{Search, Start};
use super::setup::Setup;
use super::states::States;
use super::story::{Story, Told};
use crate::input::{Hold, Record};
use nalgebra::DVector;
use std::sync::{Arc, Mutex, PoisonError};

/// Blocks that a hold is gathered into.
const BLOCKS: usize = 60;
/// Fewest instants at which a pressure was read.
const LEAST: usize = 3;

/// A class that weighs less among all is left as its most probable unknowns have it.
const LIGHT: f64 = 0.007;

/// No pivot of one and a product with itself is below one but for rounding; below this it has taken over.
const SOUND: f64 = 0.9;

/// Causes that weigh less are not remembered, and from memory the average is taken as for a class of this weight.
const REMEMBERED: f64 = 0.01;
const HURRIED: f64 = 0.09;

/// Variances are widened by this for what no candidate covers: measured on made holds.
const WIDENED: f64 = 1.25;
/// An answer is not surer than this share of the standard deviation that its detection limit rests on: where it seems to be, one cause among
/// many was taken for the only one (measured on made holds: such intervals held the leak in four of five).
const LEAST_SHARE_OF_LIMIT: f64 = 0.2;

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
pub struct Memory {
    /// The causes that had weight.
    classes: Arc<Mutex<Vec<Class>>>,
    /// Which shapes of the surroundings were the levels of temperature: a longer hold may have more of the others.
    pub(super) levels: Vec<usize>,
}

impl Memory {
    /// The causes that had weight.
    pub(super) fn classes(&self) -> Vec<Class> {
        self.classes.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }
}

/// Fits a hold.
///
/// # Errors
/// When the readings leave the fluid's range, there are too few, or the arithmetic has too few digits for them.
pub fn fit(problem: &Problem<'_>) -> Result<Fitted, FitError> {
    fit_from(problem, None)
}

/// Fits a hold that was fitted before with fewer readings: only the causes that had weight, each from where it was found. What a search from
/// nothing would find besides is not looked for, so now and then a running hold wants that.
///
/// # Errors
/// As [`fit`].
pub fn fit_again(problem: &Problem<'_>, memory: &Memory) -> Result<Fitted, FitError> {
    fit_from(problem, Some(memory))
}

fn fit_from(problem: &Problem<'_>, memory: Option<&Memory>) -> Result<Fitted, FitError> {
    let hold = problem.hold;
    let blocks = blocks::gather(problem.record, hold.length_s, &hold.steps, BLOCKS);
    let read = blocks.iter().filter(|b| b.cells.iter().take(hold.gauges.len()).any(|c| c.count > 0.0)).count();
    if read < LEAST || hold.bodies.is_empty() {
        return Err(FitError::TooFew { readings: read, bodies: hold.bodies.len(), least: LEAST });
    }
    let setup = Setup::new(hold, blocks)?;
    let coarse: Vec<bool> = (0..hold.gauges.len()).map(|g| is_coarse(hold, &setup.blocks, g)).collect();
    let states = States::new(hold, &setup.surroundings).with_coarse(&coarse);
    let fitter = Fitter { hold, setup: &setup, states: &states };
    let (mut classes, points) = match memory.and_then(|m| fitter.remembered(m)) {
        Some(remembered) => (remembered, HURRIED),
        None => (fitter.classes(), 1.0),
    };
    let all: Vec<Component> = classes.iter().flat_map(|c| c.components.iter().copied()).collect();
    let whole = evidence(&all);
    for class in &mut classes {
        let weight = (evidence(&class.components) - whole).exp();
        if weight > LIGHT {
            fitter.spread(class, weight * points);
        }
    }
    let top = classes.iter().max_by(|a, b| evidence(&a.components).total_cmp(&evidence(&b.components))).ok_or(FitError::NoCause)?;
    let heaviest = fitter.about(top);
    if heaviest.solved.least_pivot() < SOUND {
        return Err(FitError::OutOfDigits);
    }
    let misfit = heaviest.misfit();
    // what the model leaves out, and what it misses visibly
    let widen = WIDENED * misfit.max(1.0);
    for c in classes.iter_mut().flat_map(|c| c.components.iter_mut()) {
        c.variance *= widen;
    }
    let most = classes.iter().map(|c| evidence(&c.components)).fold(f64::NEG_INFINITY, f64::max);
    let weight = |c: &Class| (evidence(&c.components) - most).exp();
    let sum: f64 = classes.iter().map(weight).sum();
    // the limit: each cause with no leak, weighted as the readings weigh it
    let mut limit = 0.0;
    for class in &classes {
        let w = weight(class) / sum;
        if w > 1e-3 {
            limit += w * fitter.no_leak_variance(class);
        }
    }
    let limit = limit * widen;
    let mut all: Vec<Component> = classes.iter().flat_map(|c| c.components.iter().copied()).collect();
    let narrow = Mixture::new(&all).sd().powi(2);
    for c in &mut all {
        c.variance += (LEAST_SHARE_OF_LIMIT.powi(2) * limit - narrow).max(0.0);
    }
    let mixture = Mixture::new(&all);
    let About { path, rows, sds, .. } = &heaviest;
    Ok(Fitted {
        story: fitter.story(&heaviest, widen),
        heat: path.heat.iter().map(|h| [h.skin[0], h.skin[h.skin.len() - 1], h.fluid[0], h.fluid[h.fluid.len() - 1]]).collect(),
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
            .zip(&heaviest.class.observed)
            .map(|(r, o)| (0..r.at.len()).map(|i| (setup.grid.times[r.at[i]], o.sites[i].value, r.expected[i])).collect())
            .collect(),
        unknowns: heaviest
            .class
            .unknowns
            .iter()
            .zip(sds.iter())
            .zip(heaviest.class.x.iter())
            .map(|((unknown, sd), value)| (*unknown, *value, *sd))
            .collect(),
        causes: classes.iter().map(|c| (c.causes, weight(c) / sum)).collect(),
        memory: Memory {
            classes: Arc::new(Mutex::new(classes.iter().filter(|c| weight(c) / sum > REMEMBERED).cloned().collect())),
            levels: setup.surroundings.levels(),
        },
    })
}

/// A class as it was found, with what the readings say about it there.
struct About {
    class: Class,
    path: Path,
    rows: Vec<ChannelRows>,
    sds: DVector<f64>,
    /// Sum of the squares of the readings with their noise taken out.
    readings: f64,
    solved: Solved,
}

impl About {
    /// Mean square of the standardised residuals.
    fn misfit(&self) -> f64 {
        let rows: usize = self.rows.iter().map(|r| r.at.len()).sum();
        (self.readings - self.solved.w.norm_squared()) / rows as f64
    }
}

pub(super) struct Fitter<'a> {
    pub(super) hold: &'a Hold,
    pub(super) setup: &'a Setup,
    pub(super) states: &'a States,
}

impl Fitter<'_> {
    /// Everything that the readings say about a class as it was found.
    fn about(&self, class: &Class) -> About {
        let frame = self.setup.frame(self.hold, class.causes.leak_from.unwrap_or(0.0));
        let (path, rows) = frame.linear(&Values { unknowns: &class.unknowns, x: class.x.clone() }, &[]);
        let sds = self.setup.sds(self.hold, &class.unknowns, self.states.weathers[class.best.weather]);
        let total = self.search(class, &rows, &class.x, &[]).total_of(&class.best);
        let solved = solve(&total, &sds, class.unknowns.len());
        About { class: class.clone(), path, rows, sds, readings: total.readings(), solved }
    }

    /// What the heaviest class says in pressures.
    fn story(&self, top: &About, widen: f64) -> Story {
        let gauge = &top.rows[0];
        let (Some(first), Some(last)) = (gauge.at.first(), gauge.at.len().checked_sub(1)) else { return Story::default() };
        let derivatives = |row: usize| gauge.jacobian.row(row).iter().copied().collect();
        Told {
            setup: self.setup,
            hold: self.hold,
            values: Values { unknowns: &top.class.unknowns, x: top.class.x.clone() },
            path: &top.path,
            leak_from: top.class.causes.leak_from.unwrap_or(0.0),
            jacobian: (derivatives(last), derivatives(0)),
            shown: gauge.expected[0] - top.path.p[*first],
            solved: &top.solved,
            sds: &top.sds,
            widen,
        }
        .story()
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
