//! HOLD-LEAK: the finding held against what is allowed.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Finding, Found};
use crate::found::Leak;
use crate::words::{flow, flow_range};
use quantity::{Span, VolumeFlow};
use rules::accept::Criterion;
use rules::rule::{Rule, Standing};

/// Its id.
pub const ID: &str = "HOLD-LEAK";

/// Leak rate.
pub const RULE: Rule = Rule {
    id: ID,
    sentence: "Where no loss is allowed: fail on a leak shown, pass when tight to the sensitivity that was asked for. Where a fall is allowed, the loss that it stands for (fall · volume · compliance over the time): fail when the loss is shown to be above it, pass when it is shown to be below. Shown to be below is what the 99.9 % limit says, in a record whose own detection limit is not above 2.5 times that; a luckier one is not shown.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_leak_tight_only_to_what_was_asked",
};

pub(super) fn check(case: &HoldCase, found: &Found) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::new(&RULE, result, margin, sentence);
    let flow = |v| flow(v, case);
    let Some(leak) = found.leak.filter(|_| found.finding != Finding::NotShown) else {
        return new(Verdict::NotShown, String::new(), found.reasons.join(" "));
    };
    if let Some(allowed) = allowed_by_fall(case) {
        return held(case, &leak, allowed);
    }
    if found.finding == Finding::LeakShown {
        return new(
            Verdict::Fail,
            String::new(),
            format!("A leak of {} is shown; {}.", flow_range(leak.lo_m3_per_s, leak.hi_m3_per_s, case), allows_none(case)),
        );
    }
    let upper = leak.upper_999_m3_per_s;
    match case.acceptance.required_sensitivity_m3_per_s {
        None => new(Verdict::Pass, String::new(), "No leak is shown. Nobody asked for a figure, so no tightness is claimed.".to_owned()),
        Some(asked) if leak.is_lucky(asked) => new(Verdict::NotShown, String::new(), super::lucky(&leak, asked, case)),
        Some(asked) if leak.rules_out(asked) => {
            new(Verdict::Pass, flow(asked - upper), format!("Tight to {}; {} asked.", flow(upper), flow(asked)))
        }
        Some(asked) => new(
            Verdict::NotShown,
            format!("−{}", flow(upper - asked)),
            format!(
                "No leak is shown, but {} has to be ruled out, and this record cannot tell below {}.",
                flow(asked),
                flow(crate::lines::bounds(&leak))
            ),
        ),
    }
}

/// Who allows no loss, in words.
fn allows_none(case: &HoldCase) -> &str {
    let asked = case.acceptance.criteria.iter().find_map(|c| if let Criterion::NoLoss(n) = c { Some(n.because.as_str()) } else { None });
    let nobody =
        if case.acceptance.required_sensitivity_m3_per_s.is_some() { "one had to be ruled out" } else { "nobody has accounted for it" };
    asked.unwrap_or(if case.format < crate::case::FORMAT_SAYS_LOSS { "this basis allows none" } else { nobody })
}

/// Loss that the fall allowed by the basis stands for: fall · V·c over the time; none where no fall is allowed.
pub fn allowed_by_fall(case: &HoldCase) -> Option<VolumeFlow> {
    if case.acceptance.criteria.iter().any(|c| matches!(c, Criterion::NoLoss(_))) {
        return None;
    }
    let start = case.expected_pa.pa();
    let length = case.hold().length();
    let rate = |fall: Option<f64>, share: Option<f64>, time: Span| fall.or(share.map(|s| s * start)).map(|f| f / time.s());
    let per_second = case
        .acceptance
        .criteria
        .iter()
        .filter_map(|c| match c {
            Criterion::PressureBand(b) => rate(b.fall_pa.map(|p| p.pa()), b.share, length.max(case.acceptance.hold_floor_s)),
            Criterion::PressureFall(f) => rate(f.most_pa.map(|p| p.pa()), f.most_share, f.within_s),
            _ => None,
        })
        .reduce(f64::min)?;
    Some(VolumeFlow::from_m3_per_s(per_second * case.volume_per_pa()?))
}

fn held(case: &HoldCase, leak: &Leak, allowed: VolumeFlow) -> RuleResult {
    let new = |result, margin: VolumeFlow, sentence| RuleResult::new(&RULE, result, flow(margin, case), sentence);
    let between = flow_range(leak.lo_m3_per_s, leak.hi_m3_per_s, case);
    let most = flow(allowed, case);
    let upper = leak.upper_999_m3_per_s;
    if leak.lo_m3_per_s > allowed {
        new(
            Verdict::Fail,
            allowed - leak.lo_m3_per_s,
            format!("A loss of {between} is shown, more than the {most} that the fall allowed stands for."),
        )
    } else if leak.is_lucky(allowed) {
        new(Verdict::NotShown, VolumeFlow::from_m3_per_s(0.0), super::lucky(leak, allowed, case))
    } else if leak.rules_out(allowed) {
        new(Verdict::Pass, allowed - upper, format!("Loses at most {} of the {most} that the fall allowed stands for.", flow(upper, case)))
    } else {
        let sentence = format!(
            "A loss of {between}, at most {}, where the fall allowed stands for {most}: neither is shown. Hold longer, or with finer instruments.",
            flow(upper, case)
        );
        new(Verdict::NotShown, allowed - upper, sentence)
    }
}
