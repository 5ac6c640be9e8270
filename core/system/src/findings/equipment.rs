//! BOUND-EQUIPMENT: equipment sees no pressure that nobody decided about.

use super::Found;
use crate::network::Way;
use crate::survey::Survey;
use rules::basis::entry::Duty;
use rules::part::Position;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-EQUIPMENT",
    sentence: "Equipment is not tested with the line unless somebody says so and gives its own figure; what stands beyond the boundary sees no pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_equipment_that_sees_the_pressure_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    let piping = !matches!(s.duty(), None | Some(Duty::Vessel | Duty::Boiler));
    for (i, part) in s.parts.iter().enumerate().filter(|(i, _)| s.sees(*i)) {
        let open_side = s.test.places[i].is_some_and(|p| p.run.is_none_or(|r| s.test.network.runs[r].way != Way::Shut));
        if part.beyond() && open_side {
            let sentence = format!("{} stands beyond the test and sees the pressure: nothing that is shut lies between.", part.tag);
            found.of_part(
                s,
                i,
                sentence,
                format!("Put a blind or a spade before {}, or shut a valve that is rated for it and list it as a closed valve.", part.tag),
            );
        } else if piping && part.kind.vessel() && !part.beyond() && !s.stands(part, Position::InTest) && !s.facts.simple {
            let sentence =
                format!("{} ({}) is pressed with the line, and nobody has decided that it should be.", part.tag, part.kind.word());
            found.of_part(
                s,
                i,
                sentence,
                "Blind it off and say that it stands beyond the test; or say that it is in the test and give its own test pressure, with its maker's word.".to_owned(),
            );
        }
    }
}
