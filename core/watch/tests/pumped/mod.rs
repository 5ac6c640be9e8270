//! A pump on a pipe with physics of its own: nothing of the code under test is used. Density of water at 15 °C from the rows of IAPWS-95
//! (computed with CoolProp 8.0.0, MIT), the wall thin or thick by a figure given, air by Boyle.

use std::sync::LazyLock;

/// Rows (absolute pressure Pa, density kg/m³, compressibility 1/Pa) at 15 °C.
pub static WATER: LazyLock<Vec<(f64, f64, f64)>> = LazyLock::new(|| {
    let rows: Vec<_> = include_str!("../data/water-iapws95.csv")
        .lines()
        .filter_map(|l| l.split(',').map(|c| c.parse::<f64>().ok()).collect::<Option<Vec<f64>>>())
        .filter(|c| c[0] == 15.0)
        .map(|c| (c[1] * 1e5, c[2], c[3]))
        .collect();
    assert!(rows.len() >= 9, "only {} rows of water at 15 °C", rows.len());
    rows
});

/// Density between two rows: ln ρ grows by the mean compressibility.
pub fn density(p_abs: f64) -> f64 {
    let w = &*WATER;
    let i = w.windows(2).position(|r| p_abs <= r[1].0).unwrap_or(w.len() - 2);
    let (a, b) = (w[i], w[i + 1]);
    let share = (p_abs - a.0) / (b.0 - a.0);
    let k = a.2 + 0.5 * share * (b.2 - a.2);
    a.1 * (k * (p_abs - a.0)).exp()
}

/// A small generator: xorshift and Box–Muller.
pub struct Noise(pub u64);

impl Noise {
    pub fn uniform(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }
    pub fn normal(&mut self) -> f64 {
        (-2.0 * self.uniform().max(1e-300).ln()).sqrt() * (std::f64::consts::TAU * self.uniform()).cos()
    }
    pub fn between(&mut self, lo: f64, hi: f64) -> f64 {
        lo + (hi - lo) * self.uniform()
    }
}

pub const ATMOSPHERE: f64 = 101_325.0;

/// One raise.
pub struct Raise {
    /// volume, m³
    pub volume: f64,
    /// air at filling, share
    pub air: f64,
    /// stretch of the wall, 1/Pa
    pub wall: f64,
    /// volume of a stroke, m³
    pub stroke: f64,
    /// strokes a second
    pub rate: f64,
    /// last pressure, Pa gauge
    pub top: f64,
    /// gauge: division, noise, zero, Pa
    pub division: f64,
    pub noise: f64,
    pub zero: f64,
    /// from here on the wall stretches so many times as much, plastically
    pub yields_at: Option<(f64, f64)>,
}

impl Raise {
    /// Volume that has gone in (at the density of the filling) when the gauge pressure is `p`.
    pub fn volume_in(&self, p: f64) -> f64 {
        let abs = p + ATMOSPHERE;
        let mut bore = self.volume * (1.0 + self.wall * p) - self.volume * self.air * ATMOSPHERE / abs;
        if let Some((at, times)) = self.yields_at
            && p > at
        {
            let elastic = 4.67e-10 + self.wall;
            bore += self.volume * (times - 1.0) * elastic * (p - at);
        }
        bore * density(abs) / density(ATMOSPHERE) - self.volume * (1.0 - self.air)
    }

    /// Gauge pressure when `v` has gone in.
    pub fn pressure(&self, v: f64) -> f64 {
        let (mut lo, mut hi) = (0.0, 400e5);
        for _ in 0..60 {
            let mid = 0.5 * (lo + hi);
            if self.volume_in(mid) < v { lo = mid } else { hi = mid }
        }
        0.5 * (lo + hi)
    }

    /// Points as a recorder at one reading a second makes them: counter and needle when the counter has moved. With each the true volume.
    pub fn points(&self, noise: &mut Noise) -> Vec<(f64, f64, f64)> {
        let mut out = vec![];
        let mut counted = 0.0;
        let start = noise.uniform();
        for second in 0..4000 {
            let strokes = self.rate * (f64::from(second) + start);
            let v = strokes * self.stroke;
            let p = self.pressure(v);
            if p > self.top {
                break;
            }
            if strokes.floor() > counted {
                counted = strokes.floor();
                let seen = p + self.zero + self.noise * noise.normal();
                out.push((counted * self.stroke, (seen / self.division).round() * self.division, v));
            }
        }
        out
    }
}
