//! A point of the search: what the model, linear about it, says of every unknown, those that act in a bent way apart.
//!
//! With `z` the unknowns in units of their standard deviations, the bent ones last, twice the negative logarithm of the probability is
//! `f(z) = r'r − |w|² + |L'z − w|²` with `LL'` the curvature and `w = L⁻¹b`. As `L` is triangular, the bent ones `θ` with everything else as suits
//! them best have `f = r'r − |w|² + |L₂'θ − w₂|²`, `L₂` the corner of `L`: the search goes over these alone (variable projection; Golub and
//! Pereyra 1973).

use super::columns::ChannelRows;
use super::path::Values;
use super::prior::{Surroundings, Unknown};
use super::sums::{Sums, factored};
use crate::input::Hold;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

/// True for what acts in a bent way, or changes how other things act.
fn is_bent(unknown: Unknown, surroundings: &Surroundings) -> bool {
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

/// The unknowns of a search in their order here.
pub(crate) struct Order {
    /// Indices of the unknowns, the bent ones last.
    indices: Vec<usize>,
    /// How many are straight.
    straight: usize,
    /// Standard deviations, in this order.
    sds: DVector<f64>,
}

impl Order {
    pub(crate) fn new(unknowns: &[Unknown], sds: &DVector<f64>, surroundings: &Surroundings) -> Self {
        let (mut indices, bent): (Vec<usize>, Vec<usize>) =
            (0..unknowns.len()).partition(|i| !is_bent(unknowns[*i], surroundings) || sds[*i] <= 0.0);
        let straight = indices.len();
        indices.extend(bent);
        let sds = DVector::from_iterator(indices.len(), indices.iter().map(|i| sds[*i]));
        Self { indices, straight, sds }
    }

    /// Values in this order and in units of their standard deviations.
    fn z(&self, x: &DVector<f64>) -> DVector<f64> {
        let of = |(i, sd): (&usize, &f64)| if *sd > 0.0 { x[*i] / sd } else { 0.0 };
        DVector::from_iterator(self.indices.len(), self.indices.iter().zip(self.sds.iter()).map(of))
    }

    fn bent(&self) -> usize {
        self.indices.len() - self.straight
    }
}

/// A point of the search.
pub(crate) struct Stand<'v> {
    /// Its values.
    pub(crate) values: Values<'v>,
    /// The model linear about it.
    pub(crate) rows: Vec<ChannelRows>,
    /// The values in units of their standard deviations.
    z: DVector<f64>,
    factor: Cholesky<f64, Dyn>,
    w: DVector<f64>,
    /// What no values would explain, by the linear model.
    least: f64,
}

impl<'v> Stand<'v> {
    pub(crate) fn new(values: Values<'v>, rows: Vec<ChannelRows>, total: &Sums, order: &Order, sds: &DVector<f64>) -> Self {
        let factor = factored(total.ordered(&order.indices, sds));
        let mut w = total.readings_with(&order.indices).component_mul(&order.sds);
        factor.l_dirty().solve_lower_triangular_mut(&mut w);
        let z = order.z(&values.x);
        let least = total.readings() - w.norm_squared();
        Self { values, rows, z, factor, w, least }
    }

    /// Twice the negative logarithm of the probability here, up to a constant.
    pub(crate) fn worth(&self) -> f64 {
        let l = self.factor.l_dirty();
        let n = self.z.len();
        // L'z, of which only the lower triangle of L counts
        (0..n).map(|j| (l.view((j, j), (n - j, 1)).dot(&self.z.rows(j, n - j)) - self.w[j]).powi(2)).sum::<f64>() + self.least
    }

    /// The same with the straight unknowns as suits the bent ones best.
    pub(crate) fn settled(&self, order: &Order) -> f64 {
        self.least + self.left(order).norm_squared()
    }

    /// What is left for the bent ones to explain.
    fn left(&self, order: &Order) -> DVector<f64> {
        let (s, d) = (order.straight, order.bent());
        let l = self.factor.l_dirty();
        DVector::from_fn(d, |j, _| self.w[s + j] - (j..d).map(|i| l[(s + i, s + j)] * self.z[s + i]).sum::<f64>())
    }

    /// Least that the linear model promises.
    pub(crate) fn least(&self) -> f64 {
        self.least
    }

    /// Another point: the bent unknowns as far as damping and their limits let them go, all others as suits that;
    /// with what the linear model promises there.
    pub(crate) fn ahead(&self, hold: &Hold, order: &Order, damping: f64) -> (Values<'v>, f64) {
        let (s, d) = (order.straight, order.bent());
        let l = self.factor.l_dirty();
        let corner = DMatrix::from_fn(d, d, |i, j| if i >= j { l[(s + i, s + j)] } else { 0.0 });
        let left = self.left(order);
        let mut curvature = &corner * corner.transpose();
        (0..d).for_each(|j| curvature[(j, j)] *= 1.0 + damping);
        let promised = |step: &DVector<f64>| self.least + (&left - corner.tr_mul(step)).norm_squared();
        let [step, other] = self.steps(hold, order, &curvature, &(&corner * &left));
        let step = if promised(&other) < promised(&step) { other } else { step };
        let promised = promised(&step);
        let mut z = self.z.clone();
        let mut bent = z.rows_mut(s, d);
        bent += &step;
        // the straight ones: L₁'z₁ = w₁ − L₂₁'θ
        let mut straight = self.w.rows(0, s).clone_owned();
        straight.gemv_tr(-1.0, &l.view((s, 0), (d, s)), &z.rows(s, d), 1.0);
        l.view((0, 0), (s, s)).tr_solve_lower_triangular_mut(&mut straight);
        z.rows_mut(0, s).copy_from(&straight);
        (self.at(order, &z), promised)
    }

    /// Values at which half the readings' share of the slope is known, downhill and in units of the standard deviations, with the straight unknowns
    /// moved as that says.
    pub(crate) fn corrected(&self, order: &Order, values: Values<'v>, downhill: &DVector<f64>) -> Values<'v> {
        let s = order.straight;
        let l = self.factor.l_dirty();
        let mut z = order.z(&values.x);
        let mut step = DVector::from_fn(s, |j, _| downhill[order.indices[j]] - z[j]);
        let first = l.view((0, 0), (s, s));
        first.solve_lower_triangular_mut(&mut step);
        first.tr_solve_lower_triangular_mut(&mut step);
        let mut straight = z.rows_mut(0, s);
        straight += step;
        self.at(order, &z)
    }

    /// The values at a point.
    fn at(&self, order: &Order, z: &DVector<f64>) -> Values<'v> {
        let mut x = self.values.x.clone();
        order.indices.iter().zip(z.iter()).zip(order.sds.iter()).for_each(|((i, z), sd)| x[*i] = z * sd);
        Values { unknowns: self.values.unknowns, x }
    }

    /// Steps of the bent unknowns in which none goes too far: those that would stop, and the others go as suits that; or all go a part of the way.
    fn steps(&self, hold: &Hold, order: &Order, curvature: &DMatrix<f64>, downhill: &DVector<f64>) -> [DVector<f64>; 2] {
        let bent = &order.indices[order.straight..];
        let sds = &order.sds.as_slice()[order.straight..];
        let most = |j: usize, step: f64| most(hold, self.values.unknowns[bent[j]], self.values.x[bent[j]], step > 0.0) / sds[j];
        let whole = factored(curvature.clone()).solve(downhill);
        let part = whole.iter().enumerate().map(|(j, step)| (most(j, *step) / step.abs()).min(1.0)).fold(1.0, f64::min);
        let mut step = DVector::zeros(bent.len());
        let mut free: Vec<usize> = (0..bent.len()).collect();
        while !free.is_empty() {
            // what those that stopped leave to the others
            let right = (downhill - curvature * &step).select_rows(&free);
            let of_free = factored(curvature.select_rows(&free).select_columns(&free)).solve(&right);
            let (stop, go): (Vec<usize>, Vec<usize>) = (0..free.len()).partition(|k| of_free[*k].abs() > most(free[*k], of_free[*k]));
            if stop.is_empty() {
                free.iter().zip(of_free.iter()).for_each(|(j, by)| step[*j] = *by);
                break;
            }
            stop.iter().for_each(|k| step[free[*k]] = most(free[*k], of_free[*k]).copysign(of_free[*k]));
            free = go.into_iter().map(|k| free[k]).collect();
        }
        [step, whole * part]
    }
}

/// How far an unknown may go in one step from where it is, down or up.
fn most(hold: &Hold, unknown: Unknown, at: f64, up: bool) -> f64 {
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
