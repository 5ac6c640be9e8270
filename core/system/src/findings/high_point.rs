//! BOUND-HIGH: every pocket of air has a vent.

use super::Found;
use crate::survey::Survey;
use quantity::Volume;
use quantity::dimension::Dimension;
use rules::rule::{Rule, Standing};
use rules::system::AIR_FRACTION_LIMIT;

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-HIGH",
    sentence: "Every high point has an open vent while the line is filled: air that stays hides a leak and stores energy.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "bound_high_a_second_high_point_without_a_vent_is_found_with_its_litres",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    if s.gas() || s.facts.simple {
        return;
    }
    if s.vents.is_empty() {
        found.of_all(
            "No vent is listed: nobody can say where the air goes while it is filled.".to_owned(),
            "Add a row of the kind vent at each high point.".to_owned(),
        );
        return;
    }
    let say = s.say();
    for pocket in s.pockets() {
        let pressed = pocket.at_test_m3.map_or_else(String::new, |v| format!(" ({} at test pressure)", say.volume(Volume::from_m3(v))));
        let limit = if pocket.over_limit {
            format!(", more than the usual {}", say.amount(AIR_FRACTION_LIMIT, Dimension::Share))
        } else {
            String::new()
        };
        let sentence = format!(
            "Air stays at {}: {}{pressed}, {} of the system{limit}.",
            pocket.place,
            say.volume(Volume::from_m3(pocket.volume_m3)),
            say.amount(pocket.share, Dimension::Share)
        );
        found.at(pocket.point, sentence, pocket.cure.clone());
    }
}
