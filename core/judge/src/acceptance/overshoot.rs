//! OVERSHOOT: the greatest pressure that the code names, over the whole test.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::read;
use crate::words::Shown;
use rules::accept::Overshoot;
use rules::rule::{Rule, Standing};

/// Overshoot.
pub const RULE: Rule = Rule {
    id: "OVERSHOOT",
    sentence: "At no time of the test is the pressure above what the code allows over the test pressure: 6 % for a power boiler, 10 psi for a heating boiler.",
    clause: "",
    edition: "",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_overshoot_six_per_cent_and_ten_psi",
};

pub(super) fn check(case: &HoldCase, asked: &Overshoot) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(&RULE, &asked.origin, result, margin, sentence);
    let Some(most) = read::most(case.pressures().map(|r| r.p)) else {
        return new(Verdict::NotShown, String::new(), "No pressure was read.".to_owned());
    };
    let shown = Shown::of(case);
    let bound = asked.most_pa;
    let allowed = shown.down(bound);
    let result = if most <= bound.times(1.0 + 1e-6) { Verdict::Pass } else { Verdict::Fail };
    let sentence = match result {
        Verdict::Pass => format!("Never above {} in the whole test; {allowed} allowed.", shown.pressure(most)),
        _ => format!("Rose to {}, above the {allowed} that the code allows: stop, and have it examined.", shown.pressure(most)),
    };
    new(result, shown.change(bound - most), sentence)
}
