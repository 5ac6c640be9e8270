//! What an instrument shows of what is true: zero error, noise, resolution, end of scale, faults.

use crate::scenario::{Fault, RigInstrument};
use rand::RngExt;
use rand_chacha::ChaCha8Rng;

/// Standard normal by Box and Muller.
pub fn normal(random: &mut ChaCha8Rng) -> f64 {
    let (a, b): (f64, f64) = (random.random(), random.random());
    (-2.0 * a.max(1e-300).ln()).sqrt() * (std::f64::consts::TAU * b).cos()
}

/// An instrument at work.
#[derive(Debug, Clone)]
pub struct Shown {
    /// Its facts.
    pub facts: RigInstrument,
    /// What it shows, SI; none while it does not answer.
    pub value: Option<f64>,
    kept: f64,
}

impl Shown {
    /// Not yet read.
    pub fn new(facts: RigInstrument) -> Self {
        Self { facts, value: None, kept: 0.0 }
    }

    /// Shows a true value at a time. One draw of noise a step, whatever the faults, so that a fault does not change the rest of the run.
    pub fn show(&mut self, truth: f64, t_s: f64, random: &mut ChaCha8Rng) {
        let f = &self.facts;
        let mut value = truth + f.offset + f.noise * normal(random);
        let within = |from: f64, long: f64| t_s >= from && t_s < from + long;
        for fault in &f.faults {
            if let Fault::Leap { from_s, by } = fault
                && t_s >= *from_s
            {
                value += by;
            }
        }
        if f.resolution > 0.0 {
            value = (value / f.resolution).round() * f.resolution;
        }
        if f.full_scale > 0.0 {
            value = value.clamp(0.0, f.full_scale);
        }
        let stuck = f.faults.iter().any(|x| matches!(x, Fault::Stuck { from_s, for_s } if within(*from_s, *for_s)));
        let silent = f.faults.iter().any(|x| matches!(x, Fault::Silent { from_s, for_s } if within(*from_s, *for_s)));
        if !stuck {
            self.kept = value;
        }
        self.value = (!silent).then_some(self.kept);
    }
}
