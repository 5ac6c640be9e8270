//! GATE-HISTORY: plant whose history nobody knows was looked into.

use super::{Facts, GateResult};
use crate::plan::WhyNow;
use rules::rule::{Rule, Standing};

/// Plant whose history nobody knows was looked into.
pub const RULE: Rule = Rule {
    id: "GATE-HISTORY",
    sentence: "Plant whose history nobody knows is looked into before any pressure, and who looked and what was found is written down.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_history_unknown_history_needs_an_inside_look",
};

/// Absent where the history is known.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    if facts.plan.why_now != WhyNow::UnknownHistory {
        return None;
    }
    let missing = facts.plan.inside_look.trim().is_empty().then(|| {
        "Nobody looked inside yet: look, measure the wall at its thinnest places, and write down who looked and what was found.".to_owned()
    });
    Some(GateResult::new(&RULE, missing, "Looked into.", "engineer", "prove"))
}
