//! HOLD-LEAST: never below what the governing part must see.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Found, usable};
use crate::words::Shown;
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
    test: "pressure_outside_its_bounds_fails_strength",
};

/// Readings of the hold as they were recorded, Pa.
pub(super) fn readings(case: &HoldCase) -> impl Iterator<Item = f64> + '_ {
    case.readings.iter().filter(|r| r.t_s >= case.hold_start_s && r.t_s <= case.hold_end_s).filter_map(|r| r.pressure_pa.map(|p| p.pa()))
}

pub(super) fn check(case: &HoldCase, found: &Found) -> RuleResult {
    let least = usable(case, found).into_iter().map(|r| r.1.pa()).fold(f64::INFINITY, f64::min);
    let lower = case.acceptance.lower_pa.pa();
    let criteria = &case.acceptance.criteria;
    let fall = allowed_fall(criteria, case.expected_pa).pa();
    let lowered = lowering(criteria, case.acceptance.lower_pa).map_or(0.0, |l| l.most_pa.pa());
    let bound = lower - fall - lowered;
    let shown = Shown::of(case);
    // a bound is said to the safe side
    let asked = shown.up(bound);
    let because = [(lowered, "by which it is lowered for the hold"), (fall, "that the basis lets it fall")];
    let less: Vec<String> = because.iter().filter(|b| b.0 > 0.0).map(|(by, why)| format!("the {} {why}", shown.pressure(*by))).collect();
    let less = if less.is_empty() { String::new() } else { format!(": {} less {}", shown.pressure(lower), less.join(" and ")) };
    if !least.is_finite() {
        return RuleResult::new(&RULE, Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    }
    // what lies within a millionth of the bound is the bound
    let result = if least >= bound * (1.0 - 1e-6) { Verdict::Pass } else { Verdict::Fail };
    let margin = shown.pressure(least - bound);
    let sentence = match result {
        Verdict::Pass => format!("Never below {}; {asked} asked{less}.", shown.pressure(least)),
        _ => format!("Fell to {}, below the {asked} that the governing part must see{less}.", shown.pressure(least)),
    };
    RuleResult::new(&RULE, result, margin, sentence)
}
