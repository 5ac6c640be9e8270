//! GATE-DECIDED: what an attempt before showed was decided about, and what was decided is done.

use super::{Facts, GateResult};
use crate::registers::{LookFound, Remedy};
use rules::rule::{Rule, Standing};

/// What leaked is decided about before the next attempt.
pub const RULE: Rule = Rule {
    id: "GATE-DECIDED",
    sentence: "What leaked in an attempt is decided about before the next one: repaired, derated, tested again as it is, or scrapped; and a repair is done.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_decided_a_leak_is_decided_about_and_its_repair_done_before_the_next_attempt",
};

/// Absent where nothing leaked and nothing was decided.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    let decisions = facts.decisions;
    let leaks = || facts.looks.iter().filter(|l| l.found == LookFound::Leaks);
    if decisions.is_empty() && leaks().next().is_none() {
        return None;
    }
    let mut open: Vec<String> = leaks()
        .filter(|l| !decisions.iter().any(|d| d.what == l.what && d.attempt >= l.attempt))
        .map(|l| {
            format!(
                "{} leaked in attempt {} ({}): write what is decided about it: repair, test again as it is, derate or scrap.",
                l.what, l.attempt, l.place
            )
        })
        .collect();
    for d in decisions {
        match d.way {
            Remedy::Scrap => open.push(format!("{} is to be scrapped ({}): it is not tested again.", d.what, d.how)),
            Remedy::Repair if !d.done => open.push(format!("{} is not repaired yet: {}, until {}.", d.what, d.person, d.due)),
            Remedy::Derate if !d.done => {
                open.push(format!("{} is not derated yet: enter the lower pressure on Prove, then tick it here.", d.what));
            }
            Remedy::Repair | Remedy::Derate | Remedy::Retest => {}
        }
    }
    let missing = (!open.is_empty()).then(|| open.join(" "));
    Some(GateResult::new(&RULE, missing, "What leaked before is decided about, and done.", "engineer", "judge"))
}
