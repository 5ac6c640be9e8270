//! Roles of the people who work on a test.

use serde::{Deserialize, Serialize};

/// What a person is on this site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// plans and derives
    Engineer,
    /// runs the day
    Supervisor,
    /// reads gauges
    Reader,
    /// inspects
    Inspector,
    /// sees the test hold
    Witness,
    /// accepts; on a small object does everything
    Owner,
    /// looks after the installation; has no part in any test
    Administrator,
}

impl Role {
    /// All of them.
    pub const ALL: [Self; 7] =
        [Self::Engineer, Self::Supervisor, Self::Reader, Self::Inspector, Self::Witness, Self::Owner, Self::Administrator];

    /// In words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Engineer => "engineer",
            Self::Supervisor => "supervisor",
            Self::Reader => "gauge reader",
            Self::Inspector => "inspector",
            Self::Witness => "witness",
            Self::Owner => "owner",
            Self::Administrator => "administrator",
        }
    }

    /// As stored.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Engineer => "engineer",
            Self::Supervisor => "supervisor",
            Self::Reader => "reader",
            Self::Inspector => "inspector",
            Self::Witness => "witness",
            Self::Owner => "owner",
            Self::Administrator => "administrator",
        }
    }

    /// From what is stored.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|r| r.key() == key)
    }
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
