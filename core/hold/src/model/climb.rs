//! The search for the most probable unknowns.

use super::columns::{ChannelRows, Frame};
use super::observed::{Observed, refine};
use super::path::Values;
use super::setup::Setup;
use super::stand::{Order, Stand};
use super::states::{State, States};
use super::sums::{Sums, Whitened, solve, whiten};
use crate::input::Hold;
use nalgebra::DVector;

/// The search for the most probable unknowns with one state of noise and weather.
pub(crate) struct Climb<'a> {
    pub(crate) setup: &'a Setup,
    pub(crate) hold: &'a Hold,
    pub(crate) frame: &'a Frame<'a>,
    pub(crate) states: &'a States,
    pub(crate) state: &'a State,
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
    /// Searches, and at the end matches coarse readings anew about the answer.
    pub(crate) fn converge<'v>(&self, from: Values<'v>, observed: &mut [Observed], coarse: bool) -> Climbed<'v> {
        let sds = self.setup.sds(self.hold, from.unknowns, self.states.weathers[self.state.weather]);
        let order = Order::new(from.unknowns, &sds, &self.setup.surroundings);
        let readings = observed.iter().map(|o| o.sites.len()).sum::<usize>() as f64;
        let (mut here, damping) = self.search(from, observed, (&order, &sds), readings);
        let mut worth = here.worth();
        let mut values = here.values.clone();
        // a last step by the same answers, where it leads lower
        let mut next = here.ahead(self.hold, &order, damping).0;
        for _ in 0..2 {
            let (there, downhill) = self.look(&mut here, &next, observed, &sds);
            if there < worth {
                (worth, values) = (there, next.clone());
            }
            next = here.corrected(&order, next, &downhill);
        }
        let Stand { mut rows, .. } = here;
        self.frame.expect(&values, &mut rows);
        let moved = if coarse { self.match_anew(&values, &rows, observed, &sds) } else { 0.0 };
        Climbed { values, moved, misfit: worth / readings }
    }

    /// The search over the bent unknowns, all others as suits them best (`stand`): where it ended, with the damping of the last step.
    fn search<'v>(&self, from: Values<'v>, observed: &[Observed], by: (&Order, &DVector<f64>), readings: f64) -> (Stand<'v>, f64) {
        let order = by.0;
        let mut damping = DAMPING;
        let mut here = self.stand(from, observed, by);
        for round in 1..ROUNDS {
            let (worth, settled) = (here.worth(), here.settled(order));
            let hopeless = !self.patient && round >= HOPELESS.0 && settled > HOPELESS.1 * readings;
            if hopeless || worth - here.least() < NEAR || damping > MOST_DAMPING {
                break;
            }
            // first what acts in a straight way
            let held = worth - settled > UNSETTLED * settled.max(readings);
            let (new, promised) = here.ahead(self.hold, order, if held { HELD } else { damping });
            let enough = ENOUGH.max(POOR_ENOUGH * (settled - readings));
            if settled - promised < PROMISED * enough && worth - settled < NEAR {
                if settled - here.least() < enough {
                    break;
                }
                // some had to stop, and others could not make up for it: shorter
                damping = shorter(damping);
                continue;
            }
            let (_, downhill) = self.look(&mut here, &new, observed, by.1);
            let new = here.corrected(order, new, &downhill);
            let ahead = self.stand(new, observed, by);
            let now = ahead.settled(order);
            let lower = ahead.worth() < worth;
            if now.is_nan() || !(lower || (now <= settled + 1e-3 && !held)) {
                if held {
                    break;
                }
                damping = shorter(damping);
                continue;
            }
            here = ahead;
            if held {
                continue;
            }
            let gain = settled - now;
            damping *= match gain / (settled - promised).max(f64::MIN_POSITIVE) {
                kept if kept > 0.7 => 1.0 / 6.0,
                kept if kept > 0.25 => 1.0,
                _ => 2.0,
            };
            if gain < enough && here.worth() - now < NEAR {
                break;
            }
        }
        (here, damping)
    }

    /// Matches coarse readings about values some times with the same answers; by how much they moved at first.
    fn match_anew(&self, here: &Values<'_>, rows: &[ChannelRows], observed: &mut [Observed], sds: &DVector<f64>) -> f64 {
        observed.iter_mut().for_each(Observed::begin_anew);
        // what the other readings say stays
        let fine = self.sums(rows, observed, &here.x, |o| !o.coarse);
        let mut first = None;
        for _ in 0..MATCHED_WITH_THE_SAME {
            let whitened = self.whitened(rows, observed, &here.x, |o| o.coarse);
            let mut total = fine.clone();
            whitened.iter().for_each(|w| w.add_to(&mut total));
            let solved = solve(&total, sds, sds.len());
            let mut moved = 0.0f64;
            for ((r, o), w) in rows.iter().zip(observed.iter_mut()).filter(|(_, o)| o.coarse).zip(&whitened) {
                moved = moved.max(refine(self.hold, &self.setup.blocks, r, o, w, &solved, sds));
            }
            first.get_or_insert(moved);
            if moved < STANDS {
                break;
            }
        }
        first.unwrap_or(0.0)
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

    /// A new point by the answers of the last, whose rows expect it from then on: its worth, and half the readings' share of the slope, downhill and in
    /// units of the standard deviations.
    fn look(&self, last: &mut Stand<'_>, new: &Values<'_>, observed: &[Observed], sds: &DVector<f64>) -> (f64, DVector<f64>) {
        self.frame.expect(new, &mut last.rows);
        let mut worth: f64 = new.x.iter().zip(sds.iter()).map(|(x, sd)| if *sd > 0.0 { (x / sd).powi(2) } else { 0.0 }).sum();
        let mut downhill = DVector::zeros(new.x.len());
        for (r, o) in last.rows.iter().zip(observed) {
            let left: Vec<f64> = o.sites.iter().zip(r.expected.iter()).map(|(s, e)| s.value - e).collect();
            let by = o.whitening(self.states.noise(self.state, r.channel));
            let mut left = DVector::from_vec(by.0.vector(left));
            worth += left.norm_squared();
            by.0.back(left.as_mut_slice());
            downhill.gemv_tr(1.0, &r.answers, &left, 1.0);
        }
        downhill.component_mul_assign(sds);
        (worth, downhill)
    }

    /// A point of the search.
    fn stand<'v>(&self, values: Values<'v>, observed: &[Observed], (order, sds): (&Order, &DVector<f64>)) -> Stand<'v> {
        let (_, rows) = self.frame.linear(&values, &[]);
        let total = self.sums(&rows, observed, &values.x, |_| true);
        Stand::new(values, rows, &total, order, sds)
    }
}

/// Damping after a step that led nowhere.
fn shorter(damping: f64) -> f64 {
    8.0 * damping.max(DAMPING)
}

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
/// Damping of the first step.
const DAMPING: f64 = 0.01;
/// Damping that lets nothing move.
const HELD: f64 = 1e100;
/// A promise of less than this share of what would be enough is none.
const PROMISED: f64 = 0.3;
/// Beyond this damping nothing moves that is worth it.
const MOST_DAMPING: f64 = 1e3;
/// What is left to gain below which a last step needs no proof.
const NEAR: f64 = 1.0;
/// What the straight unknowns have to gain beyond which, as a share of what is left, the bent ones wait.
const UNSETTLED: f64 = 1.0;

#[cfg(test)]
mod tests {
    use super::Climb;
    use crate::model::interval::Site;
    use crate::model::jacobian_test::{hold, setup};
    use crate::model::noise::Averaged;
    use crate::model::observed::Observed;
    use crate::model::path::Values;
    use crate::model::prior::{Causes, Unknown};
    use crate::model::stand::Order;
    use crate::model::states::States;
    use nalgebra::DVector;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        /// Readings made by the model itself from lags, air, weather and a leak anywhere within what is believed of them, with some noise.
        #[test]
        fn the_search_ends_no_higher_than_the_truth_and_where_no_unknown_alone_would_gain(
            off in prop::collection::vec(-1.6f64..1.6, 120),
            noise in prop::collection::vec(-1.5f64..1.5, 400),
            leak in prop::sample::select(vec![0.0, 1e-8, 1e-7, 2e-7]),
            (air, gaskets) in any::<(bool, bool)>(),
        ) {
            let hold = hold();
            let setup = setup(&hold);
            let unknowns = setup.unknowns(&hold, Causes { air, gaskets, leak_from: None });
            let states = States::new(&hold, &setup.surroundings);
            let state = states.quiet(&states.first());
            let sds = setup.sds(&hold, &unknowns, states.weathers[state.weather]);
            let of_truth = |j: usize| match unknowns[j] {
                Unknown::Leak => leak,
                Unknown::Step(_) => 1e-5 * off[j],
                Unknown::StartPressure => 0.02 * sds[j] * off[j],
                _ => sds[j] * off[j],
            };
            let truth = Values { unknowns: &unknowns, x: DVector::from_fn(unknowns.len(), |j, _| of_truth(j)) };
            let frame = setup.frame(&hold, 0.0);
            let (_, rows) = frame.linear(&truth, &[]);
            let mut noise = noise.iter().cycle();
            let mut observed: Vec<Observed> = rows
                .iter()
                .map(|r| {
                    let sd = hold.noise_of(r.channel).1 / 3f64.sqrt();
                    let site = |e: &f64| Site { value: e + sd * noise.next().unwrap(), variance: sd * sd };
                    let averaged = r.blocks.iter().map(|b| &setup.blocks[*b]).map(|b| Averaged { t: b.t, length: b.length, count: 3.0 });
                    Observed::new(r.expected.iter().map(site).collect(), averaged.collect(), false)
                })
                .collect();
            let climb = Climb { setup: &setup, hold: &hold, frame: &frame, states: &states, state: &state, patient: true };
            let order = Order::new(&unknowns, &sds, &setup.surroundings);
            let from = Values { unknowns: &unknowns, x: DVector::zeros(unknowns.len()) };
            let found = climb.converge(from, &mut observed, false).values;
            let worth = |x: DVector<f64>| climb.stand(Values { unknowns: &unknowns, x }, &observed, (&order, &sds)).worth();
            let reached = worth(found.x.clone());
            prop_assert!(reached <= worth(truth.x.clone()) + 0.5, "{reached}");
            for j in 0..unknowns.len() {
                for by in [-0.3, 0.3] {
                    // a loss and a stroke are not known at all: a thousandth of what they may be is a long way
                    let step = by * sds[j] * if matches!(unknowns[j], Unknown::Leak | Unknown::Step(_)) { 1e-3 } else { 1.0 };
                    let mut x = found.x.clone();
                    x[j] += step;
                    let there = worth(x);
                    prop_assert!(there > reached - 0.5, "{:?}: {there} < {reached}", unknowns[j]);
                }
            }
        }
    }
}
