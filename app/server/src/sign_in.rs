//! Passwords: argon2id, checked off the request threads.

use crate::problem::{Problem, internal};
use crate::state::App;
use pack::people::Role;

/// Checks a name and password; takes as long for an unknown name as for a known one.
///
/// # Errors
/// When they do not go together.
pub async fn check(app: &App, sign_in: &str, password: &str) -> Result<Role, Problem> {
    let row = sqlx::query!("SELECT role, password_hash FROM person WHERE sign_in = ?", sign_in).fetch_optional(&app.db).await?;
    let password = password.to_owned();
    let role = tokio::task::spawn_blocking(move || match row {
        Some(row) => password_auth::verify_password(&password, &row.password_hash).ok().and_then(|()| Role::from_key(&row.role)),
        None => {
            let _ = password_auth::generate_hash(&password);
            None
        }
    })
    .await
    .map_err(|e| internal(&e))?;
    role.ok_or(Problem::WrongPassword)
}

/// Adds a person, or changes their password.
///
/// # Errors
/// When the database fails.
pub async fn set_person(db: &sqlx::MySqlPool, sign_in: &str, role: Role, password: &str) -> Result<(), sqlx::Error> {
    let password = password.to_owned();
    let hash = tokio::task::spawn_blocking(move || password_auth::generate_hash(password))
        .await
        .map_err(|e| sqlx::Error::Protocol(e.to_string()))?;
    sqlx::query!(
        "INSERT INTO person (id, sign_in, role, password_hash) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE password_hash = VALUES(password_hash)",
        uuid::Uuid::now_v7().to_string(),
        sign_in,
        role.key(),
        hash
    )
    .execute(db)
    .await?;
    Ok(())
}
