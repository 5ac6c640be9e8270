//! Fits, noise models and intervals.

pub mod least_squares;
pub mod line;
pub mod quantile;
