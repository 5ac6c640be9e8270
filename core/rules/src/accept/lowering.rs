//! How a wall that creeps is brought to its hold: it stretches at test pressure, perhaps waits with the pump off, and is lowered.

use super::{Contraction, Criterion, Expansion};
use quantity::{GaugePressure, PressureDifference, Span};

/// What is lowered by hand ends within this share of what was meant (common practice).
pub const LOWERED_WITHIN: f64 = 0.2;

/// What lies between the test pressure and the hold.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lowering {
    /// At test pressure, pumped up as the wall stretches, for so long, s.
    pub stretch_s: Span,
    /// From the test pressure to where the hold begins, as a rule, Pa.
    pub usual_pa: PressureDifference,
    /// The same at most, Pa.
    pub most_pa: PressureDifference,
    /// Where it is lowered by a quick fall after a wait.
    pub quick: Option<QuickFall>,
}

/// Shares from the least to the greatest.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shares {
    /// The least.
    pub least: f64,
    /// The greatest.
    pub most: f64,
}

/// A quick fall after a wait with the pump off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct QuickFall {
    /// The wait, s.
    pub wait_s: Span,
    /// How far it may fall in the wait, share.
    pub wait_fall_share: f64,
    /// Least and greatest quick fall, shares of the pressure after the wait.
    pub shares: Shares,
}

/// Of a test at a pressure; none where its basis lets it be held as it was raised.
pub fn lowering(criteria: &[Criterion], test: GaugePressure) -> Option<Lowering> {
    criteria.iter().find_map(|c| match c {
        Criterion::Expansion(e) => Some(after_expansion(e)),
        Criterion::Contraction(c) => Some(by_quick_fall(c, test)),
        _ => None,
    })
}

fn after_expansion(e: &Expansion) -> Lowering {
    Lowering { stretch_s: e.least_s, usual_pa: e.lowered_pa, most_pa: e.lowered_pa, quick: None }
}

fn by_quick_fall(c: &Contraction, test: GaugePressure) -> Lowering {
    let shares = Shares { least: c.least_drop_share, most: c.most_drop_share };
    // as a rule it falls by half of what it may, and is lowered by the middle
    let fallen = |wait: f64, quick: f64| PressureDifference::from_pa((1.0 - (1.0 - wait) * (1.0 - quick)) * test.pa());
    Lowering {
        stretch_s: c.stretch_s,
        usual_pa: fallen(0.5 * c.wait_fall_share, 0.5 * (shares.least + shares.most)),
        most_pa: fallen(c.wait_fall_share, shares.most),
        quick: Some(QuickFall { wait_s: c.wait_s, wait_fall_share: c.wait_fall_share, shares }),
    }
}
