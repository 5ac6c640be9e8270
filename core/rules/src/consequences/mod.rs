//! What follows from a test pressure: what the blinds, the anchors, the supports, the pump and the clock must be. One consequence a file.

pub mod blind;
pub mod drain;
pub mod fill;
pub mod manifold;
pub mod pump;
pub mod thrust;
pub mod weight;

use crate::rule::Rule;

/// Rules of the consequences.
pub const RULES: &[&Rule] = &[
    &blind::SPADE,
    &blind::TEST_BLANK,
    &thrust::END,
    &thrust::BEND,
    &weight::WATER,
    &fill::FILL,
    &fill::FLUSH,
    &manifold::PROOF,
    &pump::OVERSHOOT,
    &drain::VACUUM,
    &drain::TIME,
];
