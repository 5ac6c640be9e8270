//! Noise taken out of readings, sums of squares, and their solution.

use super::columns::ChannelRows;
use super::noise::{Averaged, Correlated, covariance};
use super::observed::Observed;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

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

/// A channel with its noise taken out.
pub(crate) struct Whitened {
    pub(crate) lower: Option<Cholesky<f64, Dyn>>,
    pub(crate) j: DMatrix<f64>,
    pub(crate) c: DMatrix<f64>,
    pub(crate) r: DVector<f64>,
    log_det: f64,
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
            log_det: self.log_det,
        }
    }
}

/// Readings less what the linear model would say with every unknown nil.
pub(crate) fn whiten(rows: &ChannelRows, observed: &Observed, noise: Option<Correlated>, x: &DVector<f64>) -> Whitened {
    let value = DVector::from_iterator(observed.sites.len(), observed.sites.iter().map(|s| s.value));
    let mut r = value - &rows.expected + &rows.answers * x;
    let (mut j, mut c) = (rows.answers.clone(), rows.candidates.clone());
    match noise {
        Some(noise) => {
            let blocks: Vec<Averaged> =
                observed.averaged.iter().zip(&observed.sites).map(|(a, s)| Averaged { white: s.variance, ..*a }).collect();
            let covariance = covariance(&blocks, noise);
            let lower = Cholesky::new(covariance.clone()).unwrap_or_else(|| {
                // averaging over unequal blocks can leave a hair of indefiniteness
                let mut c = covariance;
                for i in 0..c.nrows() {
                    c[(i, i)] *= 1.01;
                }
                Cholesky::new_with_substitute(c, 1e-9).expect("a substitute was given")
            });
            let l = lower.l_dirty();
            l.solve_lower_triangular_mut(&mut j);
            l.solve_lower_triangular_mut(&mut c);
            l.solve_lower_triangular_mut(&mut r);
            let log_det = 2.0 * (0..l.nrows()).map(|i| l[(i, i)].ln()).sum::<f64>();
            Whitened { lower: Some(lower), j, c, r, log_det }
        }
        None => {
            let mut log_det = 0.0;
            for (i, s) in observed.sites.iter().enumerate() {
                let w = 1.0 / s.variance.sqrt();
                j.row_mut(i).scale_mut(w);
                c.row_mut(i).scale_mut(w);
                r[i] *= w;
                log_det += s.variance.ln();
            }
            Whitened { lower: None, j, c, r, log_det }
        }
    }
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
