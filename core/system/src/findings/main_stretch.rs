//! BOUND-MAIN-STRETCH: a stretch of main between valves is not longer than is usual.

use super::Found;
use crate::isolated::sections;
use crate::survey::Survey;
use quantity::Length;
use rules::basis::entry::Duty;
use rules::rule::{Rule, Standing};
use std::collections::BTreeMap;

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-MAIN-STRETCH",
    sentence: "A stretch of main that is tested at once between its valves is usually no longer than 500 m: a leak in a longer one is hard to see and harder to find.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_main_stretch_a_long_stretch_between_valves_is_found",
};

/// What is usual (common practice), m.
const USUAL: f64 = 500.0;

pub(super) fn check(s: &Survey, found: &mut Found) {
    if !matches!(s.duty(), Some(Duty::Main | Duty::Fire)) {
        return;
    }
    let long: BTreeMap<&str, f64> =
        s.parts.iter().map(|p| (p.tag.as_str(), p.length_m.filter(|_| p.kind.piping()).map_or(0.0, |l| l.m()))).collect();
    for section in sections(s) {
        let length: f64 = section.parts.iter().filter_map(|t| long.get(t.as_str())).sum();
        let Some(first) = section.parts.first().and_then(|t| s.parts.iter().position(|p| p.tag == *t)).filter(|_| length > USUAL) else {
            continue;
        };
        let say = s.say();
        found.of_part(
            s,
            first,
            format!("The stretch with {} is {} long between valves, more than the usual {}.", s.parts[first].tag, say.length(Length::from_m(length)), say.length(Length::from_m(USUAL))),
            "Test it in shorter stretches between valves or temporary ends, or plan for finding a leak in it (listening points, a longer hold).".to_owned(),
        );
    }
}
