//! What a test will be able to show, before it.

use super::blocks::{Block, Cell};
use super::causes::{AIR_PRIOR, GASKET_PRIOR};
use super::error::FitError;
use super::interval::Site;
use super::noise::{Averaged, is_quiet, variance_of_mean};
use super::normal_equations::factored;
use super::observed::Observed;
use super::path::Values;
use super::prior::{Causes, Unknown};
use super::search::Search;
use super::setup::Setup;
use super::states::States;
use crate::input::{Fluid, Hold};
use nalgebra::{DMatrix, DVector};

/// Blocks of a record that is not there yet.
const BLOCKS: usize = 48;

/// Least loss that a test so planned will be able to show, m³/s: 3.29 standard deviations of the leak with none, lags, weather, air and
/// relaxation as uncertain as they are before the readings.
///
/// # Errors
/// When the hold leaves the fluid's range.
pub fn planned_detection_limit(hold: &Hold) -> Result<f64, FitError> {
    let setup = Setup::new(hold, blocks(hold))?;
    let states = States::new(hold, &setup.surroundings);
    let water = hold.fluid == Fluid::Water;
    let p_air = if water && hold.air_fraction > 0.0 { AIR_PRIOR } else { 0.0 };
    let p_gaskets = if water && hold.gasketed_joints > 0 { GASKET_PRIOR } else { 0.0 };
    let causes = Causes { air: p_air > 0.0, gaskets: p_gaskets > 0.0, leak_from: None };
    let mut variance = 0.0;
    let of_courses: Vec<Corner> = COURSES.iter().map(|course| Corner::of(hold, &setup, &states, causes, *course)).collect();
    for (air, gaskets) in [(false, false), (true, false), (false, true), (true, true)] {
        let weight = (if air { p_air } else { 1.0 - p_air }) * (if gaskets { p_gaskets } else { 1.0 - p_gaskets });
        if weight == 0.0 {
            continue;
        }
        let logs = of_courses.iter().map(|corner| corner.leak_variance(air, gaskets).ln());
        variance += weight * (logs.sum::<f64>() / of_courses.len() as f64).exp();
    }
    Ok(3.29 * variance.sqrt())
}

/// Courses of the surroundings that a plan is made for: their mean and their daily wave in standard deviations from what is expected. With none
/// of it, lags would not matter.
const COURSES: [(f64, f64); 4] = [(-1.0, 0.7), (-0.4, -0.7), (0.4, 0.7), (1.0, -0.7)];

/// What readings will say of relaxation and the leak, everything else integrated out, when the surroundings take a course.
struct Corner {
    unknowns: Vec<Unknown>,
    /// In units of their standard deviations.
    precision: DMatrix<f64>,
    leak_sd: f64,
}

impl Corner {
    fn of(hold: &Hold, setup: &Setup, states: &States, causes: Causes, (mean, wave): (f64, f64)) -> Self {
        let state = states.quiet(&states.first());
        let unknowns = setup.unknowns(hold, causes);
        let sds = setup.sds(hold, &unknowns, states.weathers[state.weather]);
        let mut x = DVector::zeros(unknowns.len());
        for (j, unknown) in unknowns.iter().enumerate() {
            if let Unknown::Surroundings(shape) = unknown {
                x[j] = sds[j] * setup.surroundings.course(*shape, mean, wave);
            }
        }
        let (_, rows) = setup.frame(hold, 0.0).linear(&Values { unknowns: &unknowns, x: x.clone() }, &[]);
        let observed: Vec<Observed> = rows.iter().map(|r| expected(hold, setup, r)).collect();
        let search = Search { setup, hold, states, unknowns: &unknowns, rows: &rows, observed: &observed, x: &x, starts: &[], held: &[] };
        let total = search.total_of(&state);
        let (mut order, corner): (Vec<usize>, Vec<usize>) = (0..unknowns.len()).partition(|i| !is_of_corner(unknowns[*i]));
        let first = order.len();
        order.extend(&corner);
        let factor = factored(total.ordered(&order, &sds));
        let lower = factor.l().view_range(first.., first..).clone_owned();
        Self {
            leak_sd: corner.last().map_or(0.0, |leak| sds[*leak]),
            unknowns: corner.into_iter().map(|i| unknowns[i]).collect(),
            precision: &lower * lower.transpose(),
        }
    }

    /// Variance of the leak, with some of the relaxations at work.
    fn leak_variance(&self, air: bool, gaskets: bool) -> f64 {
        let at_work = |u: &Unknown| match u {
            Unknown::AirShare | Unknown::AirTime => air,
            Unknown::GasketShare | Unknown::GasketTime => gaskets,
            _ => true,
        };
        let kept: Vec<usize> = (0..self.unknowns.len()).filter(|i| at_work(&self.unknowns[*i])).collect();
        let factor = factored(self.precision.select_rows(&kept).select_columns(&kept));
        let mut leak = DVector::zeros(kept.len());
        leak[kept.len() - 1] = self.leak_sd;
        factor.l().solve_lower_triangular_mut(&mut leak);
        leak.norm_squared()
    }
}

/// True for relaxation and the leak.
fn is_of_corner(unknown: Unknown) -> bool {
    matches!(unknown, Unknown::AirShare | Unknown::AirTime | Unknown::GasketShare | Unknown::GasketTime | Unknown::Leak)
}

/// Blocks as the plan's interval will fill them.
fn blocks(hold: &Hold) -> Vec<Block> {
    let readings = ((hold.length_s / hold.interval_s).floor() as usize).saturating_add(1);
    let channels = hold.gauges.len() + hold.thermometers.len();
    let count = readings.min(BLOCKS);
    let per_block = readings as f64 / count as f64;
    (0..count)
        .map(|b| {
            let single = readings <= BLOCKS;
            let t = if single { b as f64 * hold.interval_s } else { (b as f64 + 0.5) * hold.length_s / count as f64 };
            let cell = |c: usize| {
                let value = if c < hold.gauges.len() { hold.pressure_pa } else { hold.fill_temperature_c };
                Cell { count: per_block, mean: value, range: (value, value), runs: Vec::new() }
            };
            Block { t, length: if single { 0.0 } else { hold.length_s / count as f64 }, cells: (0..channels).map(cell).collect() }
        })
        .collect()
}

fn expected(hold: &Hold, setup: &Setup, rows: &super::columns::ChannelRows) -> Observed {
    let (division, sd) = hold.noise_of(rows.channel);
    let cells = || rows.blocks.iter().map(|b| &setup.blocks[*b]).map(|b| (b, b.cells[rows.channel].count));
    let sites = cells().zip(rows.expected.iter()).map(|((_, n), e)| Site { value: *e, variance: variance_of_mean(sd, division, n) });
    let averaged = cells().map(|(b, count)| Averaged { t: b.t, length: b.length, count });
    let mut out = Observed::new(sites.collect(), averaged.collect(), false);
    if is_quiet(sd, division) {
        out.forget_crossings(hold, rows.channel, &rows.expected);
    }
    out
}
