//! The rows of a run: what people booked, typed and brought, and what the recorder read. Each has an id or a number, so that a row that comes twice is
//! there once.

use judge::case::{Boundary, MovedBoundary, Overruled};
use judge::defect::DefectKind;
use judge::lines::{Choice, Decided};
use moment::Instant;
use quantity::RunTime;
use serde::{Deserialize, Serialize};
use terms::{EventKind, LeakPlace};

const fn never() -> Instant {
    Instant::from_us(0)
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
const fn is_nil(us: &i64) -> bool {
    *us == 0
}

/// An event as booked.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct EventRow {
    /// Id made by whoever sent it.
    pub id: String,
    /// What.
    pub kind: EventKind,
    /// When.
    pub at: Instant,
    /// Place class of a leak, or of a look at one class.
    pub place: Option<LeakPlace>,
    /// How many places of that class were looked at.
    #[serde(default)]
    pub looked: Option<u32>,
    /// Volume measured of a repump or bleed, m³ (normal m³ of gas).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_m3: Option<f64>,
    /// Figure of what is booked by hand, in the SI unit of its kind.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub figure: Option<f64>,
    /// The thing, place or person that it is about.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// Free words.
    pub note: String,
    /// Who booked it.
    pub person: String,
    /// When it was booked, by the database's clock.
    #[serde(default = "never")]
    pub stored_at: Instant,
    /// How far the clock that it was booked by stood ahead of the run's own time, µs; nil unless that clock was set anew during the run.
    #[serde(default, skip_serializing_if = "is_nil")]
    pub lead_us: i64,
}

/// What a typed reading is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Channel {
    /// gauge pressure, Pa
    Pressure,
    /// temperature, °C
    Temperature,
}

impl Channel {
    /// Name in the database and in records.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Pressure => "pressure",
            Self::Temperature => "temperature",
        }
    }
}

/// That a reading was struck out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Struck {
    /// By whom.
    pub by: String,
    /// Why.
    pub reason: String,
}

/// A typed reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ReadingRow {
    /// Id made by whoever sent it.
    pub id: String,
    /// When it was read.
    pub at: Instant,
    /// What it is of.
    pub channel: Channel,
    /// Tag of the further gauge or thermometer that it was read from; absent for those that the test is read from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// Pa or °C.
    pub value: f64,
    /// As typed.
    pub as_typed: String,
    /// Who read it.
    pub person: String,
    /// When it was stored, by the database's clock.
    #[serde(default = "never")]
    pub stored_at: Instant,
    /// Who struck it out, and why; absent while it counts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub struck: Option<Struck>,
    /// How far the clock that it was read by stood ahead of the run's own time, µs; nil unless that clock was set anew during the run.
    #[serde(default, skip_serializing_if = "is_nil")]
    pub lead_us: i64,
}

impl ReadingRow {
    /// True where it counts, and was read from the gauge or thermometer that the test is read from.
    pub fn is_first(&self, channel: Channel) -> bool {
        self.channel == channel && self.of.is_none() && self.struck.is_none()
    }
}

/// One row of a logger's file.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoggerRow {
    /// Time, microseconds since 1970-01-01T00:00:00Z.
    pub at_us: i64,
    /// Gauge pressure, Pa; absent where the cell is empty.
    pub pressure_pa: Option<f64>,
    /// Temperature, °C; absent where the cell is empty.
    pub temperature_c: Option<f64>,
}

/// The rows of a logger's file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Recording {
    /// Id made by whoever sent it.
    pub id: String,
    /// When it was stored, by the database's clock.
    #[serde(default = "never")]
    pub stored_at: Instant,
    /// Its rows in the order of the file.
    pub rows: Vec<LoggerRow>,
}

/// How a channel answered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Answer {
    /// with a figure
    Read,
    /// not at all
    None,
    /// with something that is no figure
    Unreadable,
}

/// One channel at one instant.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Sampled {
    /// Place in the attempt's list of instruments.
    pub channel: u8,
    /// How it answered.
    pub answer: Answer,
    /// Pa, °C or strokes; absent unless it answered with a figure.
    pub value: Option<f64>,
}

/// What the recorder read at one instant.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Tick {
    /// Sequence in the attempt, from 1, without a gap.
    pub seq: u64,
    /// What the installation's clock showed, µs since 1970.
    pub at_us: i64,
    /// The run's own time, µs since 1970: what that clock would have shown had nobody set it since the run began.
    pub run_us: i64,
    /// Channels.
    pub values: Vec<Sampled>,
}

impl Tick {
    /// What a channel read; none where it did not answer with a figure.
    pub fn value(&self, channel: u8) -> Option<f64> {
        self.values.iter().find(|v| v.channel == channel)?.value
    }
}

/// A moment at which the installation's clock was found to have been set anew.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ClockSet {
    /// What it showed then, µs since 1970.
    pub at_us: i64,
    /// The run's own time, µs.
    pub run_us: i64,
    /// How far it stands ahead of the run's own time since, µs.
    pub lead_us: i64,
}

/// What a person corrects in how a record is read. Times are seconds from the release.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "what", rename_all = "snake_case", deny_unknown_fields)]
pub enum Correction {
    /// a defect is let stand
    Overrule {
        /// Its kind.
        kind: DefectKind,
        /// Tag of the instrument; absent for the whole row.
        channel: Option<String>,
        /// When it begins, s.
        #[schema(value_type = f64)]
        start_s: RunTime,
        /// Why.
        reason: String,
    },
    /// a boundary of the hold is moved
    Move {
        /// Which.
        boundary: Boundary,
        /// Where it was found, s.
        #[schema(value_type = f64)]
        found_s: RunTime,
        /// Where it is put, s.
        #[schema(value_type = f64)]
        moved_s: RunTime,
        /// Why.
        reason: String,
    },
    /// what becomes of a test that meets its basis although a leak is shown that nobody accounted for
    Decide {
        /// What.
        choice: Choice,
        /// Why.
        reason: String,
    },
}

impl Correction {
    /// Why.
    pub fn reason(&self) -> &str {
        match self {
            Self::Overrule { reason, .. } | Self::Move { reason, .. } | Self::Decide { reason, .. } => reason,
        }
    }
}

/// A correction with its author.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CorrectionRow {
    /// Id made by whoever sent it.
    pub id: String,
    /// When it was stored, by the database's clock: of two that move the same boundary the later counts.
    #[serde(default = "never")]
    pub at: Instant,
    /// What.
    pub correction: Correction,
    /// By whom.
    pub person: String,
}

impl CorrectionRow {
    /// As a defect let stand.
    pub fn overruled(&self) -> Option<Overruled> {
        match &self.correction {
            Correction::Overrule { kind, channel, start_s, reason } => Some(Overruled {
                kind: *kind,
                channel: channel.clone(),
                start_s: *start_s,
                reason: reason.clone(),
                by: self.person.clone(),
            }),
            Correction::Move { .. } | Correction::Decide { .. } => None,
        }
    }

    /// As a boundary moved.
    pub fn moved(&self) -> Option<MovedBoundary> {
        match &self.correction {
            Correction::Move { boundary, found_s, moved_s, reason } => Some(MovedBoundary {
                boundary: *boundary,
                found_s: *found_s,
                moved_s: *moved_s,
                reason: reason.clone(),
                by: self.person.clone(),
            }),
            Correction::Overrule { .. } | Correction::Decide { .. } => None,
        }
    }

    /// As a decision.
    pub fn decided(&self) -> Option<Decided> {
        match &self.correction {
            Correction::Decide { choice, reason } => Some(Decided { choice: *choice, reason: reason.clone(), by: self.person.clone() }),
            Correction::Overrule { .. } | Correction::Move { .. } => None,
        }
    }
}

/// One row.
#[derive(Debug, Clone, PartialEq)]
pub enum Row {
    /// an event
    Event(EventRow),
    /// a typed reading, or the same once more with who struck it out
    Reading(ReadingRow),
    /// a logger's file
    Recording(Recording),
    /// an instant of the recorder
    Tick(Tick),
    /// the clock was set anew
    ClockSet(ClockSet),
    /// a correction
    Correction(CorrectionRow),
    /// when the pressure of the attempt before was let out last
    LetOutBefore(Instant),
}

/// The rows of a run, each kind in its own order: what a file of a run holds.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Rows {
    /// Events in the order of the run's own time.
    #[serde(default)]
    pub events: Vec<EventRow>,
    /// Typed readings in the order of the run's own time.
    #[serde(default)]
    pub typed: Vec<ReadingRow>,
    /// Loggers' files in the order in which they came.
    #[serde(default)]
    pub recordings: Vec<Recording>,
    /// Instants of the recorder in their sequence.
    #[serde(default)]
    pub ticks: Vec<Tick>,
    /// When the clock was set anew, in order.
    #[serde(default)]
    pub clock_sets: Vec<ClockSet>,
    /// Corrections in the order in which they were made.
    #[serde(default)]
    pub corrections: Vec<CorrectionRow>,
    /// When the pressure of the attempt before it was let out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub let_out_before: Option<Instant>,
}

impl Rows {
    /// One by one.
    pub fn into_rows(self) -> impl Iterator<Item = Row> {
        let booked = self.events.into_iter().map(Row::Event).chain(self.typed.into_iter().map(Row::Reading));
        let brought = self.recordings.into_iter().map(Row::Recording).chain(self.clock_sets.into_iter().map(Row::ClockSet));
        let corrected = self.corrections.into_iter().map(Row::Correction).chain(self.let_out_before.map(Row::LetOutBefore));
        booked.chain(brought).chain(corrected).chain(self.ticks.into_iter().map(Row::Tick))
    }
}
