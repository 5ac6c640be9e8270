//! BOUND-HANGER: spring hangers are pinned.

use super::Found;
use crate::survey::Survey;
use rules::part::{PartKind, Position};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-HANGER",
    sentence: "A spring hanger is pinned while the line is full of water: its weight would pull it to its stop; the pin comes out after draining.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_bellows_bound_hanger_bound_support_bound_covered_want_a_word",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (i, part) in s.parts.iter().enumerate().filter(|(_, p)| p.kind == PartKind::SpringHanger && !s.gas()) {
        if !s.stands(part, Position::Pinned) {
            found.of_part(
                s,
                i,
                format!("{} is a spring hanger that nobody has pinned: the weight of the water would pull it to its stop.", part.tag),
                "Pin it before filling and say so in its position (pinned); take the pin out after draining.".to_owned(),
            );
        }
    }
}
