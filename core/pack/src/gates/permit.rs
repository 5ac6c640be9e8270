//! GATE-PERMIT: a permit to work with its number.

use super::{Facts, GateResult};
use rules::rule::{Rule, Standing};

/// Permit.
pub const RULE: Rule = Rule {
    id: "GATE-PERMIT",
    sentence: "A pack is released only under a permit to work, with its number.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_permit_gate_people_a_pack_needs_a_permit_and_people",
};

pub(super) fn check(facts: &Facts) -> GateResult {
    let number = facts.plan.permit_number.trim();
    let missing =
        number.is_empty().then(|| "No permit number: the supervisor gets the permit from its issuer and enters its number.".to_owned());
    GateResult::new(&RULE, missing, &format!("Permit {number}."), "supervisor", "ready")
}
