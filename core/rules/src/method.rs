//! How a test is made: the plain liquid test, or an alternative with its reason, its conditions and its approvals.

use crate::basis::{Basis, Medium};
use crate::rule::{Rule, Standing};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::LazyLock;

/// Rules of the method.
pub const RULES: &[&Rule] = &[&ALTERNATIVE];

/// Alternatives.
pub const ALTERNATIVE: Rule = Rule {
    id: "METHOD-ALTERNATIVE",
    sentence: "A test is made with liquid unless there is a written reason; every alternative needs its own reason, its conditions and its named approvals, and a waiver says of every method why it cannot be used.",
    clause: "",
    edition: "",
    standing: Standing::CommonPractice,
    file: file!(),
    test: "method_alternative_an_alternative_needs_reason_conditions_and_approvals",
};

/// The methods as their file has them.
pub const FILE: (&str, &str) = ("methods.toml", include_str!("../data/methods.toml"));

/// Something to say yes to, or a name to give.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Confirmed {
    /// Key.
    pub key: String,
    /// In words.
    pub words: String,
}

/// One way to test.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Method {
    /// Its id.
    pub id: String,
    /// Rank: 1 is taken unless something speaks against it.
    pub rank: u8,
    /// Name.
    pub name: String,
    /// True where a reason against the plain liquid test is needed.
    #[serde(default)]
    pub needs_reason: bool,
    /// True where every method above must be said why it cannot be used.
    #[serde(default)]
    pub why_not: bool,
    /// Conditions, each to be confirmed.
    #[serde(default)]
    pub conditions: Vec<Confirmed>,
    /// Approvals, each by name.
    #[serde(default)]
    pub approvals: Vec<Confirmed>,
}

/// All methods and the reasons against a plain liquid test.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Methods {
    /// In the order of their rank.
    #[serde(rename = "method")]
    pub methods: Vec<Method>,
    /// Reasons.
    #[serde(rename = "reason")]
    pub reasons: Vec<Confirmed>,
}

static METHODS: LazyLock<Methods> = LazyLock::new(|| {
    // the file is the crate's own, and a test opens it
    toml::from_str(FILE.1).unwrap_or_else(|e| unreachable!("the shipped methods are readable (tested): {e}"))
});

/// The methods that ship.
pub fn methods() -> &'static Methods {
    &METHODS
}

/// What was answered about the method of a test.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct MethodAnswers {
    /// Keys of the reasons that hold.
    pub reasons: BTreeSet<String>,
    /// Keys of the conditions that were confirmed.
    pub conditions: BTreeSet<String>,
    /// Names of those who approved, by key.
    pub approvals: BTreeMap<String, String>,
    /// Why each method above cannot be used and what was tried, by its id.
    pub why_not: BTreeMap<String, String>,
    /// Share of the volume that holds gas in a hydro-pneumatic test; absent where all of it does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub gas_share: Option<f64>,
    /// Height of the water line of a hydro-pneumatic test, m: what lies below it is under water.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub water_line_m: Option<quantity::Length>,
}

/// How the method of a test stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct MethodStanding {
    /// Id of the method.
    pub id: String,
    /// Its name.
    pub name: String,
    /// Its rank, 1 being the plain liquid test.
    pub rank: u8,
    /// What is still open, in sentences; empty when it may be used.
    pub open: Vec<String>,
}

/// The method that basis and medium mean.
pub fn method_of(basis: &Basis, answers: &MethodAnswers) -> &'static Method {
    let id = match (basis.id.as_str(), basis.medium) {
        ("b31_3_sensitive", _) => "sensitive_leak",
        ("b31_3_initial_service", _) => "initial_service",
        ("b31_3_alternative", _) => "waiver",
        (_, Medium::Liquid) => "hydrostatic",
        _ if answers.gas_share.is_some_and(|s| s < 1.0) => "hydro_pneumatic",
        _ => "pneumatic",
    };
    METHODS.methods.iter().find(|m| m.id == id).unwrap_or_else(|| unreachable!("{id} is a method of the file (tested)"))
}

/// How the method that basis and medium mean stands.
pub fn standing(basis: &Basis, answers: &MethodAnswers) -> MethodStanding {
    let method = method_of(basis, answers);
    let mut open = Vec::new();
    if method.needs_reason && !METHODS.reasons.iter().any(|r| answers.reasons.contains(&r.key)) {
        open.push(format!("The {} needs a reason against the plain liquid test: name the one that holds.", method.name));
    }
    let unmet = method.conditions.iter().filter(|c| !answers.conditions.contains(&c.key));
    open.extend(unmet.map(|c| format!("Not confirmed: {}", c.words)));
    let nameless = method.approvals.iter().filter(|a| answers.approvals.get(&a.key).is_none_or(|n| n.trim().is_empty()));
    open.extend(nameless.map(|a| format!("Nobody is named for the approval by the {}.", a.words)));
    if method.why_not {
        let above = METHODS.methods.iter().filter(|m| m.rank < method.rank);
        let silent = above.filter(|m| answers.why_not.get(&m.id).is_none_or(|t| t.trim().is_empty()));
        open.extend(silent.map(|m| format!("The waiver does not say why no {} can be made and what was tried.", m.name)));
    }
    MethodStanding { id: method.id.clone(), name: method.name.clone(), rank: method.rank, open }
}
