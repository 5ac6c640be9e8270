//! GATE-WINDOW: there is a pressure that suits every part.

use super::{Facts, GateResult};
use rules::rule::{Rule, Standing};

/// The window.
pub const RULE: Rule = Rule {
    id: "GATE-WINDOW",
    sentence: "No test is released while no gauge reading suits every part.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "gate_window_an_empty_window_stops_the_release",
};

pub(super) fn check(facts: &Facts) -> GateResult {
    let missing = match facts.derived {
        Err(first) => {
            let all = if facts.refusals.is_empty() { std::slice::from_ref(first) } else { facts.refusals };
            Some(all.iter().map(|r| rules::say::sentence(&r.say(facts.say), r.part().is_some())).collect::<Vec<_>>().join(" "))
        }
        Ok(d) => d
            .conflict
            .as_ref()
            .map(|c| c.sentence.clone())
            .or_else(|| d.day.as_ref().and_then(|day| day.conflicts.iter().find(|c| c.about == "gauge").map(|c| c.sentence.clone()))),
    };
    GateResult::new(&RULE, missing, "Every part is between its marks.", "engineer", "derive")
}
