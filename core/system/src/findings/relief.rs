//! BOUND-RELIEF: nothing shuts the relief valve of the test off.

use super::{Found, listed};
use crate::network::Way;
use crate::pressure::one_with;
use crate::survey::Survey;
use rules::part::{PartKind, Phase, Position};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-RELIEF",
    sentence: "The relief valve of the test is open to all that is under pressure, with no valve between that somebody could shut; one that must be there is locked open.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_relief_a_valve_that_can_shut_it_off_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    if s.facts.simple {
        return;
    }
    let points = s.test.open_points_of(&s.parts, PartKind::ReliefPoint, Phase::Test);
    if points.is_empty() {
        found.of_all(
            "Nobody has said where the relief valve of the test is connected.".to_owned(),
            "Add a row of the kind relief connection at its place.".to_owned(),
        );
        return;
    }
    let mut network = s.test.network.clone();
    let mut valves = Vec::new();
    for (part, place) in s.parts.iter().zip(&s.test.places) {
        let locked = s.stands(part, Position::LockedOpen) || s.stands(part, Position::Out);
        let Some(run) = place.and_then(|p| p.run).filter(|_| part.kind.valve() && !locked) else { continue };
        if network.runs[run].way != Way::Shut {
            network.runs[run].way = Way::Shut;
            network.runs[run].volume = quantity::Volume::from_m3(0.0);
            valves.push((part, run));
        }
    }
    let reach = one_with(&network, &points);
    if s.sources.iter().any(|p| reach[*p]) {
        return;
    }
    let beside = |run: usize| reach[network.runs[run].from] != reach[network.runs[run].to];
    let tags: Vec<&str> = valves.iter().filter(|(_, run)| beside(*run)).map(|(p, _)| p.tag.as_str()).collect();
    for point in points {
        let sentence = if tags.is_empty() {
            format!("The relief valve at {} is not joined to where the pressure comes from.", s.place(point))
        } else {
            format!("{} can shut the relief valve at {} off from the pump.", listed(&tags), s.place(point))
        };
        found.at(
            point,
            sentence,
            "Connect it on the pump's side with nothing between, or lock the valve open and say so in its position (locked open)."
                .to_owned(),
        );
    }
}
