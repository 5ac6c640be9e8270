//! How lost volume and slow growth of the cavity run over time.

use crate::input::{Fluid, Hold};

/// Loss over the time of comparison, as a share of the whole loss over the hold, for a leak that starts at `start`.
///
/// An orifice: the flow of water goes with √(p gauge), that of gas with p absolute.
pub(crate) fn loss(hold: &Hold, times: &[f64], p: &[f64], start: f64) -> Vec<f64> {
    let flow = |p: f64| match hold.fluid {
        Fluid::Water => (p - hold.atmosphere_pa).max(1.0).sqrt(),
        Fluid::Gas(_) => p,
    };
    let f: Vec<f64> = p.iter().map(|p| flow(*p)).collect();
    let mut lost = vec![0.0; times.len()];
    let between = |i: usize, t: f64| f[i] + (f[i + 1] - f[i]) * (t - times[i]) / (times[i + 1] - times[i]);
    for k in 1..times.len() {
        let (a, b) = (times[k - 1], times[k]);
        let part = if b <= start {
            0.0
        } else if a >= start {
            0.5 * (f[k - 1] + f[k]) * (b - a)
        } else {
            0.5 * (between(k - 1, start) + f[k]) * (b - start)
        };
        lost[k] = lost[k - 1] + part;
    }
    let last = times.len() - 1;
    let whole = lost[last] + f[last] * (hold.length_s - times[last]).max(0.0);
    lost.iter().map(|l| l / whole.max(1e-300)).collect()
}

/// ln((t + t₁)/t₁): creep of a plastic wall that has been at pressure for t₁.
pub(crate) fn log_time(times: &[f64], at_pressure: f64) -> Vec<f64> {
    times.iter().map(|t| ((t + at_pressure) / at_pressure).ln()).collect()
}

/// 1 − exp(−t/τ).
pub(crate) fn exponential(times: &[f64], tau: f64) -> Vec<f64> {
    times.iter().map(|t| 1.0 - (-t / tau).exp()).collect()
}

/// Share of a step that is done at each time.
pub(crate) fn ramp(times: &[f64], start: f64, end: f64) -> Vec<f64> {
    times.iter().map(|t| ((t - start) / (end - start).max(1e-9)).clamp(0.0, 1.0)).collect()
}
