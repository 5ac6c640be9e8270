//! GATE-RELIEF: a relief setting fits, or an alternative is approved by name.

use super::{Facts, GateResult};
use rules::rule::{Rule, Standing};

/// Relief.
pub const RULE: Rule = Rule {
    id: "GATE-RELIEF",
    sentence: "Where no relief setting fits under the upper bound, the test is released only with the alternative named and approved.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_relief_relief_that_fits_nowhere_needs_a_name",
};

/// Absent while the window is empty: there is no pressure to relieve.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    let day = facts.derived.as_ref().ok()?.day.as_ref()?;
    let conflict = day.conflicts.iter().find(|c| c.about == "relief");
    let approved = facts.plan.relief_alternative.trim();
    Some(match conflict {
        None => GateResult::new(&RULE, None, "A relief setting fits.", "engineer", "derive"),
        Some(_) if !approved.is_empty() => {
            GateResult::new(&RULE, None, &format!("No relief setting fits; approved instead: {approved}."), "engineer", "derive")
        }
        Some(c) => GateResult::new(&RULE, Some(c.sentence.clone()), "", "engineer", "ready"),
    })
}
