//! Finding and verdict together, with the sentence.

use crate::acceptance::{ClaimVerdict, Verdict, verdicts};
use crate::case::HoldCase;
use crate::finding::{Finding, Found, find_from};
use crate::lines::{ThreeLines, lines};
use crate::words::{Shown, flow_range};
use hold::model::Memory;
use quantity::format::span;
use quantity::show::{self, Figures, Toward};
use quantity::{Dimension, PressureDifference};
use rules::derivation::Derivation;
use serde::{Deserialize, Serialize};
use terms::Outcome;

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
    /// The three lines; absent in records of before they were told apart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lines: Option<ThreeLines>,
    /// Rules: strength, then tightness.
    pub verdicts: Vec<ClaimVerdict>,
    /// Verdict over all that is claimed.
    pub verdict: Verdict,
    /// Answers to *why?* for the figures of the finding.
    pub derivations: Vec<Derivation>,
    /// Version of the rules that judged.
    pub rules_version: String,
}

impl Judgement {
    /// What the basis makes of it; of a record of before the lines were told apart, what its verdict says.
    pub fn outcome(&self) -> Outcome {
        self.lines.as_ref().map_or(
            match self.verdict {
                Verdict::Pass => Outcome::Meets,
                Verdict::Fail => Outcome::DoesNotMeet,
                Verdict::NotShown => Outcome::NotComplete,
            },
            |l| l.by_basis.outcome,
        )
    }
}

/// Version of what derives and judges; a sealed record names it, and its verdict is computed again only by the same.
///
/// The number after the plus is raised with every change by which a window, an allowance, a fit or a rule could come out otherwise: a record
/// that an earlier version judged rightly would else seem to be altered.
pub const RULES_VERSION: &str = concat!(env!("CARGO_PKG_VERSION"), "+12");

/// Judges a hold.
pub fn judge(case: &HoldCase) -> Judgement {
    judge_from(case, None).0
}

/// Judges a hold that goes on, from where the answer was found with fewer readings; and where it was found now.
pub fn judge_from(case: &HoldCase, memory: Option<&Memory>) -> (Judgement, Option<Memory>) {
    if case.stopped {
        return (crate::stopped::stopped(case), None);
    }
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
        lines: Some(lines(case, &found, &verdicts)),
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
    if case.stopped {
        return crate::stopped::stopped(case);
    }
    let mut found = made.found.clone();
    found.written = crate::to_hold::written_down(case);
    if let (Some(leak), Some(misfit)) = (found.leak, found.misfit) {
        found.reasons = crate::finding::reasons(case, &leak, misfit);
    }
    let says = sentences(case, &found);
    let verdicts = verdicts(case, &found);
    Judgement {
        sentence: says.join(" "),
        says,
        derivations: crate::why::why(case, &found),
        lines: Some(lines(case, &found, &verdicts)),
        verdicts,
        found,
        verdict: made.verdict,
        rules_version: made.rules_version.clone(),
    }
}

/// A judgement by the rules of another version, with what was found told in the units in which the case is told. What the rules of that version
/// made of it stays word for word as it was sealed.
#[must_use]
pub fn told_as_sealed(case: &HoldCase, made: &Judgement) -> Judgement {
    if case.stopped {
        return made.clone();
    }
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
    let effect = effect(explained.value);
    let half_width = shown.change(explained.half_width_95);
    let headline = if stood_still(case) {
        let tag = case.thermometer.as_ref().map_or("The thermometer", |t| t.tag.as_str());
        format!("{head} {tag} stood still; the heat that was still on its way {effect}\u{a0}±\u{a0}{half_width}{relaxed}.")
    } else {
        let change = if dt.k() < 0.0 { "Cooling" } else { "Warming" };
        let by = show::amount(dt.k().abs(), Dimension::TemperatureDifferenceK, &case.units(), Figures::Said, Toward::Nearest);
        format!("{head} {change} of {by} {effect}\u{a0}±\u{a0}{half_width}{relaxed}.")
    };
    let parts =
        [bar(fell), bar(explained.value), found.relaxed_pa.filter(|_| !relaxed.is_empty()).map_or_else(String::new, |r| bar(r.value))];
    let left = format!("Left over {}\u{a0}±\u{a0}{}", left_of(&parts).unwrap_or_else(|| bar(left.value)), shown.change(left.half_width_95));
    let finding = match found.finding {
        Finding::LeakShown => vec![format!("{left}: a leak of {}.", flow_range(leak.lo_m3_per_s, leak.hi_m3_per_s, case))],
        Finding::TightTo => vec![format!("{left}: no leak is shown.")],
        Finding::NotShown => [vec![format!("{left}.")], found.reasons.clone()].concat(),
    };
    [vec![headline], finding, found.written.clone()].concat()
}

/// What is left of the first figure when the others are taken off it, as they are said: a sum in a sentence adds up. None where one is no figure.
fn left_of(said: &[String]) -> Option<String> {
    let figure = |s: &String| if s.is_empty() { Some(0.0) } else { s.replace('\u{2212}', "-").parse::<f64>().ok() };
    let figures: Vec<f64> = said.iter().map(figure).collect::<Option<_>>()?;
    let decimals = said.iter().map(|s| s.split_once('.').map_or(0, |(_, d)| d.len())).max()?;
    let left = figures.iter().skip(1).fold(*figures.first()?, |left, f| left - f);
    let written = format!("{left:.decimals$}");
    // what rounds to nil has no sign
    let nil = written.trim_start_matches('-').chars().all(|c| matches!(c, '0' | '.'));
    Some(if nil { written.trim_start_matches('-').to_owned() } else { written.replace('-', "\u{2212}") })
}

/// True where the thermometer moved by less than it can show over the hold: nobody measured a warming then.
fn stood_still(case: &HoldCase) -> bool {
    let read = case.readings.iter().filter(|r| case.hold().contains(r.t_s)).filter_map(|r| r.temperature_c);
    let (least, most) = read.fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), t| (a.min(t.c()), b.max(t.c())));
    case.thermometer.as_ref().is_some_and(|t| most >= least && most - least < 0.5 * t.division_k.k())
}

#[cfg(test)]
mod tests {
    use super::left_of;

    #[test]
    fn a_sum_in_a_sentence_adds_up() {
        let left = |said: &[&str]| left_of(&said.iter().map(|s| (*s).to_owned()).collect::<Vec<_>>());
        assert_eq!(left(&["0.82", "0.74", ""]).as_deref(), Some("0.08"));
        assert_eq!(left(&["12.0", "\u{2212}0.5", "0.4"]).as_deref(), Some("12.1"));
        assert_eq!(left(&["0.10", "0.30", ""]).as_deref(), Some("\u{2212}0.20"));
        assert_eq!(left(&["0.3", "0.1", "0.2"]).as_deref(), Some("0.0"));
        assert_eq!(left(&["none", "0.1", ""]), None);
    }
}
