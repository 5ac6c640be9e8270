//! GAUGES-AGREE: gauges on one column read alike, corrected for height.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::side_by_side;
use crate::words::Shown;
use quantity::PressureDifference;
use rules::rule::{Rule, Standing};

/// Agreement.
pub const RULE: Rule = Rule {
    id: "GAUGES-AGREE",
    sentence: "Gauges of one test agree within their combined accuracy, corrected for their height.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gauges_agree_gauges_that_disagree_show_nothing",
};

/// Density of water for the correction, kg/m³.
const WATER: f64 = 998.0;
const G: f64 = 9.806_65;

pub(super) fn check(case: &HoldCase) -> Option<RuleResult> {
    let shown = Shown::of(case);
    let in_hold = || case.readings.iter().filter(|r| case.hold().contains(r.t_s));
    let mut worst: Option<(PressureDifference, String)> = None;
    for (i, other) in case.also_gauges.iter().enumerate() {
        let head = if case.gas.is_some() { 0.0 } else { WATER * G * (other.elevation_m - case.gauge.elevation_m).m() };
        let mut apart: Vec<f64> = side_by_side(in_hold(), i).into_iter().map(|(other, first)| first.pa() - other.pa() - head).collect();
        if apart.is_empty() {
            continue;
        }
        let middle = apart.len() / 2;
        let apart = PressureDifference::from_pa(*apart.select_nth_unstable_by(middle, f64::total_cmp).1);
        let error = |g: &crate::case::HoldGauge| (g.error_of_scale * g.full_scale_pa.pa()).hypot(g.division_pa.pa());
        let allowed = PressureDifference::from_pa(error(&case.gauge).hypot(error(other)));
        let room = allowed - apart.abs();
        let words = format!(
            "{} and {} differ by {} at one height; their combined accuracy is {}",
            case.gauge.tag,
            other.tag,
            shown.change(apart.abs()),
            shown.change(allowed)
        );
        if worst.as_ref().is_none_or(|w| room < w.0) {
            worst = Some((room, words));
        }
    }
    let (room, words) = worst?;
    Some(if room >= PressureDifference::ZERO {
        RuleResult::new(&RULE, Verdict::Pass, shown.change(room), format!("{words}."))
    } else {
        RuleResult::new(
            &RULE,
            Verdict::NotShown,
            shown.change(room),
            format!("{words}: one of them is wrong. Have both compared before anything is judged."),
        )
    })
}
