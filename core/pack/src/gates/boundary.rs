//! GATE-BOUNDARY: every blind in, every item out.

use super::{Facts, GateResult};
use crate::registers::{BoundaryItem, BoundaryKind};
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
    let open: Vec<_> = facts.boundary.iter().filter(|b| !b.set_for_test || b.put_back).collect();
    let set = |b: &BoundaryItem| match b.kind {
        BoundaryKind::Plug => None,
        BoundaryKind::Blind => Some(format!("blind {} is not in ({})", b.tag, b.place)),
        BoundaryKind::RemovedItem => Some(format!("{} is not out ({})", b.tag, b.place)),
        BoundaryKind::ShutValve => Some(format!("{} is not shut, tagged and watched ({})", b.tag, b.place)),
        BoundaryKind::Restraint => Some(format!("{} is not set ({})", b.tag, b.place)),
        BoundaryKind::Exemption => Some(format!("{} stays covered and its exemption is not signed ({})", b.tag, b.place)),
    };
    let apart: Vec<String> = open.iter().filter_map(|b| set(b)).collect();
    let plugs: Vec<&str> = open.iter().filter(|b| b.kind == BoundaryKind::Plug).map(|b| b.tag.as_str()).collect();
    let not_set = (!apart.is_empty()).then(|| format!("Not set for the test: {}.", apart.join(", ")));
    let not_closed = (!plugs.is_empty()).then(|| format!("Not closed yet: {}.", plugs.join("; ")));
    let missing = (!open.is_empty()).then(|| not_set.into_iter().chain(not_closed).collect::<Vec<_>>().join(" "));
    let found = if facts.boundary.is_empty() { "Nothing is put in or taken out for the test." } else { "Everything is set for the test." };
    GateResult::new(&RULE, missing, found, "supervisor", "bound")
}
