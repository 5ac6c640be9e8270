//! HOLD-FALL: at most so much may be lost in so long.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Found, usable};
use crate::words::Shown;
use quantity::format::span;
use rules::accept::PressureFall;
use rules::rule::{Rule, Standing};

/// Fall.
pub const RULE: Rule = Rule {
    id: "HOLD-FALL",
    sentence: "Within the time that the basis names the pressure falls by no more than it allows, as read, without anything taken off for temperature.",
    clause: "",
    edition: "",
    standing: Standing::NotChecked,
    file: file!(),
    test: "two_per_cent_in_two_hours",
};

pub(super) fn check(case: &HoldCase, found: &Found, fall: &PressureFall) -> RuleResult {
    by(&RULE, case, found, fall)
}

/// The same by a rule, for another may ask it too.
pub(super) fn by(rule: &Rule, case: &HoldCase, found: &Found, fall: &PressureFall) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(rule, &fall.origin, result, margin, sentence);
    let end = case.hold_start_s + fall.within_s.s();
    let read: Vec<(f64, f64)> = usable(case, found).into_iter().map(|r| (r.0, r.1.pa())).filter(|r| r.0 <= end + 1.0).collect();
    let (Some(first), Some(last)) = (read.first().copied(), read.last().copied()) else {
        return new(Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    };
    let Some(most) = fall.most_pa.map(|p| p.pa()).or(fall.most_share.map(|s| s * first.1)) else {
        return new(Verdict::NotShown, String::new(), "A fall is named without a figure.".to_owned());
    };
    let shown = Shown::of(case);
    let fell = first.1 - read.iter().map(|r| r.1).fold(f64::INFINITY, f64::min);
    let room = most - fell;
    let allowed = format!("{} in {} allowed", shown.pressure(most), span(fall.within_s.s()));
    if room < -1e-6 * first.1.abs() {
        return new(
            Verdict::Fail,
            shown.pressure(room),
            format!("Fell by {} in {}; {allowed}.", shown.pressure(fell), span(last.0 - case.hold_start_s)),
        );
    }
    // a reading somewhat before the end stands for it
    let short = end - last.0 - 0.02 * fall.within_s.s();
    if short > 0.0 {
        return new(
            Verdict::NotShown,
            String::new(),
            format!(
                "Fell by {} in {} so far; {allowed}: go on for {}.",
                shown.pressure(fell),
                span(last.0 - case.hold_start_s),
                span(end - last.0)
            ),
        );
    }
    new(Verdict::Pass, shown.pressure(room), format!("Fell by {}; {allowed}.", shown.pressure(fell)))
}
