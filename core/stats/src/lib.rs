//! Fits, noise models and intervals.

pub mod line;
pub mod quantile;
