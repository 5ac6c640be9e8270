//! What is wrong with a record, as people read it.

use serde::{Deserialize, Serialize};

pub use hold::reading::Kind as DefectKind;

/// A defect of the record.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct FoundDefect {
    /// Its kind.
    pub kind: DefectKind,
    /// Tag of the instrument; absent for the whole row.
    pub channel: Option<String>,
    /// From, s on the clock of the readings.
    pub start_s: f64,
    /// To, s on the clock of the readings.
    pub end_s: f64,
    /// By how much a clock jumped, s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub jump_s: Option<f64>,
    /// How many readings it touches.
    pub readings: usize,
    /// Why a person lets it stand; absent where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub overruled: Option<String>,
}
