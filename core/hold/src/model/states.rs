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
}

impl States {
    /// Those of a hold.
    pub(crate) fn new(hold: &Hold, surroundings: &Surroundings) -> Self {
        Self { noises: hold.gauges.iter().map(|g| noise_states(g.range_pa)).collect(), weathers: weather_states(hold, surroundings) }
    }

    /// The middle of everything.
    pub(crate) fn middle(&self) -> State {
        State { noise: vec![MIDDLE_NOISE; self.noises.len()], weather: self.weathers.len() / 2 }
    }

    /// Noise of a channel; none for a thermometer.
    pub(crate) fn noise(&self, state: &State, channel: usize) -> Option<Correlated> {
        self.noises.get(channel).map(|n| n[state.noise[channel]])
    }
}

/// States of correlated noise that are tried, as shares of full scale (common practice: a good gauge wanders by a hundred-thousandth
/// to some ten-thousandths of its scale over minutes to half an hour).
fn noise_states(range_pa: f64) -> Vec<Correlated> {
    let mut all = Vec::new();
    for share in [1.3e-5, 4e-5, 1.2e-4] {
        for tau in [100.0, 350.0, 1200.0] {
            all.push(Correlated { sd: share * range_pa, tau });
        }
    }
    all
}
const MIDDLE_NOISE: usize = 4;

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

