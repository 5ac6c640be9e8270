//! HOLD-GREATEST: never above what the weakest part can bear.

use super::least_pressure::readings;
use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::words::Shown;
use rules::rule::{Rule, Standing};

/// Greatest pressure.
pub const RULE: Rule = Rule {
    id: "HOLD-GREATEST",
    sentence: "No reading of the whole run, the raise as well as the hold, is above the upper bound at the gauge.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "pressure_outside_its_bounds_fails_strength",
};

pub(super) fn check(case: &HoldCase) -> RuleResult {
    // what is too much for a part is so on the way up too
    let most = case.readings.iter().filter_map(|r| r.pressure_pa).map(|p| p.pa()).fold(f64::NEG_INFINITY, f64::max);
    let bound = case.acceptance.upper_pa.pa();
    let shown = Shown::of(case);
    // a bound is said to the safe side
    let allowed = shown.down(bound);
    if readings(case).next().is_none() {
        return RuleResult::new(&RULE, Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    }
    let result = if most <= bound * (1.0 + 1e-6) { Verdict::Pass } else { Verdict::Fail };
    let margin = shown.pressure(bound - most);
    let sentence = match result {
        Verdict::Pass => format!("Never above {}; {allowed} allowed.", shown.pressure(most)),
        _ => format!(
            "Rose to {}, above the {allowed} that the weakest part can bear: examine it before anything else.",
            shown.pressure(most)
        ),
    };
    RuleResult::new(&RULE, result, margin, sentence)
}
