//! Table `correction`: what a person changes in how a record is read. Only ever added to.

use crate::problem::Problem;
use judge::case::{Boundary, MovedBoundary, Overruled};
use judge::defect::DefectKind;
use serde::{Deserialize, Serialize};
use sqlx::MySqlPool;

/// What is corrected. Times are seconds from the release.
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
        start_s: f64,
        /// Why.
        reason: String,
    },
    /// a boundary of the hold is moved
    Move {
        /// Which.
        boundary: Boundary,
        /// Where it was found, s.
        found_s: f64,
        /// Where it is put, s.
        moved_s: f64,
        /// Why.
        reason: String,
    },
}

impl Correction {
    /// Why.
    pub fn reason(&self) -> &str {
        match self {
            Self::Overrule { reason, .. } | Self::Move { reason, .. } => reason,
        }
    }
}

/// A correction as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct CorrectionRow {
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
            Correction::Move { .. } => None,
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
            Correction::Overrule { .. } => None,
        }
    }
}

/// Corrections of an attempt in the order in which they were made.
///
/// # Errors
/// When the database fails.
pub async fn of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<CorrectionRow>, Problem> {
    let rows = sqlx::query!("SELECT body, person FROM correction WHERE attempt_id = ? ORDER BY at, id", attempt).fetch_all(db).await?;
    rows.into_iter().map(|r| Ok(CorrectionRow { correction: serde_json::from_str(&r.body)?, person: r.person })).collect()
}

/// Adds a correction; the same id again changes nothing.
///
/// # Errors
/// When the database fails.
pub async fn insert(db: &MySqlPool, attempt: &str, id: &str, correction: &Correction, person: &str) -> Result<(), Problem> {
    let body = serde_json::to_string(correction)?;
    let done = sqlx::query!("INSERT INTO correction (id, attempt_id, body, person) VALUES (?, ?, ?, ?)", id, attempt, body, person)
        .execute(db)
        .await;
    match done {
        Err(error) if crate::problem::duplicate(&error) => {
            let there = sqlx::query!("SELECT attempt_id, body FROM correction WHERE id = ?", id).fetch_one(db).await?;
            let same = there.attempt_id == attempt && serde_json::from_str::<Correction>(&there.body)? == *correction;
            if same {
                return Ok(());
            }
            Err(Problem::Conflict(
                "Under this id another correction is stored already: a correction is never changed. Make the new one under a new id."
                    .to_owned(),
            ))
        }
        other => Ok(other.map(|_| ())?),
    }
}
