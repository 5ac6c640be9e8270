//! HOLD-BAND: the pressure stays within a band about where the hold began; a gain fails as a loss does.

use super::{RuleResult, Verdict};
use crate::case::HoldCase;
use crate::finding::{Found, usable};
use crate::words::Shown;
use quantity::{GaugePressure, PressureDifference};
use rules::accept::PressureBand;
use rules::rule::{Rule, Standing};

/// Band.
pub const RULE: Rule = Rule {
    id: "HOLD-BAND",
    sentence: "The pressure stays within the band of the basis about where the hold began; where the band has an upper edge a gain fails as a loss does.",
    clause: "",
    edition: "",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_hold_band_five_psi_either_way",
};

pub(super) fn check(case: &HoldCase, found: &Found, band: &PressureBand) -> RuleResult {
    let new = |result, margin, sentence| RuleResult::of_basis(&RULE, &band.origin, result, margin, sentence);
    let read = usable(case, found);
    let Some(first) = read.first().map(|r| r.p) else {
        return new(Verdict::NotShown, String::new(), "No pressure was read in the hold.".to_owned());
    };
    let shown = Shown::of(case);
    let by_share = band.share.map(|s| PressureDifference::from_pa(s * first.pa()));
    let (fall, rise) = (band.fall_pa.or(by_share), band.rise_pa.or(by_share));
    let least = read.iter().map(|r| r.p).fold(first, GaugePressure::min);
    let most = read.iter().map(|r| r.p).fold(first, GaugePressure::max);
    // what lies within a millionth of the edge is on it
    let slack = 1e-6 * first.pa().abs();
    let endless = PressureDifference::from_pa(f64::INFINITY);
    let rooms = [fall.map(|f| f - (first - least)), rise.map(|r| r - (most - first))];
    let room = rooms.into_iter().flatten().fold(endless, PressureDifference::min);
    let edges = match (fall, rise) {
        (Some(f), Some(r)) if (f - r).abs().pa() < 1.0 => format!("±\u{a0}{}", shown.change(f)),
        (Some(f), Some(r)) => format!("−{} to +{}", shown.change(f), shown.change(r)),
        (Some(f), None) => format!("−{}", shown.change(f)),
        (None, Some(r)) => format!("+{}", shown.change(r)),
        (None, None) => return new(Verdict::NotShown, String::new(), "The basis names a band without a figure.".to_owned()),
    };
    let moved =
        format!("From {} it fell by {} and rose by {}", shown.pressure(first), shown.change(first - least), shown.change(most - first));
    let result = if room.pa() >= -slack { Verdict::Pass } else { Verdict::Fail };
    let end = if result == Verdict::Pass { "within" } else { "outside" };
    new(result, shown.change(room), format!("{moved}: {end} the band of {edges}."))
}
