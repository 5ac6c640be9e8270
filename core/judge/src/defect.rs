//! What is wrong with a record, as people read it.

use serde::{Deserialize, Serialize};

pub use hold::reading::Kind as DefectKind;

/// What a defect is and what becomes of its readings, in words.
pub const fn words(kind: DefectKind) -> &'static str {
    match kind {
        DefectKind::Gap => "a gap: rows are missing",
        DefectKind::Duplicate => "rows written twice, counted once",
        DefectKind::Spike => "single readings far from their neighbours, left out",
        DefectKind::Stuck => "the instrument stands still, left out",
        DefectKind::Saturated => "the instrument stands at its full scale, left out",
        DefectKind::WrongUnit => "readings in another unit, left out",
        DefectKind::ClockJump => "the clock was set anew, time goes on by the counter",
        DefectKind::Repump => "pumped up without being booked, fitted as a step",
        DefectKind::Bleed => "let out without being booked, fitted as a step",
    }
}

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
