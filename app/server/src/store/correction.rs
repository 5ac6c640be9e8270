//! Table `correction`: what a person changes in how a record is read. Only ever added to.

use crate::clock::instant;
use crate::problem::Problem;
use run::rows::{Correction, CorrectionRow};
use sqlx::MySqlPool;

/// Corrections of an attempt in the order in which they were made.
///
/// # Errors
/// When the database fails.
pub async fn of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<CorrectionRow>, Problem> {
    let rows =
        sqlx::query!("SELECT id, at, body, person FROM correction WHERE attempt_id = ? ORDER BY at, id", attempt).fetch_all(db).await?;
    rows.into_iter()
        .map(|r| Ok(CorrectionRow { id: r.id, at: instant(r.at), correction: serde_json::from_str(&r.body)?, person: r.person }))
        .collect()
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
