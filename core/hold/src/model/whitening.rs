//! Noise taken out of a channel's readings.
//!
//! Block means with noise that forgets exponentially have a covariance of the form u_i·g_ij·v_j (j < i) with g a product of decays from block to
//! block; its Cholesky factor has the same form and takes a number of steps in proportion to the number of blocks (Foreman-Mackey et al. 2017,
//! from memory), where a full matrix takes the cube.

use super::noise::{Averaged, Correlated};
use super::observed::Observed;
use nalgebra::DMatrix;

/// What takes the noise out: the inverse of the covariance's Cholesky factor.
#[derive(Debug)]
pub(crate) enum Whitening {
    /// each reading by itself: one over its standard deviation
    Apart(Vec<f64>),
    /// correlated
    Together(Factor),
}

/// Cholesky factor of a covariance of decaying noises on top of white noise.
#[derive(Debug)]
pub(crate) struct Factor {
    /// One over the root of each pivot.
    scale: Vec<f64>,
    noises: Vec<Decaying>,
}

/// One decaying noise within the factor, for each block.
#[derive(Debug)]
struct Decaying {
    /// What a block takes of what came before.
    takes: Vec<f64>,
    /// What it hands on of itself.
    gives: Vec<f64>,
    /// What is kept from the start of the block before to that of this one.
    kept: Vec<f64>,
    /// What is kept from the end of the block before to the start of this one.
    passed: Vec<f64>,
}

impl Whitening {
    /// For readings as they stand, with the logarithm of the covariance's determinant.
    pub(crate) fn new(observed: &Observed, noise: Option<Correlated>) -> (Self, f64) {
        let noises: Vec<Correlated> = observed.alike(noise).collect();
        if noises.is_empty() {
            let log_det = observed.sites.iter().map(|s| s.variance.ln()).sum();
            return (Self::Apart(observed.sites.iter().map(|s| 1.0 / s.variance.sqrt()).collect()), log_det);
        }
        let white: Vec<f64> = observed.sites.iter().map(|s| s.variance).collect();
        let factor = Factor::new(&observed.averaged, &white, &noises);
        let log_det = -2.0 * factor.scale.iter().map(|s| s.ln()).sum::<f64>();
        (Self::Together(factor), log_det)
    }

    /// Takes the noise out of a column.
    fn column(&self, y: &mut [f64]) {
        match self {
            Self::Together(factor) => factor.forward(y, 0),
            Self::Apart(scale) => y.iter_mut().zip(scale).for_each(|(y, s)| *y *= s),
        }
    }

    /// Takes the noise out of each column.
    pub(crate) fn matrix(&self, mut m: DMatrix<f64>) -> DMatrix<f64> {
        let rows = m.nrows().max(1);
        m.as_mut_slice().chunks_exact_mut(rows).for_each(|column| self.column(column));
        m
    }

    /// Takes the noise out of a vector.
    pub(crate) fn vector(&self, mut v: Vec<f64>) -> Vec<f64> {
        self.column(&mut v);
        v
    }

    /// The transpose of it, times each column.
    pub(crate) fn back(&self, columns: &mut [f64]) {
        let n = match self {
            Self::Together(factor) => factor.scale.len(),
            Self::Apart(scale) => scale.len(),
        };
        for y in columns.chunks_exact_mut(n.max(1)) {
            match self {
                Self::Together(factor) => factor.backward(y),
                Self::Apart(scale) => y.iter_mut().zip(scale).for_each(|(y, s)| *y *= s),
            }
        }
    }

    /// The diagonal of the covariance's inverse.
    pub(crate) fn precisions(&self) -> Vec<f64> {
        match self {
            Self::Apart(scale) => scale.iter().map(|s| s * s).collect(),
            Self::Together(factor) => {
                let n = factor.scale.len();
                let mut unit = vec![0.0; n];
                (0..n)
                    .map(|i| {
                        unit[i..].fill(0.0);
                        unit[i] = 1.0;
                        factor.forward(&mut unit, i);
                        unit[i..].iter().map(|v| v * v).sum()
                    })
                    .collect()
            }
        }
    }
}

impl Factor {
    /// Of blocks with white noise of these variances and noises that forget, each averaged over the blocks.
    fn new(blocks: &[Averaged], white: &[f64], noises: &[Correlated]) -> Self {
        let diagonal: Vec<f64> = blocks.iter().zip(white).map(|(b, w)| w + noises.iter().map(|n| n.within(b)).sum::<f64>()).collect();
        // averaging over unequal blocks can leave a hair of indefiniteness
        [1.0, 1.01, 1.1, 2.0]
            .into_iter()
            .find_map(|more| Self::of(blocks, &diagonal.iter().map(|d| d * more).collect::<Vec<_>>(), noises))
            .unwrap_or_else(|| Self::alone(&diagonal))
    }

    /// Each block by itself.
    fn alone(diagonal: &[f64]) -> Self {
        Self { scale: diagonal.iter().map(|d| 1.0 / d.max(f64::MIN_POSITIVE).sqrt()).collect(), noises: Vec::new() }
    }

    /// None where a pivot is not positive.
    fn of(blocks: &[Averaged], diagonal: &[f64], noises: &[Correlated]) -> Option<Self> {
        let n = blocks.len();
        let count = noises.len();
        let mut out: Vec<Decaying> = noises
            .iter()
            .map(|noise| {
                let shapes: Vec<f64> = blocks.iter().map(|b| noise.shape(b)).collect();
                let since = |from: &dyn Fn(&Averaged) -> f64| -> Vec<f64> {
                    let decay = |b: &[Averaged]| (-(b[1].start() - from(&b[0])) / noise.tau).min(0.0).exp();
                    std::iter::once(0.0).chain(blocks.windows(2).map(decay)).collect()
                };
                Decaying {
                    takes: shapes.iter().map(|s| s * noise.sd * noise.sd).collect(),
                    gives: shapes,
                    kept: since(&|b| b.start()),
                    passed: since(&|b| b.end()),
                }
            })
            .collect();
        // what the blocks so far have explained, of each noise with each
        let mut explained = vec![0.0; count * count];
        let mut scale = Vec::with_capacity(n);
        let mut pivot = 0.0;
        for i in 0..n {
            for a in 0..count {
                for b in 0..count {
                    let (x, y) = (&out[a], &out[b]);
                    let new = if i > 0 { x.passed[i] * y.passed[i] * x.gives[i - 1] * y.gives[i - 1] * pivot } else { 0.0 };
                    explained[a * count + b] = x.kept[i] * y.kept[i] * explained[a * count + b] + new;
                }
            }
            let of = |a: usize| (0..count).map(|b| explained[a * count + b] * out[b].takes[i]).sum::<f64>();
            let known: Vec<f64> = (0..count).map(of).collect();
            pivot = diagonal[i] - known.iter().zip(&out).map(|(k, o)| k * o.takes[i]).sum::<f64>();
            if pivot <= 1e-9 * diagonal[i] || !pivot.is_finite() {
                return None;
            }
            scale.push(1.0 / pivot.sqrt());
            for ((o, known), noise) in out.iter_mut().zip(known).zip(noises) {
                let within = (-blocks[i].length / noise.tau).exp();
                o.gives[i] = (o.gives[i] - within * known) / pivot;
            }
        }
        Some(Self { scale, noises: out })
    }

    /// Solves with the factor, in place, from a row on before which all is nil.
    fn forward(&self, y: &mut [f64], from: usize) {
        match self.noises.as_slice() {
            [one] => {
                let (mut carried, mut last) = (0.0, 0.0);
                for (i, y) in (from..).zip(&mut y[from..]) {
                    if i > from {
                        carried = one.kept[i] * carried + one.passed[i] * one.gives[i - 1] * last;
                    }
                    last = *y - one.takes[i] * carried;
                    *y = last * self.scale[i];
                }
            }
            noises => {
                let mut carried = vec![0.0; noises.len()];
                let mut last = 0.0;
                for (i, y) in (from..).zip(&mut y[from..]) {
                    for (c, noise) in carried.iter_mut().zip(noises).filter(|_| i > from) {
                        *c = noise.kept[i] * *c + noise.passed[i] * noise.gives[i - 1] * last;
                    }
                    last = *y - carried.iter().zip(noises).map(|(c, noise)| c * noise.takes[i]).sum::<f64>();
                    *y = last * self.scale[i];
                }
            }
        }
    }

    /// The transpose of `forward`.
    fn backward(&self, y: &mut [f64]) {
        let n = y.len();
        let mut carried = vec![0.0; self.noises.len()];
        for i in (0..n).rev() {
            let mut x = y[i] * self.scale[i];
            for (c, noise) in carried.iter().zip(&self.noises).filter(|_| i + 1 < n) {
                x -= noise.gives[i] * noise.passed[i + 1] * c;
            }
            for (c, noise) in carried.iter_mut().zip(&self.noises) {
                let kept = if i + 1 < n { noise.kept[i + 1] * *c } else { 0.0 };
                *c = noise.takes[i] * x + kept;
            }
            y[i] = x;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::{Factor, Whitening};
    use crate::model::noise::{Averaged, Correlated, covariance};
    use nalgebra::{Cholesky, DMatrix, DVector};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn the_factor_is_that_of_the_full_covariance(
            lengths in prop::collection::vec(10.0f64..900.0, 2..25),
            gaps in prop::collection::vec(1.0f64..400.0, 25),
            (sd, tau) in (0.1f64..10.0, 50.0f64..8000.0),
            (other_sd, other_tau) in (0.0f64..10.0, 20.0f64..20_000.0),
        ) {
            let mut t = 0.0;
            let blocks: Vec<Averaged> = lengths.iter().zip(&gaps).map(|(l, g)| {
                let middle = t + g + 0.5 * l;
                t += g + l;
                Averaged { t: middle, length: *l, count: 50.0 }
            }).collect();
            let mut noises = vec![Correlated { sd, tau }];
            if other_sd > 1.0 {
                noises.push(Correlated { sd: other_sd, tau: other_tau });
            }
            let white = vec![1.0; blocks.len()];
            let full = covariance(&blocks, noises.iter().copied());
            let lower = Cholesky::new(full.clone()).unwrap();
            let factor = Whitening::Together(Factor::new(&blocks, &white, &noises));
            let y = DMatrix::from_fn(blocks.len(), 3, |i, j| ((i * 7 + j * 3) as f64).sin());
            let mut expected = y.clone();
            lower.l_dirty().solve_lower_triangular_mut(&mut expected);
            let found = factor.matrix(y.clone());
            prop_assert!((&found - &expected).abs().max() < 1e-8 * expected.abs().max(), "{found} {expected}");
            let mut back = found.clone();
            factor.back(back.as_mut_slice());
            let inverse = lower.inverse();
            prop_assert!((back - &inverse * y).abs().max() < 1e-8);
            let diagonal = DVector::from_vec(factor.precisions());
            prop_assert!((diagonal - inverse.diagonal()).abs().max() < 1e-8);
        }
    }
}
