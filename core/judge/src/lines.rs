//! Three answers that are never mixed, in this order: what the basis makes of the hold, what the record says about a leak, and what would settle
//! what is still open.
//!
//! The second adds to the first and does not overrule it, except where the basis or the project allows no loss; a leak that is shown and that
//! nobody has accounted for waits for the decision of a named person before anybody signs.

use crate::acceptance::{ClaimVerdict, Counts, RuleResult, Verdict};
use crate::case::{Event, HoldCase};
use crate::finding::{Finding, Found};
use crate::found::Leak;
use crate::planning::would_settle;
use crate::words::{flow, flow_range};
use quantity::VolumeFlow;
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};
use terms::{EventKind, Outcome, Term};

/// What the record says about a leak.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum LeakSaid {
    /// the 95 % interval excludes zero
    #[strum(message = "leak shown", detailed_message = "a leak is shown")]
    LeakShown,
    /// a loss above the figure that was asked is ruled out
    #[strum(message = "tight to", detailed_message = "tight to the figure asked")]
    TightTo,
    /// neither
    #[strum(message = "cannot tell", detailed_message = "the record cannot tell")]
    CannotTell,
}

/// The first line: what people sign.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ByBasis {
    /// Outcome.
    pub outcome: Outcome,
    /// In a sentence.
    pub sentence: String,
    /// What decided it, rule by rule, in sentences: what was not held, what is missing, or what was held.
    pub because: Vec<String>,
    /// Why a named person has to decide before anybody signs; absent where nobody has to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to_decide: Option<String>,
    /// Who decided and why, in a sentence; absent where nobody has.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decided: Option<String>,
}

/// The second line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AboutLeak {
    /// What is said.
    pub said: LeakSaid,
    /// Of a leak shown its least, of one that is ruled out none, m³/s (normal m³ of gas).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub from_m3_per_s: Option<VolumeFlow>,
    /// Of a leak shown its greatest; else the least that this record rules out, m³/s; absent where it bounds nothing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub to_m3_per_s: Option<VolumeFlow>,
    /// In sentences.
    pub sentence: String,
}

/// The three lines.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ThreeLines {
    /// What the basis makes of it.
    pub by_basis: ByBasis,
    /// What the record says about a leak.
    pub leak: AboutLeak,
    /// What would settle what is open, in sentences; empty where nothing is.
    pub would_settle: Vec<String>,
}

/// The lines of a hold.
pub fn lines(case: &HoldCase, found: &Found, verdicts: &[ClaimVerdict]) -> ThreeLines {
    let mut leak = about_leak(case, found);
    let why = accounted(case, &counting(verdicts));
    let by_basis = by_basis(case, verdicts, &leak, why.is_some());
    if let Some(why) = why.filter(|_| leak.said == LeakSaid::LeakShown) {
        leak.sentence += " ";
        leak.sentence += &why;
    }
    let would_settle = settle(case, found, &by_basis, &leak);
    ThreeLines { by_basis, leak, would_settle }
}

/// Rules that count for what is claimed, each once.
fn counting(verdicts: &[ClaimVerdict]) -> Vec<&RuleResult> {
    let mut all: Vec<&RuleResult> = Vec::new();
    for r in verdicts.iter().filter(|v| v.claimed).flat_map(|v| &v.rules).filter(|r| r.counts != Counts::Said) {
        if !all.iter().any(|a| a.rule == r.rule && a.sentence == r.sentence) {
            all.push(r);
        }
    }
    all
}

fn by_basis(case: &HoldCase, verdicts: &[ClaimVerdict], leak: &AboutLeak, accounted: bool) -> ByBasis {
    let rules = counting(verdicts);
    let with = |result| -> Vec<String> { rules.iter().filter(|r| r.result == result).map(|r| r.sentence.clone()).collect() };
    let (against, missing) = (with(Verdict::Fail), with(Verdict::NotShown));
    let open = |sentence: &str, outcome, because: Vec<String>| ByBasis {
        outcome,
        sentence: sentence.to_owned(),
        because,
        to_decide: None,
        decided: None,
    };
    if !against.is_empty() {
        return open("Something that is asked was not held.", Outcome::DoesNotMeet, [against, missing].concat());
    }
    if !missing.is_empty() {
        return open("Something that is asked is not in the record.", Outcome::NotComplete, missing);
    }
    let met = open("Everything that is asked is in the record, and was held.", Outcome::Meets, with(Verdict::Pass));
    if leak.said != LeakSaid::LeakShown || accounted {
        return met;
    }
    match &case.decided {
        None => ByBasis {
            to_decide: Some(
                "A leak is shown that nobody has accounted for. Before anybody signs, a named person looks again, accepts it with a reason, or refuses."
                    .to_owned(),
            ),
            ..met
        },
        Some(d) if d.choice == Choice::Accept => {
            ByBasis { decided: Some(format!("The leak shown is accepted by {}: {}", d.by, ended(&d.reason))), ..met }
        }
        Some(d) => ByBasis {
            outcome: Outcome::Refused,
            sentence: "Everything that is asked was held; the test is refused for a leak that nobody accounts for.".to_owned(),
            decided: Some(format!("Refused by {}: {}", d.by, ended(&d.reason))),
            ..met
        },
    }
}

fn ended(reason: &str) -> String {
    let reason = reason.trim();
    if reason.ends_with(['.', '!', '?']) { reason.to_owned() } else { format!("{reason}.") }
}

/// What accounts for a leak that is shown, in a sentence: it was seen where it is tolerated, or a rule that counts has weighed the loss and allows it.
fn accounted(case: &HoldCase, rules: &[&RuleResult]) -> Option<String> {
    let held = |id: &str| rules.iter().any(|r| r.rule == id && r.result == Verdict::Pass);
    if crate::acceptance::WEIGHED.iter().any(|id| held(id)) || held(crate::acceptance::LEAK_RATE) {
        return Some("What is allowed covers it.".to_owned());
    }
    seen_at(case.events.iter().filter(|e| e.t_s <= case.hold_end_s))
}

/// Where leaks were seen, in a sentence; none where nobody saw one.
pub(crate) fn seen_at<'a>(events: impl Iterator<Item = &'a Event>) -> Option<String> {
    let mut places: Vec<&str> = events.filter(|e| e.kind == EventKind::LeakSeen).filter_map(|e| e.place).map(Term::words).collect();
    let many = places.len();
    places.dedup();
    (many > 0).then(|| format!("{} seen at: {}.", if many == 1 { "A leak was" } else { "Leaks were" }, places.join(", ")))
}

/// Loss that *tight* must rule out: what a person asked, else the fall that is allowed as a loss; none where nobody named a figure.
fn asked(case: &HoldCase) -> Option<VolumeFlow> {
    crate::acceptance::allowed_by_fall(case).or(case.acceptance.required_sensitivity_m3_per_s)
}

const NONE: &str = "No leak is shown";
const READ_NONE: &str = "The readings show no loss";

/// What the readings say, with what was seen before it: nobody reads that no leak is shown where somebody stood before one.
fn about_leak(case: &HoldCase, found: &Found) -> AboutLeak {
    let seen = seen_at(case.events.iter());
    let by_readings = |alone: &str, beside: &str, rest: String| match &seen {
        None => format!("{alone}{rest}"),
        Some(seen) => format!("{seen} {beside}{rest}"),
    };
    let cannot =
        |to: Option<VolumeFlow>, sentence: String| AboutLeak { said: LeakSaid::CannotTell, from_m3_per_s: None, to_m3_per_s: to, sentence };
    let Some(leak) = found.leak.filter(|_| found.finding != Finding::NotShown) else {
        return cannot(
            None,
            by_readings("The record cannot tell about a leak. ", "How much was lost the readings do not tell. ", found.reasons.join(" "))
                .trim_end()
                .to_owned(),
        );
    };
    if found.finding == Finding::LeakShown {
        return AboutLeak {
            said: LeakSaid::LeakShown,
            from_m3_per_s: Some(leak.lo_m3_per_s),
            to_m3_per_s: Some(leak.hi_m3_per_s),
            sentence: format!("A leak is shown: {}.", flow_range(leak.lo_m3_per_s, leak.hi_m3_per_s, case)),
        };
    }
    let bound = bounds(&leak);
    let below = flow(bound, case);
    match asked(case) {
        Some(asked) if leak.rules_out(asked) => AboutLeak {
            said: LeakSaid::TightTo,
            from_m3_per_s: None,
            to_m3_per_s: Some(leak.upper_999_m3_per_s),
            sentence: by_readings(
                "Tight",
                "By the readings tight",
                format!(" to {}; {} had to be ruled out.", flow(leak.upper_999_m3_per_s, case), flow(asked, case)),
            ),
        },
        Some(asked) => cannot(
            Some(bound),
            by_readings(
                NONE,
                READ_NONE,
                format!(", but this record cannot tell below {below}; {} has to be ruled out.", flow(asked, case)),
            ),
        ),
        None => cannot(
            Some(bound),
            by_readings(
                NONE,
                READ_NONE,
                format!("; below {below} this record cannot tell. Nobody asked for a figure, so no tightness is claimed."),
            ),
        ),
    }
}

/// What a record without a leak shown can be relied on to rule out: no less than such records show as a rule.
pub(crate) fn bounds(leak: &Leak) -> VolumeFlow {
    if leak.detection_limit_m3_per_s > leak.upper_999_m3_per_s { leak.detection_limit_m3_per_s } else { leak.upper_999_m3_per_s }
}

fn settle(case: &HoldCase, found: &Found, by_basis: &ByBasis, leak: &AboutLeak) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    if by_basis.outcome == Outcome::NotComplete {
        out.extend(by_basis.because.iter().cloned());
    }
    if leak.said == LeakSaid::CannotTell {
        let way = if found.leak.is_some() { would_settle(case) } else { None };
        // what the finding misses stands in the second line already, and in the first where the basis asks for it
        out.extend(way);
    }
    out.dedup();
    out
}

/// What a named person decides about a leak that is shown and that nobody has accounted for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Choice {
    /// the basis is met and the leak is accepted, with a reason
    #[strum(message = "accept it, with a reason")]
    Accept,
    /// the test is refused for it
    #[strum(message = "refuse the test")]
    Refuse,
}

/// A decision about a leak.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Decided {
    /// What.
    pub choice: Choice,
    /// Why.
    pub reason: String,
    /// By whom.
    pub by: String,
}

impl ThreeLines {
    /// The first two lines as one heading: "By the basis: meets. Leak: cannot tell below 0.3 L/h."
    pub fn heading(&self) -> String {
        format!("By the basis: {}. {}", self.by_basis.outcome.words(), self.leak.sentence)
    }
}
