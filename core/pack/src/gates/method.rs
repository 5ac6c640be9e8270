//! GATE-METHOD: an alternative to the plain liquid test with its reason, conditions and approvals.

use super::{Facts, GateResult};
use rules::rule::{Rule, Standing};

/// An alternative to the plain liquid test with its reason, conditions and approvals.
pub const RULE: Rule = Rule {
    id: "GATE-METHOD",
    sentence: "An alternative to the plain liquid test is released only with its reason, its conditions confirmed and its approvals named.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_method_an_alternative_stops_until_it_is_answered",
};

/// Absent for a plain liquid test.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    let method = rules::method::standing(&facts.plan.basis, &facts.plan.method);
    if method.rank == 1 {
        return None;
    }
    let missing = (!method.open.is_empty()).then(|| method.open.join(" "));
    Some(GateResult::new(&RULE, missing, "The alternative has its reason and its approvals.", "engineer", "prove"))
}
