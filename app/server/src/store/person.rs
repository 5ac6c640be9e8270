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

/// Adds a person with a role in a project, or an administrator; or changes their password, and their role where it is another. One that was ended is
/// opened again. A project that is not there is made.
///
/// # Errors
/// When the database fails, or an administrator would have a part in tests.
pub async fn set(db: &MySqlPool, sign_in: &str, role: Role, project: &str, password: &str) -> Result<(), sqlx::Error> {
    let password = password.to_owned();
    let hash = tokio::task::spawn_blocking(move || password_auth::generate_hash(password))
        .await
        .map_err(|e| sqlx::Error::Protocol(e.to_string()))?;
    let there = sqlx::query!("SELECT ended_at FROM person WHERE sign_in = ?", sign_in).fetch_optional(db).await?;
    let administrator = role == Role::Administrator;
    sqlx::query!(
        "INSERT INTO person (id, sign_in, administrator, password_hash) VALUES (?, ?, ?, ?)
         ON DUPLICATE KEY UPDATE password_hash = VALUES(password_hash), administrator = VALUES(administrator), ended_at = NULL",
        uuid::Uuid::now_v7().to_string(),
        sign_in,
        administrator,
        hash
    )
    .execute(db)
    .await?;
    match &there {
        None => note(db, What::AccountMade, sign_in, &format!("role {}", role.key())).await?,
        Some(before) if before.ended_at.is_some() => note(db, What::AccountReopened, sign_in, &format!("role {}", role.key())).await?,
        Some(_) => {}
    }
    if !administrator {
        let id = match sqlx::query_scalar!("SELECT id FROM project WHERE name = ?", project).fetch_optional(db).await? {
            Some(id) => id,
            None => {
                let id = uuid::Uuid::now_v7().to_string();
                super::project::insert(db, &id, project).await?;
                id
            }
        };
        let before =
            sqlx::query_scalar!("SELECT role FROM member WHERE project_id = ? AND person = ?", id, sign_in).fetch_optional(db).await?;
        super::project::set_role(db, &id, sign_in, role).await?;
        if let Some(before) = before.filter(|b| b != role.key()) {
            note(db, What::RoleChanged, sign_in, &format!("from {before} to {} in {project}", role.key())).await?;
        }
    }
    if there.is_some() {
        note(db, What::PasswordSet, sign_in, "a new password").await?;
    }
    Ok(())
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

/// Makes an account an administrator's again, or a new one: its password, sessions and second factor end. Where the link leads that is good for a day.
///
/// # Errors
/// When the database fails, or the account has a part in tests.
pub async fn recover(db: &MySqlPool, sign_in: &str) -> Result<String, sqlx::Error> {
    let token = record::canonical::hex(&rand::random::<[u8; 24]>());
    let hash = record::canonical::sha256_hex(token.as_bytes());
    let mut tx = db.begin().await?;
    let roles = sqlx::query_scalar!("SELECT COUNT(*) FROM member WHERE person = ?", sign_in).fetch_one(&mut *tx).await?;
    if roles > 0 {
        return Err(sqlx::Error::Protocol(format!(
            "{sign_in} has a part in tests, and whoever looks after the installation has none: name another account, which is made if it is not there"
        )));
    }
    sqlx::query!(
        "INSERT INTO person (id, sign_in, administrator, password_hash) VALUES (?, ?, TRUE, '')
         ON DUPLICATE KEY UPDATE administrator = TRUE, password_hash = '', ended_at = NULL",
        uuid::Uuid::now_v7().to_string(),
        sign_in
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!("DELETE FROM session WHERE person = ?", sign_in).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM invitation WHERE person = ?", sign_in).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM second_factor WHERE person = ?", sign_in).execute(&mut *tx).await?;
    sqlx::query!(
        "INSERT INTO invitation (token_sha256, person, made_by, expires_at) VALUES (?, ?, ?, TIMESTAMPADD(DAY, 1, CURRENT_TIMESTAMP(6)))",
        hash,
        sign_in,
        LOCAL
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    note(db, What::LinkMade, sign_in, "recovered as administrator").await?;
    Ok(format!("/join#{token}"))
}
