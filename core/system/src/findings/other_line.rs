//! BOUND-OTHER-LINE: parts of another design are tested with it only by decision.

use super::{Found, listed};
use crate::survey::Survey;
use rules::rule::{Rule, Standing};
use std::collections::BTreeMap;

/// The rule.
pub const RULE: Rule = Rule {
    id: "BOUND-OTHER-LINE",
    sentence: "Lines of one test share material, design and what is in them; where a part has another design pressure than the rest, somebody decides that they are tested together.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "bound_other_line_another_design_pressure_is_found",
};

pub(super) fn check(s: &Survey, found: &mut Found) {
    let system = s.facts.system.basis.design_pressure_pa;
    let mut others: BTreeMap<i64, Vec<usize>> = BTreeMap::new();
    for (i, part) in s.pressed_parts() {
        if let Some(own) = part.design_pressure_pa.filter(|p| system.is_none_or(|s| (p.pa() - s.pa()).abs() > 1.0)) {
            others.entry(own.pa().round() as i64).or_default().push(i);
        }
    }
    if system.is_none() && others.len() < 2 {
        return;
    }
    for (pa, parts) in others {
        let Some(first) = parts.first() else { continue };
        let tags: Vec<&str> = parts.iter().map(|i| s.parts[*i].tag.as_str()).collect();
        let say = s.say();
        let rest = system.map_or_else(|| "the rest for another".to_owned(), |p| format!("the rest for {}", say.p(p)));
        found.of_part(
            s,
            *first,
            format!(
                "{} {} designed for {}, {rest}: another line's conditions are in this test.",
                listed(&tags),
                if tags.len() == 1 { "is" } else { "are" },
                say.p(quantity::GaugePressure::from_pa(pa as f64))
            ),
            "Put a boundary between them, or decide on Derive that they are tested together: the window then suits both.".to_owned(),
        );
    }
}
