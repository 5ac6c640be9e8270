//! HOLD-WHOLE: the whole test, from the first raise until the pressure is let out, lasts no longer than a creeping wall may be stretched.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use quantity::RunTime;
use quantity::format::span;
use rules::accept::WholeTest;
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// Whole test.
pub const RULE: Rule = Rule {
    id: "HOLD-WHOLE",
    sentence: "From the first raise until the pressure is let out no more time passes than the basis allows a wall that creeps; before another test it rests without pressure.",
    clause: "",
    edition: "",
    standing: Standing::NotChecked,
    file: file!(),
    test: "hold_whole_a_polyethylene_main_is_under_test_for_eight_hours_at_most",
};

/// A share of the expected pressure from which on the wall counts as stretched (common practice).
const STRETCHED: f64 = 0.1;

pub(super) fn check(case: &HoldCase, asked: &WholeTest) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(&RULE, &asked.origin, result, margin, sentence);
    let least = case.expected_pa.times(STRETCHED);
    let read = case.pressures().filter(|r| r.p >= least).map(|r| r.t);
    let raised = case.events.iter().filter(|e| e.kind == EventKind::StepReached).map(|e| e.t_s);
    let from = read.chain(raised).fold(case.hold_start_s - case.at_pressure_s, RunTime::min);
    let let_out = case.events.iter().find(|e| e.kind == EventKind::Released).map(|e| e.t_s);
    let until = let_out.unwrap_or(case.hold_end_s).max(case.hold_end_s);
    let (took, most, rest) = (until - from, asked.most_s, span(asked.rest_s));
    let rested = case.let_out_before_s.map(|t| from - t);
    if let Some(rested) = rested.filter(|r| *r < asked.rest_s) {
        return new(
            Verdict::Fail,
            format!("−{}", span(asked.rest_s - rested)),
            format!(
                "Raised {} after the pressure of the test before was let out, {rest} asked: the wall still draws back from that, and it counts as \
                 no test. Let the pressure out, and let the main rest.",
                span(rested)
            ),
        );
    }
    if took > most {
        return new(
            Verdict::Fail,
            format!("−{}", span(took - most)),
            format!(
                "Under pressure for {}, {} allowed: it counts as no test. Let the pressure out, and let the main rest for {rest} before another.",
                span(took),
                span(most)
            ),
        );
    }
    let sentence = match let_out {
        Some(_) => format!("Under pressure for {} in all, {} allowed; before another test it rests for {rest}.", span(took), span(most)),
        None => format!(
            "Under pressure for {} so far: let it out within {}; before another test it rests for {rest}.",
            span(took),
            span(most - took)
        ),
    };
    new(Verdict::Pass, span(most - took), sentence)
}
