//! BOUND-HEIGHTS: heights meet where parts meet.

use super::{Found, listed};
use crate::survey::Survey;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-HEIGHTS",
    sentence: "Where two parts meet, their heights agree; where they do not, nobody has measured how the line gets from one to the other, and nothing is said of air and water there.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "bound_heights_a_step_that_nobody_measured_is_found_and_no_pocket_is_told_there",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    for step in s.fill.steps.iter().filter(|_| !s.gas() && !s.facts.simple) {
        let r = s.fill.network.runs[step.run];
        if !(s.pressed[r.from] || s.pressed[r.to]) {
            continue;
        }
        let tags: Vec<&str> = step.parts.iter().map(String::as_str).collect();
        let say = s.say();
        found.at(
            r.to,
            format!(
                "Heights are missing between {}: one ends at {}, the next begins at {}. Whether air or water stays there, nobody can say.",
                listed(&tags),
                say.height(step.low),
                say.height(step.high)
            ),
            "Give both heights of the part that rises or falls (height and to height), or add the riser as a row.".to_owned(),
        );
    }
}
