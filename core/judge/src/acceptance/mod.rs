//! The verdict: the rules of the basis, one a file.

mod contraction;
mod enough_readings;
mod examination_done;
mod expansion;
mod gauges_agree;
mod greatest_pressure;
mod hold_time;
mod instruments;
mod joint_dry;
mod leak_rate;
mod leak_seen;
mod least_pressure;
mod look;
pub mod makeup_allowance;
mod overshoot;
mod owners_fall;
mod pressure_band;
mod pressure_fall;
mod pump_apart;
mod soap_film;
mod sound;
pub mod water_loss;
mod whole_test;

use crate::case::HoldCase;
use crate::finding::Found;
use crate::found::Leak;
use crate::words::flow;
use quantity::VolumeFlow;
use rules::accept::{Criterion, Origin, Whose};
use rules::rule::Rule;
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};
use terms::Term;

pub(crate) use leak_rate::{ID as LEAK_RATE, allowed_by_fall};

/// Rules that weigh a loss against what is allowed.
pub(crate) const WEIGHED: [&str; 2] = [makeup_allowance::RULE.id, water_loss::RULE.id];

/// Rules of the verdict.
pub const RULES: &[&Rule] = &[
    &hold_time::RULE,
    &least_pressure::RULE,
    &greatest_pressure::RULE,
    &instruments::RULE,
    &enough_readings::RULE,
    &sound::RULE,
    &pump_apart::RULE,
    &examination_done::RULE,
    &leak_seen::RULE,
    &leak_rate::RULE,
    &gauges_agree::RULE,
    &pressure_band::RULE,
    &pressure_fall::RULE,
    &owners_fall::RULE,
    &makeup_allowance::RULE,
    &water_loss::RULE,
    &water_loss::AIR_RULE,
    &contraction::RULE,
    &expansion::RULE,
    &whole_test::RULE,
    &overshoot::RULE,
    &joint_dry::RULE,
    &soap_film::RULE,
];

/// Result of a rule, or of a claim.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Verdict {
    /// what the rule asks is shown
    #[strum(message = "meets")]
    Pass,
    /// the opposite is shown
    #[strum(message = "does not meet")]
    Fail,
    /// neither
    #[strum(message = "not complete")]
    NotShown,
}

impl Verdict {
    /// Of several: any fail fails; else any not shown is not shown.
    pub(crate) fn all(results: impl Iterator<Item = Self>) -> Self {
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

/// Whether a rule counts for what the basis makes of a hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Counts {
    /// asked by the basis, or of every test
    #[default]
    #[strum(message = "asked by the basis")]
    Basis,
    /// asked by the project or the owner
    #[strum(message = "asked by the project")]
    Project,
    /// said, not asked
    #[strum(message = "not asked, only said")]
    Said,
}

impl Counts {
    #[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
    const fn by_basis(&self) -> bool {
        matches!(self, Self::Basis)
    }
}

impl From<Whose> for Counts {
    fn from(whose: Whose) -> Self {
        match whose {
            Whose::Basis => Self::Basis,
            Whose::Project => Self::Project,
        }
    }
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
    /// What the rule says.
    pub asks: String,
    /// Whether it counts, and who asks it.
    #[serde(default, skip_serializing_if = "Counts::by_basis")]
    pub counts: Counts,
}

impl RuleResult {
    fn new(rule: &Rule, result: Verdict, margin: String, sentence: String) -> Self {
        let source =
            if rule.clause.is_empty() { rule.standing.words().to_owned() } else { format!("{}, {}", rule.clause, rule.standing.words()) };
        Self { rule: rule.id.to_owned(), result, margin, sentence, source, asks: rule.sentence.to_owned(), counts: Counts::Basis }
    }

    fn counting(self, counts: Counts) -> Self {
        Self { counts, ..self }
    }

    /// Of a rule that a basis asks with its own clause.
    fn of_basis(rule: &Rule, origin: &Origin, result: Verdict, margin: String, sentence: String) -> Self {
        Self {
            rule: rule.id.to_owned(),
            result,
            margin,
            sentence,
            source: format!("{}: {}", origin.rule, origin.source),
            asks: rule.sentence.to_owned(),
            counts: Counts::Basis,
        }
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

/// Which claim a criterion speaks to; both where it says nothing.
const fn speaks_to(criterion: &Criterion) -> Option<ClaimLine> {
    match criterion {
        Criterion::Overshoot(_) => Some(ClaimLine::Strength),
        Criterion::MakeupAllowance(_)
        | Criterion::WaterLoss(_)
        | Criterion::PressureFall(_)
        | Criterion::OwnersFall(_)
        | Criterion::Contraction(_)
        | Criterion::JointDry(_)
        | Criterion::SoapFilm(_)
        | Criterion::NoLoss(_) => Some(ClaimLine::Tightness),
        Criterion::PressureBand(_) | Criterion::AirCheck(_) | Criterion::Expansion(_) | Criterion::WholeTest(_) => None,
    }
}

fn held(case: &HoldCase, found: &Found, criterion: &Criterion) -> Option<RuleResult> {
    let result = match criterion {
        Criterion::PressureBand(c) => pressure_band::check(case, found, c),
        Criterion::PressureFall(c) => pressure_fall::check(case, found, c),
        Criterion::OwnersFall(c) => owners_fall::check(case, found, c),
        Criterion::MakeupAllowance(c) => makeup_allowance::check(case, found, c),
        Criterion::WaterLoss(c) => water_loss::check(case, found, c),
        Criterion::AirCheck(c) => water_loss::check_air(case, found, c),
        Criterion::Contraction(c) => contraction::check(case, c),
        Criterion::Expansion(c) => expansion::check(case, c),
        Criterion::WholeTest(c) => whole_test::check(case, c),
        Criterion::Overshoot(c) => overshoot::check(case, c),
        Criterion::JointDry(c) => joint_dry::check(case, c),
        Criterion::SoapFilm(c) => soap_film::check(case, c),
        // what it asks is judged by the leak that the record shows
        Criterion::NoLoss(_) => return None,
    };
    Some(result.counting(criterion.whose().into()))
}

/// Who asks that no leak be shown; nobody where the basis accepts by the look and the kept pressure, or within a band, a fall or an allowance.
fn who_asks_no_leak(case: &HoldCase) -> Counts {
    let asked = case.acceptance.criteria.iter().find_map(|c| if let Criterion::NoLoss(n) = c { Some(n.whose.into()) } else { None });
    // older files do not say who asks it: it counts
    let before = (case.format < crate::case::FORMAT_SAYS_LOSS).then_some(Counts::Basis);
    let ruled_out = case.acceptance.required_sensitivity_m3_per_s.map(|_| Counts::Project);
    let fails_strength = case.acceptance.loss_fails_strength.then_some(Counts::Project);
    asked.or(before).or(ruled_out).or(fails_strength).unwrap_or(Counts::Said)
}

/// True where the basis judges the loss by a rule of its own.
fn judges_loss(case: &HoldCase) -> bool {
    let own = |c: &Criterion| match c {
        Criterion::MakeupAllowance(_) | Criterion::WaterLoss(_) | Criterion::Contraction(_) => true,
        // dry while the pressure holds, unless the owner asks for a figure too
        Criterion::JointDry(_) => case.acceptance.required_sensitivity_m3_per_s.is_none(),
        _ => false,
    };
    case.acceptance.criteria.iter().any(own)
}

/// Verdicts on strength and tightness; one that is not claimed is printed as an observation.
pub fn verdicts(case: &HoldCase, found: &Found) -> Vec<ClaimVerdict> {
    let mut common = vec![
        hold_time::check(case),
        least_pressure::check(case, found),
        greatest_pressure::check(case),
        instruments::check(case),
        examination_done::check(case),
    ];
    common.extend(gauges_agree::check(case));
    common.extend(pump_apart::check(case));
    if case.format >= crate::case::FORMAT_SAYS_LOSS {
        common.push(enough_readings::check(case, found));
        common.extend(sound::check(case, found));
    }
    let criteria: Vec<(Option<ClaimLine>, RuleResult)> =
        case.acceptance.criteria.iter().filter_map(|c| Some((speaks_to(c), held(case, found, c)?))).collect();
    let leak = (!judges_loss(case)).then(|| leak_rate::check(case, found).counting(who_asks_no_leak(case)));
    let claim = case.acceptance.claim;
    [(ClaimLine::Strength, claim.strength()), (ClaimLine::Tightness, claim.tightness())]
        .map(|(line, claimed)| {
            let mut rules = common.clone();
            // where the project has it so, what fails tightness fails a test of strength too
            let as_tight = line == ClaimLine::Tightness || case.acceptance.loss_fails_strength;
            let speaks = |to: &Option<ClaimLine>| to.is_none_or(|to| to == line || (as_tight && to == ClaimLine::Tightness));
            rules.extend(criteria.iter().filter(|c| speaks(&c.0)).map(|c| c.1.clone()));
            rules.push(leak_seen::check(case, if as_tight { ClaimLine::Tightness } else { line }));
            if as_tight {
                rules.extend(leak.clone());
            }
            let verdict = Verdict::all(rules.iter().filter(|r| r.counts != Counts::Said).map(|r| r.result));
            let sentence = sentence(line, claimed, verdict, &rules);
            ClaimVerdict { claim: line, claimed, verdict, sentence, rules }
        })
        .into_iter()
        .collect()
}

/// Verdicts on a run that was let out before a hold began: what was seen, and that nothing was held.
pub(crate) fn verdicts_of_stopped(case: &HoldCase) -> Vec<ClaimVerdict> {
    let claim = case.acceptance.claim;
    let of = |(line, claimed)| {
        let rules = vec![hold_time::not_held(case), instruments::check(case), leak_seen::check(case, line)];
        let verdict = Verdict::all(rules.iter().map(|r| r.result));
        ClaimVerdict { claim: line, claimed, verdict, sentence: sentence(line, claimed, verdict, &rules), rules }
    };
    [(ClaimLine::Strength, claim.strength()), (ClaimLine::Tightness, claim.tightness())].map(of).into_iter().collect()
}

fn sentence(line: ClaimLine, claimed: bool, verdict: Verdict, rules: &[RuleResult]) -> String {
    let word = if line == ClaimLine::Strength { "Strength" } else { "Tightness" };
    let head = match (claimed, verdict) {
        (true, v) => format!("{word}: {}.", v.words()),
        (false, _) => format!("{word} is not claimed; observed:"),
    };
    let because: Vec<&str> = rules
        .iter()
        .filter(|r| r.result == verdict && r.counts != Counts::Said && verdict != Verdict::Pass)
        .map(|r| r.sentence.as_str())
        .collect();
    match (verdict, because.is_empty()) {
        (Verdict::Pass, _) if !claimed => format!("{head} nothing against it."),
        (_, true) => head,
        _ => format!("{head} {}", because.join(" ")),
    }
}
/// Why a record that seems to rule a loss out is not trusted to.
fn lucky(leak: &Leak, loss: VolumeFlow, case: &HoldCase) -> String {
    format!(
        "This record seems tight to {}, but a record by these instruments shows no less than {} as a rule, so it is not trusted to rule out {}: hold longer, or use a finer gauge or thermometer.",
        flow(leak.upper_999_m3_per_s, case),
        flow(leak.detection_limit_m3_per_s, case),
        flow(loss, case)
    )
}
