//! JOINT-DRY: the primary gasket is dry while the pressure holds.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use rules::accept::JointDry;
use rules::rule::{Rule, Standing};
use terms::{EventKind, LeakPlace};

/// Joint.
pub const RULE: Rule = Rule {
    id: "JOINT-DRY",
    sentence: "The primary gasket is dry while the pressure holds; the secondary may weep.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "joint_dry_the_primary_gasket_is_dry",
};

pub(super) fn check(case: &HoldCase, asked: &JointDry) -> RuleResult {
    let new = |result, sentence: &str| RuleResult::of_basis(&RULE, &asked.origin, result, String::new(), sentence.to_owned());
    let seen = |place| case.events.iter().any(|e| e.kind == EventKind::LeakSeen && e.place == Some(place));
    let looked = case.events.iter().any(|e| e.kind == EventKind::LookDone && case.hold().contains(e.t_s));
    if seen(LeakPlace::GasketPrimary) {
        new(Verdict::Fail, "The primary gasket is wet.")
    } else if !looked {
        new(Verdict::NotShown, "No look at the primary gasket is booked within the hold: look at it, and book it.")
    } else if seen(LeakPlace::GasketSecondary) {
        new(Verdict::Pass, "The primary gasket is dry; the secondary weeps, which is allowed while the pressure holds.")
    } else {
        new(Verdict::Pass, "Both gaskets are dry.")
    }
}
