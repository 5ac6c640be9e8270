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
    /// The search over the bent unknowns, all others as suits them best (`stand`); at the end coarse readings are matched anew about the answer.
    pub(crate) fn converge<'v>(&self, from: Values<'v>, observed: &mut [Observed], coarse: bool) -> Climbed<'v> {
        let sds = self.setup.sds(self.hold, from.unknowns, self.states.weathers[self.state.weather]);
        let order = Order::new(from.unknowns, &sds, &self.setup.surroundings);
        let readings = observed.iter().map(|o| o.sites.len()).sum::<usize>() as f64;
        let mut damping = DAMPING;
        let mut here = self.stand(from, observed, &order, &sds);
        for round in 1..ROUNDS {
            let (worth, settled) = (here.worth(), here.settled(&order));
            let hopeless = !self.patient && round >= HOPELESS.0 && settled > HOPELESS.1 * readings;
            if hopeless || worth - here.least() < NEAR {
                break;
            }
            // first what acts in a straight way
            let held = worth - settled > UNSETTLED * settled.max(readings);
            let (new, promised) = here.ahead(self.hold, &order, if held { HELD } else { damping });
            let enough = ENOUGH.max(POOR_ENOUGH * (settled - readings));
            if settled - promised < PROMISED * enough && worth - settled < NEAR {
                if settled - here.least() < enough {
                    break;
                }
                // where some had to stop: shorter
                damping = 8.0 * damping.max(DAMPING);
                if damping > MOST_DAMPING {
                    break;
                }
                continue;
            }
            let new = self.corrected(&mut here, new, observed, &order, &sds);
            let ahead = self.stand(new, observed, &order, &sds);
            let now = ahead.settled(&order);
            if held {
                if ahead.worth() >= worth || now.is_nan() {
                    break;
                }
                here = ahead;
                continue;
            }
            if now.is_nan() || (now > settled + 1e-3 && ahead.worth() >= worth) {
                // back, and a shorter step
                damping = 8.0 * damping.max(DAMPING);
                if damping > MOST_DAMPING {
                    break;
                }
                continue;
            }
            let gain = settled - now;
            damping *= match gain / (settled - promised).max(f64::MIN_POSITIVE) {
                kept if kept > 0.7 => 1.0 / 6.0,
                kept if kept > 0.25 => 1.0,
                _ => 2.0,
            };
            here = ahead;
            if gain < enough && here.worth() - now < NEAR {
                break;
            }
        }
        // a last step where the linear model holds
        let worth = here.worth();
        let near = (worth - here.settled(&order) < 3.0 * NEAR).then(|| here.ahead(self.hold, &order, damping).0);
        let Stand { values: mut here, mut rows, .. } = here;
        if let Some(near) = near {
            self.frame.expect(&near, &mut rows);
            here = near;
        }
        let mut first = 0.0f64;
        // what the other readings say stays
        let mut fine: Option<Sums> = None;
        observed.iter_mut().for_each(Observed::begin_anew);
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

    /// What the straight unknowns lack at a new point, by the answers of the last.
    fn corrected<'v>(&self, last: &mut Stand<'v>, new: Values<'v>, observed: &[Observed], order: &Order, sds: &DVector<f64>) -> Values<'v> {
        self.frame.expect(&new, &mut last.rows);
        let mut downhill = DVector::zeros(new.x.len());
        for (r, o) in last.rows.iter().zip(observed) {
            let left: Vec<f64> = o.sites.iter().zip(r.expected.iter()).map(|(s, e)| s.value - e).collect();
            let by = o.whitening(self.states.noise(self.state, r.channel));
            let mut left = by.0.vector(left);
            by.0.back(&mut left);
            downhill.gemv_tr(1.0, &r.answers, &DVector::from_vec(left), 1.0);
        }
        downhill.component_mul_assign(sds);
        last.corrected(order, new, &downhill)
    }

    /// A point of the search.
    fn stand<'v>(&self, values: Values<'v>, observed: &[Observed], order: &Order, sds: &DVector<f64>) -> Stand<'v> {
        let (_, rows) = self.frame.linear(&values, &[]);
        let total = self.sums(&rows, observed, &values.x, |_| true);
        Stand::new(values, rows, &total, order, sds)
    }
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
/// Damping of the first step, and of that after one which led nowhere at least; that which lets nothing move.
const DAMPING: f64 = 0.01;
const HELD: f64 = 1e100;
/// A promise of less than this share of what would be enough is none.
const PROMISED: f64 = 0.3;
/// Beyond this damping nothing moves that is worth it.
const MOST_DAMPING: f64 = 1e3;

/// What is left to gain below which a last step needs no proof.
const NEAR: f64 = 1.0;
/// What the straight unknowns have to gain beyond which, as a share of what is left, the bent ones wait.
const UNSETTLED: f64 = 1.0;
