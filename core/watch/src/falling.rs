//! A needle that falls in a hold: when it reaches the lower bound, said before it is there and as loudly as the upper one.

use quantity::format::span;
use quantity::{GaugePressure, PressureDifference, Span};
use serde::{Deserialize, Serialize};

/// Time over which a fall is followed, s.
const OVER_S: f64 = 600.0;
/// No fall is told from less than this, s, nor from fewer readings than three.
const LEAST_S: f64 = 60.0;
/// It is said this long before the bound is reached, s (common practice: time to look, to decide, and to tell the others).
const AHEAD_S: f64 = 900.0;

/// How loud.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Low {
    /// nothing to say
    Quiet,
    /// will be below the bound before the hold is over, and soon
    Nears,
    /// below the bound
    Below,
}

/// What a falling needle says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Falling {
    /// How loud.
    pub low: Low,
    /// Seconds until it is at the bound, as it falls now; absent where it does not fall, or is there.
    pub reaches_s: Option<f64>,
    /// For the whole width of the screen; empty when quiet.
    pub word: String,
    /// What to do; empty when quiet.
    pub sentence: String,
}

/// Follows a fall to the lower bound of a hold.
///
/// Formula: t = (p − p_low)/r, r the slope of a straight line through the readings of the last ten minutes. A fall of less than half a
/// division over that time is no fall. `readings` are (time s, reading) in time order, `left_s` what is left of the hold.
pub fn falling(readings: &[(f64, GaugePressure)], lower: GaugePressure, division: PressureDifference, left_s: f64) -> Falling {
    let quiet = |reaches_s| Falling { low: Low::Quiet, reaches_s, word: String::new(), sentence: String::new() };
    let Some(last) = readings.last() else { return quiet(None) };
    if last.1 < lower {
        return Falling {
            low: Low::Below,
            reaches_s: None,
            word: "BELOW THE LOWER BOUND: THIS HOLD CANNOT PASS".to_owned(),
            sentence: "The pressure is below the lower bound. Nobody goes near to search while it falls. End the hold, or pump up again and book it: \
                       the hold then starts anew."
                .to_owned(),
        };
    }
    let near: Vec<(f64, f64)> = readings.iter().filter(|r| last.0 - r.0 <= OVER_S).map(|r| (r.0 - last.0, r.1.pa())).collect();
    let over = near.first().map_or(0.0, |r| -r.0);
    if near.len() < 3 || over < LEAST_S {
        return quiet(None);
    }
    let n = near.len() as f64;
    let (mt, mp) = (near.iter().map(|r| r.0).sum::<f64>() / n, near.iter().map(|r| r.1).sum::<f64>() / n);
    let (sxy, sxx) = near.iter().fold((0.0, 0.0), |s, r| (s.0 + (r.0 - mt) * (r.1 - mp), s.1 + (r.0 - mt).powi(2)));
    let falls = if sxx > 0.0 { -sxy / sxx } else { 0.0 };
    if falls * over < 0.5 * division.pa() {
        return quiet(None);
    }
    let reaches = (last.1 - lower).pa() / falls;
    if reaches > AHEAD_S.min(left_s) {
        return quiet(Some(reaches));
    }
    Falling {
        low: Low::Nears,
        reaches_s: Some(reaches),
        word: format!("Falling: reaches the lower bound in {}", span(Span::from_s(reaches))),
        sentence: "At this rate it is below the lower bound before the hold is over, and the hold cannot pass. Read temperature and pressure, and \
                   decide now: look for the leak, or pump up again and book it; the hold then starts anew."
            .to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn bar(b: f64) -> GaugePressure {
        GaugePressure::from_pa(b * 1e5)
    }

    fn fall(from: f64, per_min: f64, minutes: u32) -> Vec<(f64, GaugePressure)> {
        (0..=minutes * 6).map(|i| (f64::from(i) * 10.0, bar(from - per_min * f64::from(i) / 6.0))).collect()
    }

    fn at(readings: &[(f64, GaugePressure)], left_s: f64) -> Falling {
        falling(readings, bar(24.0), PressureDifference::from_pa(2e3), left_s)
    }

    #[test]
    fn a_fall_is_said_twelve_minutes_before_it_reaches_the_bound_and_when_it_is_through() {
        // 0.05 bar a minute: 0.6 bar above the bound are twelve minutes
        let nears = at(&fall(25.1, 0.05, 10), 1500.0);
        assert_eq!(nears.low, Low::Nears);
        assert!((nears.reaches_s.unwrap() - 720.0).abs() < 1.0, "{nears:?}");
        assert!(nears.word.contains("12\u{a0}min"), "{}", nears.word);
        let below = at(&fall(24.4, 0.05, 10), 1500.0);
        assert_eq!((below.low, below.reaches_s), (Low::Below, None));
        assert!(below.word.contains("BELOW THE LOWER BOUND"));
    }

    #[test]
    fn a_fall_that_the_hold_outlasts_and_a_still_needle_are_quiet() {
        // reached in twelve minutes, the hold is over in ten
        assert_eq!(at(&fall(25.1, 0.05, 10), 600.0).low, Low::Quiet);
        assert_eq!(at(&fall(25.1, 0.0, 10), 1500.0).reaches_s, None);
        assert_eq!(at(&fall(25.1, -0.05, 10), 1500.0).reaches_s, None);
        assert_eq!(at(&[], 1500.0).low, Low::Quiet);
    }

    proptest! {
        #[test]
        fn whatever_is_below_the_bound_is_never_quiet(p in 0.0f64..23.999, per_min in -1.0f64..1.0, minutes in 0u32..20, left in 0.0f64..5000.0) {
            let mut readings = fall(p + per_min * f64::from(minutes), per_min, minutes);
            readings.last_mut().unwrap().1 = bar(p);
            prop_assert_eq!(at(&readings, left).low, Low::Below);
        }
    }
}
