//! HOLD-FALL: at most so much may be lost in so long.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Found, usable};
use crate::read::Read;
use crate::words::Shown;
use quantity::format::span;
use quantity::{GaugePressure, PressureDifference, Span};
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
    test: "worked_hold_fall_two_per_cent_in_two_hours",
};

pub(super) fn check(case: &HoldCase, found: &Found, fall: &PressureFall) -> RuleResult {
    by(&RULE, case, found, fall)
}

/// The same by a rule, for another may ask it too.
pub(super) fn by(rule: &Rule, case: &HoldCase, found: &Found, fall: &PressureFall) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(rule, &fall.origin, result, margin, sentence);
    let end = case.hold_start_s + fall.within_s;
    let read: Vec<Read> = usable(case, found).into_iter().filter(|r| r.t <= end + Span::from_s(1.0)).collect();
    let (Some(first), Some(last)) = (read.first().copied(), read.last().copied()) else {
        return new(Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    };
    let Some(most) = fall.most_pa.or(fall.most_share.map(|s| PressureDifference::from_pa(s * first.p.pa()))) else {
        return new(Verdict::NotShown, String::new(), "A fall is named without a figure.".to_owned());
    };
    let shown = Shown::of(case);
    let fell = first.p - read.iter().map(|r| r.p).fold(first.p, GaugePressure::min);
    let room = most - fell;
    let allowed = format!("{} in {} allowed", shown.change(most), span(fall.within_s));
    if room.pa() < -1e-6 * first.p.pa().abs() {
        return new(
            Verdict::Fail,
            shown.change(room),
            format!("Fell by {} in {}; {allowed}.", shown.change(fell), span(last.t - case.hold_start_s)),
        );
    }
    // a reading somewhat before the end stands for it
    let short = end - last.t - fall.within_s * 0.02;
    if short > Span::ZERO {
        return new(
            Verdict::NotShown,
            String::new(),
            format!(
                "Fell by {} in {} so far; {allowed}: go on for {}.",
                shown.change(fell),
                span(last.t - case.hold_start_s),
                span(end - last.t)
            ),
        );
    }
    new(Verdict::Pass, shown.change(room), format!("Fell by {}; {allowed}.", shown.change(fell)))
}
