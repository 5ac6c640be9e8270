//! GATE-BOUNDARY: every blind in, every item out.

use super::{Facts, GateResult};
use crate::registers::BoundaryKind;
use rules::rule::{Rule, Standing};

/// Boundary.
pub const RULE: Rule = Rule {
    id: "GATE-BOUNDARY",
    sentence: "Every blind of the list is in and every item of the list is out before pressure; what was put back after an earlier attempt is set again.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_boundary_a_blind_that_is_not_in_stops_the_release",
};

pub(super) fn check(facts: &Facts) -> GateResult {
    let open: Vec<String> = facts
        .boundary
        .iter()
        .filter(|b| !b.set_for_test || b.put_back)
        .map(|b| match b.kind {
            BoundaryKind::Blind => format!("blind {} is not in ({})", b.tag, b.place),
            BoundaryKind::RemovedItem => format!("{} is not out ({})", b.tag, b.place),
        })
        .collect();
    let missing = (!open.is_empty()).then(|| format!("Not set for the test: {}.", open.join(", ")));
    let found = if facts.boundary.is_empty() { "Nothing is to be blinded or removed." } else { "Every blind is in, every item is out." };
    GateResult::new(&RULE, missing, found, "supervisor", "bound")
}
