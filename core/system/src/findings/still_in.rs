//! BOUND-STILL-IN: control and relief valves, orifice plates, instruments and strainer elements are out.

use super::Found;
use crate::survey::Survey;
use rules::part::{Part, PartKind, Position, ValveType};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-STILL-IN",
    sentence: "Control valves, relief valves, orifice plates, spray nozzles, instruments and strainer elements are out for the test, a spool, a plug or a cover in their place.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_still_in_what_must_come_out_is_found_until_it_is_out",
};

/// What is taken out of it, in words; none where it may stay.
fn comes_out(part: &Part) -> Option<&'static str> {
    match (part.kind, part.valve) {
        (PartKind::Valve | PartKind::ClosedValve, Some(ValveType::Control)) => Some("is a control valve that is still in"),
        (PartKind::Valve | PartKind::ClosedValve, Some(ValveType::Relief)) => Some("is a relief valve that is still in"),
        (PartKind::OrificePlate, _) => Some("is an orifice plate that is still in"),
        (PartKind::Instrument, _) => Some("is an instrument that is still in"),
        (PartKind::Strainer, _) => Some("still has its element in"),
        _ => None,
    }
}

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (i, part) in s.pressed_parts().filter(|(_, p)| !s.stands(p, Position::Out)) {
        if let Some(what) = comes_out(part) {
            found.of_part(
                s,
                i,
                format!("{} {what}: it could be harmed, or open, or catch what is flushed out.", part.tag),
                "Take it out, put a spool, a plug or a cover that is rated for the test in its place, and say so in its position (out)."
                    .to_owned(),
            );
        }
    }
}
