//! Noise taken out of a channel's readings.
//!
//! Block means with noise that forgets exponentially have a covariance of the form u_i·g_ij·v_j (j < i) with g a product of decays from block to
//! block; its Cholesky factor has the same form and takes a number of steps in proportion to the number of blocks (Foreman-Mackey et al. 2017,
//! from memory), where a full matrix takes the cube.

use super::noise::{Averaged, Correlated};
use super::observed::Observed;
use nalgebra::DMatrix;
use smallvec::{SmallVec, smallvec};

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
    /// What is kept from the start of the block before to that of this one; nil at the first.
    kept: Vec<f64>,
    /// What the block before hands on of itself to this one; nil at the first.
    handed: Vec<f64>,
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

    /// Takes the noise out of each of some columns.
    fn columns(&self, columns: &mut [f64]) {
        match self {
            Self::Together(factor) => factor.each(columns, Way::Out),
            Self::Apart(scale) => scale_each(columns, scale),
        }
    }

    /// Takes the noise out of each column.
    pub(crate) fn matrix(&self, mut m: DMatrix<f64>) -> DMatrix<f64> {
        self.columns(m.as_mut_slice());
        m
    }

    /// Takes the noise out of a vector.
    pub(crate) fn vector(&self, mut v: Vec<f64>) -> Vec<f64> {
        self.columns(&mut v);
        v
    }

    /// The transpose of it, times each column.
    pub(crate) fn back(&self, columns: &mut [f64]) {
        match self {
            Self::Together(factor) => factor.each(columns, Way::Back),
            Self::Apart(scale) => scale_each(columns, scale),
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
                        factor.forward([&mut unit], i);
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
        let shapes: Vec<Vec<f64>> = noises.iter().map(|noise| blocks.iter().map(|b| noise.shape(b)).collect()).collect();
        let mut out: Vec<Decaying> = noises
            .iter()
            .zip(&shapes)
            .map(|(noise, shapes)| {
                let decay = |b: &[Averaged]| (-(b[1].start() - b[0].start()) / noise.tau).min(0.0).exp();
                Decaying {
                    takes: shapes.iter().map(|s| s * noise.sd * noise.sd).collect(),
                    kept: std::iter::once(0.0).chain(blocks.windows(2).map(decay)).collect(),
                    handed: Vec::with_capacity(n),
                }
            })
            .collect();
        // what the blocks so far have explained, of each noise with each; what the last one hands on of each
        let mut explained = vec![0.0; count * count];
        let mut gives = vec![0.0; count];
        let mut scale = Vec::with_capacity(n);
        let mut pivot = 0.0;
        for i in 0..n {
            for ((o, noise), gives) in out.iter_mut().zip(noises).zip(&gives) {
                let passed = if i > 0 { (-(blocks[i].start() - blocks[i - 1].end()) / noise.tau).min(0.0).exp() } else { 0.0 };
                o.handed.push(passed * gives);
            }
            for a in 0..count {
                for b in 0..count {
                    let (x, y) = (&out[a], &out[b]);
                    explained[a * count + b] = x.kept[i] * y.kept[i] * explained[a * count + b] + x.handed[i] * y.handed[i] * pivot;
                }
            }
            let of = |a: usize| (0..count).map(|b| explained[a * count + b] * out[b].takes[i]).sum::<f64>();
            let known: Vec<f64> = (0..count).map(of).collect();
            pivot = diagonal[i] - known.iter().zip(&out).map(|(k, o)| k * o.takes[i]).sum::<f64>();
            if pivot <= 1e-9 * diagonal[i] || !pivot.is_finite() {
                return None;
            }
            scale.push(1.0 / pivot.sqrt());
            for a in 0..count {
                let within = (-blocks[i].length / noises[a].tau).exp();
                gives[a] = (shapes[a][i] - within * known[a]) / pivot;
            }
        }
        Some(Self { scale, noises: out })
    }

    /// Each of some columns.
    fn each(&self, columns: &mut [f64], way: Way) {
        let n = self.scale.len().max(1);
        let mut groups = columns.chunks_exact_mut(AT_ONCE * n);
        for group in &mut groups {
            let mut group = group.chunks_exact_mut(n);
            let group: [&mut [f64]; AT_ONCE] = std::array::from_fn(|_| group.next().unwrap_or_default());
            match way {
                Way::Out => self.forward(group, 0),
                Way::Back => self.backward(group),
            }
        }
        for column in groups.into_remainder().chunks_exact_mut(n) {
            match way {
                Way::Out => self.forward([column], 0),
                Way::Back => self.backward([column]),
            }
        }
    }

    /// Solves with the factor, in place, from a row on before which all is nil; some columns at once, for each row has to wait for the one before.
    fn forward<const K: usize>(&self, columns: [&mut [f64]; K], from: usize) {
        let mut carried: SmallVec<[[f64; K]; 2]> = smallvec![[0.0; K]; self.noises.len()];
        let mut last = [0.0; K];
        for (i, scale) in (from..).zip(&self.scale[from..]) {
            let mut left: [f64; K] = std::array::from_fn(|k| columns[k][i]);
            for (c, noise) in carried.iter_mut().zip(&self.noises) {
                let (kept, handed, takes) = (noise.kept[i], noise.handed[i], noise.takes[i]);
                for k in 0..K {
                    c[k] = kept * c[k] + handed * last[k];
                    left[k] -= takes * c[k];
                }
            }
            last = left;
            for k in 0..K {
                columns[k][i] = last[k] * scale;
            }
        }
    }

    /// The transpose of `forward`.
    fn backward<const K: usize>(&self, columns: [&mut [f64]; K]) {
        let n = self.scale.len();
        let mut carried: SmallVec<[[f64; K]; 2]> = smallvec![[0.0; K]; self.noises.len()];
        for i in (0..n).rev() {
            let mut x: [f64; K] = std::array::from_fn(|k| columns[k][i] * self.scale[i]);
            if i + 1 < n {
                for (c, noise) in carried.iter_mut().zip(&self.noises) {
                    for k in 0..K {
                        x[k] -= noise.handed[i + 1] * c[k];
                        c[k] *= noise.kept[i + 1];
                    }
                }
            }
            for (c, noise) in carried.iter_mut().zip(&self.noises) {
                for k in 0..K {
                    c[k] += noise.takes[i] * x[k];
                }
            }
            for k in 0..K {
                columns[k][i] = x[k];
            }
        }
    }
}

/// Which way a factor is applied.
#[derive(Clone, Copy)]
enum Way {
    /// solves with it
    Out,
    /// solves with its transpose
    Back,
}

/// Columns that are taken at once.
const AT_ONCE: usize = 8;

fn scale_each(columns: &mut [f64], scale: &[f64]) {
    columns.chunks_exact_mut(scale.len().max(1)).for_each(|column| column.iter_mut().zip(scale).for_each(|(y, s)| *y *= s));
}

#[cfg(test)]
mod tests {
    use super::{AT_ONCE, Factor, Whitening};
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
            let y = DMatrix::from_fn(blocks.len(), AT_ONCE + 3, |i, j| ((i * 7 + j * 3) as f64).sin());
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
