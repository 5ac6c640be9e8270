//! To how many digits a channel was written down: people round a fine gauge to what their sheet has room for.

use std::collections::BTreeSet;

/// Most decimals that are told apart.
const DECIMALS: usize = 5;
/// Chance by which readings of a gauge may all fall on the coarser steps before these count as its division.
const BY_CHANCE: f64 = 0.01;

/// The decimal step to which all values are written, where it is coarser than their instrument's division and so many different ones would hardly fall on
/// it by chance.
pub(crate) fn step(values: impl Iterator<Item = f64>, division: f64) -> Option<f64> {
    let values: Vec<f64> = values.filter(|v| !v.is_nan()).collect();
    // of so many decimals at most
    let written = |decimals: i32| {
        let scale = 10f64.powi(decimals);
        values.iter().all(|v| ((v * scale).round() / scale - v).abs() < 1e-7)
    };
    let decimals = (0..=DECIMALS as i32).find(|d| written(*d))?;
    let step = 10f64.powi(-decimals);
    if step < 1.5 * division {
        return None;
    }
    let different = values.iter().map(|v| (v / step).round() as i64).collect::<BTreeSet<i64>>().len();
    ((division / step).powi(i32::try_from(different).unwrap_or(i32::MAX)) < BY_CHANCE).then_some(step)
}

#[cfg(test)]
mod tests {
    use super::step;
    use proptest::prelude::*;

    proptest! {
        /// Readings on a gauge's own divisions are taken for coarser ones no more often than chance has it; rounded to a tenth they are known for that as soon
        /// as there are three different ones.
        #[test]
        fn digits_that_were_left_out_are_seen(ticks in prop::collection::vec(0u32..60, 12..60), division in prop::sample::select(vec![0.01, 0.02, 0.05])) {
            let fine: Vec<f64> = ticks.iter().map(|k| 25.0 + division * f64::from(*k)).collect();
            let rounded: Vec<f64> = fine.iter().map(|v| (v * 10.0).round() / 10.0).collect();
            let different = rounded.iter().map(|v| (v * 10.0).round() as i64).collect::<std::collections::BTreeSet<_>>().len();
            let chance = (division / 0.1f64).powi(different as i32);
            prop_assert_eq!(step(rounded.iter().copied(), division), (chance < 0.01).then_some(0.1));
            let off = fine.iter().filter(|v| ((*v * 10.0).round() / 10.0 - *v).abs() > 1e-7).count();
            prop_assume!(off > 0);
            prop_assert_eq!(step(fine.into_iter(), division), None);
        }
    }

    #[test]
    fn a_gauge_that_stands_still_or_reads_in_another_unit_keeps_its_division() {
        assert_eq!(step([25.0; 40].into_iter(), 0.01), None);
        assert_eq!(step((0..40).map(|i| 0.068_947_57 * f64::from(360 + i)), 0.01), None);
        assert_eq!(step(std::iter::empty(), 0.01), None);
    }
}
