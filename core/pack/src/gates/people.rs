//! GATE-PEOPLE: everyone who must sign is named, and may.

use super::{Facts, GateResult};
use crate::plan::RunKind;
use crate::signing::{Act, Form, acts};
use rules::rule::{Rule, Standing};
use terms::Term;

/// People.
pub const RULE: Rule = Rule {
    id: "GATE-PEOPLE",
    sentence: "Whoever performs, inspects, witnesses and accepts is named before the release, each a different person in a pack whose account is open and \
               whose part in the project lets them sign so.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "gate_permit_gate_people_a_pack_needs_a_permit_and_people",
};

pub(super) fn check(facts: &Facts) -> GateResult {
    let people = &facts.plan.people;
    let needed = acts(facts.form, facts.plan.signers);
    // on a quick test whoever signs after the tester may have no account, and is named by their signature
    let named = |a: &&Act| facts.form == Form::Pack || **a == Act::Performed;
    let empty: Vec<&str> = needed.iter().filter(named).filter(|a| a.person(people).is_empty()).map(|a| verb(*a)).collect();
    let mut names: Vec<&str> = needed.iter().map(|a| a.person(people)).filter(|n| !n.is_empty()).collect();
    names.sort_unstable();
    let twice = names.windows(2).find(|w| w[0] == w[1]).map(|w| w[0]);
    let mut missing = Vec::new();
    if !empty.is_empty() {
        missing.push(format!("Nobody is named who {}.", empty.join(", ")));
    }
    if let Some(name) = twice {
        missing.push(format!("{name} is named for more than one signature; each is a different person's."));
    }
    missing.extend(needed.iter().filter_map(|act| may_not(facts, *act)));
    GateResult::new(&RULE, (!missing.is_empty()).then(|| missing.join(" ")), "Everyone who signs is named.", "engineer", "ready")
}

/// Why the person who is named for an act could not sign it; none when they could, or nobody is named.
fn may_not(facts: &Facts, act: Act) -> Option<String> {
    let name = Some(act.person(&facts.plan.people)).filter(|n| !n.is_empty())?;
    let role = facts.members.iter().find(|m| m.person == name).map(|m| m.role);
    match role {
        None => Some(format!("{name}, named as the one who {}, has no open account in this project: name somebody who has.", verb(act))),
        // a quick test is signed by whoever did it, practice by nobody
        Some(role) if facts.form == Form::Pack && facts.plan.run != RunKind::Practice && role != act.role() => Some(format!(
            "{name}, named as the one who {}, is {} in this project: it takes the {}.",
            verb(act),
            role.words(),
            act.role().words()
        )),
        Some(_) => None,
    }
}

fn verb(act: Act) -> &'static str {
    match act {
        Act::Performed => "performs",
        Act::Inspected => "inspects",
        Act::Witnessed => "witnesses",
        Act::Accepted => "accepts",
    }
}
