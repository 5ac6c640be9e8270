//! What is forgotten at the boundary. One rule a file; each is silent on the same system once it is cured.

mod bellows;
mod body_cavity;
mod check_valve;
mod closure;
mod covered;
mod end;
mod equipment;
mod fill_place;
mod gauge_place;
mod hanger;
mod heights;
mod high_point;
mod low_point;
mod main_restraint;
mod main_stretch;
mod not_pressed;
mod one_system;
mod other_line;
mod relief;
mod shut_valve;
mod still_in;
mod support;
mod vacuum;
mod water;

use crate::survey::Survey;
use rules::rule::{Rule, Standing};
use serde::Serialize;

/// Something that is open at the boundary.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
#[schema(as = BoundaryFinding)]
pub struct Finding {
    /// Id of the rule.
    pub rule: &'static str,
    /// Tag of the part that it is about, or of the first; empty where it is about a place.
    pub part: String,
    /// Points of the sketch that it points to.
    pub points: Vec<usize>,
    /// What, and why.
    pub sentence: String,
    /// What to do.
    pub cure: String,
    /// Clause, where it has one.
    pub clause: &'static str,
    /// How far to trust the rule.
    pub standing: Standing,
}

/// Collects findings while the rules look.
pub(crate) struct Found<'a> {
    rule: &'static Rule,
    all: &'a mut Vec<Finding>,
}

impl Found<'_> {
    /// About a part at its place.
    pub(crate) fn of_part(&mut self, s: &Survey, part: usize, sentence: String, cure: String) {
        let points = s.test.places[part].map_or_else(Vec::new, |p| if p.from == p.to { vec![p.from] } else { vec![p.from, p.to] });
        self.push(s.parts[part].tag.clone(), points, sentence, cure);
    }

    /// About a place.
    pub(crate) fn at(&mut self, point: usize, sentence: String, cure: String) {
        self.push(String::new(), vec![point], sentence, cure);
    }

    /// About the system.
    pub(crate) fn of_all(&mut self, sentence: String, cure: String) {
        self.push(String::new(), vec![], sentence, cure);
    }

    fn push(&mut self, part: String, points: Vec<usize>, sentence: String, cure: String) {
        let (rule, clause, standing) = (self.rule.id, self.rule.clause, self.rule.standing);
        self.all.push(Finding { rule, part, points, sentence, cure, clause, standing });
    }
}

/// "V-1", "V-1 and V-2", "V-1, V-2 and 3 more".
pub(crate) fn listed(tags: &[&str]) -> String {
    match tags {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [a, b] => format!("{a} and {b}"),
        [a, b, c] => format!("{a}, {b} and {c}"),
        [a, b, rest @ ..] => format!("{a}, {b} and {} more", rest.len()),
    }
}

/// What a rule looks for.
type Check = fn(&Survey, &mut Found);

/// Every rule with what it looks for, in the order in which its findings are told: what could hurt first.
const CHECKS: [(&Rule, Check); 24] = [
    (&end::RULE, end::check),
    (&closure::RULE, closure::check),
    (&shut_valve::RULE, shut_valve::check),
    (&relief::RULE, relief::check),
    (&equipment::RULE, equipment::check),
    (&one_system::RULE, one_system::check),
    (&bellows::RULE, bellows::check),
    (&main_restraint::RULE, main_restraint::check),
    (&support::RULE, support::check),
    (&hanger::RULE, hanger::check),
    (&check_valve::RULE, check_valve::check),
    (&not_pressed::RULE, not_pressed::check),
    (&body_cavity::RULE, body_cavity::check),
    (&still_in::RULE, still_in::check),
    (&heights::RULE, heights::check),
    (&high_point::RULE, high_point::check),
    (&low_point::RULE, low_point::check),
    (&fill_place::RULE, fill_place::check),
    (&gauge_place::RULE, gauge_place::check),
    (&vacuum::RULE, vacuum::check),
    (&other_line::RULE, other_line::check),
    (&main_stretch::RULE, main_stretch::check),
    (&covered::RULE, covered::check),
    (&water::RULE, water::check),
];

/// Every rule, in that order.
pub fn rules() -> Vec<&'static Rule> {
    CHECKS.iter().map(|(rule, _)| *rule).collect()
}

/// Everything that is open.
pub fn findings(s: &Survey) -> Vec<Finding> {
    let mut all = Vec::new();
    for (rule, check) in CHECKS {
        check(s, &mut Found { rule, all: &mut all });
    }
    all
}
