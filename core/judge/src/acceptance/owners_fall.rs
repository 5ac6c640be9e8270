//! HOLD-OWNERS-FALL: at most so much may be lost in so long by the owner's own figure.

use super::{RuleResult, pressure_fall};
use crate::case::HoldCase;
use crate::finding::Found;
use rules::accept::PressureFall;
use rules::rule::{Rule, Standing};

/// The owner's fall.
pub const RULE: Rule = Rule {
    id: "HOLD-OWNERS-FALL",
    sentence: "Within the time that the owner names the pressure falls by no more than the owner allows, as read, without anything taken off for temperature; what the basis asks is asked besides, and a loss that it does not allow stays one.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_owners_fall_the_owners_fall_asks_for_more_and_allows_no_leak",
};

pub(super) fn check(case: &HoldCase, found: &Found, fall: &PressureFall) -> RuleResult {
    pressure_fall::by(&RULE, case, found, fall)
}
