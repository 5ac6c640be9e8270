//! BOUND-CLOSURE: what closes an end is rated or thick enough for this pressure.

use super::Found;
use crate::survey::Survey;
use rules::part::PartKind;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-CLOSURE",
    sentence: "A blind, cap or plug has a rating, or a thickness by which it is calculated, that bears the test pressure at its height.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_closure_a_blind_of_which_nothing_is_known_or_that_is_too_weak_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (i, part) in s.pressed_parts().filter(|(_, p)| p.kind == PartKind::Blind) {
        let calculated = part.wall_m.is_some() && part.sealing_diameter_m.is_some() && part.material.is_some();
        let rated = part.test_limit_pa.or(part.rating_pa).is_some() || part.flange_class.is_some() || part.pn.is_some();
        if !calculated && !rated {
            let sentence = format!("{} has no rating and no thickness: nobody knows what it bears.", part.tag);
            found.of_part(
                s,
                i,
                sentence,
                "Give its rating, or its thickness, the diameter of its gasket and its material; or put in one that is known.".to_owned(),
            );
            continue;
        }
        let bears = s.limits.get(part.tag.as_str()).copied();
        if let (Some(bears), Some(sees)) = (bears, s.pressure_at(part.elevation_m))
            && sees > bears
        {
            let say = s.say();
            let sentence = format!("{} bears {} and would see {}.", part.tag, say.down(bears), say.up(sees));
            found.of_part(
                s,
                i,
                sentence,
                "Put in a thicker or a better rated one, or lower the test pressure as the basis allows.".to_owned(),
            );
        }
    }
}
