//! BOUND-SHUT: a shut valve as the boundary is within its seat, tagged, and watched from its far side.

use super::Found;
use crate::survey::Survey;
use rules::part::PartKind;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-SHUT",
    sentence: "A shut valve is the boundary only within the limit of its seat, tagged shut, its far side open to the air and watched: a seat that passes looks like a leak, and presses what lies behind it.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_shut_a_shut_valve_as_the_boundary_wants_its_seat_and_a_signature",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (i, part) in s.parts.iter().enumerate().filter(|(_, p)| p.kind == PartKind::ClosedValve && !p.beyond()) {
        let Some(place) = s.test.places[i] else { continue };
        // open to both sides of its seat it is no boundary
        if s.pressed[place.from] == s.pressed[place.to] {
            continue;
        }
        if part.rating_pa.or(part.test_limit_pa).is_none() && part.seat.is_none() {
            let sentence = format!("{}, a {}, is the boundary, and nothing says what its seat bears.", part.tag, crate::lineup::what(part));
            found.of_part(s, i, sentence, "Read the rating of the seat from its plate, or put a blind in its place.".to_owned());
        }
        if !s.facts.signed.shut.contains(&part.tag) {
            let sentence = format!(
                "{} is the boundary: nobody has signed that it is shut and tagged, and that its far side is open and watched.",
                part.tag
            );
            found.of_part(
                s,
                i,
                sentence,
                "Shut and tag it, open the far side to the air, put somebody there, and sign it on the line-up.".to_owned(),
            );
        }
    }
}
