//! GATE-FOLLOWS: nothing that follows from the pressure stands against it.

use super::{Facts, GateResult};
use rules::rule::{Rule, Standing};

/// Nothing that follows from the pressure stands against it.
pub const RULE: Rule = Rule {
    id: "GATE-FOLLOWS",
    sentence: "Pump, blinds, restraints, relief capacity, low gas test, metal temperature and breathing air suit the planned pressure.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "a_pump_that_is_too_large_stops_the_release",
};

/// Absent while nothing can be derived.
pub(super) fn check(facts: &Facts) -> Option<GateResult> {
    let derived = facts.derived.as_ref().ok()?;
    derived.day.as_ref()?;
    let stops: Vec<&str> = derived.lines.iter().filter(|l| l.stops).filter_map(|l| l.trouble.as_deref()).collect();
    let missing = (!stops.is_empty()).then(|| stops.join(" "));
    Some(GateResult::new(&RULE, missing, "What follows from the pressure suits it.", "engineer", "derive"))
}
