//! Tables `content` and `signature`: what is signed, and by whom.

use crate::problem::Problem;
use record::sealed::{Content, Parts, SignedStatement};
use sqlx::{MySqlPool, MySqlTransaction};

/// Content of a record, as read and as it was signed.
#[derive(Debug, Clone)]
pub struct ContentRow {
    /// The content.
    pub parts: Parts,
    /// Its canonical form, as it was kept.
    pub written: Content,
}

/// The content of an attempt's record, once it is frozen.
///
/// # Errors
/// When the database fails, or holds what is not what was signed.
pub async fn content(db: &MySqlPool, attempt: &str) -> Result<Option<ContentRow>, Problem> {
    let row = sqlx::query!("SELECT sha256, parts FROM content WHERE attempt_id = ?", attempt).fetch_optional(db).await?;
    let Some(row) = row else { return Ok(None) };
    let parts = serde_json::from_str(&row.parts)?;
    let written = Content::kept(row.parts.into_bytes())?;
    if written.sha256()? != row.sha256 {
        return Err(Problem::Conflict(
            "What the database holds of this record is not what was signed: do not use it. Restore the database from its backup, or rely on the sealed file that was handed out.".to_owned(),
        ));
    }
    Ok(Some(ContentRow { parts, written }))
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
pub async fn freeze(tx: &mut MySqlTransaction<'_>, attempt: &str, content: &Content) -> Result<(), Problem> {
    let (sha256, text) = (content.sha256()?, String::from_utf8_lossy(content.canonical()).into_owned());
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
