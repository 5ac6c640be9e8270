//! GATE-PUNCH-A: no open A item.

use super::{Facts, GateResult};
use crate::registers::PunchCategory;
use rules::rule::{Rule, Standing};

/// Punch.
pub const RULE: Rule = Rule {
    id: "GATE-PUNCH-A",
    sentence: "An open A item of the punch list stops pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_punch_a_an_open_a_item_stops_the_release_and_names_who_clears_it",
};

pub(super) fn check(facts: &Facts) -> GateResult {
    let open: Vec<_> = facts.punch.iter().filter(|p| p.category == PunchCategory::A && !p.cleared).collect();
    let who = open.first().map_or("supervisor", |p| p.owner.as_str());
    let missing = (!open.is_empty()).then(|| {
        let list: Vec<String> = open.iter().map(|p| format!("punch {} ({}; {} clears it)", p.number, p.text, p.owner)).collect();
        format!("Open: {}.", list.join(", "))
    });
    GateResult::new(&RULE, missing, "No open A item.", who, "ready")
}
