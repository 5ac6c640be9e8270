//! BOUND-COVERED: joints that stay covered have an exemption.

use super::Found;
use crate::survey::Survey;
use rules::part::Position;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-COVERED",
    sentence: "A joint that stays covered, painted or buried during the test has a written exemption: who welded and examined it, a longer hold, and who approved it.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_bellows_bound_hanger_bound_support_bound_covered_want_a_word",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (i, part) in s.pressed_parts().filter(|(_, p)| s.stands(p, Position::Covered)) {
        if !s.facts.signed.exempt.contains(&part.tag) {
            found.of_part(
                s,
                i,
                format!("{} stays covered: nobody can see it leak, and no exemption is signed.", part.tag),
                "Bare it; or sign its exemption on the line-up: welder and examination, the longer hold, and who approved it.".to_owned(),
            );
        }
    }
}
