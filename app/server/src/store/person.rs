//! Table `person`: accounts. Only the owner of the database changes it; what was changed stands in the security log.

use super::security::{self, What};
use pack::people::Role;
use sqlx::MySqlPool;
use terms::Term;

/// Who changes an account on the command line, as the log names them.
const LOCAL: &str = "local";

/// Notes what was done on the command line.
///
/// # Errors
/// When the database fails.
pub async fn note(db: &MySqlPool, what: What, sign_in: &str, detail: &str) -> Result<(), sqlx::Error> {
    let by = std::env::var("USER").or_else(|_| std::env::var("LOGNAME")).unwrap_or_else(|_| "somebody".to_owned());
    let now = crate::clock::Clock::real().now().us();
    security::add(db, now, [what.key(), sign_in, LOCAL, &format!("{detail}, by {by} on the command line")]).await
}

/// Adds a person; or changes their password, and their role where it is another. One that was ended is opened again.
///
/// # Errors
/// When the database fails.
pub async fn set(db: &MySqlPool, sign_in: &str, role: Role, password: &str) -> Result<(), sqlx::Error> {
    let password = password.to_owned();
    let hash = tokio::task::spawn_blocking(move || password_auth::generate_hash(password))
        .await
        .map_err(|e| sqlx::Error::Protocol(e.to_string()))?;
    let there = sqlx::query!("SELECT role, ended_at FROM person WHERE sign_in = ?", sign_in).fetch_optional(db).await?;
    sqlx::query!(
        "INSERT INTO person (id, sign_in, role, password_hash) VALUES (?, ?, ?, ?)
         ON DUPLICATE KEY UPDATE password_hash = VALUES(password_hash), role = VALUES(role), ended_at = NULL",
        uuid::Uuid::now_v7().to_string(),
        sign_in,
        role.key(),
        hash
    )
    .execute(db)
    .await?;
    let Some(before) = there else {
        return note(db, What::AccountMade, sign_in, &format!("role {}", role.key())).await;
    };
    if before.ended_at.is_some() {
        note(db, What::AccountReopened, sign_in, &format!("role {}", role.key())).await?;
    }
    if before.role != role.key() {
        note(db, What::RoleChanged, sign_in, &format!("from {} to {}", before.role, role.key())).await?;
    }
    note(db, What::PasswordSet, sign_in, "a new password").await
}

/// Ends an account: nobody signs in with it any more, its sessions end, and what it did stays under its name. False where there is none.
///
/// # Errors
/// When the database fails.
pub async fn end(db: &MySqlPool, sign_in: &str) -> Result<bool, sqlx::Error> {
    let ended = sqlx::query!("UPDATE person SET ended_at = CURRENT_TIMESTAMP(6) WHERE sign_in = ? AND ended_at IS NULL", sign_in)
        .execute(db)
        .await?;
    if ended.rows_affected() == 0 {
        return Ok(false);
    }
    sqlx::query!("DELETE FROM session WHERE person = ?", sign_in).execute(db).await?;
    note(db, What::AccountEnded, sign_in, "ended").await?;
    Ok(true)
}
