//! States of noise and weather that are tried.

use super::noise::Correlated;
use super::prior::{Surroundings, Weather};
use crate::input::Hold;

/// A state of everything that is not solved for: noise of each gauge, weather.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct State {
    /// For each gauge, which of its noises.
    pub(crate) noise: Vec<usize>,
    /// Which weather.
    pub(crate) weather: usize,
}

/// What can be chosen from.
#[derive(Debug, Clone)]
pub(crate) struct States {
    /// For each gauge.
    pub(crate) noises: Vec<Vec<Correlated>>,
    /// Of the hold.
    pub(crate) weathers: Vec<Weather>,
    /// For each gauge, the least noise that may be chosen: stand-ins of coarse readings hide noise and cannot tell how little there is.
    least: Vec<usize>,
}

impl States {
    /// Those of a hold.
    pub(crate) fn new(hold: &Hold, surroundings: &Surroundings) -> Self {
        Self {
            noises: hold.gauges.iter().map(|g| noise_states(g.range_pa)).collect(),
            weathers: weather_states(hold, surroundings),
            least: vec![0; hold.gauges.len()],
        }
    }

    /// With the coarse gauges marked.
    pub(crate) fn with_coarse(mut self, coarse: &[bool]) -> Self {
        for (least, coarse) in self.least.iter_mut().zip(coarse) {
            *least = usize::from(*coarse);
        }
        self
    }

    /// Much noise and middling weather: where every search begins, for its ground is smooth.
    pub(crate) fn first(&self) -> State {
        State { noise: vec![3 * NOISE_TAUS.len() + 1; self.noises.len()], weather: self.weathers.len() / 2 }
    }

    /// True for a state of these.
    pub(crate) fn has(&self, state: &State) -> bool {
        state.weather < self.weathers.len()
            && state.noise.len() == self.noises.len()
            && state.noise.iter().zip(&self.noises).all(|(n, all)| *n < all.len())
    }

    /// True when a gauge's noise is more than a good gauge has.
    pub(crate) fn is_loud(&self, state: &State) -> bool {
        state.noise.iter().any(|n| n / NOISE_TAUS.len() > 2)
    }

    /// The same with little noise.
    pub(crate) fn quiet(&self, state: &State) -> State {
        State { noise: vec![NOISE_TAUS.len() + 1; state.noise.len()], weather: state.weather }
    }

    /// The same with more or less noise of one gauge; none beyond what is tried.
    pub(crate) fn louder(&self, state: &State, gauge: usize, by: isize) -> Option<State> {
        let taus = NOISE_TAUS.len();
        let share = (state.noise[gauge] / taus).checked_add_signed(by)?;
        if share < self.least[gauge] || share >= NOISE_SHARES.len() {
            return None;
        }
        let mut one = state.clone();
        one.noise[gauge] = share * taus + state.noise[gauge] % taus;
        Some(one)
    }

    /// The same with noise of one gauge that forgets over more or less time; none beyond what is tried.
    pub(crate) fn longer(&self, state: &State, gauge: usize, by: isize) -> Option<State> {
        let taus = NOISE_TAUS.len();
        let tau = (state.noise[gauge] % taus).checked_add_signed(by).filter(|t| *t < taus)?;
        let mut one = state.clone();
        one.noise[gauge] = state.noise[gauge] / taus * taus + tau;
        Some(one)
    }

    /// States next to one: a step of one gauge's noise or of the weather.
    pub(crate) fn next_to(&self, state: &State) -> Vec<State> {
        let mut out = Vec::new();
        for w in 0..self.weathers.len() {
            if w != state.weather {
                out.push(State { weather: w, ..state.clone() });
            }
        }
        for g in 0..state.noise.len() {
            out.extend([-1, 1].into_iter().flat_map(|by| [self.louder(state, g, by), self.longer(state, g, by)]).flatten());
        }
        out
    }

    /// Logarithm of a state's weight before the readings.
    pub(crate) fn log_prior(&self, state: &State) -> f64 {
        state.noise.iter().map(|n| NOISE_PRIOR[n / NOISE_TAUS.len()] + TAU_PRIOR[n % NOISE_TAUS.len()]).sum()
    }

    /// Noise of a channel; none for a thermometer.
    pub(crate) fn noise(&self, state: &State, channel: usize) -> Option<Correlated> {
        self.noises.get(channel).map(|n| n[state.noise[channel]])
    }
}

/// Standard deviations of correlated noise that are tried, as shares of full scale. A good gauge wanders by a hundred-thousandth to some
/// ten-thousandths of its scale (common practice); the larger ones stand for weather too quick for the nodes.
const NOISE_SHARES: [f64; 6] = [1.5e-5, 5e-5, 1.3e-4, 4e-4, 1.3e-3, 4e-3];
/// Logarithms of their weights before the readings.
const NOISE_PRIOR: [f64; 6] = [0.0, 0.0, 0.0, -3.0, -5.0, -7.0];
/// Times over which it forgets, s.
const NOISE_TAUS: [f64; 4] = [100.0, 350.0, 1200.0, 5000.0];
/// Logarithms of their weights.
const TAU_PRIOR: [f64; 4] = [0.0, 0.0, 0.0, -1.5];

fn noise_states(range_pa: f64) -> Vec<Correlated> {
    NOISE_SHARES.iter().flat_map(|share| NOISE_TAUS.map(|tau| Correlated { sd: share * range_pa, tau })).collect()
}

fn weather_states(hold: &Hold, surroundings: &Surroundings) -> Vec<Weather> {
    let air: &[f64] = if !surroundings.has_air() {
        &[0.1]
    } else if hold.outdoors() {
        &[0.15, 0.3, 0.6]
    } else {
        &[0.07, 0.15, 0.3]
    };
    let sun: &[f64] = if surroundings.has_sun() { &[0.05, 0.6, 2.5] } else { &[0.0] };
    air.iter().flat_map(|a| sun.iter().map(move |s| Weather { air_sd: *a, sun_sd: *s })).collect()
}
