//! GATE-MEDIUM: a gas test is not run by this version.

use super::{Facts, GateResult};
use rules::rule::{Rule, Standing};

/// Medium.
pub const RULE: Rule = Rule {
    id: "GATE-MEDIUM",
    sentence: "A gas test is derived but not released: this version neither leads through a gas raise nor judges a gas hold.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "a_gas_test_is_derived_but_not_released",
};

/// Absent for a test with liquid.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    let gas = facts.plan.basis.medium.gas()?;
    let why = format!(
        "A test with {} is derived here, not run: its first stop, its raise in small steps and its hold are not led and not judged by this version. Use the figures on paper under a procedure of your own, or test with water.",
        gas.word()
    );
    Some(GateResult::new(&RULE, Some(why), "", "engineer", "prove"))
}
