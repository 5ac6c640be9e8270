//! The model of a hold: heat, mass balance, noise; its fit and the average over candidates.

mod average;
mod blocks;
mod causes;
mod class;
mod columns;
mod content;
mod density;
mod error;
mod fit;
mod grid;
mod interval;
#[cfg(test)]
mod jacobian_test;
mod limits;
mod linearised;
mod noise;
mod normal_equations;
mod observed;
mod optimise;
mod path;
mod prior;
mod search;
mod setup;
mod shapes;
mod spread;
mod states;
mod story;
mod thermal;
mod whitening;
mod within;

pub use error::FitError;
pub use fit::{Fitted, Memory, Problem, fit, fit_again};
pub use limits::planned_detection_limit;
pub use prior::{Causes, Unknown};
pub use story::{Moment, Share, Shares, Story};

use crate::input::{Fluid, Hold};

/// True for a gas, whose lost volumes are normal volumes.
fn path_is_gas(hold: &Hold) -> bool {
    matches!(hold.fluid, Fluid::Gas(_))
}

/// True for water.
fn path_is_water(hold: &Hold) -> bool {
    !path_is_gas(hold)
}
