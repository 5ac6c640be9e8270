//! HOLD-GREATEST: never above what the weakest part can bear.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::read;
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
    test: "hold_least_hold_greatest_pressure_outside_its_bounds_fails_strength",
};

pub(super) fn check(case: &HoldCase) -> RuleResult {
    // what is too much for a part is so on the way up too
    let most = read::most(case.pressures().map(|r| r.p));
    let bound = case.acceptance.upper_pa;
    let shown = Shown::of(case);
    // a bound is said to the safe side
    let allowed = shown.down(bound);
    let Some(most) = most.filter(|_| case.pressures().any(|r| case.hold().contains(r.t))) else {
        return RuleResult::new(&RULE, Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    };
    let result = if most <= bound.times(1.0 + 1e-6) { Verdict::Pass } else { Verdict::Fail };
    let margin = shown.change(bound - most);
    let sentence = match result {
        Verdict::Pass => format!("Never above {}; {allowed} allowed.", shown.pressure(most)),
        _ => format!(
            "Rose to {}, above the {allowed} that the weakest part can bear: examine it before anything else.",
            shown.pressure(most)
        ),
    };
    RuleResult::new(&RULE, result, margin, sentence)
}
