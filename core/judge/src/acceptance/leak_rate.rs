//! HOLD-LEAK: the finding held against what is allowed.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Finding, Found};
use crate::words::{flow, flow_range};
use rules::rule::{Rule, Standing};

/// Leak rate.
pub const RULE: Rule = Rule {
    id: "HOLD-LEAK",
    sentence: "Where no loss is allowed: fail on a leak shown, pass when tight to the sensitivity that was asked for.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "tight_only_to_what_was_asked",
};

pub(super) fn check(case: &HoldCase, found: &Found) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::new(&RULE, result, margin, sentence);
    let Some(leak) = found.leak.filter(|_| found.finding != Finding::NotShown) else {
        return new(Verdict::NotShown, String::new(), found.reasons.join(" "));
    };
    if found.finding == Finding::LeakShown {
        return new(
            Verdict::Fail,
            String::new(),
            format!("A leak of {} is shown; this basis allows none.", flow_range(leak.lo_m3_per_s, leak.hi_m3_per_s)),
        );
    }
    let upper = leak.upper_999_m3_per_s;
    match case.acceptance.required_sensitivity_m3_per_s {
        None => new(
            Verdict::Pass,
            String::new(),
            format!("No leak shown; tight to {}. No figure was asked for, so none is claimed.", flow(upper)),
        ),
        Some(asked) if upper <= asked.m3_per_s() => {
            new(Verdict::Pass, flow(asked.m3_per_s() - upper), format!("Tight to {}; {} asked.", flow(upper), flow(asked.m3_per_s())))
        }
        Some(asked) => new(
            Verdict::NotShown,
            format!("−{}", flow(upper - asked.m3_per_s())),
            format!(
                "No leak shown, but only tight to {} where {} is asked: hold longer, or use a finer gauge or thermometer.",
                flow(upper),
                flow(asked.m3_per_s())
            ),
        ),
    }
}
