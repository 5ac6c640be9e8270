//! Gauges and thermometers with their errors.

use crate::random::Random;

/// A gauge, as it truly is and as it is described.
#[derive(Debug, Clone)]
pub struct TrueGauge {
    /// Height, m.
    pub elevation: f64,
    /// Full scale, Pa.
    pub range: f64,
    /// Division, Pa.
    pub division: f64,
    /// Accuracy, per cent of full scale (95 %).
    pub accuracy: f64,
    /// White noise as described, Pa.
    pub white_nominal: f64,
    /// White noise, Pa.
    pub white: f64,
    /// Correlated noise, Pa, and its time, s.
    pub correlated: (f64, f64),
    /// Constant error, Pa.
    pub offset: f64,
    /// Error per kelvin as described (95 %), Pa/K.
    pub per_k_95: f64,
    /// Error per kelvin, Pa/K.
    pub per_k: f64,
}

/// Where a thermometer sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Spot {
    /// On the skin of a body.
    Skin(usize),
    /// In its fluid.
    Fluid(usize),
    /// In the air.
    Air,
}

/// A thermometer.
#[derive(Debug, Clone)]
pub struct TrueThermometer {
    /// Where.
    pub spot: Spot,
    /// Division, K.
    pub division: f64,
    /// Accuracy (95 %), K.
    pub accuracy: f64,
    /// White noise, K.
    pub noise: f64,
    /// Constant error, K.
    pub offset: f64,
}

/// A gauge for a pressure (Pa gauge), read by a logger or by hand.
pub fn gauge(random: &mut Random, pressure: f64, ranges_bar: &[f64], by_hand: bool) -> TrueGauge {
    let wanted = 1.15 * pressure / 1e5;
    let range = ranges_bar.iter().copied().find(|r| *r >= wanted).unwrap_or(wanted.ceil()) * 1e5;
    let accuracy = random.one_of(&[0.1, 0.25, 0.5, 1.0]);
    let (division, white_nominal) = if by_hand {
        let division = range * random.one_of(&[0.002, 0.003_125, 0.01, 0.02]);
        (division, 0.3 * division)
    } else {
        let division = random.one_of(&[0.001, 0.001, 0.01, 0.01, 0.02, 0.05, 0.1]) * 1e5 * if range < 5e5 { 0.2 } else { 1.0 };
        (division, Random::rounded(range * random.log_between(2e-5, 1.4e-4), 2))
    };
    let per_k_95 = Random::rounded(range * random.log_between(2.5e-5, 2.5e-4), 2);
    TrueGauge {
        elevation: 0.0,
        range,
        division,
        accuracy,
        white: white_nominal * (1.0 + 0.1 * random.normal()).max(0.5),
        white_nominal,
        correlated: (range * random.log_between(1e-5, 1.5e-4), random.log_between(60.0, 1800.0)),
        offset: 0.5 * accuracy / 100.0 * range * random.normal(),
        per_k: 0.5 * per_k_95 * random.normal(),
        per_k_95,
    }
}

/// A thermometer at a spot.
pub fn thermometer(random: &mut Random, spot: Spot) -> TrueThermometer {
    if spot == Spot::Air {
        return TrueThermometer { spot, division: 0.1, accuracy: 0.5, noise: 0.05, offset: 0.25 * random.normal() };
    }
    let accuracy = random.one_of(&[0.15, 0.3, 1.0]);
    TrueThermometer {
        spot,
        division: random.one_of(&[0.01, 0.1, 0.1, 0.5]),
        accuracy,
        noise: Random::rounded(random.log_between(0.01, 0.05), 2),
        offset: 0.5 * accuracy * random.normal(),
    }
}

/// Correlated noise at rising times.
pub fn correlated(random: &mut Random, times: &[f64], (sd, tau): (f64, f64)) -> Vec<f64> {
    let mut x = sd * random.normal();
    let mut before = times.first().copied().unwrap_or(0.0);
    times
        .iter()
        .map(|t| {
            let keep = (-(t - before) / tau).exp();
            x = keep * x + sd * (1.0 - keep * keep).sqrt() * random.normal();
            before = *t;
            x
        })
        .collect()
}

/// Rounded to a division.
pub fn read(value: f64, division: f64) -> f64 {
    (value / division).round() * division
}
