//! A cavity with elastic walls, its fluid and trapped air: what it holds, and the pressure that follows.

use physics::gas::Gas;
use physics::water;
use quantity::{AbsolutePressure, Temperature};

/// What fills it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Medium {
    /// liquid water
    Water,
    /// nitrogen
    Nitrogen,
}

/// Density by a straight table: values and a cubic between them, along both axes.
#[derive(Debug, Clone)]
pub struct DensityGrid {
    t: (f64, f64),
    p: (f64, f64),
    n: (usize, usize),
    rho: Vec<f64>,
}

fn equation(medium: Medium, t_c: f64, p_pa: f64) -> f64 {
    let (t, p) = (Temperature::from_c(t_c), AbsolutePressure::from_pa(p_pa));
    match medium {
        Medium::Water => water::state(t, p).map_or(f64::NAN, |s| s.density.kg_m3()),
        Medium::Nitrogen => Gas::Nitrogen.state(t, p).map_or(f64::NAN, |s| s.density.kg_m3()),
    }
}

impl DensityGrid {
    /// Over a box.
    pub fn new(medium: Medium, t: (f64, f64), p: (f64, f64)) -> Self {
        let n = (((t.1 - t.0) / 0.5).ceil() as usize + 4, 24);
        let mut rho = Vec::with_capacity(n.0 * n.1);
        for i in 0..n.0 {
            for j in 0..n.1 {
                let at = |(a, b): (f64, f64), k: usize, n: usize| a + (b - a) * k as f64 / (n - 1) as f64;
                rho.push(equation(medium, at(t, i, n.0), at(p, j, n.1)));
            }
        }
        Self { t, p, n, rho }
    }

    /// Density, kg/m³.
    pub fn at(&self, t_c: f64, p_pa: f64) -> f64 {
        let place = |x: f64, (a, b): (f64, f64), n: usize| {
            let u = (x - a) / (b - a) * (n - 1) as f64;
            let i = (u.floor() as isize - 1).clamp(0, n as isize - 4) as usize;
            (i, u - i as f64)
        };
        // Lagrange through four points
        let weights = |u: f64| {
            [
                -(u - 1.0) * (u - 2.0) * (u - 3.0) / 6.0,
                u * (u - 2.0) * (u - 3.0) / 2.0,
                -u * (u - 1.0) * (u - 3.0) / 2.0,
                u * (u - 1.0) * (u - 2.0) / 6.0,
            ]
        };
        let ((i, u), (j, v)) = (place(t_c, self.t, self.n.0), place(p_pa, self.p, self.n.1));
        let (wu, wv) = (weights(u), weights(v));
        (0..4).map(|a| wu[a] * (0..4).map(|b| wv[b] * self.rho[(i + a) * self.n.1 + j + b]).sum::<f64>()).sum()
    }
}

/// One body, as it truly is.
#[derive(Debug, Clone)]
pub struct TrueBody {
    /// Volume, m³.
    pub volume: f64,
    /// Stretch per pressure, 1/Pa.
    pub stretch: f64,
    /// Growth per kelvin, 1/K.
    pub growth: f64,
    /// Creep per e-fold of time.
    pub creep: f64,
}

/// The whole.
#[derive(Debug, Clone)]
pub struct Plant {
    /// Bodies.
    pub bodies: Vec<TrueBody>,
    /// Trapped air at the atmosphere over the volume.
    pub air: f64,
    /// The atmosphere, Pa.
    pub atmosphere: f64,
    /// Temperature when filled, °C.
    pub filled_c: f64,
    /// Density.
    pub density: DensityGrid,
}

/// Temperatures of one instant.
#[derive(Debug, Clone)]
pub struct Heat {
    /// Of the fluid in each body.
    pub fluid: Vec<f64>,
    /// Of the skin of each body.
    pub skin: Vec<f64>,
}

/// What has gone or relaxed since the start.
#[derive(Debug, Clone, Copy, Default)]
pub struct Gone {
    /// Mass lost, kg.
    pub mass: f64,
    /// Growth of the cavity by gaskets, m³.
    pub gaskets: f64,
    /// Share of the trapped air that has gone into solution.
    pub dissolved: f64,
    /// Logarithm of the time at pressure over that at the start.
    pub log_time: f64,
}

impl Plant {
    /// Mass of fluid at a state, kg. Walls are at their nominal size at the pressure and temperature of the start.
    pub fn mass(&self, p: f64, p0: f64, heat: &Heat, start: &Heat, gone: &Gone) -> f64 {
        let whole: f64 = self.bodies.iter().map(|b| b.volume).sum();
        let mut mass = 0.0;
        for (i, b) in self.bodies.iter().enumerate() {
            let stretched = 1.0
                + b.stretch * (p - p0)
                + b.growth * (heat.skin[i] - start.skin[i])
                + b.creep * b.stretch * (p0 - self.atmosphere) * gone.log_time
                + gone.gaskets / whole;
            let warm = (heat.fluid[i] + 273.15) / (self.filled_c + 273.15);
            let air = self.air * (1.0 - gone.dissolved) * self.atmosphere / p * warm;
            mass += b.volume * (stretched - air) * self.density.at(heat.fluid[i], p);
        }
        mass
    }

    /// Pressure at which the cavity holds what is left (secant).
    pub fn pressure(&self, guess: f64, p0: f64, heat: &Heat, start: &Heat, gone: &Gone, first: f64) -> f64 {
        let want = first - gone.mass;
        let off = |p: f64| self.mass(p, p0, heat, start, gone) - want;
        let (mut a, mut b) = (guess, guess + 2000.0);
        let (mut fa, mut fb) = (off(a), off(b));
        for _ in 0..30 {
            if (fb - fa).abs() < 1e-15 * want {
                break;
            }
            let c = (b - fb * (b - a) / (fb - fa)).max(0.3 * b);
            (a, fa) = (b, fb);
            b = c;
            fb = off(b);
            if (b - a).abs() < 0.05 {
                break;
            }
        }
        b
    }
}
