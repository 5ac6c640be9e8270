//! Weighted least squares with prior knowledge and with parameters that may not be negative.

use nalgebra::{DMatrix, DVector};

/// One observation: y = Σ xᵢ·θᵢ + noise of standard deviation `sd`.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// Coefficients, one for each parameter.
    pub x: Vec<f64>,
    /// Observed.
    pub y: f64,
    /// Standard deviation of the observation, above zero.
    pub sd: f64,
}

/// What is known of a parameter before the data.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Prior {
    /// nothing
    Free,
    /// about zero, with this standard deviation
    AboutZero(f64),
}

/// Estimate with its covariance.
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    /// Parameters.
    pub theta: Vec<f64>,
    /// Covariance, row by row.
    pub covariance: Vec<Vec<f64>>,
    /// Sum of squared residuals over their variances, those against the priors included; about `degrees` when the noise is as stated.
    pub chi_squared: f64,
    /// Observations less free parameters.
    pub degrees: f64,
}

/// Why nothing can be fitted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum FitError {
    /// More free parameters than observations.
    #[error("{rows} observations do not settle {parameters} parameters: take more readings")]
    TooFew {
        /// observations
        rows: usize,
        /// parameters
        parameters: usize,
    },
    /// The observations do not tell the parameters apart.
    #[error("the observations do not tell the parameters apart: take readings over a wider range")]
    Singular,
}

/// Least squares with priors.
///
/// Formula: θ = (XᵀWX + P)⁻¹XᵀWy with W = diag(1/sd²) and P the precision of the priors; covariance (XᵀWX + P)⁻¹. Columns are
/// scaled before the inversion. Range: at least as many rows as free parameters. Source: generalised least squares with a
/// Gaussian prior, any text on linear models.
///
/// # Errors
/// Too few rows, or a singular system.
pub fn fit(rows: &[Row], priors: &[Prior]) -> Result<Fit, FitError> {
    let k = priors.len();
    let free = priors.iter().filter(|p| **p == Prior::Free).count();
    if rows.len() < free.max(1) {
        return Err(FitError::TooFew { rows: rows.len(), parameters: free });
    }
    let x = DMatrix::from_fn(rows.len(), k, |i, j| rows[i].x[j] / rows[i].sd);
    let y = DVector::from_fn(rows.len(), |i, _| rows[i].y / rows[i].sd);
    let precision = |j: usize| match priors[j] {
        Prior::Free => 0.0,
        Prior::AboutZero(sd) => 1.0 / (sd * sd),
    };
    let scale: Vec<f64> = (0..k).map(|j| (x.column(j).norm_squared() + precision(j)).sqrt().max(f64::MIN_POSITIVE)).collect();
    let scaled = DMatrix::from_fn(rows.len(), k, |i, j| x[(i, j)] / scale[j]);
    let mut normal = scaled.transpose() * &scaled;
    for j in 0..k {
        normal[(j, j)] += precision(j) / (scale[j] * scale[j]);
    }
    // columns have unit length: an eigenvalue at rounding level means that two of them say the same
    let least = normal.clone().symmetric_eigen().eigenvalues.min();
    // not a number is singular too
    if least.partial_cmp(&1e-13) != Some(std::cmp::Ordering::Greater) {
        return Err(FitError::Singular);
    }
    let inverse = normal.try_inverse().ok_or(FitError::Singular)?;
    let solved = &inverse * scaled.transpose() * &y;
    let theta: Vec<f64> = (0..k).map(|j| solved[j] / scale[j]).collect();
    let residual = &y - &x * DVector::from_column_slice(&theta);
    let against_priors: f64 = (0..k).map(|j| theta[j] * theta[j] * precision(j)).sum();
    Ok(Fit {
        covariance: (0..k).map(|i| (0..k).map(|j| inverse[(i, j)] / (scale[i] * scale[j])).collect()).collect(),
        chi_squared: residual.norm_squared() + against_priors,
        degrees: rows.len() as f64 - free as f64,
        theta,
    })
}

/// The same where some parameters may not be negative (`bounded`): the best of all subsets that are held at zero.
///
/// Non-negative least squares for a handful of parameters: a subset fits when every bounded parameter in it comes out at or
/// above zero; of those the one with the least χ² is the solution (Lawson and Hanson, Solving Least Squares Problems, 1974,
/// chapter 23, whose active-set search this enumerates). Range: at most 16 bounded parameters.
///
/// # Errors
/// As [`fit`].
pub fn fit_non_negative(rows: &[Row], priors: &[Prior], bounded: &[usize]) -> Result<Fit, FitError> {
    let mut best: Option<Fit> = None;
    let mut failure = FitError::Singular;
    for held in 0..(1u32 << bounded.len()) {
        let zero: Vec<usize> = bounded.iter().enumerate().filter(|(i, _)| held >> i & 1 == 1).map(|(_, b)| *b).collect();
        let kept: Vec<usize> = (0..priors.len()).filter(|j| !zero.contains(j)).collect();
        let reduced: Vec<Row> = rows.iter().map(|r| Row { x: kept.iter().map(|j| r.x[*j]).collect(), ..*r }).collect();
        let kept_priors: Vec<Prior> = kept.iter().map(|j| priors[*j]).collect();
        match fit(&reduced, &kept_priors) {
            Err(e) => failure = e,
            Ok(part) => {
                let mut theta = vec![0.0; priors.len()];
                let mut covariance = vec![vec![0.0; priors.len()]; priors.len()];
                for (a, i) in kept.iter().enumerate() {
                    theta[*i] = part.theta[a];
                    for (b, j) in kept.iter().enumerate() {
                        covariance[*i][*j] = part.covariance[a][b];
                    }
                }
                let inside = bounded.iter().all(|b| theta[*b] >= 0.0);
                if inside && best.as_ref().is_none_or(|b| part.chi_squared < b.chi_squared) {
                    best = Some(Fit { theta, covariance, ..part });
                }
            }
        }
    }
    best.ok_or(failure)
}
