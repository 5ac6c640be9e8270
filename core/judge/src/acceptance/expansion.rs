//! HOLD-EXPANSION: a wall that creeps stretches at test pressure before the hold, and the pressure is lowered from there.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::read::Read;
use crate::segments::{LOWERED_NEAR, lowered_as_read};
use crate::words::Shown;
use quantity::PressureDifference;
use quantity::format::span;
use rules::accept::{Expansion, LOWERED_WITHIN};
use rules::rule::{Rule, Standing};

/// Expansion.
pub const RULE: Rule = Rule {
    id: "HOLD-EXPANSION",
    sentence: "The wall stretches at test pressure for the time of the basis, pumped up as it does; then the pressure is lowered by what the basis says, and only then the hold counts.",
    clause: "",
    edition: "",
    standing: Standing::NotChecked,
    file: file!(),
    test: "hold_expansion_a_polyethylene_main_is_stretched_and_lowered_before_its_hold",
};

/// A time is met to this share of it (common practice).
const TIME_SHORT: f64 = 0.02;

pub(super) fn check(case: &HoldCase, asked: &Expansion) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(&RULE, &asked.origin, result, margin, sentence);
    let (stretched, least) = (case.at_pressure_s, asked.least_s);
    if stretched < least * (1.0 - TIME_SHORT) {
        return new(
            Verdict::NotShown,
            format!("−{}", span(least - stretched)),
            format!(
                "At test pressure for {} before the hold, {} asked: keep it there longer before it is lowered.",
                span(stretched),
                span(least)
            ),
        );
    }
    let shown = Shown::of(case);
    let read: Vec<Read> = case.pressures().collect();
    let Some((before, after)) = lowered_as_read(&read, case.hold_start_s) else {
        let sentence =
            format!("No pressure was read within {} before and after it was lowered: read it on both sides.", span(LOWERED_NEAR));
        return new(Verdict::NotShown, String::new(), sentence);
    };
    let (fell, wanted) = (before - after, asked.lowered_pa);
    let within = (wanted * LOWERED_WITHIN).max(case.gauge.division_pa);
    if (fell - wanted).abs() > within {
        return new(
            Verdict::NotShown,
            shown.change(within - (fell - wanted).abs()),
            format!(
                "Lowered by {} before the hold, {} asked: bring it back to test pressure, lower it by that and hold again.",
                shown.change(fell.max(PressureDifference::ZERO)),
                shown.change(wanted)
            ),
        );
    }
    new(
        Verdict::Pass,
        span(stretched - least),
        format!("At test pressure for {}, {} asked; then lowered by {}.", span(stretched), span(least), shown.change(fell)),
    )
}
