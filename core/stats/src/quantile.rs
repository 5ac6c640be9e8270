//! Quantiles of the usual distributions.

use statrs::distribution::{ContinuousCDF, Normal, StudentsT};

/// Quantile of the standard normal distribution. Range: 0 < p < 1, otherwise NaN.
pub fn normal(p: f64) -> f64 {
    if p > 0.0 && p < 1.0 { Normal::standard().inverse_cdf(p) } else { f64::NAN }
}

/// Quantile of Student's distribution with `degrees` of freedom. Range: 0 < p < 1, degrees > 0, otherwise NaN.
pub fn student(p: f64, degrees: f64) -> f64 {
    match StudentsT::new(0.0, 1.0, degrees) {
        Ok(t) if p > 0.0 && p < 1.0 => t.inverse_cdf(p),
        _ => f64::NAN,
    }
}
