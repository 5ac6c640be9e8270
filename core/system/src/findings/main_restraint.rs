//! BOUND-MAIN-RESTRAINT: bends, tees and dead ends of a main are held.

use super::Found;
use crate::survey::Survey;
use rules::basis::entry::Duty;
use rules::part::PartKind;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-MAIN-RESTRAINT",
    sentence: "A bend, tee or dead end of a main with push-on joints is held by a block or by restrained joints: nothing else takes its thrust.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_main_restraint_a_bend_of_a_main_that_nothing_holds_is_found",
};

/// True where the thrust of the pressure is left over.
const fn thrusts(part: PartKind) -> bool {
    matches!(part, PartKind::Bend | PartKind::Tee | PartKind::Blind | PartKind::ClosedValve | PartKind::Hydrant | PartKind::Reducer)
}

pub(super) fn check(s: &Survey, found: &mut Found) {
    let buried = match s.duty() {
        Some(Duty::Main) => true,
        Some(Duty::Fire) => s.facts.system.basis.id == "fire_underground",
        _ => false,
    };
    if !buried {
        return;
    }
    for (i, part) in s.pressed_parts().filter(|(_, p)| thrusts(p.kind)) {
        if part.restraint_n.is_none() && !part.none.contains_key("restraint_n") {
            found.of_part(
                s,
                i,
                format!("Nobody has said what holds {} ({}) against the thrust of the pressure.", part.tag, part.kind.word()),
                "Give the thrust that its block or its restrained joints are designed for, or write none in its restraint where the main is welded or flanged all through.".to_owned(),
            );
        }
    }
}
