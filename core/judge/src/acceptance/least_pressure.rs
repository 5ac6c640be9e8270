//! HOLD-LEAST: never below what the governing part must see.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::words::pressure;
use rules::rule::{Rule, Standing};

/// Least pressure.
pub const RULE: Rule = Rule {
    id: "HOLD-LEAST",
    sentence: "No reading of the hold is below the lower bound at the gauge.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "pressure_outside_its_bounds_fails_strength",
};

/// Readings of the hold, Pa.
pub(super) fn readings(case: &HoldCase) -> impl Iterator<Item = f64> + '_ {
    case.readings.iter().filter(|r| r.t_s >= case.hold_start_s && r.t_s <= case.hold_end_s).filter_map(|r| r.pressure_pa.map(|p| p.pa()))
}

pub(super) fn check(case: &HoldCase) -> RuleResult {
    let least = readings(case).fold(f64::INFINITY, f64::min);
    let bound = case.acceptance.lower_pa.pa();
    let (unit, res) = (case.gauge.unit, case.gauge.division_pa.pa().min(1e3));
    let show = |p| pressure(p, res, unit);
    // a bound is said to the safe side
    let asked = show(quantity::format::round_up(bound, res));
    if !least.is_finite() {
        return RuleResult::new(&RULE, Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    }
    // what lies within a millionth of the bound is the bound
    let result = if least >= bound * (1.0 - 1e-6) { Verdict::Pass } else { Verdict::Fail };
    let margin = format!("{}\u{a0}{}", show(least - bound), unit.symbol());
    let sentence = match result {
        Verdict::Pass => format!("Never below {}\u{a0}{}; {asked} asked.", show(least), unit.symbol()),
        _ => format!("Fell to {}\u{a0}{}, below the {asked} that the governing part must see.", show(least), unit.symbol()),
    };
    RuleResult::new(&RULE, result, margin, sentence)
}
