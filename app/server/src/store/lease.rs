//! Table `recorder_lease`: which server polls an attempt's instruments.

use sqlx::MySqlPool;

/// An attempt that is under way, and may have instruments to poll.
#[derive(Debug, Clone)]
pub struct OpenAttempt {
    /// Its id.
    pub id: String,
}

/// Attempts whose pressure is not booked as released and whose record is not signed.
///
/// # Errors
/// When the database fails.
pub async fn open_attempts(db: &MySqlPool) -> Result<Vec<OpenAttempt>, sqlx::Error> {
    sqlx::query_as!(
        OpenAttempt,
        "SELECT a.id FROM attempt a
         WHERE NOT EXISTS (SELECT 1 FROM event e WHERE e.attempt_id = a.id AND e.kind = 'released')
           AND NOT EXISTS (SELECT 1 FROM content c WHERE c.attempt_id = a.id)"
    )
    .fetch_all(db)
    .await
}

/// Takes the lease of an attempt for four seconds; true when this holder has it. One that nobody renewed may be taken by anybody. The
/// database's own clock decides.
///
/// # Errors
/// When the database fails.
pub async fn take(db: &MySqlPool, attempt: &str, holder: &str) -> Result<bool, sqlx::Error> {
    sqlx::query!("INSERT IGNORE INTO recorder_lease (attempt_id, holder) VALUES (?, ?)", attempt, holder).execute(db).await?;
    let taken = sqlx::query!(
        "UPDATE recorder_lease SET holder = ?, expires_at = CURRENT_TIMESTAMP(6) + INTERVAL 4 SECOND
         WHERE attempt_id = ? AND (holder = ? OR expires_at < CURRENT_TIMESTAMP(6))",
        holder,
        attempt,
        holder
    )
    .execute(db)
    .await?;
    Ok(taken.rows_affected() == 1)
}
