//! What a rule is: one id that stands in the file, the code, the interface, the record and the test.

use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// Where a rule's words come from, and how far they may be trusted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Standing {
    /// written from memory of a published code; shown as "not checked against the published edition"
    #[strum(message = "not checked against the published edition")]
    NotChecked,
    /// common practice of the trade, no source
    #[strum(message = "common practice")]
    CommonPractice,
    /// follows from arithmetic or physics alone
    #[strum(message = "arithmetic")]
    Arithmetic,
}

/// What a derivation cites: a rule of the code, or one of a data file.
pub trait Cited {
    /// Its id.
    fn id(&self) -> &str;
    /// Its sentence.
    fn sentence(&self) -> &str;
    /// Clause; empty where none is known.
    fn clause(&self) -> &str;
    /// Edition; empty where none is known.
    fn edition(&self) -> &str;
    /// How far to trust it.
    fn standing(&self) -> Standing;
}

impl Cited for Rule {
    fn id(&self) -> &str {
        self.id
    }
    fn sentence(&self) -> &str {
        self.sentence
    }
    fn clause(&self) -> &str {
        self.clause
    }
    fn edition(&self) -> &str {
        self.edition
    }
    fn standing(&self) -> Standing {
        self.standing
    }
}

/// One rule.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rule {
    /// Its id, the same string everywhere.
    pub id: &'static str,
    /// What it says, in one sentence.
    pub sentence: &'static str,
    /// Clause of the code, if one is known.
    pub clause: &'static str,
    /// Edition that the clause was remembered from.
    pub edition: &'static str,
    /// How far to trust it.
    pub standing: Standing,
    /// File that applies it, from the workspace's root.
    pub file: &'static str,
    /// Name of a test that would fail without it.
    pub test: &'static str,
}
