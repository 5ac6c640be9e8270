//! BOUND-BLEED: gauge, relief valve and bleed are open to everything that is under pressure.

use super::{Found, listed};
use crate::pressure::one_with;
use crate::survey::Survey;
use rules::part::{PartKind, Phase};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-BLEED",
    sentence: "Gauge and bleed are open, both ways, to all that is under pressure: what lies behind a check valve is neither read nor let off by them.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_bleed_what_the_gauge_does_not_read_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    if s.facts.simple {
        return;
    }
    let at = |kind| s.test.open_points_of(&s.parts, kind, Phase::Test);
    let sits = |kinds: &[PartKind]| -> Vec<usize> { kinds.iter().flat_map(|k| at(*k)).collect() };
    for (what, points, none) in [
        ("gauge", at(PartKind::GaugePoint), "Nobody has said where the gauge is connected."),
        (
            "bleed",
            sits(&[PartKind::Drain, PartKind::Vent, PartKind::PumpPoint]),
            "Nothing lets the pressure off: no vent, no drain and no pump connection is listed.",
        ),
    ] {
        if points.is_empty() {
            let kind = if what == "gauge" { "gauge connection" } else { "drain" };
            found.of_all(none.to_owned(), format!("Add a row of the kind {kind} at its place."));
            continue;
        }
        let reach = one_with(&s.test.network, &points);
        let apart: Vec<usize> =
            s.pressed_parts().map(|(i, _)| i).filter(|i| !s.test.places[*i].is_some_and(|p| reach[p.from] || reach[p.to])).collect();
        let Some(first) = apart.first() else { continue };
        let tags: Vec<&str> = apart.iter().map(|i| s.parts[*i].tag.as_str()).collect();
        let sentence = match what {
            "gauge" => format!("The gauge does not read {}: it is under pressure with no open way to the gauge.", listed(&tags)),
            _ => format!("Nothing lets the pressure of {} off: no vent, drain or pump is open to it.", listed(&tags)),
        };
        let cure = if what == "gauge" {
            "Hold the check valve open, or put a gauge there too."
        } else {
            "Put a vent or a drain there, or hold the check valve open."
        };
        found.of_part(s, *first, sentence, cure.to_owned());
    }
}
