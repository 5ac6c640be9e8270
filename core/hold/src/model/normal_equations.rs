//! NormalEquations of squares, and their solution.

use super::columns::ChannelRows;
use super::noise::Correlated;
use super::observed::Observed;
use super::whitening::Whitening;
use nalgebra::{Cholesky, DMatrix, DMatrixView, DMatrixViewMut, DVector, DVectorView, Dyn, U1};
use std::sync::Arc;

/// Products of one channel's columns with one another for one state of its noise: the Jacobian for the unknowns, to the candidates, and the readings.
#[derive(Debug, Clone)]
pub(crate) struct NormalEquations {
    all: DMatrix<f64>,
    unknowns: usize,
    /// Logarithm of the determinant of the noise's covariance.
    pub(crate) log_det: f64,
}

impl NormalEquations {
    /// Of nothing, for so many unknowns and candidates.
    pub(crate) fn zero(unknowns: usize, candidates: usize) -> Self {
        let n = unknowns + candidates + 1;
        Self { all: DMatrix::zeros(n, n), unknowns, log_det: 0.0 }
    }

    /// Adds another channel's.
    pub(crate) fn add(&mut self, other: &Self) {
        self.all += &other.all;
        self.log_det += other.log_det;
    }

    fn candidates(&self) -> usize {
        self.all.nrows() - self.unknowns - 1
    }

    /// Of the first `n` unknowns, in units of each one's standard deviation, with the candidates.
    pub(crate) fn of_both(&self, sds: &DVector<f64>, n: usize) -> DMatrix<f64> {
        let mut out = DMatrix::zeros(n, self.candidates());
        for (j, mut column) in out.column_iter_mut().enumerate() {
            column.copy_from_slice(&self.all.column(self.unknowns + j).as_slice()[..n]);
            column.component_mul_assign(&sds.rows(0, n));
        }
        out
    }

    /// Of the candidates with one another.
    pub(crate) fn of_candidates(&self) -> DMatrixView<'_, f64, U1, Dyn> {
        self.all.view((self.unknowns, self.unknowns), (self.candidates(), self.candidates()))
    }

    /// Of the readings with the unknowns, with the candidates, and with themselves.
    fn of_readings(&self) -> DVectorView<'_, f64> {
        self.all.column(self.all.ncols() - 1)
    }

    /// One and the products of the unknowns in some order with one another, in units of each one's standard deviation: the lower triangle, all else nil.
    pub(crate) fn ordered(&self, order: &[usize], sds: &DVector<f64>) -> DMatrix<f64> {
        let n = order.len();
        let mut m = DMatrix::zeros(n, n);
        for (j, from) in order.iter().enumerate() {
            let (products, mut column) = (self.all.column(*from), m.column_mut(j));
            for i in j..n {
                column[i] = products[order[i]] * sds[*from] * sds[order[i]];
            }
            column[j] += 1.0;
        }
        m
    }

    /// Of the readings with the unknowns in some order.
    pub(crate) fn readings_with(&self, order: &[usize]) -> DVector<f64> {
        let of_readings = self.of_readings();
        DVector::from_iterator(order.len(), order.iter().map(|i| of_readings[*i]))
    }

    /// Of the readings with the candidates.
    pub(crate) fn readings_and_candidates(&self) -> DVector<f64> {
        self.of_readings().rows(self.unknowns, self.candidates()).clone_owned()
    }

    /// Of the readings with themselves.
    pub(crate) fn readings(&self) -> f64 {
        self.all[(self.all.nrows() - 1, self.all.ncols() - 1)]
    }
}

/// A channel with its noise taken out.
pub(crate) struct Whitened {
    pub(crate) by: Arc<(Whitening, f64)>,
    /// Which unknowns and candidates the channel depends on at all, in the order of the sums; the readings last.
    columns: Vec<usize>,
    /// Its Jacobian for them, and the readings.
    jacobian: DMatrix<f64>,
    unknowns: usize,
}

impl Whitened {
    /// Its sums.
    pub(crate) fn sums(&self) -> NormalEquations {
        let last = self.columns.last().copied().unwrap_or(self.unknowns);
        let mut sums = NormalEquations::zero(self.unknowns, last - self.unknowns);
        self.add_to(&mut sums);
        sums
    }

    /// Adds its sums to others.
    pub(crate) fn add_to(&self, total: &mut NormalEquations) {
        let products = self.jacobian.transpose() * &self.jacobian;
        // columns that follow one another there too are added together
        let breaks = |c: &usize| *c == 0 || self.columns[*c] != self.columns[c - 1] + 1;
        let runs: Vec<usize> = (0..self.columns.len()).filter(breaks).chain([self.columns.len()]).collect();
        for (column, to) in products.column_iter().zip(&self.columns) {
            let mut into = total.all.column_mut(*to);
            let (into, column) = (into.as_mut_slice(), column.as_slice());
            for run in runs.windows(2) {
                let of_run = &column[run[0]..run[1]];
                into[self.columns[run[0]]..].iter_mut().zip(of_run).for_each(|(sum, product)| *sum += product);
            }
        }
        total.log_det += self.by.1;
    }

    /// The Jacobian's columns for the unknowns that the channel depends on, with their indices.
    pub(crate) fn jacobian(&self) -> impl Iterator<Item = (usize, DVectorView<'_, f64>)> {
        self.columns.iter().copied().zip(self.jacobian.column_iter()).filter(|(j, _)| *j < self.unknowns)
    }

    /// The readings.
    pub(crate) fn readings(&self) -> DVectorView<'_, f64> {
        self.jacobian.column(self.jacobian.ncols() - 1)
    }
}

/// Readings less what the linear model would say with every unknown nil.
pub(crate) fn whiten(rows: &ChannelRows, observed: &Observed, noise: Option<Correlated>, x: &DVector<f64>) -> Whitened {
    let (unknowns, candidates) = (rows.jacobian.ncols(), rows.candidates.ncols());
    let all: Vec<DVectorView<'_, f64>> = rows.jacobian.column_iter().chain(rows.candidates.column_iter()).collect();
    let mut columns: Vec<usize> = (0..all.len()).filter(|j| all[*j].iter().any(|v| *v != 0.0)).collect();
    let mut jacobian = DMatrix::zeros(rows.jacobian.nrows(), columns.len() + 1);
    jacobian.column_iter_mut().zip(&columns).for_each(|(mut into, j)| into.copy_from(&all[*j]));
    let mut last = jacobian.column_mut(columns.len());
    last.gemv(1.0, &rows.jacobian, x, 0.0);
    for ((r, site), expected) in last.iter_mut().zip(&observed.sites).zip(rows.expected.iter()) {
        *r += site.value - expected;
    }
    columns.push(unknowns + candidates);
    let by = observed.whitening(noise);
    Whitened { jacobian: by.0.matrix(jacobian), columns, unknowns, by }
}

/// The solution.
pub(crate) struct Solved {
    pub(crate) x: DVector<f64>,
    pub(crate) lower: Cholesky<f64, Dyn>,
    pub(crate) w: DVector<f64>,
}

/// One and the unknowns' products with one another, in units of each one's standard deviation: the lower triangle, all else nil.
pub(crate) fn scaled(total: &NormalEquations, sds: &DVector<f64>, n: usize) -> DMatrix<f64> {
    let mut m = DMatrix::zeros(n, n);
    for (j, sd) in sds.as_slice()[..n].iter().enumerate() {
        let (products, mut column) = (total.all.column(j), m.column_mut(j));
        let below = column.as_mut_slice()[j..].iter_mut().zip(&products.as_slice()[j..n]);
        below.zip(&sds.as_slice()[j..n]).for_each(|((out, product), other)| *out = product * sd * other);
        column[j] += 1.0;
    }
    m
}

/// The Cholesky factor of a curvature, of which the lower triangle counts; where rounding has left it not definite, with a small pivot in place.
pub(crate) fn factored(curvature: DMatrix<f64>) -> Cholesky<f64, Dyn> {
    Cholesky::new_with_substitute(curvature, 1e-9).expect("a substitute was given")
}

/// Solves for the first `n` unknowns.
pub(crate) fn solve(total: &NormalEquations, sds: &DVector<f64>, n: usize) -> Solved {
    let lower = factored(scaled(total, sds, n));
    let mut w = total.of_readings().rows(0, n).component_mul(&sds.rows(0, n));
    lower.l_dirty().solve_lower_triangular_mut(&mut w);
    let mut x = w.clone();
    lower.l_dirty().tr_solve_lower_triangular_mut(&mut x);
    for i in 0..n {
        x[i] *= sds[i];
    }
    Solved { x, lower, w }
}

impl Solved {
    /// The least pivot of the factored curvature: at least one, as one and a product with itself has none below, less what rounding took.
    pub(crate) fn least_pivot(&self) -> f64 {
        let l = self.lower.l_dirty();
        l.diagonal().iter().fold(f64::INFINITY, |least, d| least.min(d * d))
    }

    /// L⁻¹ times each column, in place, with L the factor.
    pub(crate) fn forward(&self, columns: &mut DMatrix<f64>) {
        let n = columns.nrows();
        below(&self.lower.l_dirty().view((0, 0), (n, n)), &mut columns.rows_mut(0, n));
    }
}

/// Rows that are solved one after another; of more, the lower half takes what the upper says in one product.
const TOGETHER: usize = 16;

fn below(lower: &DMatrixView<'_, f64, U1, Dyn>, columns: &mut DMatrixViewMut<'_, f64, U1, Dyn>) {
    let n = columns.nrows();
    if n <= TOGETHER {
        lower.solve_lower_triangular_mut(columns);
        return;
    }
    let half = n / 2;
    let (mut upper, mut rest) = columns.rows_range_pair_mut(..half, half..);
    below(&lower.view((0, 0), (half, half)), &mut upper);
    rest.gemm(-1.0, &lower.view((half, 0), (n - half, half)), &upper, 1.0);
    below(&lower.view((half, half), (n - half, n - half)), &mut rest);
}
