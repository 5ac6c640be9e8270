//! Does a part give way while the pump runs: more volume per bar than a moment ago, or none of the pressure it should bring.

use crate::pumping::PumpingPoint;
use quantity::{PressureDifference, Volume};
use serde::{Deserialize, Serialize};

/// What the last strokes say.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum GivingWay {
    /// pressure stands or falls while volume goes in
    StopsRising,
    /// volume per bar rises: plastic strain, or a leak that opened
    Yielding,
}

impl GivingWay {
    /// What to do, in a sentence.
    pub const fn sentence(self) -> &'static str {
        match self {
            Self::StopsRising => {
                "The pressure stops rising while the pump runs: a part is giving way, or it leaks. Stop the pump, stay out, and release the pressure."
            }
            Self::Yielding => {
                "Each stroke brings less pressure than before: a part is yielding, or a leak has opened. Stop the pump, stay out, and release the pressure."
            }
        }
    }
}

/// How well a point is known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PointNoise {
    /// Standard deviation of a reading: division and repeatability.
    pub pressure: PressureDifference,
    /// Standard deviation of a counted volume: the share of a stroke that may have gone in since the counter moved.
    pub volume: Volume,
}

/// Strokes that are looked at together.
const WINDOW: usize = 3;
/// Strokes before them that they are held against.
const BEFORE: usize = 6;
/// Below this share of the former rise per volume something gives way.
const SHARE: f64 = 0.7;
/// How many standard deviations below.
const SIGMAS: f64 = 4.0;

/// Looks at the last strokes of a steady raise; `points` since the pump last rested.
///
/// As air is squeezed and water stiffens, pressure per volume can only rise. So the rise per volume over the last three strokes is held
/// against that of up to six before them: clearly less (a factor, and beyond what counter and gauge leave open) means yielding, or, when
/// nothing is left of it, that the pressure stops rising. Needs at least 6 strokes since the pump last rested. Twice the elastic volume per bar
/// is the usual definition of yield for pipelines (common practice).
pub fn giving_way(points: &[PumpingPoint], noise: PointNoise) -> Option<GivingWay> {
    let n = points.len();
    if n < 2 * WINDOW + 1 {
        return None;
    }
    let first = n - 1 - WINDOW;
    let rise = |a: usize, b: usize| (points[b].pressure_pa - points[a].pressure_pa).pa();
    let volume = |a: usize, b: usize| (points[b].volume_m3 - points[a].volume_m3).m3();
    let from = first.saturating_sub(BEFORE);
    let (v0, v1) = (volume(from, first), volume(first, n - 1));
    if v0 <= 0.0 || v1 <= 0.0 {
        return None;
    }
    let before = rise(from, first) / v0;
    let expected = before * v1;
    let seen = rise(first, n - 1);
    let root2 = std::f64::consts::SQRT_2;
    let relative = root2 * noise.volume.m3();
    let sd = (2.0 * noise.pressure.pa().powi(2)
        + 2.0 * (noise.pressure.pa() * v1 / v0).powi(2)
        + (expected * relative / v1).powi(2)
        + (expected * relative / v0).powi(2))
    .sqrt();
    if expected <= 0.0 || expected - seen < SIGMAS * sd {
        return None;
    }
    if seen < 0.2 * expected {
        Some(GivingWay::StopsRising)
    } else if seen < SHARE * expected {
        Some(GivingWay::Yielding)
    } else {
        None
    }
}
