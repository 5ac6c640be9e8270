//! BOUND-VACUUM: no thin wall collapses while it drains with its vents shut.

use super::Found;
use crate::emptying::collapses;
use crate::survey::Survey;
use quantity::PressureDifference;
use rules::part::{PartKind, Phase};
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-VACUUM",
    sentence: "A wall that the weight of the draining column would collapse has an open vent above it before the drain is opened.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "bound_vacuum_a_thin_duct_that_drains_without_a_vent_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    if s.gas() || s.facts.simple || !s.drain.open_points_of(&s.parts, PartKind::Vent, Phase::Drain).is_empty() {
        return;
    }
    for c in collapses(s) {
        let say = s.say();
        let Some(i) = s.parts.iter().position(|p| p.tag == c.part) else { continue };
        let p = |pa| say.change(PressureDifference::from_pa(pa));
        found.of_part(
            s,
            i,
            format!(
                "{} could collapse while it drains: no vent is open then, the column pulls {}, and its wall bears {} if perfectly round.",
                c.part,
                p(c.pulled_pa),
                p(c.bears_pa)
            ),
            "Open a vent at the top before the drain, and prove it open.".to_owned(),
        );
    }
}
