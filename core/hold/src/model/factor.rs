//! Triangular factors and products of matrices, where the fit spends its time: by a package that uses what the processor has.

use faer::dyn_stack::{MemBuffer, MemStack};
use faer::linalg::cholesky::llt::factor::{LltRegularization, cholesky_in_place, cholesky_in_place_scratch};
use faer::linalg::matmul::triangular::{BlockStructure, matmul};
use faer::linalg::triangular_solve::{solve_lower_triangular_in_place, solve_upper_triangular_in_place};
use faer::{Accum, MatMut, MatRef, Par};
use nalgebra::{DMatrix, DVector};

/// Lower factor L of a symmetric positive matrix L·Lᵀ.
#[derive(Debug, Clone)]
pub(crate) struct Factor {
    lower: DMatrix<f64>,
}

/// A pivot that rounding left without its sign counts as this: so small that its unknown stays where it is.
const SUBSTITUTE: f64 = 1e-9;

impl Factor {
    /// Of a symmetric matrix, given by its lower triangle.
    pub(crate) fn new(mut m: DMatrix<f64>) -> Self {
        let n = m.nrows();
        let mut room = MemBuffer::new(cholesky_in_place_scratch::<f64>(n, Par::Seq, faer::Spec::default()));
        let mended = LltRegularization { dynamic_regularization_delta: SUBSTITUTE, dynamic_regularization_epsilon: f64::MIN_POSITIVE };
        let view = MatMut::from_column_major_slice_mut(m.as_mut_slice(), n, n);
        // with a substitute there is no pivot to fail on
        let _ = cholesky_in_place(view, mended, Par::Seq, MemStack::new(&mut room), faer::Spec::default());
        Self { lower: m }
    }

    fn view(&self) -> MatRef<'_, f64> {
        MatRef::from_column_major_slice(self.lower.as_slice(), self.lower.nrows(), self.lower.ncols())
    }

    /// Logarithm of the matrix's determinant.
    pub(crate) fn log_det(&self) -> f64 {
        2.0 * self.lower.diagonal().iter().map(|d| d.ln()).sum::<f64>()
    }

    /// L⁻¹ times each of some columns, in place.
    pub(crate) fn forward(&self, columns: &mut [f64]) {
        let n = self.lower.nrows().max(1);
        let count = columns.len() / n;
        solve_lower_triangular_in_place(self.view(), MatMut::from_column_major_slice_mut(columns, n, count), Par::Seq);
    }

    /// L⁻ᵀ times each of some columns, in place.
    pub(crate) fn backward(&self, columns: &mut [f64]) {
        let n = self.lower.nrows().max(1);
        let count = columns.len() / n;
        solve_upper_triangular_in_place(self.view().transpose(), MatMut::from_column_major_slice_mut(columns, n, count), Par::Seq);
    }

    /// The matrix's inverse times a vector.
    pub(crate) fn solve(&self, right: &DVector<f64>) -> DVector<f64> {
        let mut x = right.clone();
        self.forward(x.as_mut_slice());
        self.backward(x.as_mut_slice());
        x
    }
}

/// Products of a matrix's columns with one another, AᵀA.
pub(crate) fn products(a: &DMatrix<f64>) -> DMatrix<f64> {
    let (rows, n) = a.shape();
    let mut out = DMatrix::zeros(n, n);
    let columns = MatRef::from_column_major_slice(a.as_slice(), rows, n);
    matmul(
        MatMut::from_column_major_slice_mut(out.as_mut_slice(), n, n),
        BlockStructure::TriangularLower,
        Accum::Replace,
        columns.transpose(),
        BlockStructure::Rectangular,
        columns,
        BlockStructure::Rectangular,
        1.0,
        Par::Seq,
    );
    out.fill_upper_triangle_with_lower_triangle();
    out
}

#[cfg(test)]
mod tests {
    use super::{Factor, products};
    use nalgebra::{Cholesky, DMatrix, DVector};
    use proptest::prelude::*;

    fn matrix(rows: usize, columns: usize, seed: f64) -> DMatrix<f64> {
        DMatrix::from_fn(rows, columns, |i, j| ((i * 31 + j * 17) as f64 * 0.37 + seed).sin())
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        #[test]
        fn factor_and_products_are_those_of_a_plain_program(n in 1usize..90, rows in 1usize..70, seed in 0.0f64..6.0) {
            let a = matrix(rows, n, seed);
            let whole = products(&a);
            prop_assert!((&whole - a.transpose() * &a).abs().max() < 1e-11);
            let m = whole + DMatrix::identity(n, n);
            let plain = Cholesky::new(m.clone()).unwrap();
            // only the lower triangle counts
            let factor = Factor::new(m.lower_triangle());
            let right = DVector::from_fn(n, |i, _| (i as f64 + seed).cos());
            prop_assert!((factor.solve(&right) - plain.solve(&right)).abs().max() < 1e-9);
            let log_det: f64 = 2.0 * plain.l().diagonal().iter().map(|d| d.ln()).sum::<f64>();
            prop_assert!((factor.log_det() - log_det).abs() < 1e-9);
            let many = matrix(n, 5, seed + 1.0);
            let (mut found, mut expected) = (many.clone(), many);
            factor.forward(found.as_mut_slice());
            plain.l_dirty().solve_lower_triangular_mut(&mut expected);
            prop_assert!((found - expected).abs().max() < 1e-9);
        }
    }

    #[test]
    fn a_pivot_without_its_sign_leaves_a_finite_answer() {
        // the second row is the first, but for rounding the wrong way
        let m = DMatrix::from_row_slice(2, 2, &[1.0, 1.0, 1.0, 1.0 - 1e-15]);
        let x = Factor::new(m).solve(&DVector::from_column_slice(&[1.0, 1.0]));
        assert!(x.iter().all(|v| v.is_finite()), "{x}");
    }
}
