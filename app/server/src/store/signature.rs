//! Tables `content` and `signature`: what is signed, and by whom.

use crate::problem::Problem;
use record::sealed::{Parts, SignedStatement};
use sqlx::{MySqlPool, MySqlTransaction};

/// Content of a record with its hash.
#[derive(Debug, Clone)]
pub struct ContentRow {
    /// SHA-256 of the content.
    pub sha256: String,
    /// The content.
    pub parts: Parts,
}

/// The content of an attempt's record, once it is frozen.
///
/// # Errors
/// When the database fails.
pub async fn content(db: &MySqlPool, attempt: &str) -> Result<Option<ContentRow>, Problem> {
    let row = sqlx::query!("SELECT sha256, parts FROM content WHERE attempt_id = ?", attempt).fetch_optional(db).await?;
    row.map(|r| Ok(ContentRow { sha256: r.sha256, parts: serde_json::from_str(&r.parts)? })).transpose()
}

/// Hash of the content, once it is frozen.
///
/// # Errors
/// When the database fails.
pub async fn content_sha256(db: &MySqlPool, attempt: &str) -> Result<Option<String>, Problem> {
    Ok(sqlx::query_scalar!("SELECT sha256 FROM content WHERE attempt_id = ?", attempt).fetch_optional(db).await?)
}

/// Signatures of an attempt in the order of signing.
///
/// # Errors
/// When the database fails.
pub async fn of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<SignedStatement>, Problem> {
    let rows =
        sqlx::query_scalar!("SELECT statement FROM signature WHERE attempt_id = ? ORDER BY signed_at, act", attempt).fetch_all(db).await?;
    let mut all: Vec<SignedStatement> = rows.iter().map(|s| serde_json::from_str(s)).collect::<Result<_, _>>()?;
    all.sort_by_key(|s| s.act);
    Ok(all)
}

/// Freezes the content, in the transaction of the first signature.
///
/// # Errors
/// When it is frozen already.
pub async fn freeze(tx: &mut MySqlTransaction<'_>, attempt: &str, sha256: &str, parts: &Parts) -> Result<(), Problem> {
    let text = serde_json::to_string(parts)?;
    sqlx::query!("INSERT INTO content (attempt_id, sha256, parts) VALUES (?, ?, ?)", attempt, sha256, text).execute(&mut **tx).await?;
    Ok(())
}

/// Adds a signature.
///
/// # Errors
/// When this act is signed already.
pub async fn insert(tx: &mut MySqlTransaction<'_>, id: &str, attempt: &str, s: &SignedStatement) -> Result<(), Problem> {
    let text = serde_json::to_string(s)?;
    let done = sqlx::query!(
        "INSERT INTO signature (id, attempt_id, act, person, statement) VALUES (?, ?, ?, ?, ?)",
        id,
        attempt,
        s.act.key(),
        s.person,
        text
    )
    .execute(&mut **tx)
    .await;
    match done {
        Err(e) if crate::problem::duplicate(&e) => Err(Problem::Conflict(format!("This test is already signed as {}.", s.act.key()))),
        other => Ok(other.map(|_| ())?),
    }
}
