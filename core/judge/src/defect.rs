//! What is wrong with a record, as people read it.

use quantity::{RunTime, Span};
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
    #[schema(value_type = f64)]
    pub start_s: RunTime,
    /// To, s on the clock of the readings.
    #[schema(value_type = f64)]
    pub end_s: RunTime,
    /// By how much a clock jumped, s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub jump_s: Option<Span>,
    /// How many readings it touches.
    pub readings: usize,
    /// Why a person lets it stand; absent where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub overruled: Option<String>,
}
