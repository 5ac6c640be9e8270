//! A run in a file: what `zero-leak run` reads.

use crate::frozen::Frozen;
use crate::now::{Now, Tell};
use crate::rows::Rows;
use crate::run::Run;
use moment::{Instant, Zone};
use quantity::PressureUnit;
use rules::say::Say;
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// Number of the format as this version writes it.
pub const FORMAT: u32 = 1;

/// A run with its release and its rows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RunFile {
    /// Number of the format.
    pub format: u32,
    /// Zone in which its times are said, as `Europe/Lisbon`.
    pub zone: String,
    /// Unit in which its pressures are said; that of its gauge where absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<PressureUnit>,
    /// When it was released for test.
    pub released_at: Instant,
    /// What the release froze.
    pub release: Frozen,
    /// What came in since.
    #[serde(default)]
    pub rows: Rows,
    /// The hour at which it is told; that of its last row where absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub now: Option<Instant>,
}

/// Why a file is not told.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum RunFileError {
    /// A later format.
    #[error("it is in format {found}, and this program reads up to {FORMAT}: use a later version of it")]
    Format {
        /// its number
        found: u32,
    },
    /// No zone of that name.
    #[error("there is no zone \"{name}\": name one of the time zone database, as Europe/Lisbon")]
    Zone {
        /// as written
        name: String,
    },
}

impl RunFile {
    /// The run, the hour at which it is told, and how.
    ///
    /// # Errors
    /// When the format is a later one, or there is no such zone.
    pub fn open(self) -> Result<(Run, Now, Tell), RunFileError> {
        if self.format > FORMAT {
            return Err(RunFileError::Format { found: self.format });
        }
        let zone = Zone::named(&self.zone).ok_or_else(|| RunFileError::Zone { name: self.zone.clone() })?;
        let run = Run::of(self.released_at, Arc::new(self.release), self.rows);
        let at = self.now.unwrap_or_else(|| run.shown(run.last_s_of_all()));
        let unit = self.unit.or(run.facts().gauge.as_ref().map(|g| g.unit)).unwrap_or_default();
        let now = Now::by_clock(&run, at);
        Ok((run, now, Tell { say: Say::from(unit), zone, at }))
    }
}

impl Run {
    /// When the last row was, s from the release; nil without any.
    fn last_s_of_all(&self) -> f64 {
        let events = self.events().last().map(|e| self.event_s(e));
        let read = self.readings().last().map(|r| r.t_s.s());
        events.into_iter().chain(read).fold(0.0, f64::max)
    }
}
