//! What is known before the readings: every unknown of the model with its centre and standard deviation.

use super::grid::Grid;
use crate::input::{Exposure, Hold};
use nalgebra::{DMatrix, DVector};

/// What an unknown is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unknown {
    /// pressure at the start, Pa
    StartPressure,
    /// relative error of the volume
    Volume,
    /// relative error of a body's stretch
    Stretch(usize),
    /// trapped air over the volume, difference from what was said
    Air,
    /// constant error of a gauge, Pa
    GaugeOffset(usize),
    /// error of a gauge per kelvin, Pa/K
    GaugeTemperature(usize),
    /// share of a gauge's error per kelvin that follows surroundings nobody read: straight or bent over the hold
    GaugeDrift(usize, usize),
    /// relative error of a gauge's span
    GaugeSpan(usize),
    /// constant error of a thermometer, K
    ThermometerOffset(usize),
    /// temperature at the filling, difference from what was said, K
    Filling,
    /// logarithm of a body's skin lag over what was said
    SkinLag(usize),
    /// logarithm of a body's fluid lag over what was said
    FluidLag(usize),
    /// a shape of the surroundings
    Surroundings(usize),
    /// creep of plastic walls, difference from what is expected, in standard deviations of the expectation
    Creep,
    /// what a lowered wall draws back, difference from what is expected, in standard deviations of the expectation
    DrawnBack,
    /// share of the trapped air that goes into solution, difference from what is expected
    AirShare,
    /// logarithm of the time over which it does, over what is expected
    AirTime,
    /// set of the gaskets over the volume, difference from what is expected
    GasketShare,
    /// logarithm of the time over which they set, over what is expected
    GasketTime,
    /// volume of a step, m³
    Step(usize),
    /// start of a leak within the hold, difference from where it was looked for, s
    LeakStart,
    /// mean loss over the hold, m³/s
    Leak,
}

/// Weather that is not known but from the readings.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Weather {
    /// Standard deviation of the fluctuation of air temperature, K.
    pub(crate) air_sd: f64,
    /// Standard deviation of what sun and cloud do to a bare skin's surroundings, K.
    pub(crate) sun_sd: f64,
}

/// Which scale a shape of the surroundings has.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Scale {
    /// known, K
    Fixed(f64),
    /// that of the air's fluctuation
    Air,
    /// that of sun and cloud
    Sun,
    /// constant difference of a bare body: a part known and that of sun and cloud
    BareBase,
}

/// Shapes of the surroundings at the nodes.
#[derive(Debug, Clone)]
pub(crate) struct Surroundings {
    /// For each body.
    pub(crate) bodies: Vec<Felt>,
    /// For a thermometer in the air: times of comparison × shapes.
    pub(crate) ambient: DMatrix<f64>,
    /// Centre of the air, °C.
    pub(crate) ambient_centre: f64,
    scales: Vec<Scale>,
    /// Shapes that are the mean of the surroundings, and those that are their daily wave.
    means: Vec<usize>,
    waves: Vec<usize>,
}

/// Shapes as one body feels them.
#[derive(Debug, Clone)]
pub(crate) struct Felt {
    /// Which shapes.
    pub(crate) shapes: Vec<usize>,
    /// Each of them (rows) at every point of the merged grid.
    pub(crate) at_points: DMatrix<f64>,
    /// Centre, °C.
    centre: f64,
}

impl Felt {
    /// What drives the body at every point of the merged grid, °C. `amounts` are of all shapes.
    pub(crate) fn drive(&self, amounts: &[f64]) -> Vec<f64> {
        let own = DVector::from_iterator(self.shapes.len(), self.shapes.iter().map(|s| amounts[*s]));
        self.at_points.column_iter().map(|c| self.centre + c.dot(&own)).collect()
    }
}

/// Time over which the fluctuation of air temperature forgets, s (common practice: one to two hours).
pub(crate) const AIR_TAU: f64 = 4000.0;
/// Usual fluctuation of the air, K (common practice).
pub(crate) fn usual_fluctuation(hold: &Hold) -> f64 {
    if hold.outdoors() { 0.3 } else { 0.15 }
}

/// Time over which sun and cloud change, s (common practice: some twenty minutes).
const SUN_TAU: f64 = 1500.0;
const DAY: f64 = 86_400.0;

/// Time over which the ground wanders, s, and by how much, K (common practice: hundredths of a kelvin within hours).
const SOIL_TAU: f64 = 30_000.0;
const SOIL_SD: f64 = 0.06;
/// A slow wander is described at about so many nodes.
const SLOW_NODES: usize = 12;

/// Time over which the difference between a body's own corner and the common air wanders, s, and by how much, K (common practice).
const CORNER_TAU: f64 = 6000.0;
const CORNER_SD: f64 = 0.12;

/// A slow wander at few nodes, straight between them.
fn slow_fluctuation(nodes: &[f64], tau: f64) -> DMatrix<f64> {
    let mut few: Vec<usize> = (0..nodes.len()).step_by(nodes.len().div_ceil(SLOW_NODES)).collect();
    if few.last() != Some(&(nodes.len() - 1)) {
        few.push(nodes.len() - 1);
    }
    let l = fluctuation(&few.iter().map(|i| nodes[*i]).collect::<Vec<_>>(), tau);
    let mut between = DMatrix::zeros(nodes.len(), few.len());
    for (j, pair) in few.windows(2).enumerate() {
        for i in pair[0]..=pair[1] {
            let share = (nodes[i] - nodes[pair[0]]) / (nodes[pair[1]] - nodes[pair[0]]);
            between[(i, j)] = 1.0 - share;
            between[(i, j + 1)] = share;
        }
    }
    between * l
}

/// Columns of the lower Cholesky factor of a stationary Ornstein–Uhlenbeck process of unit variance at the nodes.
fn fluctuation(nodes: &[f64], tau: f64) -> DMatrix<f64> {
    let n = nodes.len();
    let mut l = DMatrix::zeros(n, n);
    l[(0, 0)] = 1.0;
    for i in 1..n {
        let keep = (-(nodes[i] - nodes[i - 1]) / tau).exp();
        for j in 0..i {
            l[(i, j)] = keep * l[(i - 1, j)];
        }
        l[(i, i)] = (1.0 - keep * keep).sqrt();
    }
    l
}

/// A shape of the surroundings before it is put in its place.
struct Shape {
    /// Which bodies feel it.
    bodies: Vec<bool>,
    /// Whether a thermometer in the air does.
    air: bool,
    /// Its values at the nodes.
    values: Vec<f64>,
    scale: Scale,
}

impl Surroundings {
    pub(crate) fn new(hold: &Hold, grid: &Grid) -> Self {
        let nodes = &grid.nodes;
        let n = nodes.len();
        let in_air = |e: Exposure| e != Exposure::Buried;
        let some_air = hold.bodies.iter().any(|b| in_air(b.exposure));
        let some_buried = hold.bodies.iter().any(|b| !in_air(b.exposure));
        // each shape: who feels it (body index or the air), values at the nodes, scale
        let mut shapes: Vec<Shape> = Vec::new();
        let (mut means, mut waves) = (Vec::new(), Vec::new());
        let shape = |bodies: Vec<bool>, air: bool, values: Vec<f64>, scale: Scale| Shape { bodies, air, values, scale };
        let air_bodies: Vec<bool> = hold.bodies.iter().map(|b| in_air(b.exposure)).collect();
        let only = |i: usize| (0..hold.bodies.len()).map(|j| i == j).collect::<Vec<_>>();
        let constant = vec![1.0; n];
        if some_air {
            let base_sd = if hold.surroundings_c.is_some() { 4.0 } else { 8.0 };
            means.push(shapes.len());
            shapes.push(shape(air_bodies.clone(), true, constant.clone(), Scale::Fixed(base_sd)));
            let daily = if hold.outdoors() { 3.5 } else { 1.0 };
            for shift in [0.0, 0.25] {
                waves.push(shapes.len());
                let wave = nodes.iter().map(|t| (std::f64::consts::TAU * (t / DAY + shift)).sin()).collect();
                shapes.push(shape(air_bodies.clone(), true, wave, Scale::Fixed(daily / std::f64::consts::SQRT_2)));
            }
            let l = fluctuation(nodes, AIR_TAU);
            for j in 0..n {
                shapes.push(shape(air_bodies.clone(), true, l.column(j).iter().copied().collect(), Scale::Air));
            }
            for (i, body) in hold.bodies.iter().enumerate().filter(|(_, b)| in_air(b.exposure)) {
                if body.exposure == Exposure::BareOutdoor {
                    shapes.push(shape(only(i), false, constant.clone(), Scale::BareBase));
                    let l = fluctuation(nodes, SUN_TAU);
                    for j in 0..n {
                        shapes.push(shape(only(i), false, l.column(j).iter().copied().collect(), Scale::Sun));
                    }
                } else {
                    shapes.push(shape(only(i), false, constant.clone(), Scale::Fixed(0.6)));
                }
                let corner = slow_fluctuation(nodes, CORNER_TAU);
                for j in 0..corner.ncols() {
                    shapes.push(shape(only(i), false, corner.column(j).iter().copied().collect(), Scale::Fixed(CORNER_SD)));
                }
            }
        }
        if some_buried {
            let buried: Vec<bool> = air_bodies.iter().map(|a| !a).collect();
            means.push(shapes.len());
            shapes.push(shape(buried, false, constant.clone(), Scale::Fixed(4.0)));
            for (i, _) in hold.bodies.iter().enumerate().filter(|(_, b)| !in_air(b.exposure)) {
                shapes.push(shape(only(i), false, constant.clone(), Scale::Fixed(0.35)));
                let slope = nodes.iter().map(|t| t / 3600.0).collect();
                shapes.push(shape(only(i), false, slope, Scale::Fixed(0.03)));
                let wander = slow_fluctuation(nodes, SOIL_TAU);
                for j in 0..wander.ncols() {
                    shapes.push(shape(only(i), false, wander.column(j).iter().copied().collect(), Scale::Fixed(SOIL_SD)));
                }
            }
        }
        let air_centre = hold.surroundings_c.unwrap_or(hold.fill_temperature_c);
        let felt = |(i, body): (usize, &crate::input::Body)| {
            let own: Vec<usize> = (0..shapes.len()).filter(|s| shapes[*s].bodies[i]).collect();
            Felt {
                at_points: DMatrix::from_fn(own.len(), grid.merged.len(), |s, p| grid.value(&grid.merged[p], &shapes[own[s]].values)),
                shapes: own,
                centre: if in_air(body.exposure) { air_centre } else { hold.fill_temperature_c },
            }
        };
        let mut ambient = DMatrix::zeros(grid.times.len(), shapes.len());
        for (k, point) in grid.merged.iter().filter_map(|p| p.time.map(|k| (k, p))) {
            for (j, shape) in shapes.iter().enumerate().filter(|(_, s)| s.air) {
                ambient[(k, j)] = grid.value(point, &shape.values);
            }
        }
        Self {
            bodies: hold.bodies.iter().enumerate().map(felt).collect(),
            ambient,
            ambient_centre: air_centre,
            scales: shapes.iter().map(|s| s.scale).collect(),
            means,
            waves,
        }
    }

    /// How much of a shape there is, in standard deviations, when the mean and the daily wave of the surroundings are off by so many.
    pub(crate) fn course(&self, shape: usize, mean: f64, wave: f64) -> f64 {
        if self.means.contains(&shape) {
            mean
        } else if self.waves.contains(&shape) {
            wave
        } else {
            0.0
        }
    }

    /// True for a shape that sets the level of temperature, on which the fluid's expansion depends.
    pub(crate) fn is_level(&self, shape: usize) -> bool {
        self.means.contains(&shape) || self.waves.contains(&shape) || self.scales[shape] == Scale::BareBase
    }

    /// Those shapes, in the order of all.
    pub(crate) fn levels(&self) -> Vec<usize> {
        (0..self.count()).filter(|s| self.is_level(*s)).collect()
    }

    /// How many shapes.
    pub(crate) fn count(&self) -> usize {
        self.scales.len()
    }

    /// Standard deviation of a shape.
    pub(crate) fn sd(&self, shape: usize, weather: Weather) -> f64 {
        match self.scales[shape] {
            Scale::Fixed(sd) => sd,
            Scale::Air => weather.air_sd,
            Scale::Sun => weather.sun_sd,
            Scale::BareBase => 0.7 + weather.sun_sd,
        }
    }

    /// True when a bare body stands outdoors.
    pub(crate) fn has_sun(&self) -> bool {
        self.scales.contains(&Scale::Sun)
    }

    /// True when air drives any body.
    pub(crate) fn has_air(&self) -> bool {
        self.scales.contains(&Scale::Air)
    }
}

/// What else than heat and a leak from the start moves the pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Causes {
    /// Trapped air goes into solution.
    pub air: bool,
    /// Gaskets set.
    pub gaskets: bool,
    /// The leak starts about here, s; none for one from the start.
    pub leak_from: Option<f64>,
}

/// Air in solution: 5 to 35 % of it over half an hour to six hours (common practice).
pub(crate) const AIR_SHARE: (f64, f64) = (0.20, 0.087);
/// Expected time, s, and the standard deviation of its logarithm.
pub(crate) const AIR_TIME: (f64, f64) = (6235.0, 0.717);
/// Set of gaskets: one to fifteen millionths of the volume over ten minutes to two hours (common practice).
pub(crate) const GASKET_SHARE: (f64, f64) = (8e-6, 4e-6);
/// Expected time, s, and the standard deviation of its logarithm.
pub(crate) const GASKET_TIME: (f64, f64) = (2078.0, 0.717);

/// The unknowns in order, the leak last.
pub(crate) fn unknowns(hold: &Hold, surroundings: &Surroundings, ambient_read: bool, causes: Causes) -> Vec<Unknown> {
    let mut all = vec![Unknown::StartPressure, Unknown::Volume];
    all.extend((0..hold.bodies.len()).map(Unknown::Stretch));
    if hold.air_fraction > 0.0 || hold.air_fraction_unc_95 > 0.0 {
        all.push(Unknown::Air);
    }
    for (g, gauge) in hold.gauges.iter().enumerate() {
        all.push(Unknown::GaugeOffset(g));
        if gauge.span_95 > 0.0 {
            all.push(Unknown::GaugeSpan(g));
        }
        if gauge.temperature_95_pa_per_k > 0.0 {
            if ambient_read {
                all.push(Unknown::GaugeTemperature(g));
            } else {
                all.extend([Unknown::GaugeDrift(g, 0), Unknown::GaugeDrift(g, 1)]);
            }
        }
    }
    all.extend((0..hold.thermometers.len()).map(Unknown::ThermometerOffset));
    all.push(Unknown::Filling);
    for i in 0..hold.bodies.len() {
        all.extend([Unknown::SkinLag(i), Unknown::FluidLag(i)]);
    }
    all.extend((0..surroundings.count()).map(Unknown::Surroundings));
    if hold.bodies.iter().any(|b| b.creep.is_some()) {
        all.push(Unknown::Creep);
        all.extend(hold.lowered.map(|_| Unknown::DrawnBack));
    }
    if causes.air {
        all.extend([Unknown::AirShare, Unknown::AirTime]);
    }
    if causes.gaskets {
        all.extend([Unknown::GasketShare, Unknown::GasketTime]);
    }
    all.extend((0..hold.steps.len()).map(Unknown::Step));
    if causes.leak_from.is_some() {
        all.push(Unknown::LeakStart);
    }
    all.push(Unknown::Leak);
    all
}

/// Standard deviation of an unknown before the readings. `free` is a volume far beyond what the hold could lose.
pub(crate) fn sd(hold: &Hold, surroundings: &Surroundings, weather: Weather, free: f64, of: Unknown) -> f64 {
    match of {
        Unknown::StartPressure => 0.2 * hold.pressure_pa + 1e5,
        Unknown::Volume => 0.5 * hold.volume_unc_95,
        Unknown::Stretch(i) => 0.5 * hold.bodies[i].wall_compliance_unc_95,
        Unknown::Air => 0.5 * hold.air_fraction_unc_95,
        Unknown::GaugeOffset(g) => 0.5 * hold.gauges[g].offset_95_pa,
        Unknown::GaugeTemperature(g) => 0.5 * hold.gauges[g].temperature_95_pa_per_k,
        Unknown::GaugeDrift(g, _) => 0.5 * hold.gauges[g].temperature_95_pa_per_k * hold.swing_k.unwrap_or(5.0),
        Unknown::GaugeSpan(g) => 0.5 * hold.gauges[g].span_95,
        Unknown::ThermometerOffset(t) => 0.5 * hold.thermometers[t].offset_95_k,
        Unknown::Filling => hold.fill_temperature_sd_k,
        Unknown::SkinLag(i) | Unknown::FluidLag(i) => 0.5 * hold.bodies[i].lag_factor_95.ln(),
        Unknown::Surroundings(s) => surroundings.sd(s, weather),
        Unknown::Creep | Unknown::DrawnBack => 1.0,
        Unknown::Step(s) => match hold.steps[s].volume {
            Some((_, unc)) => 0.5 * unc,
            None => free,
        },
        Unknown::AirShare => AIR_SHARE.1,
        Unknown::AirTime => AIR_TIME.1,
        Unknown::GasketShare => GASKET_SHARE.1,
        Unknown::GasketTime => GASKET_TIME.1,
        Unknown::LeakStart => hold.length_s / 12f64.sqrt(),
        Unknown::Leak => free / hold.length_s,
    }
}
