//! BOUND-END: every end of the line is closed by something.

use super::Found;
use crate::survey::Survey;
use rules::part::PartKind;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-END",
    sentence: "Every end of what is tested is closed: by a blind, a shut valve, a vessel, or by what is connected there.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_end_an_end_that_nothing_closes_is_found",
};

/// True for what closes the end at which it stands: a body that has no other opening, or a shut one.
const fn closed_body(kind: PartKind) -> bool {
    matches!(
        kind,
        PartKind::Vessel | PartKind::Exchanger | PartKind::Machine | PartKind::Boiler | PartKind::Hydrant | PartKind::ClosedValve
    )
}

pub(super) fn check(s: &Survey, found: &mut Found) {
    for (point, at) in s.at.iter().enumerate().filter(|(p, _)| s.pressed[*p]) {
        let mut runs = at.iter().copied().filter(|i| s.test.places[*i].is_some_and(|p| p.run.is_some() && p.from != p.to));
        let (Some(last), None) = (runs.next(), runs.next()) else { continue };
        let part = &s.parts[last];
        let sits = at.iter().any(|i| s.test.places[*i].is_some_and(|p| p.run.is_none()) && closes(s.parts[*i].kind));
        let goes_on =
            s.test.steps.iter().any(|step| [s.test.network.runs[step.run].from, s.test.network.runs[step.run].to].contains(&point));
        if sits || goes_on || closed_body(part.kind) || s.facts.simple {
            continue;
        }
        found.of_part(
            s,
            last,
            format!(
                "Nothing closes {}: the pressure would be open to the air there, or nobody has said what is joined there.",
                s.place(point)
            ),
            format!("List the blind, cap, plug or closed valve that closes it, or the part that {} goes on to.", part.tag),
        );
    }
}

/// True for what closes a point by sitting there. A vent or a drain is a valve; a pump or a gauge is connected by one.
const fn closes(kind: PartKind) -> bool {
    matches!(kind, PartKind::Blind | PartKind::Vent | PartKind::Drain | PartKind::Instrument) || kind.connection()
}
