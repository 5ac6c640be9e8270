//! GATE-DECIDED: what an attempt before showed was decided about, and what was decided is done.

use super::{Facts, GateResult};
use crate::plan::RunKind;
use crate::registers::{Decision, LookAt, LookFound, Remedy};
use rules::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use terms::{LeakPlace, Term};

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

/// A leak that was booked in an attempt, by the name under which it is decided about.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Leaked {
    /// Number of the attempt.
    pub attempt: u32,
    /// As the place is called on the list, or as it was written down.
    pub what: String,
    /// Where there; empty where nobody wrote more.
    pub place: String,
}

/// Longest name under which something is decided about.
const MOST: usize = 64;

impl Leaked {
    /// From what was booked: class and note. A note that begins with a place of the list is about that place.
    pub fn of(attempt: u32, class: LeakPlace, note: &str, looks: &[LookAt]) -> Self {
        let note = note.trim();
        let listed = note.split_once(": ").filter(|(what, _)| looks.iter().any(|l| l.what == *what));
        let (what, place) = listed.unwrap_or(if note.is_empty() { (class.words(), "") } else { (note, class.words()) });
        Self { attempt, what: what.chars().take(MOST).collect(), place: place.to_owned() }
    }
}

/// What leaked, and nobody has decided about: each place once, by its last leak.
pub fn undecided(leaks: &[Leaked], looks: &[LookAt], decisions: &[Decision]) -> Vec<Leaked> {
    let of_list = looks.iter().filter(|l| l.found == LookFound::Leaks);
    let of_list = of_list.map(|l| Leaked { attempt: l.attempt, what: l.what.clone(), place: l.place.clone() });
    let mut last: BTreeMap<String, Leaked> = BTreeMap::new();
    for leak in leaks.iter().cloned().chain(of_list) {
        let newer = last.get(&leak.what).is_none_or(|there| there.attempt < leak.attempt);
        if newer {
            last.insert(leak.what.clone(), leak);
        }
    }
    last.into_values().filter(|l| !decisions.iter().any(|d| d.what == l.what && d.attempt >= l.attempt)).collect()
}

/// Absent where nothing leaked and nothing was decided.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    // practice is begun again as often as somebody likes
    if facts.plan.run == RunKind::Practice {
        return None;
    }
    let decisions = facts.decisions;
    let waiting = undecided(facts.leaks, facts.looks, decisions);
    if decisions.is_empty() && waiting.is_empty() {
        return None;
    }
    let where_ = |l: &Leaked| if l.place.is_empty() { String::new() } else { format!(" ({})", l.place) };
    let mut open: Vec<String> = waiting
        .iter()
        .map(|l| {
            format!(
                "Leak in attempt {}: {}{}. Write what is decided about it: repair, test again as it is, derate or scrap.",
                l.attempt,
                l.what,
                where_(l)
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
