//! When to stop the pump: rate, what is to go, where the needle will end.

use quantity::{GaugePressure, PressureDifference, Span};
use serde::{Deserialize, Serialize};

/// Time over which the rate is taken, s.
pub const RATE_OVER_S: f64 = 12.0;

/// Lines of the day that the needle is held against.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lines {
    /// Step to reach; none when there is no more.
    pub target: Option<GaugePressure>,
    /// Alarm.
    pub alarm: GaugePressure,
    /// Stop line.
    pub stop_line: GaugePressure,
    /// Upper bound.
    pub upper: GaugePressure,
}

/// How loud.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Loudness {
    /// nothing to say
    Quiet,
    /// stop the pump at the next stroke
    StopSoon,
    /// stop now: alarm reached, or will be before the pump stands
    StopNow,
    /// above the upper bound
    Above,
}

/// Where the needle is going.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Forecast {
    /// Rate of rise, Pa/s.
    pub rate_pa_per_s: f64,
    /// Rise of the last stroke(s), Pa; none before two strokes.
    #[schema(value_type = Option<f64>)]
    pub per_stroke_pa: Option<PressureDifference>,
    /// To the step, Pa; none when none is left.
    #[schema(value_type = Option<f64>)]
    pub to_go_pa: Option<PressureDifference>,
    /// Strokes to the step.
    pub strokes_to_go: Option<f64>,
    /// Seconds to the step at this rate.
    pub seconds_to_go: Option<f64>,
    /// Peak if the pump is stopped now, Pa.
    pub peak_pa: GaugePressure,
    /// How loud.
    pub loudness: Loudness,
    /// One word for the whole width of the screen, empty when quiet.
    pub word: String,
}

/// Rate of the last readings by a straight line, Pa/s; nil with fewer than three.
///
/// `recent` are (time s, reading) in time order; only those within [`RATE_OVER_S`] of the last count.
pub fn rate(recent: &[(f64, GaugePressure)]) -> f64 {
    let Some(last) = recent.last() else { return 0.0 };
    let near: Vec<(f64, f64)> = recent.iter().filter(|r| last.0 - r.0 <= RATE_OVER_S).map(|r| (r.0 - last.0, r.1.pa())).collect();
    if near.len() < 3 {
        return 0.0;
    }
    let n = near.len() as f64;
    let (mt, mp) = (near.iter().map(|r| r.0).sum::<f64>() / n, near.iter().map(|r| r.1).sum::<f64>() / n);
    let (sxy, sxx) = near.iter().fold((0.0, 0.0), |s, r| (s.0 + (r.0 - mt) * (r.1 - mp), s.1 + (r.0 - mt).powi(2)));
    if sxx > 0.0 { sxy / sxx } else { 0.0 }
}

/// Where the needle goes: p + rate · reaction, and at least one stroke further while the pump runs.
///
/// `per_stroke` is the rise of the last strokes; `noise_rate` the rate below which a needle stands still, Pa/s; `reaction` the time from "stop" to a
/// pump that stands.
pub fn forecast(
    now: GaugePressure,
    rate_pa_per_s: f64,
    per_stroke: Option<PressureDifference>,
    noise_rate: f64,
    lines: Lines,
    reaction: Span,
) -> Forecast {
    let rising = rate_pa_per_s > noise_rate;
    let run_on = if rising { (rate_pa_per_s * reaction.s()).max(per_stroke.map_or(0.0, |s| s.pa().max(0.0))) } else { 0.0 };
    let peak = now + PressureDifference::from_pa(run_on);
    let to_go = lines.target.map(|t| t - now);
    let ahead = to_go.filter(|g| g.pa() > 0.0);
    let loudness = if now > lines.upper {
        Loudness::Above
    } else if now >= lines.alarm || (rising && peak >= lines.stop_line.min(lines.upper)) {
        Loudness::StopNow
    } else if rising && lines.target.is_some_and(|t| peak >= t) {
        Loudness::StopSoon
    } else {
        Loudness::Quiet
    };
    let word = match loudness {
        Loudness::Quiet => "",
        Loudness::StopSoon => "Ease off: the step is seconds away",
        Loudness::StopNow => "STOP THE PUMP",
        Loudness::Above => "ABOVE THE LIMIT: BLEED",
    };
    Forecast {
        rate_pa_per_s,
        per_stroke_pa: per_stroke,
        to_go_pa: to_go,
        strokes_to_go: ahead.zip(per_stroke).filter(|(_, s)| s.pa() > 0.0).map(|(g, s)| g.pa() / s.pa()),
        seconds_to_go: ahead.filter(|_| rising).map(|g| g.pa() / rate_pa_per_s),
        peak_pa: peak,
        loudness,
        word: word.to_owned(),
    }
}
