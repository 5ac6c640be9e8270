//! Noise of a gauge: white, rounded, and correlated with itself.

use nalgebra::{DMatrix, DVector};

/// Correlated noise of a gauge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Correlated {
    /// Standard deviation, Pa.
    pub(crate) sd: f64,
    /// Time over which it forgets, s.
    pub(crate) tau: f64,
}

/// A block as the noise sees it.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Averaged {
    /// Middle, s.
    pub(crate) t: f64,
    /// Length, s; nil for one reading.
    pub(crate) length: f64,
    /// Number of readings.
    pub(crate) count: f64,
    /// Variance of its mean from noise that forgets at once, Pa².
    pub(crate) white: f64,
}

/// True for an instrument whose noise does not carry a reading over the edges of a division: rounding does not average out.
pub(crate) fn is_quiet(sd: f64, division: f64) -> bool {
    division > 2.5 * sd
}

/// Variance of the mean of so many readings of an instrument that is not quiet: rounding averages out as noise does.
pub(crate) fn variance_of_mean(sd: f64, division: f64, count: f64) -> f64 {
    (sd * sd + division * division / 12.0) / count
}

/// Rounding of a quiet instrument that shows these values at these times, wherever they happen to lie within a division. Of a value that moves
/// evenly the error is a saw; its autocorrelation 1 − 6u, u the share of the time over one division, falls like one that forgets over a sixth
/// of that time. A value that stays within one division is known no better than one that just crosses it.
pub(crate) fn rounding(division: f64, times: &[f64], values: &[f64]) -> Correlated {
    let moved: f64 = values.windows(2).map(|v| (v[1] - v[0]).abs()).sum();
    let took = times.last().map_or(0.0, |last| last - times[0]);
    Correlated { sd: division / 12f64.sqrt(), tau: (division * took / (6.0 * moved.max(division))).max(1.0) }
}

/// Covariance of block means: white noise on the diagonal, and for each correlated noise an Ornstein–Uhlenbeck process averaged over each block.
pub(crate) fn covariance(blocks: &[Averaged], noises: impl Iterator<Item = Correlated>) -> DMatrix<f64> {
    let mut c = DMatrix::from_diagonal(&DVector::from_iterator(blocks.len(), blocks.iter().map(|b| b.white)));
    noises.for_each(|noise| add_process(&mut c, blocks, noise));
    c
}

fn add_process(c: &mut DMatrix<f64>, blocks: &[Averaged], noise: Correlated) {
    let (tau, var) = (noise.tau, noise.sd * noise.sd);
    // averaging over a block: sinh(h/2τ)/(h/2τ), kept together with the distance so that nothing overflows
    let spread = |h: f64| h / (2.0 * tau);
    for (i, a) in blocks.iter().enumerate() {
        let h = a.length / tau;
        let own = if h > 1e-6 { 2.0 / h * (1.0 - (1.0 - (-h).exp()) / h) } else { 1.0 };
        c[(i, i)] += var * own.max(1.0 / a.count).min(1.0);
        for (j, b) in blocks.iter().enumerate().take(i) {
            let distance = (a.t - b.t).abs() / tau;
            let (x, y) = (spread(a.length), spread(b.length));
            let shape = |v: f64| if v > 1e-3 { (1.0 - (-2.0 * v).exp()) / (2.0 * v) } else { 1.0 - v };
            // sinh(v)/v = e^v·shape(v)
            let value = var * shape(x) * shape(y) * (x + y - distance).min(0.0).exp();
            c[(i, j)] += value;
            c[(j, i)] += value;
        }
    }
}
