//! BOUND-LOW: every low place drains.

use super::Found;
use crate::emptying::left;
use crate::survey::Survey;
use quantity::Volume;
use rules::part::{PartKind, Phase};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-LOW",
    sentence: "Every low place has a drain, and air comes to what drains: water that stays corrodes, freezes, and weighs on supports whose props are gone.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "bound_low_a_low_place_without_a_drain_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    if s.gas() || s.facts.simple {
        return;
    }
    if s.drains.is_empty() {
        found.of_all(
            "No drain is listed: nobody can say how the water gets out again.".to_owned(),
            "Add a row of the kind drain at each low point.".to_owned(),
        );
        return;
    }
    let any_vent = !s.drain.open_points_of(&s.parts, PartKind::Vent, Phase::Drain).is_empty();
    for left in left(s).into_iter().filter(|l| any_vent || !l.held_by_vacuum) {
        let volume = s.say().volume(Volume::from_m3(left.volume_m3));
        let why =
            if left.held_by_vacuum { "no air comes to it, and a vacuum holds it up" } else { "it lies lower than every way to a drain" };
        found.at(left.point, format!("{volume} of water stays at {}: {why}.", left.place), left.cure);
    }
}
