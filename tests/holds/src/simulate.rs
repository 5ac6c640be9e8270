//! The true course of a hold.

use crate::plant::{Gone, Heat, Medium, Plant};
use crate::weather::{Surroundings, value};

/// A leak.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leak {
    /// Rate at the pressure of the start, m³/s (normal m³/s for gas).
    pub rate: f64,
    /// When it starts, s.
    pub start: f64,
}

/// Slow changes besides creep.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Relaxation {
    /// Set of gaskets over the volume, and its time, s.
    pub gaskets: Option<(f64, f64)>,
    /// Share of the air that dissolves, and its time, s.
    pub air: Option<(f64, f64)>,
}

/// Something pumped in or let out: from, to, m³ let out (normal m³ of gas).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stroke {
    /// From, s.
    pub start: f64,
    /// To, s.
    pub end: f64,
    /// Let out, m³; negative when pumped in.
    pub volume: f64,
}

/// A pressure at which the wall had crept for the time at pressure, and from which it was lowered: by how much, Pa, and how long before the start, s.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lowered {
    /// By how much, Pa.
    pub by: f64,
    /// How long before the start, s.
    pub before: f64,
}

/// What a chain of Kelvin elements has stretched after so long under a pressure that stands, one element to each e-fold of time, all as compliant: within its
/// range, a second to some centuries, as the logarithm of time.
fn chain(t: f64) -> f64 {
    (0..24).map(|j| 1.0 - (-t / (f64::from(j) + 0.5).exp()).exp()).sum()
}

/// What creep has added since the start, over what it adds in each e-fold of time under the pressure of the start.
fn crept(scene: &Scene, t: f64) -> f64 {
    let Some(Lowered { by, before }) = scene.lowered else { return ((t + scene.at_pressure) / scene.at_pressure).ln() };
    let now = scene.start_pa - scene.plant.atmosphere;
    let under = |pressure: f64, since: f64| pressure * (chain(t + since) - chain(since));
    (under(now + by, scene.at_pressure) - under(by, before)) / now
}

/// Everything that makes the course.
#[derive(Debug, Clone)]
pub struct Scene {
    /// What fills it.
    pub medium: Medium,
    /// Walls and fluid.
    pub plant: Plant,
    /// Pressure at the start, Pa absolute.
    pub start_pa: f64,
    /// From filling to start, s.
    pub soak: f64,
    /// At pressure before the start, s.
    pub at_pressure: f64,
    /// Where it was lowered before the start.
    pub lowered: Option<Lowered>,
    /// Length, s.
    pub length: f64,
    /// Lags of each body: skin, fluid, s.
    pub lags: Vec<(f64, f64)>,
    /// Surroundings.
    pub surroundings: Surroundings,
    /// Relaxation.
    pub relaxation: Relaxation,
    /// Pumped in and let out.
    pub strokes: Vec<Stroke>,
}

/// The true course at each step.
#[derive(Debug, Clone, Default)]
pub struct Course {
    /// Times, s.
    pub t: Vec<f64>,
    /// Pressure, Pa absolute.
    pub p: Vec<f64>,
    /// Fluid of each body at each time.
    pub fluid: Vec<Vec<f64>>,
    /// Skin of each body at each time.
    pub skin: Vec<Vec<f64>>,
    /// Lost through the leak, m³.
    pub lost: Vec<f64>,
}

/// Normal density of a gas, density of water at the start.
pub fn lost_density(scene: &Scene, start: &Heat) -> f64 {
    match scene.medium {
        // ideal gas at 0 °C and 101 325 Pa, molar mass of nitrogen
        Medium::Nitrogen => 101_325.0 * 0.028_013_48 / (8.314_462_6 * 273.15),
        Medium::Water => scene.plant.density.at(start.fluid[0], scene.start_pa),
    }
}

/// Temperatures from the filling to the end, by small steps of the midpoint rule.
pub fn temperatures(scene: &Scene, times: &[f64]) -> (Vec<Vec<f64>>, Vec<Vec<f64>>) {
    let (mut fluid, mut skin) = (Vec::new(), Vec::new());
    for (i, (skin_lag, fluid_lag)) in scene.lags.iter().enumerate() {
        let series = &scene.surroundings.bodies[i];
        let most = 0.05 * skin_lag.min(*fluid_lag);
        let (mut s, mut w, mut t) = (scene.plant.filled_c, scene.plant.filled_c, -scene.soak);
        let (mut fs, mut ss) = (Vec::with_capacity(times.len()), Vec::with_capacity(times.len()));
        for target in times {
            while t < *target - 1e-9 {
                let h = most.min(30.0).min(target - t);
                let e = |t: f64| value(&scene.surroundings, series, t);
                let (ds, dw) = ((e(t) - s) / skin_lag, (s - w) / fluid_lag);
                let (sm, wm) = (s + 0.5 * h * ds, w + 0.5 * h * dw);
                s += h * (e(t + 0.5 * h) - sm) / skin_lag;
                w += h * (sm - wm) / fluid_lag;
                t += h;
            }
            fs.push(w);
            ss.push(s);
        }
        fluid.push(fs);
        skin.push(ss);
    }
    (fluid, skin)
}

/// The course of the hold at given times (the first is nil), for given temperatures.
pub fn course(scene: &Scene, times: &[f64], fluid: &[Vec<f64>], skin: &[Vec<f64>], leak: Leak) -> Course {
    let heat = |k: usize| Heat { fluid: fluid.iter().map(|f| f[k]).collect(), skin: skin.iter().map(|s| s[k]).collect() };
    let start = heat(0);
    let p0 = scene.start_pa;
    let first = scene.plant.mass(p0, p0, &start, &start, &Gone::default());
    let rho = lost_density(scene, &start);
    let volume: f64 = scene.plant.bodies.iter().map(|b| b.volume).sum();
    let flow = |p: f64| match scene.medium {
        Medium::Water => ((p - scene.plant.atmosphere) / (p0 - scene.plant.atmosphere)).max(0.0).sqrt(),
        Medium::Nitrogen => p / p0,
    };
    let mut out = Course { t: times.to_vec(), fluid: fluid.to_vec(), skin: skin.to_vec(), ..Course::default() };
    let (mut p, mut lost) = (p0, 0.0);
    for (k, t) in times.iter().enumerate() {
        if k > 0 {
            let since = times[k - 1].max(leak.start);
            if *t > since {
                // pressure in the middle of the step, as the step before suggests
                let ahead = if out.p.len() > 1 { 0.5 * (p - out.p[out.p.len() - 2]) } else { 0.0 };
                lost += leak.rate * flow(p + ahead) * (t - since);
            }
        }
        let stroked: f64 = scene.strokes.iter().map(|s| s.volume * ((t - s.start) / (s.end - s.start)).clamp(0.0, 1.0)).sum();
        let gone = Gone {
            mass: rho * (lost + stroked),
            gaskets: scene.relaxation.gaskets.map_or(0.0, |(share, tau)| volume * share * (1.0 - (-t / tau).exp())),
            dissolved: scene.relaxation.air.map_or(0.0, |(share, tau)| share * (1.0 - (-t / tau).exp())),
            log_time: crept(scene, *t),
        };
        p = scene.plant.pressure(p, p0, &heat(k), &start, &gone, first);
        out.p.push(p);
        out.lost.push(lost);
    }
    out
}
