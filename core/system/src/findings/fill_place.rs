//! BOUND-FILL: it is filled from its lowest point.

use super::Found;
use crate::survey::Survey;
use quantity::Length;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-FILL",
    sentence: "Water is let in at the lowest point, so that it drives the air before it.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_fill_water_that_falls_on_its_way_in_is_found",
};

/// Lower than this below the fill nothing is said, m: a pipe's own bore.
const NEARLY: f64 = 0.3;

pub(super) fn check(s: &Survey, found: &mut Found) {
    if s.gas() || s.facts.simple {
        return;
    }
    if !s.fill_named {
        found.of_all("Nobody has said where the water comes in.".to_owned(), "Add a row of the kind fill, at the lowest point.".to_owned());
        return;
    }
    let z = |p: usize| s.height(p).m();
    let Some(fill) = s.fills.iter().copied().min_by(|a, b| z(*a).total_cmp(&z(*b))) else { return };
    let lowest = (0..s.pressed.len()).filter(|p| s.pressed[*p]).min_by(|a, b| z(*a).total_cmp(&z(*b)));
    if let Some(low) = lowest.filter(|p| z(*p) < z(fill) - NEARLY) {
        let say = s.say();
        found.at(
            fill,
            format!(
                "It is filled at {}, and {} lies {} lower: water falls through the air on its way down and carries it along.",
                s.place(fill),
                s.place(low),
                say.length(Length::from_m(((z(fill) - z(low)) * 100.0).round() / 100.0))
            ),
            format!("Fill it at {}.", s.place(low)),
        );
    }
}
