//! A straight line through a time series whose noise is correlated.

/// A fitted line y = a + b·t.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LineFit {
    /// a, at t = 0.
    pub intercept: f64,
    /// b.
    pub slope: f64,
    /// Standard deviation of b, the correlation of the noise included.
    pub slope_sd: f64,
    /// Standard deviation of the noise about the line.
    pub noise_sd: f64,
    /// Correlation of the noise between neighbours at the median spacing, 0 to 0.98.
    pub correlation: f64,
    /// Degrees of freedom that the correlation leaves, at least 1.
    pub degrees: f64,
}

/// Why no line can be fitted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum LineError {
    /// Too few points.
    #[error("a line with an interval needs at least 4 points, there are {0}")]
    TooFew(usize),
    /// Times that do not rise, or figures that are not finite.
    #[error("times must rise and every figure must be finite")]
    NotRising,
}

/// Fits a line with first-order correlated noise.
///
/// Generalised least squares by Prais and Winsten's transformation, iterated: the correlation is estimated from the
/// residuals, raised for its bias in a short record with a trend by (1 + 4φ)/n, and taken as φ^(Δt/Δt_median) between neighbours of any
/// spacing. Units: those of `t` and `y`. Range: at least 4 points. The interval covers at its nominal rate for noise of first
/// order; source: Prais and Winsten (1954), Cowles discussion paper 383; bias after Kendall (1954), Biometrika 41.
///
/// # Errors
/// Too few points or times that do not rise.
pub fn with_correlated_noise(t: &[f64], y: &[f64]) -> Result<LineFit, LineError> {
    let n = t.len().min(y.len());
    if n < 4 {
        return Err(LineError::TooFew(n));
    }
    let rising = t.windows(2).all(|w| w[1] > w[0]);
    if !rising || !t.iter().chain(y).all(|v| v.is_finite()) {
        return Err(LineError::NotRising);
    }
    let mut gaps: Vec<f64> = t.windows(2).map(|w| w[1] - w[0]).collect();
    let median = {
        let mut sorted = gaps.clone();
        sorted.sort_by(f64::total_cmp);
        sorted[sorted.len() / 2]
    };
    gaps.iter_mut().for_each(|g| *g /= median);
    let mut phi = 0.0;
    let mut fit = weighted(t, y, &gaps, phi);
    for _ in 0..8 {
        let next = correlation(t, y, &gaps, &fit);
        if (next - phi).abs() < 1e-4 {
            break;
        }
        phi = next;
        fit = weighted(t, y, &gaps, phi);
    }
    Ok(fit)
}

/// Correlation of the residuals between neighbours no further apart than twice the median, bias-raised.
fn correlation(t: &[f64], y: &[f64], gaps: &[f64], fit: &LineFit) -> f64 {
    let r: Vec<f64> = t.iter().zip(y).map(|(t, y)| y - fit.intercept - fit.slope * t).collect();
    let (mut cross, mut square, mut pairs) = (0.0, 0.0, 0usize);
    for (i, gap) in gaps.iter().enumerate() {
        if *gap <= 2.0 {
            cross += r[i] * r[i + 1];
            square += 0.5 * (r[i] * r[i] + r[i + 1] * r[i + 1]);
            pairs += 1;
        }
    }
    if square <= 0.0 || pairs == 0 {
        return 0.0;
    }
    let raw = cross / square;
    (raw + (1.0 + 4.0 * raw) / pairs as f64).clamp(0.0, 0.98)
}

/// Least squares after whitening with φ per median spacing.
fn weighted(t: &[f64], y: &[f64], gaps: &[f64], phi: f64) -> LineFit {
    let n = t.len();
    // centred and scaled time keeps the normal equations well conditioned
    let (t0, scale) = (0.5 * (t[0] + t[n - 1]), 0.5 * (t[n - 1] - t[0]));
    let (mut s1, mut sx, mut sxx, mut sy, mut sxy, mut syy) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
    for i in 0..n {
        let x = (t[i] - t0) / scale;
        let (one, x, y) = if i == 0 {
            (1.0, x, y[i])
        } else {
            let rho = if phi > 0.0 { phi.powf(gaps[i - 1]) } else { 0.0 };
            let w = 1.0 / (1.0 - rho * rho).sqrt();
            let before = (t[i - 1] - t0) / scale;
            ((1.0 - rho) * w, (x - rho * before) * w, (y[i] - rho * y[i - 1]) * w)
        };
        s1 += one * one;
        sx += one * x;
        sxx += x * x;
        sy += one * y;
        sxy += x * y;
        syy += y * y;
    }
    let det = s1 * sxx - sx * sx;
    let a = (sxx * sy - sx * sxy) / det;
    let b = (s1 * sxy - sx * sy) / det;
    let sse = (syy - a * sy - b * sxy).max(0.0);
    let variance = sse / (n as f64 - 2.0);
    let effective = n as f64 * (1.0 - phi) / (1.0 + phi);
    LineFit {
        intercept: a - b * t0 / scale,
        slope: b / scale,
        slope_sd: (variance * s1 / det).sqrt() / scale,
        noise_sd: variance.sqrt(),
        correlation: phi,
        degrees: (effective - 2.0).max(1.0),
    }
}
