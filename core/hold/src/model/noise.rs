//! Noise of a gauge: white, rounded, and correlated with itself.

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

impl Averaged {
    /// When it starts, s.
    pub(crate) fn start(&self) -> f64 {
        self.t - 0.5 * self.length
    }

    /// When it ends, s.
    pub(crate) fn end(&self) -> f64 {
        self.t + 0.5 * self.length
    }
}

impl Correlated {
    /// Variance of a block's mean.
    pub(crate) fn within(&self, block: &Averaged) -> f64 {
        let h = block.length / self.tau;
        let own = if h > 1e-6 { 2.0 / h * (1.0 - (1.0 - (-h).exp()) / h) } else { 1.0 };
        self.sd * self.sd * own.max(1.0 / block.count).min(1.0)
    }

    /// Share of a block's mean in the noise at the block's nearer end: (1 − e^(−h/τ))/(h/τ).
    pub(crate) fn shape(&self, block: &Averaged) -> f64 {
        let h = block.length / self.tau;
        if h > 2e-3 { (1.0 - (-h).exp()) / h } else { 1.0 - 0.5 * h }
    }
}

/// Covariance of block means: white noise of variance one, and for each correlated noise an Ornstein–Uhlenbeck process averaged over each block.
#[cfg(test)]
pub(crate) fn covariance(blocks: &[Averaged], noises: impl Iterator<Item = Correlated>) -> nalgebra::DMatrix<f64> {
    let mut c = nalgebra::DMatrix::identity(blocks.len(), blocks.len());
    for noise in noises {
        for (i, a) in blocks.iter().enumerate() {
            c[(i, i)] += noise.within(a);
            for (j, b) in blocks.iter().enumerate().take(i) {
                let decay = (-(a.start() - b.end()) / noise.tau).min(0.0).exp();
                c[(i, j)] += noise.sd * noise.sd * noise.shape(a) * noise.shape(b) * decay;
                c[(j, i)] = c[(i, j)];
            }
        }
    }
    c
}
