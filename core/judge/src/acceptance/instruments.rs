//! INSTRUMENTS: in calibration and in range on the day.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use rules::rule::{Rule, Standing};

/// Instruments.
pub const RULE: Rule = Rule {
    id: "INSTRUMENTS",
    sentence: "Every instrument that the verdict rests on is within its certificate on the day and never beyond its scale.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "instruments_an_instrument_out_of_date_or_scale_shows_nothing",
};

pub(super) fn check(case: &HoldCase) -> RuleResult {
    let mut objections = case.acceptance.instrument_objections.clone();
    let beyond = case.readings.iter().filter_map(|r| r.pressure_pa).any(|p| p > case.gauge.full_scale_pa);
    if beyond {
        objections.push(format!("{} was driven past its full scale; its readings from then on cannot support a verdict.", case.gauge.tag));
    }
    if objections.is_empty() {
        RuleResult::new(&RULE, Verdict::Pass, String::new(), "Instruments in date and in range.".to_owned())
    } else {
        RuleResult::new(&RULE, Verdict::NotShown, String::new(), objections.join(" "))
    }
}
