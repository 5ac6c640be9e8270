//! The state of the system over the hold for one set of unknowns, and how it answers to each of them.

use super::content::{Content, Instant, Mass, pressure};
use super::grid::Grid;
use super::prior::{self, Surroundings, Unknown};
use super::shapes;
use super::thermal::{self, Lag, SkinFluid};
use crate::input::Hold;
use nalgebra::DVector;

/// Values of the unknowns, in the order of the list.
#[derive(Debug, Clone)]
pub(crate) struct Values<'a> {
    /// What they are.
    pub(crate) unknowns: &'a [Unknown],
    /// Their values: differences from the centre.
    pub(crate) x: DVector<f64>,
}

impl Values<'_> {
    pub(crate) fn of(&self, unknown: Unknown) -> f64 {
        self.unknowns.iter().position(|u| *u == unknown).map_or(0.0, |i| self.x[i])
    }
}

/// Everything over the times of comparison.
#[derive(Debug)]
pub(crate) struct Path {
    /// Lags of each body's skin and fluid.
    pub(crate) lags: Vec<(Lag, Lag)>,
    /// What drives each body, at every point of the merged grid.
    pub(crate) drives: Vec<Vec<f64>>,
    /// Skin and fluid of each body.
    pub(crate) heat: Vec<SkinFluid>,
    /// Pressure, Pa absolute.
    pub(crate) p: Vec<f64>,
    /// Volume lost and let out, m³.
    pub(crate) lost: Vec<f64>,
    /// Mass and slopes at each time; empty unless they were asked for.
    pub(crate) mass: Vec<Mass>,
    /// Mass and slopes at the start.
    pub(crate) start: Mass,
    /// Shape of a leak from the start.
    pub(crate) leak: Vec<f64>,
    /// Growth of the cavity by creep.
    pub(crate) creep: Crept,
    /// Gaskets and air.
    pub(crate) relaxed: Relaxed,
    /// Density that turns a lost volume into mass, kg/m³.
    pub(crate) lost_density: f64,
}

/// How far gaskets have set and air has gone into solution.
#[derive(Debug, Default)]
pub(crate) struct Relaxed {
    /// Relative growth of the cavity by gaskets.
    pub(crate) gaskets: Vec<f64>,
    /// Share of the air in solution.
    pub(crate) dissolved: Vec<f64>,
    /// For each of its unknowns, what it moves per unit.
    pub(crate) slopes: Vec<(Unknown, Vec<f64>)>,
}

fn relaxed(values: &Values<'_>, times: &[f64]) -> Relaxed {
    let mut out = Relaxed { gaskets: vec![0.0; times.len()], dissolved: vec![0.0; times.len()], slopes: Vec::new() };
    let kinds = [
        (Unknown::AirShare, Unknown::AirTime, prior::AIR_SHARE.0, prior::AIR_TIME.0),
        (Unknown::GasketShare, Unknown::GasketTime, prior::GASKET_SHARE.0, prior::GASKET_TIME.0),
    ];
    for (share, time, expected_share, expected_time) in kinds {
        if !values.unknowns.contains(&share) {
            continue;
        }
        let amount = expected_share + values.of(share);
        let tau = expected_time * values.of(time).clamp(-4.0, 4.0).exp();
        let shape = shapes::exponential(times, tau);
        let per_time: Vec<f64> = times.iter().map(|t| -amount * (t / tau) * (-t / tau).exp()).collect();
        let whole = if share == Unknown::AirShare { &mut out.dissolved } else { &mut out.gaskets };
        whole.iter_mut().zip(&shape).for_each(|(w, s)| *w += amount * s);
        out.slopes.extend([(share, shape), (time, per_time)]);
    }
    out
}

/// Drive of one body at every point of the merged grid.
fn drive(surroundings: &Surroundings, values: &Values<'_>, body: usize) -> Vec<f64> {
    let first = values.unknowns.iter().position(|u| matches!(u, Unknown::Surroundings(_))).unwrap_or(0);
    surroundings.bodies[body].drive(&values.x.as_slice()[first..])
}

/// Lags of a body's skin and fluid.
fn lags(hold: &Hold, grid: &Grid, values: &Values<'_>, body: usize) -> (Lag, Lag) {
    let b = &hold.bodies[body];
    let lag = |usual: f64, of: Unknown| Lag::new(grid, (usual * values.of(of).clamp(-3.0, 3.0).exp()).max(1.0));
    (lag(b.skin_lag_s, Unknown::SkinLag(body)), lag(b.fluid_lag_s, Unknown::FluidLag(body)))
}

/// What the pressure does at each time with a change of a body's temperature, Pa/K.
pub(crate) struct OfHeat {
    start: Vec<f64>,
    fluid: Vec<f64>,
    skin: Vec<f64>,
}

impl OfHeat {
    /// Adds what changes of skin and fluid over time do; the first of them is at the start.
    pub(crate) fn add_to(&self, pressure: &mut [f64], skin: &[f64], fluid: &[f64]) {
        let (Some(skin0), Some(fluid0)) = (skin.first(), fluid.first()) else { return };
        for (((((p, start), of_fluid), of_skin), s), f) in
            pressure.iter_mut().zip(&self.start).zip(&self.fluid).zip(&self.skin).zip(skin).zip(fluid)
        {
            *p += start * fluid0 - of_fluid * f - of_skin * (s - skin0);
        }
    }
}

/// Whether mass and its slopes are wanted at each time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Weighed {
    /// they are
    Yes,
    /// pressures are enough
    No,
}

/// Solves the hold for one set of unknowns.
pub(crate) fn solve(
    hold: &Hold,
    grid: &Grid,
    surroundings: &Surroundings,
    content: &Content,
    values: &Values<'_>,
    (start_pa, leak_from): (f64, f64),
    weighed: Weighed,
) -> Path {
    let filled = hold.fill_temperature_c + values.of(Unknown::Filling);
    let lags: Vec<(Lag, Lag)> = (0..hold.bodies.len()).map(|i| lags(hold, grid, values, i)).collect();
    let drives: Vec<Vec<f64>> = (0..hold.bodies.len()).map(|i| drive(surroundings, values, i)).collect();
    let heat: Vec<SkinFluid> =
        lags.iter().zip(&drives).map(|((skin, fluid), drive)| thermal::path(grid, drive, filled, (skin, fluid))).collect();
    let mut content = content.clone();
    for (i, stretch) in content.stretch.iter_mut().enumerate() {
        *stretch *= 1.0 + values.of(Unknown::Stretch(i)).max(-0.8);
    }
    content.air = (content.air + values.of(Unknown::Air)).max(0.0);
    let times = &grid.times;
    let p0 = start_pa + values.of(Unknown::StartPressure);
    let creep = creep(hold, times, p0);
    let bodies = heat.len();
    let together =
        |of: fn(&SkinFluid) -> &[f64]| -> Vec<f64> { (0..times.len()).flat_map(|k| heat.iter().map(move |h| of(h)[k])).collect() };
    let (fluid, skin) = (together(|h| &h.fluid), together(|h| &h.skin));
    let at = |k: usize| -> (&[f64], &[f64]) { (&fluid[k * bodies..][..bodies], &skin[k * bodies..][..bodies]) };
    let start = Instant { p: p0, fluid: at(0).0, skin: at(0).1, grown: 0.0, dissolved: 0.0 };
    let first = content.mass(start, start);
    let lost_density = super::density::normal_density(hold.fluid).unwrap_or(first.per_growth);
    let volume = hold.volume_m3() * values.of(Unknown::Volume).exp();
    let leak_rate = values.of(Unknown::Leak);
    let (crept, drawn_back) = (values.of(Unknown::Creep), values.of(Unknown::DrawnBack));
    let relaxing = relaxed(values, times);
    let grown: Vec<f64> = (0..times.len()).map(|k| creep.at(k, crept, drawn_back) + relaxing.gaskets[k]).collect();
    let leak_from = (leak_from + values.of(Unknown::LeakStart)).clamp(0.0, 0.97 * hold.length_s);
    let steps: Vec<Vec<f64>> = hold.steps.iter().map(|s| shapes::ramp(times, s.start_s, s.end_s)).collect();
    // the leak's shape needs the pressures, these the leak: twice round is enough, and once where the pressure hardly moves
    let mut p = vec![p0; times.len()];
    let (mut lost, mut leak) = (vec![0.0; times.len()], Vec::new());
    let now = |k: usize, p: f64| Instant { p, fluid: at(k).0, skin: at(k).1, grown: grown[k], dissolved: relaxing.dissolved[k] };
    let mut cavities = Vec::with_capacity(times.len() * bodies);
    (0..times.len()).for_each(|k| content.cavities(now(k, p0), start, &mut cavities));
    for round in 0..2 {
        leak = shapes::loss(hold, times, &p, leak_from);
        for k in 0..times.len() {
            lost[k] = leak_rate * hold.length_s * leak[k];
            for (s, step) in hold.steps.iter().enumerate() {
                lost[k] += (step.volume.map_or(0.0, |v| v.0) + values.of(Unknown::Step(s))) * steps[s][k];
            }
            let guess = match k {
                _ if round > 0 => p[k],
                0 => p0,
                1 => p[0],
                // as it went on
                _ => p[k - 1] + (p[k - 1] - p[k - 2]) * ((times[k] - times[k - 1]) / (times[k - 1] - times[k - 2])).min(2.0),
            };
            let target = first.value - lost_density * lost[k] / volume;
            p[k] = pressure(&cavities[k * bodies..][..bodies], target, guess, p0);
        }
        let (least, most) = p.iter().fold((f64::INFINITY, 0.0f64), |(lo, hi), p| (lo.min(*p), hi.max(*p)));
        if most - least < STRAIGHT * (least - hold.atmosphere_pa).max(1.0) {
            break;
        }
    }
    let mass = match weighed {
        Weighed::No => Vec::new(),
        Weighed::Yes => (0..times.len()).map(|k| content.mass(now(k, p[k]), start)).collect(),
    };
    Path { lags, drives, heat, p, lost, mass, start: first, leak, creep, relaxed: relaxing, lost_density }
}

/// A pressure that moves by less than this share of itself loses evenly.
const STRAIGHT: f64 = 1e-3;

/// Relative growth of the cavity by creep.
#[derive(Debug)]
pub(crate) struct Crept {
    /// As expected.
    expected: Vec<f64>,
    /// Per standard deviation of its coefficient.
    pub(crate) per_sd: Vec<f64>,
    /// Per standard deviation of what a lowered wall draws back.
    pub(crate) drawn_back_per_sd: Vec<f64>,
}

impl Crept {
    fn at(&self, k: usize, crept: f64, drawn_back: f64) -> f64 {
        self.expected[k] + crept * self.per_sd[k] + drawn_back * self.drawn_back_per_sd[k]
    }
}

/// Standard deviation of what a lowered wall draws back over what its creep would have it (common practice: walls draw back otherwise than they stretch, and
/// nobody writes down to the second when they were lowered).
const DRAWN_BACK_SD: f64 = 0.4;

/// Relative growth of the cavity by creep.
///
/// A wall that creeps adds up what each change of pressure does (Boltzmann): it stretches on under the pressure that it had, and draws back from what was
/// taken off it.
fn creep(hold: &Hold, times: &[f64], p0: f64) -> Crept {
    let volume = hold.volume_m3();
    let weighted = |of: &dyn Fn(crate::input::Creep) -> f64| -> f64 {
        hold.bodies.iter().filter_map(|b| b.creep.map(|c| b.volume_m3 / volume * b.wall_compliance_per_pa * of(c))).sum()
    };
    let (sd, mean) = (weighted(&|c| c.sd), weighted(&|c| c.coefficient));
    let under = |pressure: f64, since_s: f64| shapes::log_time(times, since_s.max(30.0)).into_iter().map(move |s| s * pressure);
    let by = hold.lowered.map_or(0.0, |l| l.by_pa);
    let drawn_back: Vec<f64> = under(by, hold.lowered.map_or(0.0, |l| l.before_s)).collect();
    let stretched = under(p0 - hold.atmosphere_pa + by, hold.at_pressure_s);
    let shape: Vec<f64> = stretched.zip(&drawn_back).map(|(a, b)| a - b).collect();
    let times = |shape: &[f64], by: f64| shape.iter().map(|s| s * by).collect();
    Crept { expected: times(&shape, mean), per_sd: times(&shape, sd), drawn_back_per_sd: times(&drawn_back, -DRAWN_BACK_SD * mean) }
}

impl Path {
    /// Pressure per lost volume at each time for a given shape of loss (m³), Pa.
    pub(crate) fn of_loss(&self, hold: &Hold, shape: &[f64]) -> Vec<f64> {
        let volume = hold.volume_m3();
        (0..self.p.len()).map(|k| -self.lost_density * shape[k] / (volume * self.mass[k].per_pa)).collect()
    }

    /// Pressure for a given relative growth of the cavity, Pa.
    pub(crate) fn of_growth(&self, growth: &[f64]) -> Vec<f64> {
        (0..self.p.len()).map(|k| -self.mass[k].per_growth * growth[k] / self.mass[k].per_pa).collect()
    }

    /// Pressure for a given share of the air gone into solution, Pa: the cavity gains what the air leaves.
    pub(crate) fn of_dissolved(&self, share: &[f64]) -> Vec<f64> {
        (0..self.p.len()).map(|k| -self.mass[k].per_dissolved * share[k] / self.mass[k].per_pa).collect()
    }

    /// Pressure for a change of skin and fluid of a body at a time and at the start, Pa: what each is to be multiplied by.
    pub(crate) fn of_heat(&self, body: usize) -> OfHeat {
        let over = |of: &dyn Fn(&Mass) -> f64| self.mass.iter().map(|m| of(m) / m.per_pa).collect();
        OfHeat {
            start: over(&|_| self.start.per_fluid_k[body]),
            fluid: over(&|m| m.per_fluid_k[body]),
            skin: over(&|m| m.per_skin_k[body]),
        }
    }

    /// Pressure for a change of the pressure at the start: the stretch is counted from there and cancels.
    pub(crate) fn of_start(&self) -> Vec<f64> {
        self.mass.iter().map(|m| self.start.per_pa / m.per_pa).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::creep;
    use crate::input::{Creep, Hold, Lowered};
    use crate::model::jacobian_test::hold;
    use proptest::prelude::*;

    proptest! {
        /// From (p + Δ)·ln((t + t₁)/t₁) − Δ·ln((t + t₂)/t₂) by hand: a wall that was lowered by Δ draws back until t = (Δ·t₁ − (p + Δ)·t₂)/p, and stretches
        /// on from there.
        #[test]
        fn a_wall_that_was_lowered_draws_back_before_it_stretches_on(
            share in 0.05f64..0.2, stretched in 5000.0f64..15_000.0, before in 30.0f64..60.0, k in 0.01f64..0.08,
        ) {
            let mut hold = hold();
            hold.bodies.iter_mut().for_each(|b| b.creep = Some(Creep { coefficient: k, sd: 0.3 * k }));
            let p = 8e5;
            let by = share * p;
            let at = |hold: &Hold, t: f64| creep(hold, &[t], p + hold.atmosphere_pa);
            let plain = Hold { at_pressure_s: stretched, lowered: None, ..hold };
            let lowered = Hold { lowered: Some(Lowered { by_pa: by, before_s: before }), ..plain.clone() };
            let none = Hold { lowered: Some(Lowered { by_pa: 0.0, before_s: before }), ..plain.clone() };
            prop_assert_eq!(at(&none, 3600.0).expected, at(&plain, 3600.0).expected);
            let turns = (by * stretched - (p + by) * before) / p;
            prop_assume!(turns > 60.0);
            let grown = |t: f64| at(&lowered, t).expected[0];
            prop_assert!(grown(turns) < grown(0.9 * turns) && grown(turns) < grown(1.1 * turns) && grown(turns) < 0.0);
            let whole = at(&lowered, 3600.0);
            prop_assert!((whole.per_sd[0] / whole.expected[0] - 0.3).abs() < 1e-12 && whole.drawn_back_per_sd[0] < 0.0);
        }
    }
}
