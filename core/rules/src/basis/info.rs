//! The book of bases as a form offers it.

use super::book::Bases;
use super::entry::{Asked, BasisRule, Duty, Entry};
use crate::rule::Standing;
use crate::say::Say;
use quantity::Span;
use serde::Serialize;
use std::collections::BTreeMap;

/// A rule as shown to a person.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct RuleInfo {
    /// Id.
    pub id: String,
    /// Sentence.
    pub sentence: String,
    /// Clause; empty where none is known.
    pub clause: String,
    /// Edition; empty where none is known.
    pub edition: String,
    /// How far to trust it.
    pub standing: Standing,
}

/// An answer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct OptionInfo {
    /// Key.
    pub key: String,
    /// In words.
    pub words: String,
}

/// A question; the first answer is the default.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct ChoiceInfo {
    /// Key.
    pub key: String,
    /// The question.
    pub question: String,
    /// Asked only where another choice has this answer.
    pub only: BTreeMap<String, String>,
    /// Answers.
    pub options: Vec<OptionInfo>,
}

/// A basis on offer.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct BasisInfo {
    /// Id.
    pub id: String,
    /// Name.
    pub name: String,
    /// What kind of thing is tested.
    pub duty: Duty,
    /// What must be given.
    pub asks: Vec<Asked>,
    /// Why liquid is refused; absent where it is not.
    pub no_liquid: Option<String>,
    /// Why gas is refused; absent where it is not.
    pub no_gas: Option<String>,
    /// True where the owner's figure must be given with liquid.
    pub agreed_with_liquid: bool,
    /// True where the owner's figure must be given with gas.
    pub agreed_with_gas: bool,
    /// Floor of the hold with liquid, s; absent where no rule is known, so that the owner's figure must be given.
    #[schema(value_type = Option<f64>)]
    pub hold_floor_s: Option<Span>,
    /// The same with gas.
    #[schema(value_type = Option<f64>)]
    pub hold_floor_gas_s: Option<Span>,
    /// Conditions, in sentences.
    pub conditions: Vec<String>,
    /// Questions.
    pub choices: Vec<ChoiceInfo>,
    /// Rules.
    pub rules: Vec<RuleInfo>,
    /// True for an owner's standard on top of a code.
    pub on_top: bool,
}

fn rule(r: &BasisRule, say: Say) -> RuleInfo {
    RuleInfo {
        id: r.id.clone(),
        sentence: r.sentence.said(say),
        clause: r.clause.clone(),
        edition: r.edition.clone(),
        standing: r.standing,
    }
}

fn info(e: &Entry, say: Say) -> BasisInfo {
    let asks_agreed = |p: &Option<super::entry::Pressures>| p.as_ref().is_some_and(|p| p.least.is_none());
    BasisInfo {
        id: e.id.clone(),
        name: e.name.clone(),
        duty: e.duty,
        asks: e.asks.clone(),
        no_liquid: e.gas_only.clone(),
        no_gas: e
            .no_gas()
            .map(str::to_owned)
            .or_else(|| e.gas.is_none().then(|| "This tool knows no rule for a gas test by this basis.".to_owned())),
        agreed_with_liquid: asks_agreed(&e.liquid),
        agreed_with_gas: asks_agreed(&e.gas),
        hold_floor_s: e.hold_floor(false),
        hold_floor_gas_s: e.hold_floor(true),
        conditions: e.conditions.iter().map(|c| c.said(say)).collect(),
        choices: e
            .choices
            .iter()
            .map(|c| ChoiceInfo {
                key: c.key.clone(),
                question: c.question.clone(),
                only: c.only.clone(),
                options: c.options.iter().map(|o| OptionInfo { key: o.key.clone(), words: o.words.said(say) }).collect(),
            })
            .collect(),
        rules: e.rules().into_iter().map(|r| rule(r, say)).collect(),
        on_top: e.on_top,
    }
}

/// Every basis of the book, its figures in a person's units.
pub fn catalogue(bases: &Bases, say: Say) -> Vec<BasisInfo> {
    bases.all().map(|(e, _)| info(e, say)).collect()
}
