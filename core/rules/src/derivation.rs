//! A derivation: the answer to *why?* as a value, the same on screen, in the record and on paper.

use crate::rule::{Cited, Standing};
use serde::{Deserialize, Serialize};

pub use quantity::Dimension;

/// A value with its dimension.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Amount {
    /// The value in SI.
    pub value: f64,
    /// What it is.
    pub dimension: Dimension,
}

impl Amount {
    /// An amount from its SI value.
    pub const fn new(value: f64, dimension: Dimension) -> Self {
        Self { value, dimension }
    }
    /// A gauge pressure.
    pub const fn gauge(p: quantity::GaugePressure) -> Self {
        Self::new(p.pa(), Dimension::GaugePressurePa)
    }
    /// A plain number.
    pub const fn number(value: f64) -> Self {
        Self::new(value, Dimension::Number)
    }
}

/// One value put into a formula.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Input {
    /// Symbol in the formula.
    pub symbol: String,
    /// What it is.
    pub meaning: String,
    /// Its value.
    pub amount: Amount,
    /// Where the value comes from.
    pub source: String,
}

/// How a result was rounded.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Rounding {
    /// The value before.
    pub before: Amount,
    /// In words: "up to the gauge's readable division of 0.1 bar".
    pub words: String,
}

/// The answer to *why?* for one figure.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Derivation {
    /// The figure, in words.
    pub figure: String,
    /// Id of the rule.
    pub rule: String,
    /// The rule's sentence.
    pub sentence: String,
    /// The result.
    pub result: Amount,
    /// The formula with symbols.
    pub formula: String,
    /// What was put in.
    pub inputs: Vec<Input>,
    /// Clause of the code; empty where none is known.
    pub clause: String,
    /// Edition; empty where none is known.
    pub edition: String,
    /// How far to trust it.
    pub standing: Standing,
    /// How it was rounded.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rounding: Option<Rounding>,
    /// The part that governs.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub governed_by: Option<String>,
    /// What would have to change for the figure to change.
    pub would_change: String,
}

impl Derivation {
    /// Starts a derivation of `figure` by `rule`.
    pub fn new(figure: &str, rule: &dyn Cited, result: Amount, formula: &str) -> Self {
        Self {
            figure: figure.to_owned(),
            rule: rule.id().to_owned(),
            sentence: rule.sentence().to_owned(),
            result,
            formula: formula.to_owned(),
            inputs: Vec::new(),
            clause: rule.clause().to_owned(),
            edition: rule.edition().to_owned(),
            standing: rule.standing(),
            rounding: None,
            governed_by: None,
            would_change: String::new(),
        }
    }

    /// Adds a value put in.
    #[must_use]
    pub fn with(mut self, symbol: &str, meaning: &str, amount: Amount, source: impl Into<String>) -> Self {
        self.inputs.push(Input { symbol: symbol.to_owned(), meaning: meaning.to_owned(), amount, source: source.into() });
        self
    }

    /// Says how the result was rounded.
    #[must_use]
    pub fn rounded(mut self, before: Amount, words: impl Into<String>) -> Self {
        self.rounding = Some(Rounding { before, words: words.into() });
        self
    }

    /// Names the part that governs.
    #[must_use]
    pub fn governed_by(mut self, tag: &str) -> Self {
        self.governed_by = Some(tag.to_owned());
        self
    }

    /// Says what would have to change.
    #[must_use]
    pub fn would_change(mut self, words: impl Into<String>) -> Self {
        self.would_change = words.into();
        self
    }
}
