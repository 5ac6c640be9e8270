//! A defect of a record.

use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// Kinds of defects.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = DefectKind)]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Kind {
    /// rows are missing
    #[strum(message = "gap", detailed_message = "a gap: rows are missing")]
    Gap,
    /// rows are written twice
    #[strum(message = "rows twice", detailed_message = "rows written twice, counted once", props(short = "twice"))]
    Duplicate,
    /// single readings far from their neighbours
    #[strum(message = "spikes", detailed_message = "single readings far from their neighbours, left out")]
    Spike,
    /// an instrument shows the same value over and over
    #[strum(message = "stands still", detailed_message = "the instrument stands still, left out", props(short = "stuck"))]
    Stuck,
    /// a gauge stood still while the temperature moved: a question to people, who alone can answer it; the search does not look for it
    #[strum(
        message = "stood still while the temperature moved",
        detailed_message = "the gauge stood still while the temperature moved, to be explained",
        props(short = "flat?")
    )]
    Flat,
    /// an instrument stands at its full scale
    #[strum(message = "at full scale", detailed_message = "the instrument stands at its full scale, left out", props(short = "full scale"))]
    Saturated,
    /// readings in another unit than the column's
    #[strum(message = "another unit", detailed_message = "readings in another unit, left out", props(short = "unit"))]
    WrongUnit,
    /// the logger's clock was set anew
    #[strum(message = "clock set anew", detailed_message = "the clock was set anew, time goes on by the counter", props(short = "clock"))]
    ClockJump,
    /// pumped up without being booked
    #[strum(
        message = "pumped, not booked",
        detailed_message = "pumped up without being booked, fitted as a step",
        props(short = "pumped?")
    )]
    Repump,
    /// let out without being booked
    #[strum(
        message = "let out, not booked",
        detailed_message = "let out without being booked, fitted as a step",
        props(short = "let out?")
    )]
    Bleed,
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
