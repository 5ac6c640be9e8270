//! BOUND-BELLOWS: expansion joints are restrained or out.

use super::Found;
use crate::survey::Survey;
use rules::part::{PartKind, Position};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-BELLOWS",
    sentence: "An expansion joint under pressure is restrained against the thrust of its area, or taken out.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_bellows_bound_hanger_bound_support_bound_covered_want_a_word",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (i, part) in s.pressed_parts().filter(|(_, p)| p.kind == PartKind::Bellows) {
        let said = s.stands(part, Position::Restrained) || s.stands(part, Position::Out);
        if !said {
            found.of_part(s, i, format!("{} is an expansion joint under pressure, and nobody has said that it is restrained: the thrust of its area pulls it apart.", part.tag), "Restrain it and say so in its position (restrained), or take it out and put a spool in its place.".to_owned());
        }
    }
}
