//! BOUND-CHECK: a check valve lets the water in and the pressure through, and has a drain both sides.

use super::Found;
use crate::network::Way;
use crate::pressure::{one_with, reached};
use crate::survey::Survey;
use rules::part::{PartKind, ValveType};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-CHECK",
    sentence: "A check valve is held open or has its flapper out, or it is filled and pressed from upstream with a drain on both sides.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_check_a_check_valve_against_the_filling_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    let (fills, drains) = (levels_reach(s), drained(s));
    for (i, part) in
        s.parts.iter().enumerate().filter(|(_, p)| p.valve == Some(ValveType::Check) && p.kind == PartKind::Valve && !p.beyond())
    {
        let Some(place) = s.test.places[i] else { continue };
        let Some(run) = place.run.filter(|r| s.test.network.runs[*r].way == Way::Onward) else { continue };
        let (before, behind) = (s.test.network.runs[run].from, place.to);
        let wrong_way = |reach: &[bool]| reach[behind] && !reach[place.from];
        if wrong_way(&fills) || wrong_way(&s.pressed) {
            let sentence =
                format!("{} is filled and pressed against its flow: what lies before it gets neither water nor pressure.", part.tag);
            found.of_part(
                s,
                i,
                sentence,
                "Hold its flapper open or take it out and say so in its position (held open), or fill and press from the other side."
                    .to_owned(),
            );
        } else if s.pressed[before] && s.pressed[behind] && !(drains[place.from] && drains[behind]) && !s.one[behind] {
            let sentence = format!("{} keeps what lies behind it under pressure, and there is not a drain on both sides.", part.tag);
            found.of_part(
                s,
                i,
                sentence,
                "Put a drain on both sides, or hold its flapper open and say so in its position (held open).".to_owned(),
            );
        }
    }
}

fn levels_reach(s: &Survey) -> Vec<bool> {
    reached(&s.fill.network, &s.fills)
}

/// Points from which water can be let off without passing the valve backwards.
fn drained(s: &Survey) -> Vec<bool> {
    one_with(&s.test.network, &[s.drains.clone(), s.test.open_points_of(&s.parts, PartKind::Drain, rules::part::Phase::Test)].concat())
}
