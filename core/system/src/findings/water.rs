//! BOUND-WATER: the water may touch what it fills.

use super::{Found, listed};
use crate::survey::Survey;
use rules::part::Part;
use rules::rule::{Rule, Standing};

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-WATER",
    sentence: "Water whose chlorides nobody measured, or with more than the project allows, does not touch austenitic steel: it cracks.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_water_chloride_that_nobody_measured_is_found_at_austenitic_steel",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    // how much the project allows; what it does not ask about is not asked here
    let Some(most) = s.facts.system.specification.answer("chloride").ppm else { return };
    if s.gas() || s.facts.system.site.chloride_ppm.is_some_and(|c| c <= most) || s.facts.system.liquid.is_some() {
        return;
    }
    let Ok(library) = s.facts.system.library() else { return };
    let austenitic = |p: &Part| p.material.as_deref().and_then(|m| library.material(m).ok()).is_some_and(|m| m.austenitic());
    let parts: Vec<usize> = s.pressed_parts().filter(|(_, p)| austenitic(p)).map(|(i, _)| i).collect();
    let Some(first) = parts.first() else { return };
    let tags: Vec<&str> = parts.iter().map(|i| s.parts[*i].tag.as_str()).collect();
    let water = match s.facts.system.site.chloride_ppm {
        Some(c) => format!("the water has {c:.0} ppm of chloride"),
        None => "nobody has measured the chloride of the water".to_owned(),
    };
    found.of_part(
        s,
        *first,
        format!("{} {} of austenitic steel, and {water}.", listed(&tags), if tags.len() == 1 { "is" } else { "are" }),
        format!("Fill it with water of no more than {most:.0} ppm, and give the figure of its certificate on Derive."),
    );
}
