//! Roles of the people who work on a test.

use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What a person is on this site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Role {
    /// plans and derives
    #[strum(message = "engineer")]
    Engineer,
    /// runs the day
    #[strum(message = "supervisor")]
    Supervisor,
    /// reads gauges
    #[strum(message = "gauge reader")]
    Reader,
    /// inspects
    #[strum(message = "inspector")]
    Inspector,
    /// sees the test hold
    #[strum(message = "witness")]
    Witness,
    /// accepts; on a small object does everything
    #[strum(message = "owner")]
    Owner,
    /// looks after the installation; has no part in any test
    #[strum(message = "administrator")]
    Administrator,
}

/// Somebody with a part in the project of a test, whose account is open.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Member {
    /// Sign-in name.
    pub person: String,
    /// Role.
    pub role: Role,
}

/// Who does what on a test, by sign-in name; an empty name blocks release.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct People {
    /// Performs: the supervisor.
    pub performs: String,
    /// Inspects: the inspector.
    pub inspects: String,
    /// Witnesses.
    pub witnesses: String,
    /// Accepts: the owner.
    pub accepts: String,
}

impl People {
    /// True when `person` is named in any part.
    pub fn name(&self, person: &str) -> bool {
        !person.is_empty() && [&self.performs, &self.inspects, &self.witnesses, &self.accepts].iter().any(|p| p.as_str() == person)
    }
}
