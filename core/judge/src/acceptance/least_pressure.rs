//! HOLD-LEAST: never below what the governing part must see.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Found, usable};
use crate::read;
use crate::words::Shown;
use quantity::PressureDifference;
use rules::accept::{allowed_fall, lowering};
use rules::rule::{Rule, Standing};

/// Least pressure.
pub const RULE: Rule = Rule {
    id: "HOLD-LEAST",
    sentence: "No reading of the hold is below the lower bound at the gauge; where the basis has a band, allows a fall or lowers it for the hold, below it by more than that.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "hold_least_hold_greatest_pressure_outside_its_bounds_fails_strength",
};

pub(super) fn check(case: &HoldCase, found: &Found) -> RuleResult {
    let lower = case.acceptance.lower_pa;
    let criteria = &case.acceptance.criteria;
    let fall = allowed_fall(criteria, case.expected_pa);
    let lowered = lowering(criteria, case.acceptance.lower_pa).map_or(PressureDifference::ZERO, |l| l.most_pa);
    let bound = lower - fall - lowered;
    let shown = Shown::of(case);
    // a bound is said to the safe side
    let asked = shown.up(bound);
    let because = [(lowered, "by which it is lowered for the hold"), (fall, "that the basis lets it fall")];
    let less: Vec<String> =
        because.iter().filter(|b| b.0 > PressureDifference::ZERO).map(|(by, why)| format!("the {} {why}", shown.change(*by))).collect();
    let less = if less.is_empty() { String::new() } else { format!(": {} less {}", shown.pressure(lower), less.join(" and ")) };
    let Some(least) = read::least(usable(case, found).into_iter().map(|r| r.p)) else {
        return RuleResult::new(&RULE, Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    };
    // what lies within a millionth of the bound is the bound
    let result = if least >= bound.times(1.0 - 1e-6) { Verdict::Pass } else { Verdict::Fail };
    let margin = shown.change(least - bound);
    let sentence = match result {
        Verdict::Pass => format!("Never below {}; {asked} asked{less}.", shown.pressure(least)),
        _ => format!("Fell to {}, below the {asked} that the governing part must see{less}.", shown.pressure(least)),
    };
    RuleResult::new(&RULE, result, margin, sentence)
}
