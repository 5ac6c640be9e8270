//! The smallest standard deviation that an analysis of a record can have (Cramér–Rao with what is known beforehand): statistics of weather
//! and noise known, kind of relaxation known, everything else unknown within what the case says. Rounding counts as white noise.

use crate::instruments::{Spot, TrueGauge, TrueThermometer};
use crate::plant::{Gone, Heat};
use crate::simulate::{self, Course, Leak, Scene};
use crate::weather::{Corner, Surroundings, Weather};
use nalgebra::{Cholesky, DMatrix, DVector};

/// What the case says of uncertainty.
#[derive(Debug, Clone)]
pub struct Known {
    /// Volume (95 %, relative).
    pub volume: f64,
    /// Stretch of each body (95 %, relative).
    pub stretch: Vec<f64>,
    /// Air (95 %).
    pub air: f64,
    /// Creep: standard deviation of the coefficient, of each body.
    pub creep: Vec<f64>,
    /// Factor of the lags (95 %).
    pub lag_factor: f64,
    /// Steps that are not known or measured: from, to, standard deviation of the volume.
    pub steps: Vec<(f64, f64, f64)>,
}

/// Blocks of usable readings: time, number of readings, for each channel.
pub type Blocks = Vec<Vec<(f64, f64)>>;

/// Everything that a bound is for.
pub struct Setting<'a> {
    /// The scene.
    pub scene: &'a Scene,
    /// Its weather.
    pub weather: &'a Weather,
    /// Its corners.
    pub corners: &'a [Corner],
    /// Gauges.
    pub gauges: &'a [TrueGauge],
    /// Thermometers.
    pub thermometers: &'a [TrueThermometer],
    /// What is known.
    pub known: &'a Known,
}

struct Column {
    sd: f64,
    rows: DVector<f64>,
}

/// Standard deviation of the mean loss, m³/s, for a leak and usable readings.
pub fn bound(s: &Setting<'_>, leak: Leak, blocks: &Blocks) -> f64 {
    let mut times: Vec<f64> = blocks.iter().flatten().map(|b| b.0).collect();
    times.push(0.0);
    times.sort_by(f64::total_cmp);
    times.dedup();
    let (fluid, skin) = simulate::temperatures(s.scene, &times);
    let course = simulate::course(s.scene, &times, &fluid, &skin, leak);
    let answers = Answers::new(s, &course, &times);
    let index = |t: f64| times.partition_point(|u| *u < t - 1e-9);
    let at: Vec<Vec<usize>> = blocks.iter().map(|c| c.iter().map(|b| index(b.0)).collect()).collect();
    let total: usize = at.iter().map(Vec::len).sum();
    let mut first = Vec::new();
    let mut count = 0;
    for c in &at {
        first.push(count);
        count += c.len();
    }
    let gauges = s.gauges.len();
    let everywhere = |p: &[f64]| {
        let mut rows = DVector::zeros(total);
        for c in 0..gauges {
            for (i, k) in at[c].iter().enumerate() {
                rows[first[c] + i] = p[*k];
            }
        }
        rows
    };
    let mut columns: Vec<Column> = Vec::new();
    let n = times.len();
    // the leak first, with nothing known of it
    let shape: Vec<f64> = {
        let unit = 1e-3 * s.scene.plant.bodies.iter().map(|b| b.volume).sum::<f64>() / s.scene.length;
        let one = simulate::course(s.scene, &times, &fluid, &skin, Leak { rate: unit, start: leak.start });
        let last = one.lost[n - 1].max(1e-300);
        one.lost.iter().map(|l| l / last * s.scene.length).collect()
    };
    columns.push(Column { sd: f64::INFINITY, rows: everywhere(&answers.of_loss(&shape)) });
    columns.push(Column { sd: 1e6, rows: everywhere(&vec![1.0; n]) });
    columns
        .push(Column { sd: 0.5 * s.known.volume, rows: everywhere(&answers.of_loss(&course.lost.iter().map(|l| -l).collect::<Vec<_>>())) });
    for (i, b) in s.scene.plant.bodies.iter().enumerate() {
        let growth: Vec<f64> = course.p.iter().map(|p| b.volume * b.stretch * (p - course.p[0])).collect();
        columns.push(Column { sd: 0.5 * s.known.stretch[i], rows: everywhere(&answers.of_growth(&growth)) });
        if s.known.creep[i] > 0.0 {
            let log: Vec<f64> = times
                .iter()
                .map(|t| {
                    b.volume * b.stretch * (course.p[0] - s.scene.plant.atmosphere) * ((t + s.scene.at_pressure) / s.scene.at_pressure).ln()
                })
                .collect();
            columns.push(Column { sd: s.known.creep[i], rows: everywhere(&answers.of_growth(&log)) });
        }
    }
    let volume: f64 = s.scene.plant.bodies.iter().map(|b| b.volume).sum();
    if s.known.air > 0.0 {
        // more air is a cavity that is smaller for water, less so at higher pressure
        let growth: Vec<f64> = course.p.iter().map(|p| volume * s.scene.plant.atmosphere * (1.0 / course.p[0] - 1.0 / p)).collect();
        columns.push(Column { sd: 0.5 * s.known.air, rows: everywhere(&answers.of_growth(&growth)) });
    }
    let relaxing = |share: f64, tau: f64, of: &dyn Fn(usize) -> f64, sd_share: f64, columns: &mut Vec<Column>| {
        let one: Vec<f64> = (0..n).map(|k| of(k) * (1.0 - (-times[k] / tau).exp())).collect();
        let time: Vec<f64> = (0..n).map(|k| -share * of(k) * times[k] / tau * (-times[k] / tau).exp()).collect();
        columns.push(Column { sd: sd_share, rows: everywhere(&answers.of_growth(&one)) });
        columns.push(Column { sd: 0.717, rows: everywhere(&answers.of_growth(&time)) });
    };
    if let Some((share, tau)) = s.scene.relaxation.gaskets {
        relaxing(share, tau, &|_| volume, 4e-6, &mut columns);
    }
    if let Some((share, tau)) = s.scene.relaxation.air {
        relaxing(share, tau, &|k| volume * s.scene.plant.air * s.scene.plant.atmosphere / course.p[k], 0.087, &mut columns);
    }
    for (from, to, sd) in &s.known.steps {
        let ramp: Vec<f64> = times.iter().map(|t| ((t - from) / (to - from)).clamp(0.0, 1.0)).collect();
        columns.push(Column { sd: *sd, rows: everywhere(&answers.of_loss(&ramp)) });
    }
    // instruments
    for (g, gauge) in s.gauges.iter().enumerate() {
        let mut offset = DVector::zeros(total);
        let mut drift = DVector::zeros(total);
        for (i, k) in at[g].iter().enumerate() {
            offset[first[g] + i] = 1.0;
            drift[first[g] + i] = crate::weather::value(&s.scene.surroundings, &s.scene.surroundings.air, times[*k]) - 20.0;
        }
        columns.push(Column { sd: 0.005 * gauge.accuracy * gauge.range, rows: offset });
        columns.push(Column { sd: 0.5 * gauge.per_k_95, rows: drift });
    }
    for (t, thermometer) in s.thermometers.iter().enumerate() {
        let mut offset = DVector::zeros(total);
        for i in 0..at[gauges + t].len() {
            offset[first[gauges + t] + i] = 1.0;
        }
        columns.push(Column { sd: 0.5 * thermometer.accuracy, rows: offset });
    }
    heat_columns(s, &times, &mut |sd, air, parts: &[(Vec<f64>, Vec<f64>)]| {
        let mut p = vec![0.0; n];
        for (i, (f, k)) in parts.iter().enumerate() {
            for (p, a) in p.iter_mut().zip(answers.of_heat(i, f, k)) {
                *p += a;
            }
        }
        let mut rows = everywhere(&p);
        for (t, thermometer) in s.thermometers.iter().enumerate() {
            for (i, k) in at[gauges + t].iter().enumerate() {
                rows[first[gauges + t] + i] = match thermometer.spot {
                    Spot::Skin(b) => parts[b].1[*k],
                    Spot::Fluid(b) => parts[b].0[*k],
                    Spot::Air => air.map_or(0.0, |a: &[f64]| a[*k]),
                };
            }
        }
        columns.push(Column { sd, rows });
    });
    let shown: Vec<Vec<f64>> = (0..blocks.len()).map(|c| at[c].iter().map(|k| value_at(s, &course, c, *k, times[*k])).collect()).collect();
    information(s, blocks, &shown, &first, columns)
}

/// What a channel would show at a time without any error.
fn value_at(s: &Setting<'_>, course: &Course, channel: usize, k: usize, t: f64) -> f64 {
    match channel.checked_sub(s.gauges.len()).map(|c| s.thermometers[c].spot) {
        None => course.p[k],
        Some(Spot::Skin(b)) => course.skin[b][k],
        Some(Spot::Fluid(b)) => course.fluid[b][k],
        Some(Spot::Air) => crate::weather::value(&s.scene.surroundings, &s.scene.surroundings.air, t),
    }
}

/// Time for which the rounding of a quiet instrument errs alike, s: of a value that moves evenly the error is a saw, whose autocorrelation
/// 1 − 6·u (u as a share of the time that it takes over one division) falls as that of an Ornstein–Uhlenbeck process with a sixth of that time.
/// Of a value that stays within one division is known no more than of one that just crosses it.
fn errs_alike(channel: &[(f64, f64)], shown: &[f64], division: f64) -> f64 {
    let moved: f64 = shown.windows(2).map(|v| (v[1] - v[0]).abs()).sum();
    let took = channel.last().map_or(0.0, |l| l.0 - channel[0].0);
    (division * took / (6.0 * moved.max(division))).max(1e-3)
}

fn information(s: &Setting<'_>, blocks: &Blocks, shown: &[Vec<f64>], first: &[usize], columns: Vec<Column>) -> f64 {
    let total = columns[0].rows.len();
    let mut m = DMatrix::zeros(total, columns.len());
    for (j, c) in columns.iter().enumerate() {
        m.column_mut(j).copy_from(&c.rows);
    }
    let gauges = s.gauges.len();
    for (c, channel) in blocks.iter().enumerate() {
        let len = channel.len();
        if len == 0 {
            continue;
        }
        let mut part = m.rows(first[c], len).clone_owned();
        let (noise, division, (sd, tau)) = match c.checked_sub(gauges).map(|t| &s.thermometers[t]) {
            None => (s.gauges[c].white, s.gauges[c].division, s.gauges[c].correlated),
            Some(t) => (t.noise, t.division, (0.0, 1.0)),
        };
        let width = s.scene.length / len as f64;
        let rounding = division / 12f64.sqrt();
        // rounding averages out where the noise carries a reading over the edges of divisions; a quieter instrument errs alike for a while
        let quiet = if noise > 0.5 * division { 0.0 } else { rounding };
        let alike = errs_alike(channel, &shown[c], division);
        let cov = DMatrix::from_fn(len, len, |i, j| {
            let (a, b) = (channel[i], channel[j]);
            let within = |sd: f64, tau: f64| {
                let h = if a.1 > 1.5 { width / tau } else { 0.0 };
                sd * sd * if h > 1e-6 { (2.0 / h * (1.0 - (1.0 - (-h).exp()) / h)).max(1.0 / a.1) } else { 1.0 }
            };
            let between = |sd: f64, tau: f64| sd * sd * (-(a.0 - b.0).abs() / tau).exp();
            if i == j {
                let white = noise * noise + if quiet > 0.0 { 0.0 } else { rounding * rounding };
                white / a.1 + within(sd, tau) + within(quiet, alike)
            } else {
                between(sd, tau) + between(quiet, alike)
            }
        });
        Cholesky::new_with_substitute(cov, 1e-9).expect("a substitute was given").l_dirty().solve_lower_triangular_mut(&mut part);
        m.rows_mut(first[c], len).copy_from(&part);
    }
    let k = columns.len();
    let scale: Vec<f64> = columns.iter().map(|c| if c.sd.is_finite() { c.sd } else { 1.0 / c.rows.norm().max(1e-300) * 1e5 }).collect();
    for (j, by) in scale.iter().enumerate() {
        m.column_mut(j).scale_mut(*by);
    }
    let mut info = m.transpose() * &m;
    for j in 1..k {
        info[(j, j)] += 1.0;
    }
    let inverse = Cholesky::new_with_substitute(info, 1e-12).expect("a substitute was given");
    let mut e = DVector::zeros(k);
    e[0] = 1.0;
    (inverse.solve(&e)[0]).max(0.0).sqrt() * scale[0]
}

/// Slopes of the pressure at each time.
struct Answers<'a> {
    s: &'a Setting<'a>,
    per_pa: Vec<f64>,
    per_growth: Vec<f64>,
    per_fluid: Vec<Vec<f64>>,
    per_fluid_start: Vec<f64>,
    rho: f64,
}

impl<'a> Answers<'a> {
    fn new(s: &'a Setting<'a>, course: &Course, times: &[f64]) -> Self {
        let heat = |k: usize| Heat { fluid: course.fluid.iter().map(|f| f[k]).collect(), skin: course.skin.iter().map(|f| f[k]).collect() };
        let start = heat(0);
        let p0 = s.scene.start_pa;
        let plant = &s.scene.plant;
        let none = Gone::default();
        let bodies = plant.bodies.len();
        let (mut per_pa, mut per_growth, mut per_fluid) = (Vec::new(), Vec::new(), vec![Vec::new(); bodies]);
        for k in 0..times.len() {
            let h = heat(k);
            let p = course.p[k];
            per_pa.push((plant.mass(p + 500.0, p0, &h, &start, &none) - plant.mass(p - 500.0, p0, &h, &start, &none)) / 1000.0);
            per_growth.push(plant.density.at(h.fluid[0], p));
            for (i, of_body) in per_fluid.iter_mut().enumerate() {
                let (mut up, mut down) = (h.clone(), h.clone());
                up.fluid[i] += 0.02;
                down.fluid[i] -= 0.02;
                of_body.push((plant.mass(p, p0, &up, &start, &none) - plant.mass(p, p0, &down, &start, &none)) / 0.04);
            }
        }
        let per_fluid_start = (0..bodies)
            .map(|i| {
                let (mut up, mut down) = (start.clone(), start.clone());
                up.fluid[i] += 0.02;
                down.fluid[i] -= 0.02;
                (plant.mass(p0, p0, &up, &start, &none) - plant.mass(p0, p0, &down, &start, &none)) / 0.04
            })
            .collect();
        let rho = simulate::lost_density(s.scene, &start);
        Self { s, per_pa, per_growth, per_fluid, per_fluid_start, rho }
    }
    fn of_loss(&self, shape: &[f64]) -> Vec<f64> {
        shape.iter().zip(&self.per_pa).map(|(l, c)| -self.rho * l / c).collect()
    }
    fn of_growth(&self, m3: &[f64]) -> Vec<f64> {
        (0..m3.len()).map(|k| -self.per_growth[k] * m3[k] / self.per_pa[k]).collect()
    }
    fn of_heat(&self, body: usize, fluid: &[f64], skin: &[f64]) -> Vec<f64> {
        let b = &self.s.scene.plant.bodies[body];
        (0..fluid.len())
            .map(|k| {
                let wall = b.volume * b.growth * (skin[k] - skin[0]) * self.per_growth[k];
                (self.per_fluid_start[body] * fluid[0] - self.per_fluid[body][k] * fluid[k] - wall) / self.per_pa[k]
            })
            .collect()
    }
}

/// Every unknown that acts by heat: its standard deviation, what it does to the air, and to fluid and skin of each body.
type Sink<'a> = dyn FnMut(f64, Option<&[f64]>, &[(Vec<f64>, Vec<f64>)]) + 'a;

fn heat_columns(s: &Setting<'_>, times: &[f64], sink: &mut Sink<'_>) {
    let scene = s.scene;
    let bodies = scene.plant.bodies.len();
    let nil = || (vec![0.0; times.len()], vec![0.0; times.len()]);
    let step = scene.surroundings.step;
    let grid: Vec<f64> = (0..scene.surroundings.air.len()).map(|i| scene.surroundings.from + i as f64 * step).collect();
    // response of the bodies marked to a shape on the surroundings' grid
    let response = |shape: &dyn Fn(f64) -> f64, who: &dyn Fn(usize) -> bool| -> Vec<(Vec<f64>, Vec<f64>)> {
        let series: Vec<f64> = grid.iter().map(|t| shape(*t)).collect();
        (0..bodies)
            .map(|i| {
                if !who(i) {
                    return nil();
                }
                let mut one = Scene {
                    lags: vec![scene.lags[i]],
                    surroundings: Surroundings { bodies: vec![series.clone()], ..scene.surroundings.clone() },
                    ..scene.clone()
                };
                one.plant.filled_c = 0.0;
                let (f, k) = simulate::temperatures(&one, times);
                (f[0].clone(), k[0].clone())
            })
            .collect()
    };
    let at_times = |shape: &dyn Fn(f64) -> f64| -> Vec<f64> { times.iter().map(|t| shape(*t)).collect() };
    let buried = |i: usize| s.corners[i].buried;
    let in_air = |i: usize| !s.corners[i].buried;
    // temperature when filled
    let filled: Vec<(Vec<f64>, Vec<f64>)> = (0..bodies)
        .map(|i| {
            let series = vec![0.0; grid.len()];
            let mut one = Scene {
                lags: vec![scene.lags[i]],
                surroundings: Surroundings { bodies: vec![series], ..scene.surroundings.clone() },
                ..scene.clone()
            };
            one.plant.filled_c = 1.0;
            let (f, k) = simulate::temperatures(&one, times);
            (f[0].clone(), k[0].clone())
        })
        .collect();
    sink(0.3, None, &filled);
    // lags, by difference
    let lag_sd = 0.5 * s.known.lag_factor.ln();
    for i in 0..bodies {
        for of_skin in [true, false] {
            let moved = |factor: f64| {
                let mut one = scene.clone();
                if of_skin {
                    one.lags[i].0 *= factor
                } else {
                    one.lags[i].1 *= factor
                }
                simulate::temperatures(&one, times)
            };
            let (up, down) = (moved(1.05f64), moved(1.0 / 1.05));
            let slope = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(a, b)| (a - b) / (2.0 * 1.05f64.ln())).collect::<Vec<_>>();
            let mut parts: Vec<_> = (0..bodies).map(|_| nil()).collect();
            parts[i] = (slope(&up.0[i], &down.0[i]), slope(&up.1[i], &down.1[i]));
            sink(lag_sd, None, &parts);
        }
    }
    let one = |_: f64| 1.0;
    let nodes = nodes(scene.soak, scene.length);
    if (0..bodies).any(in_air) {
        sink(4.0, Some(&at_times(&one)), &response(&one, &in_air));
        for phase in [0.0, 0.25] {
            let wave = move |t: f64| (std::f64::consts::TAU * (t / 86_400.0 + phase)).sin();
            sink(s.weather.daily_k / std::f64::consts::SQRT_2, Some(&at_times(&wave)), &response(&wave, &in_air));
        }
        for shape in process(&nodes, s.weather.air) {
            let f = |t: f64| between(&nodes, &shape, t);
            sink(1.0, Some(&at_times(&f)), &response(&f, &in_air));
        }
    }
    if (0..bodies).any(buried) {
        sink(4.0, None, &response(&one, &buried));
    }
    for (i, c) in s.corners.iter().enumerate() {
        let only = |j: usize| j == i;
        sink(if c.buried { 0.3 } else { 0.6 }, None, &response(&one, &only));
        if c.buried {
            let slope = |t: f64| t / 3600.0;
            sink(0.03, None, &response(&slope, &only));
        }
        for shape in process(&nodes, c.wander) {
            let f = |t: f64| between(&nodes, &shape, t);
            sink(1.0, None, &response(&f, &only));
        }
        let sun = crate::weather::sun(s.weather, 0.5 * scene.length) * c.sun_k;
        if sun > 0.1 {
            sink(0.5 * sun, None, &response(&one, &only));
            for shape in process(&nodes, (0.5 * sun, 0.5 * s.weather.cloud_tau)) {
                let f = |t: f64| between(&nodes, &shape, t);
                sink(1.0, None, &response(&f, &only));
            }
        }
    }
}

fn nodes(soak: f64, length: f64) -> Vec<f64> {
    let h = length / 24.0;
    let mut out: Vec<f64> = Vec::new();
    let (mut t, mut step) = (-h, h);
    while t > -soak {
        out.push(t);
        step *= 1.5;
        t -= step;
    }
    out.push(-soak - 1.0);
    out.reverse();
    out.extend((0..=24).map(|i| f64::from(i) * h));
    out
}

/// Shapes of an Ornstein–Uhlenbeck process at the nodes, each with unit variance before the readings.
fn process(nodes: &[f64], (sd, tau): (f64, f64)) -> Vec<Vec<f64>> {
    let cov = DMatrix::from_fn(nodes.len(), nodes.len(), |i, j| sd * sd * (-(nodes[i] - nodes[j]).abs() / tau).exp());
    let l = Cholesky::new_with_substitute(cov, 1e-9).expect("a substitute was given").l();
    (0..nodes.len()).map(|j| l.column(j).iter().copied().collect()).collect()
}

fn between(nodes: &[f64], values: &[f64], t: f64) -> f64 {
    let i = nodes.partition_point(|n| *n <= t).clamp(1, nodes.len() - 1);
    let u = ((t - nodes[i - 1]) / (nodes[i] - nodes[i - 1])).clamp(0.0, 1.0);
    values[i - 1] + u * (values[i] - values[i - 1])
}
