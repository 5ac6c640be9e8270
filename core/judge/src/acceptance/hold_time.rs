//! HOLD-TIME: held long enough since the pump was last used.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::segments::starts_clock;
use quantity::RunTime;
use quantity::format::span;
use rules::accept::counts_water;
use rules::rule::{Rule, Standing};

/// Hold time.
pub const RULE: Rule = Rule {
    id: "HOLD-TIME",
    sentence: "The hold lasts at least as long as the basis and the owner ask, counted from the last pump-off or repump; water that is measured where the basis allows for it does not start it anew.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_time_a_repump_restarts_the_clock",
};

pub(super) fn check(case: &HoldCase) -> RuleResult {
    let counts_water = counts_water(&case.acceptance.criteria);
    let restart = case
        .events
        .iter()
        .filter(|e| starts_clock(e, counts_water) && e.t_s > case.hold_start_s && e.t_s <= case.hold_end_s)
        .map(|e| e.t_s)
        .fold(case.hold_start_s, RunTime::max);
    let last = case.pressures().map(|r| r.t).filter(|t| *t <= case.hold_end_s).fold(restart, RunTime::max);
    let held = last - restart;
    let floor = case.acceptance.hold_floor_s;
    if held >= floor {
        RuleResult::new(&RULE, Verdict::Pass, span(held - floor), format!("Held for {}, {} asked.", span(held), span(floor)))
    } else {
        RuleResult::new(
            &RULE,
            Verdict::NotShown,
            format!("−{}", span(floor - held)),
            format!("Held for {} of the {} asked: go on for {}.", span(held), span(floor), span(floor - held)),
        )
    }
}
