//! HOLD-READ: the gauge was read often enough for what is judged from it.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Found, usable};
use quantity::Span;
use quantity::format::span;
use rules::accept::readings::{FOR_BAND, every, needed};
use rules::rule::{Rule, Standing};

/// Readings of the hold.
pub const RULE: Rule = Rule {
    id: "HOLD-READ",
    sentence: "Two readings, at the start and at the end, are the least of a hold that somebody watches; a band, a fall or a loss of water wants five, and none of them half a hold after the one before. A leak rate wants ten.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "hold_read_five_readings_an_hour_judge_a_band",
};

pub(super) fn check(case: &HoldCase, found: &Found) -> RuleResult {
    let new = |result, sentence: String| RuleResult::new(&RULE, result, String::new(), sentence);
    let needed = needed(&case.acceptance.criteria).min(FOR_BAND);
    let read = usable(case, found);
    let floor = case.acceptance.hold_floor_s;
    let often = |n: usize| format!("read it every {} at least", span(every(floor.max(case.hold().length()), n)));
    if read.len() < needed {
        let n = match read.len() {
            0 => "No pressure was read in the hold".to_owned(),
            1 => "The hold has one reading of pressure that counts".to_owned(),
            n => format!("The hold has {n} readings of pressure that count"),
        };
        return new(Verdict::NotShown, format!("{n}; {needed} are needed: {}.", often(needed)));
    }
    let longest = read.windows(2).map(|w| w[1].t - w[0].t).fold(Span::ZERO, Span::max);
    if needed >= FOR_BAND && longest > case.hold().length() * 0.5 {
        return new(
            Verdict::NotShown,
            format!(
                "Nobody read the pressure for {} of this hold, so what it did meanwhile is not known: {}.",
                span(longest),
                often(needed)
            ),
        );
    }
    new(Verdict::Pass, format!("{} readings of pressure; {needed} are needed.", read.len()))
}
