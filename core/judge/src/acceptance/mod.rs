//! The verdict: the rules of the basis, one a file.

mod examination_done;
mod greatest_pressure;
mod hold_time;
mod instruments;
mod leak_rate;
mod leak_seen;
mod least_pressure;

use crate::case::HoldCase;
use crate::finding::Found;
use rules::rule::Rule;
use serde::{Deserialize, Serialize};

/// Rules of the verdict.
pub const RULES: &[&Rule] = &[
    &hold_time::RULE,
    &least_pressure::RULE,
    &greatest_pressure::RULE,
    &instruments::RULE,
    &examination_done::RULE,
    &leak_seen::RULE,
    &leak_rate::RULE,
];

/// Result of a rule, or of a claim.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// what the rule asks is shown
    Pass,
    /// the opposite is shown
    Fail,
    /// neither
    NotShown,
}

impl Verdict {
    /// In words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Pass => "pass",
            Self::Fail => "fail",
            Self::NotShown => "not shown",
        }
    }
    /// Of several: any fail fails; else any not shown is not shown.
    fn all(results: impl Iterator<Item = Self>) -> Self {
        results.fold(Self::Pass, |sum, v| match (sum, v) {
            (Self::Fail, _) | (_, Self::Fail) => Self::Fail,
            (Self::NotShown, _) | (_, Self::NotShown) => Self::NotShown,
            _ => Self::Pass,
        })
    }
}

/// Which claim a line speaks to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ClaimLine {
    /// the parts hold
    Strength,
    /// nothing gets out
    Tightness,
}

/// What one rule says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RuleResult {
    /// Id of the rule.
    pub rule: String,
    /// Result.
    pub result: Verdict,
    /// Margin to the limit, in words with its unit; empty where there is none.
    pub margin: String,
    /// What, with figures.
    pub sentence: String,
    /// Clause, or the standing of the rule.
    pub source: String,
}

impl RuleResult {
    fn new(rule: &Rule, result: Verdict, margin: String, sentence: String) -> Self {
        let source =
            if rule.clause.is_empty() { rule.standing.words().to_owned() } else { format!("{}, {}", rule.clause, rule.standing.words()) };
        Self { rule: rule.id.to_owned(), result, margin, sentence, source }
    }
}

/// Verdict on one claim, with the rules that led to it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ClaimVerdict {
    /// The claim.
    pub claim: ClaimLine,
    /// True when the test claims this; otherwise the line is an observation.
    pub claimed: bool,
    /// Verdict.
    pub verdict: Verdict,
    /// In one sentence.
    pub sentence: String,
    /// What each rule says.
    pub rules: Vec<RuleResult>,
}

/// Verdicts on strength and tightness; one that is not claimed is printed as an observation.
pub fn verdicts(case: &HoldCase, found: &Found) -> Vec<ClaimVerdict> {
    let common = [
        hold_time::check(case),
        least_pressure::check(case),
        greatest_pressure::check(case),
        instruments::check(case),
        examination_done::check(case),
    ];
    let claim = case.acceptance.claim;
    [(ClaimLine::Strength, claim.strength()), (ClaimLine::Tightness, claim.tightness())]
        .map(|(line, claimed)| {
            let mut rules = common.to_vec();
            rules.push(leak_seen::check(case, line));
            if line == ClaimLine::Tightness {
                rules.push(leak_rate::check(case, found));
            }
            let verdict = Verdict::all(rules.iter().map(|r| r.result));
            let sentence = sentence(line, claimed, verdict, &rules);
            ClaimVerdict { claim: line, claimed, verdict, sentence, rules }
        })
        .into_iter()
        .collect()
}

fn sentence(line: ClaimLine, claimed: bool, verdict: Verdict, rules: &[RuleResult]) -> String {
    let word = if line == ClaimLine::Strength { "Strength" } else { "Tightness" };
    let head = match (claimed, verdict) {
        (true, v) => format!("{word}: {}.", v.words()),
        (false, _) => format!("{word} is not claimed; observed:"),
    };
    let because: Vec<&str> =
        rules.iter().filter(|r| r.result == verdict && verdict != Verdict::Pass).map(|r| r.sentence.as_str()).collect();
    match (verdict, because.is_empty()) {
        (Verdict::Pass, _) if !claimed => format!("{head} nothing against it."),
        (_, true) => head,
        _ => format!("{head} {}", because.join(" ")),
    }
}
