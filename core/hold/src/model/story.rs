//! What the most probable path says in pressures: what heat alone would have done, what relaxes, what leaks.

use super::normal_equations::Solved;
use super::path::{self, Path, Values, Weighed};
use super::prior::{self, Unknown};
use super::setup::Setup;
use crate::input::Hold;
use nalgebra::DVector;

/// The first gauge's pressure at one time, Pa gauge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Moment {
    /// Time, s.
    pub t: f64,
    /// The most probable path.
    pub fitted: f64,
    /// The same without a leak.
    pub without_leak: f64,
}

/// A fall of pressure over the hold and its standard deviation, Pa.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Share {
    /// The fall; negative for a rise.
    pub fall: f64,
    /// Its standard deviation.
    pub sd: f64,
}

/// What the fall over the hold comes from. The four add up to the fall of the most probable path.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Shares {
    /// Heat: fluid and walls cooling or warming.
    pub heat: Share,
    /// Relaxation: creep, air going into solution, gaskets setting.
    pub relaxation: Share,
    /// What was let out or pumped in.
    pub steps: Share,
    /// The leak.
    pub leak: Share,
}

/// The most probable path and its shares.
#[derive(Debug, Clone, Default)]
pub struct Story {
    /// The path.
    pub moments: Vec<Moment>,
    /// Shares of the fall.
    pub shares: Shares,
}

fn group(unknown: Unknown) -> Option<usize> {
    Some(match unknown {
        Unknown::Surroundings(_) | Unknown::Filling | Unknown::SkinLag(_) | Unknown::FluidLag(_) => 0,
        Unknown::Creep | Unknown::DrawnBack | Unknown::AirShare | Unknown::AirTime | Unknown::GasketShare | Unknown::GasketTime => 1,
        Unknown::Step(_) => 2,
        Unknown::Leak | Unknown::LeakStart => 3,
        _ => return None,
    })
}

/// Everything of the heaviest candidate that a story is told from.
pub(crate) struct Told<'a> {
    pub(crate) setup: &'a Setup,
    pub(crate) hold: &'a Hold,
    pub(crate) values: Values<'a>,
    pub(crate) path: &'a Path,
    /// About where a leak starts, s.
    pub(crate) leak_from: f64,
    /// Answers of the first gauge at its last reading, and at its first.
    pub(crate) jacobian: (Vec<f64>, Vec<f64>),
    /// What the gauge shows over the path, Pa.
    pub(crate) shown: f64,
    pub(crate) solved: &'a Solved,
    pub(crate) sds: &'a DVector<f64>,
    /// Variances are widened by this.
    pub(crate) widen: f64,
}

impl Told<'_> {
    fn pressures(&self, hold: &Hold, without: &[Unknown]) -> Vec<f64> {
        let mut x = self.values.x.clone();
        for (j, u) in self.values.unknowns.iter().enumerate() {
            if without.contains(u) {
                x[j] = match u {
                    Unknown::AirShare => -prior::AIR_SHARE.0,
                    Unknown::GasketShare => -prior::GASKET_SHARE.0,
                    _ => 0.0,
                };
            }
        }
        let values = Values { unknowns: self.values.unknowns, x };
        path::solve(
            hold,
            &self.setup.grid,
            &self.setup.surroundings,
            &self.setup.content,
            &values,
            (self.setup.start_pa, self.leak_from),
            Weighed::No,
        )
        .p
    }

    /// Standard deviation of a group's share.
    fn sd(&self, wanted: usize) -> f64 {
        let n = self.sds.len();
        let mut a = DVector::zeros(n);
        for (j, u) in self.values.unknowns.iter().enumerate() {
            if group(*u) == Some(wanted) {
                a[j] = (self.jacobian.0[j] - self.jacobian.1[j]) * self.sds[j];
            }
        }
        self.solved.lower.l_dirty().solve_lower_triangular_mut(&mut a);
        (a.norm_squared() * self.widen).sqrt()
    }

    /// The story.
    pub(crate) fn story(&self) -> Story {
        let fall = |p: &[f64]| p[0] - p[p.len() - 1];
        let without_leak = self.pressures(self.hold, &[Unknown::Leak]);
        let still = Hold {
            bodies: self.hold.bodies.iter().map(|b| crate::input::Body { creep: None, ..b.clone() }).collect(),
            ..self.hold.clone()
        };
        let relaxing = [Unknown::Leak, Unknown::AirShare, Unknown::GasketShare];
        let with_steps = self.pressures(&still, &relaxing);
        let heat_alone = self.pressures(&Hold { steps: Vec::new(), ..still }, &relaxing);
        let shares = Shares {
            heat: Share { fall: fall(&heat_alone), sd: self.sd(0) },
            steps: Share { fall: fall(&with_steps) - fall(&heat_alone), sd: self.sd(2) },
            relaxation: Share { fall: fall(&without_leak) - fall(&with_steps), sd: self.sd(1) },
            leak: Share { fall: fall(&self.path.p) - fall(&without_leak), sd: self.sd(3) },
        };
        let moment = |k: usize| Moment {
            t: self.setup.grid.times[k],
            fitted: self.path.p[k] + self.shown,
            without_leak: without_leak[k] + self.shown,
        };
        Story { moments: (0..self.path.p.len()).map(moment).collect(), shares }
    }
}
