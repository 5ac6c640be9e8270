//! What a release froze.

use pack::instrument::Instrument;
use pack::plan::Plan;
use rules::part::Part;
use serde::{Deserialize, Serialize};

/// What an attempt froze when it was released.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Frozen {
    /// Title of the pack.
    pub title: String,
    /// Plan.
    pub plan: Plan,
    /// Parts.
    pub parts: Vec<Part>,
    /// Everything that is recorded, as certified, in the order of the channels.
    pub instruments: Vec<Instrument>,
    /// What the project laid down at the release.
    #[serde(default)]
    pub specification: rules::specification::Specification,
    /// What followed from it when it was released; absent where an earlier version released it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub derived: Option<rules::system::Derived>,
    /// The rules that it was released by; empty where an earlier version released it.
    #[serde(default)]
    pub rules_version: String,
    /// What stood open at the gates; empty where an earlier version released it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub gates: Vec<PassedGate>,
}

/// A gate as it was passed at the release.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PassedGate {
    /// Id of its rule.
    pub rule: String,
    /// What was found.
    pub found: String,
}

impl Frozen {
    /// The hold that the test must last.
    pub fn hold(&self) -> quantity::Span {
        self.plan.hold(&self.specification)
    }

    /// The system as frozen.
    pub fn system(&self) -> rules::system::System {
        self.plan.system(&self.title, self.parts.clone(), &self.instruments, &self.specification)
    }

    /// Height of a gauge in the plan, m; none where the plan has no such gauge.
    pub fn elevation_m(&self, tag: &str) -> Option<f64> {
        if tag == self.plan.gauge_tag {
            return Some(self.plan.gauge_elevation_m.m());
        }
        self.plan.also.iter().find(|a| a.tag == tag).map(|a| a.elevation_m.m())
    }
}
