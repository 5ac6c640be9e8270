//! HOLD-PUMP: a pump that stays coupled is apart only behind a valve that was proved tight.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// The pump in the hold.
pub const RULE: Rule = Rule {
    id: "HOLD-PUMP",
    sentence: "Where the project lets the pump stay coupled during the hold, its valve was proved tight before: a loss through it would be taken for the system's, and a pump behind it could hide one.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_pump_a_coupled_pump_needs_a_valve_that_was_proved_tight",
};

pub(super) fn check(case: &HoldCase) -> Option<RuleResult> {
    if !case.acceptance.pump_stays {
        return None;
    }
    let proved = case.events.iter().any(|e| e.kind == EventKind::ValveProved && e.t_s <= case.hold_start_s);
    let (result, sentence) = if proved {
        (Verdict::Pass, "The pump stayed coupled behind a valve that was proved tight.")
    } else {
        (
            Verdict::NotShown,
            "The pump stayed coupled, and nobody booked before the hold that its valve was proved tight: take it off, or prove the valve, and hold again.",
        )
    };
    Some(RuleResult::new(&RULE, result, String::new(), sentence.to_owned()).counting(super::Counts::Project))
}
