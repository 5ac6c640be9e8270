//! Table `recorder_lease`: which server polls an attempt's instruments.

use sqlx::MySqlPool;

/// An attempt that is under way, and may have instruments to poll.
#[derive(Debug, Clone)]
pub struct OpenAttempt {
    /// Its id.
    pub id: String,
}

/// Attempts that are not booked as drained, not followed by another, and whose record is not signed: the needle is watched until nothing is
/// left that could fill it again.
///
/// # Errors
/// When the database fails.
pub async fn open_attempts(db: &MySqlPool) -> Result<Vec<OpenAttempt>, sqlx::Error> {
    sqlx::query_as!(
        OpenAttempt,
        "SELECT a.id FROM attempt a
         WHERE NOT EXISTS (SELECT 1 FROM event e WHERE e.attempt_id = a.id AND e.kind = 'drained')
           AND NOT EXISTS (SELECT 1 FROM attempt n WHERE n.pack_id = a.pack_id AND n.number > a.number)
           AND NOT EXISTS (SELECT 1 FROM content c WHERE c.attempt_id = a.id)"
    )
    .fetch_all(db)
    .await
}

/// Where the rig of a practice run answers.
///
/// # Errors
/// When the database fails.
pub async fn rig_port(db: &MySqlPool, attempt: &str) -> Result<Option<u16>, sqlx::Error> {
    Ok(sqlx::query_scalar!("SELECT rig_port FROM recorder_lease WHERE attempt_id = ?", attempt).fetch_optional(db).await?.flatten())
}

/// Says where the rig of a practice run answers.
///
/// # Errors
/// When the database fails.
pub async fn set_rig_port(db: &MySqlPool, attempt: &str, port: u16) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE recorder_lease SET rig_port = ? WHERE attempt_id = ?", port, attempt).execute(db).await?;
    Ok(())
}

/// Takes the lease of an attempt for two seconds; true when this holder has it. One that nobody renewed may be taken by anybody. The
/// database's own clock decides.
///
/// # Errors
/// When the database fails.
pub async fn take(db: &MySqlPool, attempt: &str, holder: &str) -> Result<bool, sqlx::Error> {
    sqlx::query!("INSERT IGNORE INTO recorder_lease (attempt_id, holder) VALUES (?, ?)", attempt, holder).execute(db).await?;
    let taken = sqlx::query!(
        "UPDATE recorder_lease SET holder = ?, expires_at = CURRENT_TIMESTAMP(6) + INTERVAL 1600000 MICROSECOND
         WHERE attempt_id = ? AND (holder = ? OR expires_at < CURRENT_TIMESTAMP(6))",
        holder,
        attempt,
        holder
    )
    .execute(db)
    .await?;
    Ok(taken.rows_affected() == 1)
}
