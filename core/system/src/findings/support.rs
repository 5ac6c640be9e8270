//! BOUND-SUPPORT: supports bear the line full of water.

use super::Found;
use crate::survey::Survey;
use rules::part::{PartKind, Position};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-SUPPORT",
    sentence: "Each support of a line that is filled with water is said to bear its weight full; a line for gas was hung for less.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_bellows_bound_hanger_bound_support_bound_covered_want_a_word",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (i, part) in s.parts.iter().enumerate().filter(|(_, p)| p.kind == PartKind::Support && !s.gas()) {
        if !s.stands(part, Position::BearsWater) {
            found.of_part(
                s,
                i,
                format!("Nobody has said that {} bears the line full of water.", part.tag),
                "Ask who designed it, prop it where it does not, and say so in its position (bears water).".to_owned(),
            );
        }
    }
}
