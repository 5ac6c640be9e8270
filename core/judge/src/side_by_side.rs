//! What a further gauge read beside the first one.

use crate::case::Reading;
use quantity::GaugePressure;

/// Readings of the first gauge that a further one is held against are no further apart than this, s.
const APART_S: f64 = 3600.0;

/// What the further gauge at `place` read, Pa, each beside what the first gauge stood at in that moment. Of two that are read one after the other the first
/// gauge's figure is taken from the straight line between its readings before and after; where there is none before or after, the pair is left out.
pub fn side_by_side<'a>(readings: impl Iterator<Item = &'a Reading> + Clone, place: usize) -> Vec<(GaugePressure, GaugePressure)> {
    let firsts: Vec<(f64, f64)> = readings.clone().filter_map(|r| Some((r.t_s.s(), r.pressure_pa?.pa()))).collect();
    let others = readings.filter_map(|r| Some((r.t_s.s(), r.also.get(place).copied().flatten()?)));
    others.filter_map(|(t, other)| Some((GaugePressure::from_pa(other), GaugePressure::from_pa(stood_at(&firsts, t)?)))).collect()
}

/// Where the first gauge stood at a time.
fn stood_at(firsts: &[(f64, f64)], t: f64) -> Option<f64> {
    let after = firsts.partition_point(|f| f.0 < t);
    let next = firsts.get(after)?;
    if next.0.total_cmp(&t).is_eq() {
        return Some(next.1);
    }
    let last = firsts.get(after.checked_sub(1)?)?;
    (next.0 - last.0 <= APART_S).then(|| last.1 + (next.1 - last.1) * (t - last.0) / (next.0 - last.0))
}
