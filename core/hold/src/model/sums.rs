//! Noise taken out of readings, sums of squares, and their solution.

use super::columns::ChannelRows;
use super::noise::{Averaged, Correlated, covariance};
use super::observed::Observed;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};
use std::rc::Rc;

/// Sums of one channel for one state of its noise.
#[derive(Debug, Clone)]
pub(crate) struct Sums {
    pub(crate) jj: DMatrix<f64>,
    pub(crate) jc: DMatrix<f64>,
    pub(crate) cc: DMatrix<f64>,
    pub(crate) jr: DVector<f64>,
    pub(crate) cr: DVector<f64>,
    pub(crate) rr: f64,
    pub(crate) log_det: f64,
}

impl Sums {
    /// Of nothing.
    pub(crate) fn zero(n: usize, k: usize) -> Self {
        Self {
            jj: DMatrix::zeros(n, n),
            jc: DMatrix::zeros(n, k),
            cc: DMatrix::zeros(k, k),
            jr: DVector::zeros(n),
            cr: DVector::zeros(k),
            rr: 0.0,
            log_det: 0.0,
        }
    }
    /// Adds another channel's.
    pub(crate) fn add(&mut self, other: &Self) {
        self.jj += &other.jj;
        self.jc += &other.jc;
        self.cc += &other.cc;
        self.jr += &other.jr;
        self.cr += &other.cr;
        self.rr += other.rr;
        self.log_det += other.log_det;
    }
}

/// What takes the noise out of a channel's readings.
#[derive(Debug)]
pub(crate) enum Whitening {
    /// each reading by itself: one over its standard deviation
    Apart(DVector<f64>),
    /// correlated: the inverse of the covariance's Cholesky factor
    Together(DMatrix<f64>),
}

impl Whitening {
    /// For readings as they stand, with the logarithm of the covariance's determinant.
    pub(crate) fn new(observed: &Observed, noise: Option<Correlated>) -> (Self, f64) {
        if observed.alike(noise).next().is_none() {
            let log_det = observed.sites.iter().map(|s| s.variance.ln()).sum();
            let sites = observed.sites.iter().map(|s| 1.0 / s.variance.sqrt());
            return (Self::Apart(DVector::from_iterator(observed.sites.len(), sites)), log_det);
        }
        let blocks: Vec<Averaged> =
            observed.averaged.iter().zip(&observed.sites).map(|(a, s)| Averaged { white: s.variance, ..*a }).collect();
        let covariance = covariance(&blocks, observed.alike(noise));
        let lower = Cholesky::new(covariance.clone()).unwrap_or_else(|| {
            // averaging over unequal blocks can leave a hair of indefiniteness
            let mut c = covariance;
            for i in 0..c.nrows() {
                c[(i, i)] *= 1.01;
            }
            Cholesky::new_with_substitute(c, 1e-9).expect("a substitute was given")
        });
        let l = lower.l_dirty();
        let log_det = 2.0 * (0..l.nrows()).map(|i| l[(i, i)].ln()).sum::<f64>();
        (Self::Together(inverse_of_lower(l)), log_det)
    }

    fn matrix(&self, m: &DMatrix<f64>) -> DMatrix<f64> {
        match self {
            Self::Together(inverse) => inverse * m,
            Self::Apart(scale) => {
                let mut out = m.clone();
                for mut column in out.column_iter_mut() {
                    column.component_mul_assign(scale);
                }
                out
            }
        }
    }

    /// The transpose of it, times a vector.
    pub(crate) fn back(&self, v: DVector<f64>) -> DVector<f64> {
        match self {
            Self::Together(inverse) => inverse.tr_mul(&v),
            Self::Apart(scale) => v.component_mul(scale),
        }
    }

    pub(crate) fn vector(&self, v: DVector<f64>) -> DVector<f64> {
        match self {
            Self::Together(inverse) => inverse * v,
            Self::Apart(scale) => v.component_mul(scale),
        }
    }

    /// As a matrix.
    pub(crate) fn dense(&self) -> DMatrix<f64> {
        match self {
            Self::Together(inverse) => inverse.clone(),
            Self::Apart(scale) => DMatrix::from_diagonal(scale),
        }
    }
}

/// Inverse of a lower triangle, column by column; what stands above its diagonal is not read.
fn inverse_of_lower(l: &DMatrix<f64>) -> DMatrix<f64> {
    let n = l.nrows();
    let mut out = DMatrix::zeros(n, n);
    for j in 0..n {
        let mut column = out.column_mut(j);
        column[j] = 1.0;
        for k in j..n {
            let x = column[k] / l[(k, k)];
            column[k] = x;
            if x != 0.0 && k + 1 < n {
                column.rows_range_mut(k + 1..).axpy(-x, &l.column(k).rows_range(k + 1..), 1.0);
            }
        }
    }
    out
}

/// A channel with its noise taken out.
pub(crate) struct Whitened {
    pub(crate) by: Rc<(Whitening, f64)>,
    pub(crate) j: DMatrix<f64>,
    pub(crate) c: DMatrix<f64>,
    pub(crate) r: DVector<f64>,
}

impl Whitened {
    /// Its sums.
    pub(crate) fn sums(&self) -> Sums {
        let jt = self.j.transpose();
        Sums {
            jj: &jt * &self.j,
            jc: &jt * &self.c,
            cc: self.c.transpose() * &self.c,
            jr: &jt * &self.r,
            cr: self.c.transpose() * &self.r,
            rr: self.r.norm_squared(),
            log_det: self.by.1,
        }
    }
}

/// Readings less what the linear model would say with every unknown nil.
pub(crate) fn whiten(rows: &ChannelRows, observed: &Observed, noise: Option<Correlated>, x: &DVector<f64>) -> Whitened {
    let value = DVector::from_iterator(observed.sites.len(), observed.sites.iter().map(|s| s.value));
    let r = value - &rows.expected + &rows.answers * x;
    let by = observed.whitening(noise);
    Whitened { j: by.0.matrix(&rows.answers), c: by.0.matrix(&rows.candidates), r: by.0.vector(r), by }
}

/// The solution.
pub(crate) struct Solved {
    pub(crate) x: DVector<f64>,
    pub(crate) lower: Cholesky<f64, Dyn>,
    pub(crate) w: DVector<f64>,
}

/// Solves for the first `n` unknowns.
pub(crate) fn solve(total: &Sums, sds: &DVector<f64>, n: usize) -> Solved {
    let mut m = total.jj.view((0, 0), (n, n)).clone_owned();
    for j in 0..n {
        for i in 0..n {
            m[(i, j)] *= sds[i] * sds[j];
        }
        m[(j, j)] += 1.0;
    }
    let lower = Cholesky::new_with_substitute(m, 1e-9).expect("a substitute was given");
    let mut w = DVector::from_iterator(n, (0..n).map(|i| sds[i] * total.jr[i]));
    lower.l_dirty().solve_lower_triangular_mut(&mut w);
    let mut x = w.clone();
    lower.l_dirty().tr_solve_lower_triangular_mut(&mut x);
    for i in 0..n {
        x[i] *= sds[i];
    }
    Solved { x, lower, w }
}
