//! Surroundings: air with a daily swing and a fluctuation, sun and cloud, ground, and each body's own corner.

use crate::random::Random;

/// Statistics of the surroundings.
#[derive(Debug, Clone)]
pub struct Weather {
    /// Air at the start, °C, without swing and fluctuation.
    pub base_c: f64,
    /// Amplitude of the daily swing, K.
    pub daily_k: f64,
    /// Hour of the day at the start.
    pub clock_h: f64,
    /// Fluctuation of the air, K, and the time over which it forgets, s.
    pub air: (f64, f64),
    /// Time over which clouds come and go, s.
    pub cloud_tau: f64,
    /// No sun at all.
    pub overcast: bool,
    /// Ground, °C.
    pub soil_c: f64,
}

/// Surroundings of one body.
#[derive(Debug, Clone)]
pub struct Corner {
    /// True in the ground.
    pub buried: bool,
    /// Constant difference from air or ground, K.
    pub offset_k: f64,
    /// Change of the ground, K/h.
    pub slope_k_per_h: f64,
    /// Wander, K, and its time, s.
    pub wander: (f64, f64),
    /// What full sun does, K.
    pub sun_k: f64,
}

/// Series on an even grid.
#[derive(Debug, Clone)]
pub struct Surroundings {
    /// First time, s.
    pub from: f64,
    /// Step, s.
    pub step: f64,
    /// Air.
    pub air: Vec<f64>,
    /// Each body's.
    pub bodies: Vec<Vec<f64>>,
}

/// Air without its fluctuation.
pub fn swing(w: &Weather, t: f64) -> f64 {
    w.daily_k * (std::f64::consts::TAU * ((w.clock_h + t / 3600.0) - 9.0) / 24.0).sin()
}

/// Sun above the horizon, 0 to 1.
pub fn sun(w: &Weather, t: f64) -> f64 {
    if w.overcast { 0.0 } else { (std::f64::consts::TAU * ((w.clock_h + t / 3600.0) - 6.0) / 24.0).sin().max(0.0) }
}

fn fluctuation(random: &mut Random, n: usize, step: f64, (sd, tau): (f64, f64)) -> Vec<f64> {
    let keep = (-step / tau).exp();
    let mut x = sd * random.normal();
    (0..n)
        .map(|_| {
            let now = x;
            x = keep * x + sd * (1.0 - keep * keep).sqrt() * random.normal();
            now
        })
        .collect()
}

/// One realisation.
pub fn realise(random: &mut Random, w: &Weather, corners: &[Corner], from: f64, to: f64, step: f64) -> Surroundings {
    let n = ((to - from) / step).ceil() as usize + 2;
    let at = |i: usize| from + i as f64 * step;
    let moving = fluctuation(random, n, step, w.air);
    let air: Vec<f64> = (0..n).map(|i| w.base_c + swing(w, at(i)) + moving[i]).collect();
    let bodies = corners
        .iter()
        .map(|c| {
            let wander = fluctuation(random, n, step, c.wander);
            let mut clear = random.chance(0.5);
            (0..n)
                .map(|i| {
                    if random.chance(1.0 - (-step / w.cloud_tau).exp()) {
                        clear = !clear;
                    }
                    let t = at(i);
                    if c.buried {
                        w.soil_c + c.offset_k + c.slope_k_per_h * t / 3600.0 + wander[i]
                    } else {
                        air[i] + c.offset_k + wander[i] + c.sun_k * sun(w, t) * f64::from(u8::from(clear))
                    }
                })
                .collect()
        })
        .collect();
    Surroundings { from, step, air, bodies }
}

/// Value of a series at a time.
pub fn value(s: &Surroundings, series: &[f64], t: f64) -> f64 {
    let u = ((t - s.from) / s.step).clamp(0.0, (series.len() - 1) as f64 - 1e-9);
    let i = u.floor() as usize;
    series[i] + (series[i + 1] - series[i]) * (u - i as f64)
}
