//! LOOK-DONE: a steady gauge never replaces the look.

use super::look::{Look, look};
use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::words::Shown;
use rules::rule::{Rule, Standing};
use terms::EventKind;

/// The look.
pub const RULE: Rule = Rule {
    id: "LOOK-DONE",
    sentence: "Every joint was looked at during the hold, or after it at the pressure that the basis has for the look, and somebody booked it.",
    clause: "B31.3 345.2.2(a)",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "look_done_without_the_look_nothing_is_shown",
};

pub(super) fn check(case: &HoldCase) -> RuleResult {
    let shown = Shown::of(case);
    let asked = case.acceptance.look_pa.map(|p| shown.pressure(p));
    let new = |result, sentence: String| RuleResult::new(&RULE, result, String::new(), sentence);
    match (look(case), asked) {
        (Look::Within, _) => new(Verdict::Pass, "Joints looked at during the hold.".to_owned()),
        (Look::After(at), Some(asked)) => {
            new(Verdict::Pass, format!("Joints looked at after the hold, at {}; {asked} asked.", shown.pressure(at)))
        }
        (Look::TooLow(at), Some(asked)) => new(
            Verdict::NotShown,
            format!(
                "The look after the hold was taken at {}; it must be taken at {asked} or more: a joint that is dry at less says nothing.",
                shown.pressure(at)
            ),
        ),
        (_, Some(_)) if case.events.iter().any(|e| e.kind == EventKind::Released) => new(
            Verdict::NotShown,
            "No look at the joints was booked before the pressure was let out: raise it in another attempt, and look.".to_owned(),
        ),
        (_, Some(asked)) => {
            new(Verdict::NotShown, format!("No look at the joints is booked: lower to {asked} after the hold, look at each and book it."))
        }
        (_, None) => new(Verdict::NotShown, "No look at the joints is booked within the hold: look at each and book it.".to_owned()),
    }
}
