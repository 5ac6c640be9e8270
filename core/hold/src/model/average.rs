//! The average over candidates: a mixture of normal distributions of the leak.

use statrs::distribution::{Continuous, ContinuousCDF, Normal};

/// One candidate's answer.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Component {
    /// Logarithm of its weight, up to a constant.
    pub(crate) log_weight: f64,
    /// Mean loss over the hold.
    pub(crate) mean: f64,
    /// Its variance.
    pub(crate) variance: f64,
    /// Rate at the end over the mean loss.
    pub(crate) end_over_mean: f64,
    /// Which start of the leak.
    pub(crate) start: usize,
}

/// A normalised mixture.
#[derive(Debug, Clone)]
pub(crate) struct Mixture {
    parts: Vec<(f64, Component)>,
}

impl Mixture {
    /// Of components; the lightest that together weigh less than a hundred-thousandth are left out.
    pub(crate) fn new(components: &[Component]) -> Self {
        let number = |c: &&Component| c.log_weight.is_finite() && c.mean.is_finite() && c.variance.is_finite();
        let components: Vec<Component> = components.iter().filter(number).copied().collect();
        let most = components.iter().map(|c| c.log_weight).fold(f64::NEG_INFINITY, f64::max);
        let mut kept: Vec<(f64, Component)> =
            components.iter().filter(|c| c.log_weight > most - 16.0).map(|c| ((c.log_weight - most).exp(), *c)).collect();
        kept.sort_by(|a, b| b.0.total_cmp(&a.0));
        let whole: f64 = kept.iter().map(|k| k.0).sum();
        let mut rest = whole;
        let enough = kept.iter().position(|k| {
            rest -= k.0;
            rest < 1e-5 * whole
        });
        kept.truncate(enough.map_or(kept.len(), |i| i + 1));
        let sum: f64 = kept.iter().map(|k| k.0).sum();
        Self { parts: kept.into_iter().map(|(w, c)| (w / sum, c)).collect() }
    }

    /// Weights with their components.
    pub(crate) fn parts(&self) -> &[(f64, Component)] {
        &self.parts
    }

    /// Mean.
    pub(crate) fn mean(&self) -> f64 {
        self.parts.iter().map(|(w, c)| w * c.mean).sum()
    }

    /// Standard deviation.
    pub(crate) fn sd(&self) -> f64 {
        let mean = self.mean();
        self.parts.iter().map(|(w, c)| w * (c.variance + (c.mean - mean).powi(2))).sum::<f64>().sqrt()
    }

    /// Value below which the share `p` lies, of the mean loss (or of the rate at the end).
    pub(crate) fn quantile(&self, p: f64, at_end: bool) -> f64 {
        let normal = Normal::standard();
        let parts: Vec<(f64, f64, f64)> = self
            .parts
            .iter()
            .map(|(w, c)| {
                let scale = if at_end { c.end_over_mean } else { 1.0 };
                (*w, scale * c.mean, (scale * c.variance.sqrt()).max(1e-300))
            })
            .collect();
        let (mut lo, mut hi) = parts
            .iter()
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), (_, mean, sd)| (lo.min(mean - 9.0 * sd), hi.max(mean + 9.0 * sd)));
        let close = 1e-11 * (hi - lo);
        // Newton's method, and the middle of what still holds the answer where that leads out of it
        let mut x = 0.5 * (lo + hi);
        while hi - lo > close {
            let over = parts.iter().map(|(w, mean, sd)| w * normal.cdf((x - mean) / sd)).sum::<f64>() - p;
            let density: f64 = parts.iter().map(|(w, mean, sd)| w * normal.pdf((x - mean) / sd) / sd).sum();
            if over < 0.0 {
                lo = x
            } else {
                hi = x
            }
            let newton = x - over / density;
            let next = if newton > lo && newton < hi { newton } else { 0.5 * (lo + hi) };
            if (next - x).abs() <= close {
                return next;
            }
            x = next;
        }
        x
    }
}

/// Logarithm of the sum of the weights.
pub(crate) fn evidence(components: &[Component]) -> f64 {
    let most = components.iter().map(|c| c.log_weight).fold(f64::NEG_INFINITY, f64::max);
    most + components.iter().map(|c| (c.log_weight - most).exp()).sum::<f64>().ln()
}

#[cfg(test)]
mod tests {
    use super::{Component, Mixture};
    use proptest::prelude::*;
    use statrs::distribution::{ContinuousCDF, Normal};

    proptest! {
        /// However far apart and however unlike the parts are.
        #[test]
        fn below_a_quantile_lies_its_share(
            parts in prop::collection::vec((-8.0f64..0.0, -30.0f64..30.0, 1e-3f64..10.0, 0.5f64..2.0), 1..6),
            p in prop::sample::select(vec![0.025, 0.5, 0.975, 0.999]),
            at_end in any::<bool>(),
        ) {
            let of = |&(log_weight, mean, sd, end_over_mean): &(f64, f64, f64, f64)| Component { log_weight, mean, variance: sd * sd, end_over_mean, start: 0 };
            let mixture = Mixture::new(&parts.iter().map(of).collect::<Vec<_>>());
            let x = mixture.quantile(p, at_end);
            let below: f64 = mixture.parts().iter().map(|(w, c)| {
                let scale = if at_end { c.end_over_mean } else { 1.0 };
                w * Normal::standard().cdf((x - scale * c.mean) / (scale * c.variance.sqrt()))
            }).sum();
            prop_assert!((below - p).abs() < 1e-6, "{below} below {x}");
        }
    }
}
