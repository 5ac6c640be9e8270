//! A defect of a record.

use serde::{Deserialize, Serialize};

/// Kinds of defects.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = DefectKind)]
pub enum Kind {
    /// rows are missing
    Gap,
    /// rows are written twice
    Duplicate,
    /// single readings far from their neighbours
    Spike,
    /// an instrument shows the same value over and over
    Stuck,
    /// an instrument stands at its full scale
    Saturated,
    /// readings in another unit than the column's
    WrongUnit,
    /// the logger's clock was set anew
    ClockJump,
    /// pumped up without being booked
    Repump,
    /// let out without being booked
    Bleed,
}

impl Kind {
    /// As it is written in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Gap => "gap",
            Self::Duplicate => "duplicate",
            Self::Spike => "spike",
            Self::Stuck => "stuck",
            Self::Saturated => "saturated",
            Self::WrongUnit => "wrong_unit",
            Self::ClockJump => "clock_jump",
            Self::Repump => "repump",
            Self::Bleed => "bleed",
        }
    }
}

/// A defect, on the recorded clock.
#[derive(Debug, Clone, PartialEq)]
pub struct Defect {
    /// What.
    pub kind: Kind,
    /// In which channel; none for the whole row.
    pub channel: Option<usize>,
    /// From, s on the recorded clock.
    pub start_s: f64,
    /// To, s on the recorded clock.
    pub end_s: f64,
    /// By how much a clock jumped, s.
    pub jump_s: Option<f64>,
    /// Rows of the record in order that it touches.
    pub rows: Vec<usize>,
}

impl Defect {
    pub(super) fn of_rows(kind: Kind, channel: usize, rows: Vec<usize>) -> Self {
        Self { kind, channel: Some(channel), start_s: f64::NAN, end_s: f64::NAN, jump_s: None, rows }
    }

    /// Times from its first and last row.
    pub(super) fn on_clock(mut self, recorded: &[f64]) -> Self {
        if let (Some(first), Some(last)) = (self.rows.first(), self.rows.last()) {
            self.start_s = recorded[*first];
            self.end_s = recorded[*last];
        }
        self
    }
}
