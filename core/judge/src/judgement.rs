//! Finding and verdict together, with the sentence.

use crate::acceptance::{ClaimVerdict, Verdict, verdicts};
use crate::case::HoldCase;
use crate::finding::{Finding, Found, find_from};
use crate::words::{Shown, flow, flow_range};
use hold::model::Memory;
use quantity::format::span;
use quantity::show::{self, Figures, Toward};
use quantity::{Dimension, PressureDifference};
use rules::derivation::Derivation;
use serde::{Deserialize, Serialize};

/// The judgement of a hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Judgement {
    /// What happened and what it means, in figures.
    pub sentence: String,
    /// The same sentence by sentence, the headline first, where it is told to a person; empty where it is made or sealed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub says: Vec<String>,
    /// Statistics.
    pub found: Found,
    /// Rules: strength, then tightness.
    pub verdicts: Vec<ClaimVerdict>,
    /// Verdict over all that is claimed.
    pub verdict: Verdict,
    /// Answers to *why?* for the figures of the finding.
    pub derivations: Vec<Derivation>,
    /// Version of the rules that judged.
    pub rules_version: String,
}

/// Version of what derives and judges; a sealed record names it, and its verdict is computed again only by the same.
///
/// The number after the plus is raised with every change by which a window, an allowance, a fit or a rule could come out otherwise: a record
/// that an earlier version judged rightly would else seem to be altered.
pub const RULES_VERSION: &str = concat!(env!("CARGO_PKG_VERSION"), "+8");

/// Judges a hold.
pub fn judge(case: &HoldCase) -> Judgement {
    judge_from(case, None).0
}

/// Judges a hold that goes on, from where the answer was found with fewer readings; and where it was found now.
pub fn judge_from(case: &HoldCase, memory: Option<&Memory>) -> (Judgement, Option<Memory>) {
    let (found, memory) = find_from(case, memory);
    let verdicts = verdicts(case, &found);
    let claimed = verdicts.iter().filter(|v| v.claimed).map(|v| v.verdict);
    let verdict = claimed.fold(Verdict::Pass, |sum, v| match (sum, v) {
        (Verdict::Fail, _) | (_, Verdict::Fail) => Verdict::Fail,
        (Verdict::NotShown, _) | (_, Verdict::NotShown) => Verdict::NotShown,
        _ => Verdict::Pass,
    });
    let judgement = Judgement {
        sentence: sentences(case, &found).join(" "),
        says: Vec::new(),
        derivations: crate::why::why(case, &found),
        found,
        verdicts,
        verdict,
        rules_version: RULES_VERSION.to_owned(),
    };
    (judgement, memory)
}

/// A judgement with its sentences in the units in which the case is told; its finding and verdicts are what they were.
#[must_use]
pub fn told(case: &HoldCase, made: &Judgement) -> Judgement {
    let mut found = made.found.clone();
    found.written = crate::to_hold::written_down(case);
    if let (Some(leak), Some(misfit)) = (found.leak, found.misfit) {
        found.reasons = crate::finding::reasons(case, &leak, misfit);
    }
    let says = sentences(case, &found);
    Judgement {
        sentence: says.join(" "),
        says,
        derivations: crate::why::why(case, &found),
        verdicts: verdicts(case, &found),
        found,
        verdict: made.verdict,
        rules_version: made.rules_version.clone(),
    }
}

/// A judgement by the rules of another version, with what was found told in the units in which the case is told. What the rules of that version
/// made of it stays word for word as it was sealed.
#[must_use]
pub fn told_as_sealed(case: &HoldCase, made: &Judgement) -> Judgement {
    let mut found = made.found.clone();
    if let (Some(leak), Some(misfit)) = (found.leak, found.misfit)
        && let (finding, reasons) = crate::finding::classify(case, &leak, misfit)
        && finding == found.finding
    {
        found.reasons = reasons;
    }
    let says = sentences(case, &found);
    Judgement { sentence: says.join(" "), says, found, ..made.clone() }
}

/// What is said of a hold: what happened and how far heat explains it; then what that leaves.
fn sentences(case: &HoldCase, found: &Found) -> Vec<String> {
    let (Some(start), Some(end)) = (found.start_pa, found.end_pa) else {
        return found.reasons.clone();
    };
    let shown = Shown::of(case);
    let bar = |by: PressureDifference| shown.figure(by);
    let none = PressureDifference::ZERO;
    let fell = start - end;
    let verb = if fell < none { "Rose" } else { "Fell" };
    let head = format!("{verb} {} in {}.", shown.change(fell.abs()), span(case.hold().length()));
    let (Some(leak), Some(explained), Some(left), Some(dt)) = (found.leak, found.explained_pa, found.left_pa, found.temperature_change_k)
    else {
        return [vec![head], found.reasons.clone()].concat();
    };
    let effect = |value: PressureDifference| {
        if value < none { format!("would have raised it by {}", bar(-value)) } else { format!("explains {}", bar(value)) }
    };
    let relaxed = match found.relaxed_pa {
        Some(r) if r.value.abs() + r.half_width_95 > shown.step() * 0.5 => {
            let alike = (r.value < none) == (explained.value < none);
            let says = if alike { bar(r.value.abs()) } else { effect(r.value) };
            format!(", relaxation {says}\u{a0}±\u{a0}{}", shown.change(r.half_width_95))
        }
        _ => String::new(),
    };
    let change = if dt.k() < 0.0 { "Cooling" } else { "Warming" };
    let effect = effect(explained.value);
    let headline = format!(
        "{head} {change} of {} {effect}\u{a0}±\u{a0}{}{relaxed}.",
        show::amount(dt.k().abs(), Dimension::TemperatureDifferenceK, &case.units(), Figures::Said, Toward::Nearest),
        shown.change(explained.half_width_95),
    );
    let left = format!("Left over {}\u{a0}±\u{a0}{}", bar(left.value), shown.change(left.half_width_95));
    let finding = match found.finding {
        Finding::LeakShown => {
            let leak = flow_range(leak.lo_m3_per_s, leak.hi_m3_per_s, case);
            vec![format!("{left}: a leak of {leak}."), "A leak is shown.".to_owned()]
        }
        Finding::TightTo => vec![format!("{left}: no leak shown; tight to {}.", flow(leak.upper_999_m3_per_s, case))],
        Finding::NotShown => [vec![format!("{left}.")], found.reasons.clone()].concat(),
    };
    let limit = format!("The least this hold could have shown is {}.", flow(leak.detection_limit_m3_per_s, case));
    [vec![headline], finding, vec![limit], found.written.clone()].concat()
}
