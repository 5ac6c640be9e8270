//! GATE-FOLLOWS: nothing that follows from the pressure stands against it.

use super::{Facts, GateResult};
use rules::rule::{Rule, Standing};

/// Nothing that follows from the pressure stands against it.
pub const RULE: Rule = Rule {
    id: "GATE-FOLLOWS",
    sentence: "Pump, blinds, restraints, relief capacity, low gas test, volumes and material under gas, water and metal, worn walls and breathing air suit the planned pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_follows_a_pump_that_is_too_large_stops_the_release",
};

/// One result for each step at which something is cleared; one that is ready where nothing is. None while nothing can be derived.
pub(super) fn check(facts: &Facts) -> Vec<GateResult> {
    let Ok(derived) = facts.derived else { return vec![] };
    // an empty window, and one that is too narrow for its gauge, have a gate of their own
    let own = [rules::window::UPPER.id, rules::plan::STOP_LINE.id];
    let against = derived.objections.iter().filter(|o| !own.contains(&o.rule.as_str()));
    let mut steps: Vec<(&str, Vec<&str>)> = Vec::new();
    for o in against {
        match steps.iter_mut().find(|(step, _)| *step == o.step) {
            Some((_, sentences)) => sentences.push(&o.sentence),
            None => steps.push((&o.step, vec![&o.sentence])),
        }
    }
    if steps.is_empty() {
        let ready = derived
            .day
            .is_some()
            .then(|| GateResult::new(&RULE, None, "Everything that follows from the pressure fits it.", "engineer", "derive"));
        return ready.into_iter().collect();
    }
    steps.into_iter().map(|(step, sentences)| GateResult::new(&RULE, Some(sentences.join(" ")), "", "engineer", step)).collect()
}
