//! GATE-PEOPLE: everyone who must sign is named.

use super::{Facts, GateResult};
use crate::signing::{Act, acts};
use rules::rule::{Rule, Standing};

/// People.
pub const RULE: Rule = Rule {
    id: "GATE-PEOPLE",
    sentence: "Whoever performs, inspects, witnesses and accepts is named before the release, each a different person in a pack.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_permit_gate_people_a_pack_needs_a_permit_and_people",
};

pub(super) fn check(facts: &Facts) -> GateResult {
    let people = &facts.plan.people;
    let needed = acts(facts.form);
    let empty: Vec<&str> = needed.iter().filter(|a| a.person(people).is_empty()).map(|a| verb(*a)).collect();
    let mut names: Vec<&str> = needed.iter().map(|a| a.person(people)).filter(|n| !n.is_empty()).collect();
    names.sort_unstable();
    let twice = names.windows(2).find(|w| w[0] == w[1]).map(|w| w[0]);
    let missing = match (empty.is_empty(), twice) {
        (false, _) => Some(format!("Nobody is named who {}.", empty.join(", "))),
        (true, Some(name)) => Some(format!("{name} is named for more than one signature; each is a different person's.")),
        (true, None) => None,
    };
    GateResult::new(&RULE, missing, "Everyone who signs is named.", "engineer", "ready")
}

fn verb(act: Act) -> &'static str {
    match act {
        Act::Performed => "performs",
        Act::Inspected => "inspects",
        Act::Witnessed => "witnesses",
        Act::Accepted => "accepts",
    }
}
