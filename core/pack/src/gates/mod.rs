//! Gates: what stops the release, decided by data. One gate a file.

mod boundary;
mod decided;
mod follows;
mod gas;
mod history;
mod instruments;
mod method;
mod people;
mod permit;
mod punch;
mod relief;
mod window;

pub use decided::{Leaked, undecided};

use crate::instrument::{Instrument, IsoDate};
use crate::plan::Plan;
use crate::registers::{BoundaryItem, Decision, LookAt, Punch};
use crate::signing::Form;
use rules::rule::Rule;
use rules::system::{Derived, Refusal};
use serde::{Deserialize, Serialize};

/// Rules of the gates.
pub const RULES: &[&Rule] = &[
    &gas::RULE,
    &method::RULE,
    &history::RULE,
    &follows::RULE,
    &window::RULE,
    &relief::RULE,
    &instruments::DATE,
    &instruments::RANGE,
    &punch::RULE,
    &decided::RULE,
    &boundary::RULE,
    &permit::RULE,
    &people::RULE,
];

/// What a gate looks at.
#[derive(Debug)]
pub struct Facts<'a> {
    /// Size of the test.
    pub form: Form,
    /// The plan.
    pub plan: &'a Plan,
    /// What was derived, or why it was not.
    pub derived: &'a Result<Derived, Refusal>,
    /// Everything that keeps it from being derived; empty where it is.
    pub refusals: &'a [Refusal],
    /// How pressures are said.
    pub say: rules::say::Say,
    /// Gauge and thermometer, where they are known to the store.
    pub instruments: &'a [Instrument],
    /// Whoever has a part in the project.
    pub members: &'a [crate::people::Member],
    /// Punch items.
    pub punch: &'a [Punch],
    /// Boundary items.
    pub boundary: &'a [BoundaryItem],
    /// Places to look at, with what an attempt before found there.
    pub looks: &'a [LookAt],
    /// Leaks that were booked in attempts before.
    pub leaks: &'a [Leaked],
    /// What was decided after it.
    pub decisions: &'a [Decision],
    /// What the project lays down.
    pub specification: &'a rules::specification::Specification,
    /// The day of the test.
    pub today: &'a IsoDate,
}

/// What one gate says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GateResult {
    /// Id of the rule.
    pub rule: String,
    /// True when nothing is missing.
    pub ready: bool,
    /// What is missing and what to do; what was found when ready.
    pub sentence: String,
    /// Who clears it.
    pub who: String,
    /// Step of the spine where it is cleared.
    pub step: String,
}

impl GateResult {
    fn new(rule: &Rule, missing: Option<String>, found: &str, who: &str, step: &str) -> Self {
        Self {
            rule: rule.id.to_owned(),
            ready: missing.is_none(),
            sentence: missing.unwrap_or_else(|| found.to_owned()),
            who: who.to_owned(),
            step: step.to_owned(),
        }
    }
}

/// Every gate, in the order of the work.
pub fn all(facts: &Facts) -> Vec<GateResult> {
    let mut results: Vec<GateResult> = gas::check(facts).into_iter().collect();
    results.extend(method::check(facts));
    results.extend(history::check(facts));
    results.push(window::check(facts));
    results.extend(relief::check(facts));
    results.extend(follows::check(facts));
    results.extend(instruments::check(facts));
    results.push(punch::check(facts));
    results.extend(decided::check(facts));
    results.push(boundary::check(facts));
    if facts.form == Form::Pack {
        results.push(permit::check(facts));
    }
    results.push(people::check(facts));
    results
}

/// For what tests wait that a gate stops, by the rule of the gate.
const WAITS: [(&Rule, &str); 13] = [
    (&gas::RULE, "a regulated supply of gas and somebody in charge of it"),
    (&method::RULE, "reasons and approvals of another method"),
    (&history::RULE, "a look inside"),
    (&follows::RULE, "a pump, blinds, restraints or water that suit the pressure"),
    (&window::RULE, "a pressure that suits every part"),
    (&relief::RULE, "a relief setting that fits, or its approval"),
    (&instruments::DATE, "instruments that are in date"),
    (&instruments::RANGE, "a gauge of the right range"),
    (&punch::RULE, "A items to be cleared"),
    (&decided::RULE, "a decision about a leak, or the repair that was decided"),
    (&boundary::RULE, "blinds and removed items to be set"),
    (&permit::RULE, "a permit to work"),
    (&people::RULE, "people to be named"),
];

/// What so many tests wait for that a gate stops: "9 tests wait for a permit to work"; none for what is no gate.
pub fn waiting(rule: &str, tests: i64) -> Option<String> {
    let what = WAITS.iter().find(|w| w.0.id == rule)?.1;
    Some(if tests == 1 { format!("1 test waits for {what}") } else { format!("{tests} tests wait for {what}") })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_gate_says_for_what_tests_wait() {
        for rule in RULES {
            assert!(waiting(rule.id, 2).is_some_and(|s| s.starts_with("2 tests wait for ")), "{}", rule.id);
        }
        assert_eq!(waiting("GATE-PERMIT", 1).as_deref(), Some("1 test waits for a permit to work"));
        assert_eq!(waiting("release", 1), None);
    }
}
