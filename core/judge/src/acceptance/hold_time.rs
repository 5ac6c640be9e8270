//! HOLD-TIME: held long enough since the pump was last used.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::segments::Clock;
use quantity::format::span;
use quantity::{RunTime, Span};
use rules::accept::counts_water;
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// Hold time.
pub const RULE: Rule = Rule {
    id: "HOLD-TIME",
    sentence: "The hold lasts at least as long as the basis and the owner ask, counted from the last pump-off or repump; water that is measured where the basis allows for it does not start it anew, nor does the one repump that a project may allow.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_time_a_repump_restarts_the_clock",
};

/// Of a run that was stopped before its hold.
pub(super) fn not_held(case: &HoldCase) -> RuleResult {
    let floor = span(case.acceptance.hold_floor_s);
    RuleResult::new(
        &RULE,
        Verdict::NotShown,
        String::new(),
        format!("Not held: the pressure was let out before the hold began; {floor} asked."),
    )
}

pub(super) fn check(case: &HoldCase) -> RuleResult {
    let clock = Clock { counts_water: counts_water(&case.acceptance.criteria), one_repump: case.acceptance.one_repump };
    let restart = clock.restarted(&case.events, case.hold()).unwrap_or(case.hold_start_s);
    let last = case.pressures().map(|r| r.t).filter(|t| *t <= case.hold_end_s).fold(restart, RunTime::max);
    let held = last - restart;
    let floor = case.acceptance.hold_floor_s;
    let pumped = |e: &crate::case::Event| e.kind == EventKind::Repump && (e.t_s - restart).abs() < Span::from_s(1.0);
    let since = if case.events.iter().any(pumped) { " since the last repump" } else { "" };
    if held >= floor {
        RuleResult::new(
            &RULE,
            Verdict::Pass,
            span(held - floor),
            format!("Held and read over {}{since}, {} asked.", span(held), span(floor)),
        )
    } else {
        RuleResult::new(
            &RULE,
            Verdict::NotShown,
            format!("−{}", span(floor - held)),
            format!("Held and read over {} of the {} asked{since}: go on for {}.", span(held), span(floor), span(floor - held)),
        )
    }
}
