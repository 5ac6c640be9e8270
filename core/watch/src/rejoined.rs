//! A pumping curve in branches: what was let out between them is in the system no more, and is not counted.

use crate::pumping::PumpingPoint;
use quantity::{GaugePressure, PressureDifference, Volume};

/// A fall of the pressure from one stroke to the next below this share of it is a rest that cooled or dissolved its air (common practice).
const FALL_SHARE: f64 = 0.02;
/// The same in divisions of the gauge.
const FALL_DIVISIONS: f64 = 4.0;

/// A curve as if nothing had been let out.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Rejoined {
    /// Points, the volume without what was let out.
    pub points: Vec<PumpingPoint>,
    /// Indices of the points at which a branch begins.
    pub branches: Vec<usize>,
    /// Times that the pressure was let down.
    pub let_down: usize,
}

/// Joins each branch to the curve before it: more is pumped and the pressure is lower, so water was let out, and the volume in the system is that
/// at which the curve was at this pressure before. Where it never was so low, the raise begins anew.
///
/// Range: points in the order in which they came. A single low reading is none: the stroke after it has to be low as well.
pub fn rejoined(counted: &[PumpingPoint], division: PressureDifference) -> Rejoined {
    let mut out = Rejoined::default();
    let mut let_out = Volume::from_m3(0.0);
    for (i, here) in counted.iter().enumerate() {
        let point = PumpingPoint { volume_m3: here.volume_m3 - let_out, ..*here };
        let fell = |before: &PumpingPoint| {
            let least = (FALL_SHARE * before.pressure_pa.pa()).max(FALL_DIVISIONS * division.pa());
            let low = |p: &PumpingPoint| p.pressure_pa.pa() < before.pressure_pa.pa() - least;
            low(here) && counted.get(i + 1).is_some_and(low)
        };
        if i == 0 || !fell(&counted[i - 1]) {
            out.points.push(point);
            continue;
        }
        out.let_down += 1;
        match volume_at(&out.points, here.pressure_pa) {
            Some(volume) => {
                let_out = let_out + (point.volume_m3 - volume);
                out.branches.push(out.points.len());
                out.points.push(PumpingPoint { volume_m3: volume, ..*here });
            }
            None => {
                let_out = here.volume_m3;
                out.branches.clear();
                out.points = vec![PumpingPoint { volume_m3: Volume::from_m3(0.0), ..*here }];
            }
        }
    }
    out
}

/// Volume at which a curve last rose through a pressure.
fn volume_at(points: &[PumpingPoint], pressure: GaugePressure) -> Option<Volume> {
    points.windows(2).rev().find(|w| w[0].pressure_pa <= pressure && pressure < w[1].pressure_pa).map(|w| {
        let share = (pressure - w[0].pressure_pa).pa() / (w[1].pressure_pa - w[0].pressure_pa).pa();
        w[0].volume_m3 + (w[1].volume_m3 - w[0].volume_m3) * share
    })
}
