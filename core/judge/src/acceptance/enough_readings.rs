//! HOLD-READ: the gauge was read often enough for what is judged from it.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Found, usable};
use quantity::Span;
use quantity::format::span;
use rules::accept::Criterion;
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

/// Readings that a hold needs whose acceptance is the look and the kept pressure.
pub const FOR_KEPT: usize = 2;
/// Readings that a band, a fall or a loss needs.
pub const FOR_BAND: usize = 5;

/// Readings that a hold with these criteria needs.
pub fn needed(criteria: &[Criterion]) -> usize {
    let follows = |c: &Criterion| {
        matches!(
            c,
            Criterion::PressureBand(_)
                | Criterion::PressureFall(_)
                | Criterion::OwnersFall(_)
                | Criterion::WaterLoss(_)
                | Criterion::Contraction(_)
        )
    };
    if criteria.iter().any(|c| matches!(c, Criterion::NoLoss(_))) {
        crate::finding::LEAST_READINGS
    } else if criteria.iter().any(follows) {
        FOR_BAND
    } else {
        FOR_KEPT
    }
}

/// How often a hold of this length has to be read for so many readings, with one at each end.
pub fn every(hold: Span, needed: usize) -> Span {
    hold * (1.0 / (needed.max(2) - 1) as f64)
}

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
