//! A linearised point: the model linear about one set of parameters, the nonlinear parameters apart from the conditionally linear ones.
//!
//! With `z` the parameters in units of their standard deviations, the nonlinear ones `θ` last, the objective (twice the negative logarithm of the
//! probability) is `f(z) = r'R⁻¹r − |w|² + |L'z − w|²` with `LL'` the Gauss-Newton Hessian (docs/judging.md, equation 1). As `L` is triangular, the
//! objective reduced to `θ`, with the conditionally linear parameters at their best, is `r'R⁻¹r − |w|² + |L₂'θ − w₂|²`, `L₂` the corner of `L`
//! (equation 2): the search goes over `θ` alone (variable projection; Golub and Pereyra 1973).

use super::columns::ChannelRows;
use super::normal_equations::{NormalEquations, factored};
use super::path::Values;
use super::prior::{Surroundings, Unknown};
use crate::input::Hold;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

/// True for a nonlinear parameter: it acts nonlinearly, or changes how others act.
fn is_nonlinear(unknown: Unknown, surroundings: &Surroundings) -> bool {
    match unknown {
        Unknown::Surroundings(shape) => surroundings.is_level(shape),
        Unknown::Volume
        | Unknown::Stretch(_)
        | Unknown::Air
        | Unknown::Filling
        | Unknown::SkinLag(_)
        | Unknown::FluidLag(_)
        | Unknown::AirTime
        | Unknown::GasketTime
        | Unknown::LeakStart => true,
        _ => false,
    }
}

/// The order of the parameters in a linearised point.
pub(crate) struct ParameterOrder {
    /// Their indices, the nonlinear ones last.
    indices: Vec<usize>,
    /// How many are conditionally linear.
    linear: usize,
    /// Standard deviations, in this order.
    sds: DVector<f64>,
}

impl ParameterOrder {
    pub(crate) fn new(unknowns: &[Unknown], sds: &DVector<f64>, surroundings: &Surroundings) -> Self {
        let (mut indices, nonlinear): (Vec<usize>, Vec<usize>) =
            (0..unknowns.len()).partition(|i| !is_nonlinear(unknowns[*i], surroundings) || sds[*i] <= 0.0);
        let linear = indices.len();
        indices.extend(nonlinear);
        let sds = DVector::from_iterator(indices.len(), indices.iter().map(|i| sds[*i]));
        Self { indices, linear, sds }
    }

    /// Values in this order and in units of their standard deviations.
    fn z(&self, x: &DVector<f64>) -> DVector<f64> {
        let of = |(i, sd): (&usize, &f64)| if *sd > 0.0 { x[*i] / sd } else { 0.0 };
        DVector::from_iterator(self.indices.len(), self.indices.iter().zip(self.sds.iter()).map(of))
    }

    fn nonlinear(&self) -> usize {
        self.indices.len() - self.linear
    }
}

/// The model linear about one set of parameters.
pub(crate) struct LinearisedPoint<'v> {
    /// Its values.
    pub(crate) values: Values<'v>,
    /// The model linear about it.
    pub(crate) rows: Vec<ChannelRows>,
    /// The values in units of their standard deviations.
    z: DVector<f64>,
    /// L.
    factor: Cholesky<f64, Dyn>,
    /// L⁻¹ D J'R⁻¹r.
    w: DVector<f64>,
    /// The minimum of the objective of the linear model: what no parameters would explain.
    linear_minimum: f64,
}

impl<'v> LinearisedPoint<'v> {
    pub(crate) fn new(
        values: Values<'v>,
        rows: Vec<ChannelRows>,
        total: &NormalEquations,
        order: &ParameterOrder,
        sds: &DVector<f64>,
    ) -> Self {
        let factor = factored(total.ordered(&order.indices, sds));
        let mut w = total.readings_with(&order.indices).component_mul(&order.sds);
        factor.l_dirty().solve_lower_triangular_mut(&mut w);
        let z = order.z(&values.x);
        let linear_minimum = total.readings() - w.norm_squared();
        Self { values, rows, z, factor, w, linear_minimum }
    }

    /// The objective here, up to a constant (equation 1).
    pub(crate) fn objective(&self) -> f64 {
        let l = self.factor.l_dirty();
        let n = self.z.len();
        // L'z, of which only the lower triangle of L counts
        (0..n).map(|j| (l.view((j, j), (n - j, 1)).dot(&self.z.rows(j, n - j)) - self.w[j]).powi(2)).sum::<f64>() + self.linear_minimum
    }

    /// The reduced objective (equation 2).
    pub(crate) fn reduced_objective(&self, order: &ParameterOrder) -> f64 {
        self.linear_minimum + self.reduced_residual(order).norm_squared()
    }

    /// The residual of the reduced objective, `w₂ − L₂'θ`.
    fn reduced_residual(&self, order: &ParameterOrder) -> DVector<f64> {
        let (s, d) = (order.linear, order.nonlinear());
        let l = self.factor.l_dirty();
        DVector::from_fn(d, |j, _| self.w[s + j] - (j..d).map(|i| l[(s + i, s + j)] * self.z[s + i]).sum::<f64>())
    }

    /// The minimum of the objective of the linear model.
    pub(crate) fn linear_minimum(&self) -> f64 {
        self.linear_minimum
    }

    /// A damped Gauss-Newton step (Levenberg, Marquardt; equation 3) of the nonlinear parameters within their limits, the conditionally linear ones
    /// at their best for it; with the objective that the linear model predicts there.
    pub(crate) fn damped_step(&self, hold: &Hold, order: &ParameterOrder, damping: f64) -> (Values<'v>, f64) {
        let (s, d) = (order.linear, order.nonlinear());
        let l = self.factor.l_dirty();
        let corner = DMatrix::from_fn(d, d, |i, j| if i >= j { l[(s + i, s + j)] } else { 0.0 });
        let left = self.reduced_residual(order);
        let mut hessian = &corner * corner.transpose();
        (0..d).for_each(|j| hessian[(j, j)] *= 1.0 + damping);
        let predicted = |step: &DVector<f64>| self.linear_minimum + (&left - corner.tr_mul(step)).norm_squared();
        let [step, other] = self.steps(hold, order, &hessian, &(&corner * &left));
        let step = if predicted(&other) < predicted(&step) { other } else { step };
        let predicted = predicted(&step);
        let mut z = self.z.clone();
        let mut nonlinear = z.rows_mut(s, d);
        nonlinear += &step;
        // the conditionally linear parameters: L₁'z₁ = w₁ − L₂₁'θ
        let mut linear = self.w.rows(0, s).clone_owned();
        linear.gemv_tr(-1.0, &l.view((s, 0), (d, s)), &z.rows(s, d), 1.0);
        l.view((0, 0), (s, s)).tr_solve_lower_triangular_mut(&mut linear);
        z.rows_mut(0, s).copy_from(&linear);
        (self.at(order, &z), predicted)
    }

    /// Values with the conditionally linear parameters moved once more, by half the readings' share of the negative gradient there, in units of the
    /// standard deviations.
    pub(crate) fn with_linear_corrected(&self, order: &ParameterOrder, values: Values<'v>, descent: &DVector<f64>) -> Values<'v> {
        let s = order.linear;
        let l = self.factor.l_dirty();
        let mut z = order.z(&values.x);
        let mut step = DVector::from_fn(s, |j, _| descent[order.indices[j]] - z[j]);
        let first = l.view((0, 0), (s, s));
        first.solve_lower_triangular_mut(&mut step);
        first.tr_solve_lower_triangular_mut(&mut step);
        let mut linear = z.rows_mut(0, s);
        linear += step;
        self.at(order, &z)
    }

    /// The values at a point.
    fn at(&self, order: &ParameterOrder, z: &DVector<f64>) -> Values<'v> {
        let mut x = self.values.x.clone();
        order.indices.iter().zip(z.iter()).zip(order.sds.iter()).for_each(|((i, z), sd)| x[*i] = z * sd);
        Values { unknowns: self.values.unknowns, x }
    }

    /// Steps of the nonlinear parameters within their limits: those that meet theirs stop there and the others make up for it; or all go a part of the way.
    fn steps(&self, hold: &Hold, order: &ParameterOrder, hessian: &DMatrix<f64>, descent: &DVector<f64>) -> [DVector<f64>; 2] {
        let nonlinear = &order.indices[order.linear..];
        let sds = &order.sds.as_slice()[order.linear..];
        let limit =
            |j: usize, step: f64| step_limit(hold, self.values.unknowns[nonlinear[j]], self.values.x[nonlinear[j]], step > 0.0) / sds[j];
        let whole = factored(hessian.clone()).solve(descent);
        let part = whole.iter().enumerate().map(|(j, step)| (limit(j, *step) / step.abs()).min(1.0)).fold(1.0, f64::min);
        let mut step = DVector::zeros(nonlinear.len());
        let mut free: Vec<usize> = (0..nonlinear.len()).collect();
        while !free.is_empty() {
            // what those that stopped leave to the others
            let right = (descent - hessian * &step).select_rows(&free);
            let of_free = factored(hessian.select_rows(&free).select_columns(&free)).solve(&right);
            let (stop, go): (Vec<usize>, Vec<usize>) = (0..free.len()).partition(|k| of_free[*k].abs() > limit(free[*k], of_free[*k]));
            if stop.is_empty() {
                free.iter().zip(of_free.iter()).for_each(|(j, by)| step[*j] = *by);
                break;
            }
            stop.iter().for_each(|k| step[free[*k]] = limit(free[*k], of_free[*k]).copysign(of_free[*k]));
            free = go.into_iter().map(|k| free[k]).collect();
        }
        [step, whole * part]
    }
}

/// How far a parameter may go in one step from where it is, down or up.
fn step_limit(hold: &Hold, unknown: Unknown, at: f64, up: bool) -> f64 {
    match unknown {
        // less than none would be none, and from there no reading would lead back
        Unknown::Air => {
            let least = if up { 1.0 } else { 1e-3 } * (hold.air_fraction + hold.air_fraction_unc_95);
            0.4 * (hold.air_fraction + at).max(least)
        }
        Unknown::SkinLag(_) | Unknown::FluidLag(_) | Unknown::AirTime | Unknown::GasketTime => 0.7,
        Unknown::LeakStart => 0.15 * hold.length_s,
        Unknown::Stretch(_) => 0.3,
        _ => f64::INFINITY,
    }
}
