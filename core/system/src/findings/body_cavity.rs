//! BOUND-CAVITY: the body of a ball or plug valve sees the pressure, and drains.

use super::Found;
use crate::survey::Survey;
use rules::part::{Part, PartKind, Position, ValveType};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-CAVITY",
    sentence: "A ball or plug valve in the test stands half open, so that its body sees the pressure, or its body is drained; shut or full open it keeps an untested cavity, and water that freezes.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_cavity_a_ball_valve_that_is_not_half_open_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    let cavity = |p: &Part| p.kind == PartKind::Valve && matches!(p.valve, Some(ValveType::Ball | ValveType::Plug));
    for (i, part) in s.pressed_parts().filter(|(_, p)| cavity(p)) {
        if !(s.stands(part, Position::HalfOpen) || s.stands(part, Position::Drained) || s.stands(part, Position::Out)) {
            found.of_part(
                s,
                i,
                format!(
                    "{} is a {}: unless it stands half open, its body does not see the pressure and keeps water.",
                    part.tag,
                    crate::lineup::what(part)
                ),
                "Set it half open and say so in its position (half open), or drain its body and say so (drained).".to_owned(),
            );
        }
    }
}
