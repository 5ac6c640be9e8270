//! What follows from a test pressure: what the blinds, the anchors, the supports, the pump and the clock must be. One consequence a file; [`lines`]
//! puts them together, each in one line for the step that needs it.

pub mod blind;
mod boundary;
pub mod drain;
pub mod fill;
pub mod gas;
mod line;
pub mod lines;
pub mod manifold;
pub(crate) mod metal;
pub mod pump;
mod relief;
pub mod soak;
pub mod thrust;
pub mod weight;
mod worn;

use crate::rule::Rule;

pub use line::Toward;

/// Rules of the consequences.
pub const RULES: &[&Rule] = &[
    &blind::SPADE,
    &blind::TEST_BLANK,
    &thrust::END,
    &thrust::BEND,
    &thrust::BLOCK,
    &weight::WATER,
    &manifold::PROOF,
    &pump::OVERSHOOT,
    &pump::TO_PUMP,
    &metal::METAL,
    &metal::CHLORIDE,
    &gas::OXYGEN,
    &fill::FILL,
    &fill::FLUSH,
    &soak::SOAK,
    &drain::VACUUM,
    &drain::TIME,
];
