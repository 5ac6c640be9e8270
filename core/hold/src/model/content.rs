//! Mass that a stretched, warmed cavity holds, per volume of the whole, and its slopes.

use super::density::{DensityBox, DensityLine};
use crate::input::Hold;
use smallvec::{SmallVec, smallvec};

/// A system ready to be weighed.
#[derive(Debug, Clone)]
pub(crate) struct Content {
    /// Density of the fluid.
    pub(crate) density: DensityBox,
    /// Share of each body in the volume.
    pub(crate) share: Vec<f64>,
    /// Stretch per pressure of each body, 1/Pa.
    pub(crate) stretch: Vec<f64>,
    /// Growth per kelvin of each body, 1/K.
    pub(crate) growth: Vec<f64>,
    /// Trapped air at the atmosphere over the whole volume.
    pub(crate) air: f64,
    /// The atmosphere, Pa.
    pub(crate) atmosphere: f64,
    /// Temperature at which the air was trapped, K.
    pub(crate) trapped_k: f64,
}

/// One instant: pressure and, for each body, fluid and skin.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Instant<'a> {
    /// Pressure, Pa.
    pub(crate) p: f64,
    /// Fluid temperatures, °C.
    pub(crate) fluid: &'a [f64],
    /// Skin temperatures, °C.
    pub(crate) skin: &'a [f64],
    /// Relative growth of the cavity besides stretch and heat.
    pub(crate) grown: f64,
    /// Share of the trapped air that has gone into solution.
    pub(crate) dissolved: f64,
}

/// A number for each body; a system seldom has more than four.
pub(crate) type OfBodies = SmallVec<[f64; 4]>;

/// Mass per volume with its slopes.
#[derive(Debug, Clone, Default)]
pub(crate) struct Mass {
    /// Mass over the whole volume, kg/m³.
    pub(crate) value: f64,
    /// Per pressure, kg/(m³·Pa).
    pub(crate) per_pa: f64,
    /// Per kelvin of each body's fluid.
    pub(crate) per_fluid_k: OfBodies,
    /// Per kelvin of each body's skin.
    pub(crate) per_skin_k: OfBodies,
    /// Per unit of each body's relative stretch.
    pub(crate) per_stretch: OfBodies,
    /// Per unit of the air fraction.
    pub(crate) per_air: f64,
    /// Per unit of the share of the air that has gone into solution.
    pub(crate) per_dissolved: f64,
    /// Per unit of relative growth of the cavity: the density of the fluid there.
    pub(crate) per_growth: f64,
}

impl Content {
    /// Of a hold, with nominal figures.
    pub(crate) fn new(hold: &Hold, density: DensityBox) -> Self {
        let volume = hold.volume_m3();
        Self {
            density,
            share: hold.bodies.iter().map(|b| b.volume_m3 / volume).collect(),
            stretch: hold.bodies.iter().map(|b| b.wall_compliance_per_pa).collect(),
            growth: hold.bodies.iter().map(|b| b.wall_expansion_per_k).collect(),
            air: hold.air_fraction,
            atmosphere: hold.atmosphere_pa,
            trapped_k: hold.fill_temperature_c + 273.15,
        }
    }

    /// Mass at `now` of a cavity that had its nominal volume at `start`.
    ///
    /// m = Σ share·[1 + c·(p − p₀) + α·(S − S₀) + grown − a·(1 − dissolved)·p_atm/p·T/T_trapped]·ρ(p, T)
    pub(crate) fn mass(&self, now: Instant<'_>, start: Instant<'_>) -> Mass {
        let n = self.share.len();
        let mut m =
            Mass { per_fluid_k: smallvec![0.0; n], per_skin_k: smallvec![0.0; n], per_stretch: smallvec![0.0; n], ..Mass::default() };
        for i in 0..n {
            let rho = self.density.at(now.fluid[i], now.p);
            let t = now.fluid[i] + 273.15;
            let air_per_fraction = (1.0 - now.dissolved) * self.atmosphere / now.p * t / self.trapped_k;
            let air = self.air * air_per_fraction;
            let rise = now.p - start.p;
            let cavity = 1.0 + self.stretch[i] * rise + self.growth[i] * (now.skin[i] - start.skin[i]) + now.grown - air;
            let share = self.share[i];
            m.value += share * cavity * rho.value;
            m.per_pa += share * (cavity * rho.per_pa + (self.stretch[i] + air / now.p) * rho.value);
            m.per_fluid_k[i] = share * (cavity * rho.per_k - air / t * rho.value);
            m.per_skin_k[i] = share * self.growth[i] * rho.value;
            m.per_stretch[i] = share * self.stretch[i] * rise * rho.value;
            m.per_air -= share * air_per_fraction * rho.value;
            m.per_growth += share * rho.value;
            m.per_dissolved += share * self.air * self.atmosphere / now.p * t / self.trapped_k * rho.value;
        }
        m
    }

    /// Adds what does not change with pressure at one instant, of each body.
    pub(crate) fn cavities(&self, now: Instant<'_>, start: Instant<'_>, bodies: &mut Vec<CavityOf>) {
        bodies.extend((0..self.share.len()).map(|i| CavityOf {
            density: self.density.along(now.fluid[i]),
            share: self.share[i],
            stretch: self.stretch[i],
            open: 1.0 + self.growth[i] * (now.skin[i] - start.skin[i]) + now.grown,
            air: self.air * (1.0 - now.dissolved) * self.atmosphere * (now.fluid[i] + 273.15) / self.trapped_k,
        }));
    }
}

/// Pressure at which bodies hold `mass`, from a guess (Newton); they stretch from the pressure at the start.
pub(crate) fn pressure(bodies: &[CavityOf], mass: f64, guess: f64, start: f64) -> f64 {
    let mut p = guess;
    for _ in 0..12 {
        let (value, per_pa) = weigh(bodies, p, start);
        let change = (mass - value) / per_pa;
        // never more than half way to nothing at once
        p = (p + change).max(0.5 * p);
        if change.abs() < CLOSE_PA {
            break;
        }
    }
    p
}

/// A step of Newton's method below this leaves less than a hundredth of a pascal, for it squares.
const CLOSE_PA: f64 = 10.0;

/// What does not change with pressure at one instant, of one body.
pub(crate) struct CavityOf {
    density: DensityLine,
    share: f64,
    stretch: f64,
    open: f64,
    air: f64,
}

/// Mass over the whole volume and its slope with pressure.
fn weigh(bodies: &[CavityOf], p: f64, start: f64) -> (f64, f64) {
    let (mut value, mut per_pa) = (0.0, 0.0);
    for b in bodies {
        let (rho, rho_per_pa) = b.density.at(p);
        let air = b.air / p;
        let cavity = b.open + b.stretch * (p - start) - air;
        value += b.share * cavity * rho;
        per_pa += b.share * (cavity * rho_per_pa + (b.stretch + air / p) * rho);
    }
    (value, per_pa)
}
