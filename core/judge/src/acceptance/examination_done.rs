//! LOOK-DONE: a steady gauge never replaces the look.

use super::{RuleResult, Verdict};
use crate::case::{EventKind, HoldCase};
use rules::rule::{Rule, Standing};

/// The look.
pub const RULE: Rule = Rule {
    id: "LOOK-DONE",
    sentence: "Every joint was looked at during the hold, and somebody booked it.",
    clause: "B31.3 345.2.2(a)",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "without_the_look_nothing_is_shown",
};

pub(super) fn check(case: &HoldCase) -> RuleResult {
    let done = case.events.iter().any(|e| e.kind == EventKind::LookDone && e.t_s >= case.hold_start_s && e.t_s <= case.hold_end_s);
    if done {
        RuleResult::new(&RULE, Verdict::Pass, String::new(), "Joints looked at during the hold.".to_owned())
    } else {
        RuleResult::new(
            &RULE,
            Verdict::NotShown,
            String::new(),
            "No look at the joints is booked within the hold: look at each and book it.".to_owned(),
        )
    }
}
