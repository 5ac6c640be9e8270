//! What stands against a test although its window can be derived: each at its field, all at once.

use serde::{Deserialize, Serialize};

/// Something that stops the release, with the place where it is cleared.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Objection {
    /// Id of the rule.
    pub rule: String,
    /// Tag of the part, where it is about one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
    /// The field or column to mend.
    pub field: String,
    /// Step of the spine where that field stands.
    pub step: String,
    /// What, why, and what to do.
    pub sentence: String,
}

impl Objection {
    /// About the whole system.
    pub fn new(rule: &str, step: &str, field: &str, sentence: impl Into<String>) -> Self {
        Self { rule: rule.to_owned(), part: None, field: field.to_owned(), step: step.to_owned(), sentence: sentence.into() }
    }

    /// About one part, cleared in the list of parts.
    pub fn of_part(rule: &str, part: &str, column: &str, sentence: impl Into<String>) -> Self {
        Self { part: Some(part.to_owned()), ..Self::new(rule, "derive", column, sentence) }
    }
}
