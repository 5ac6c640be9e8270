//! Tables `content` and `signature`: what is signed, and by whom.

use crate::clock::stored;
use crate::problem::Problem;
use pack::signing::Act;
use record::sealed::{Content, Parts, SignedStatement};
use run::Run;
use sqlx::{MySqlPool, MySqlTransaction};
use terms::Term;

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

/// Keeps the sealed file of so many signatures.
///
/// # Errors
/// When it is kept already.
pub async fn keep_file(tx: &mut MySqlTransaction<'_>, attempt: &str, signatures: usize, file: &[u8], key: &str) -> Result<(), Problem> {
    let signatures = u8::try_from(signatures).unwrap_or(u8::MAX);
    sqlx::query!("INSERT INTO sealed_file (attempt_id, signatures, file) VALUES (?, ?, ?)", attempt, signatures, file)
        .execute(&mut **tx)
        .await?;
    sqlx::query!("INSERT IGNORE INTO sealing_key (public_key) VALUES (?)", key).execute(&mut **tx).await?;
    Ok(())
}

/// The sealed file of so many signatures, as it was kept; none of those that an earlier version took.
///
/// # Errors
/// When the database fails.
pub async fn kept_file(db: &MySqlPool, attempt: &str, signatures: usize) -> Result<Option<Vec<u8>>, Problem> {
    let signatures = u8::try_from(signatures).unwrap_or(u8::MAX);
    Ok(sqlx::query_scalar!("SELECT file FROM sealed_file WHERE attempt_id = ? AND signatures = ?", attempt, signatures)
        .fetch_optional(db)
        .await?)
}

/// Public keys that sealed here, hex.
///
/// # Errors
/// When the database fails.
pub async fn known_keys(db: &MySqlPool) -> Result<Vec<String>, sqlx::Error> {
    sqlx::query_scalar!("SELECT public_key FROM sealing_key ORDER BY first_used").fetch_all(db).await
}

/// Makes a key known: the next start takes it.
///
/// # Errors
/// When the database fails.
pub async fn adopt_key(db: &MySqlPool, public_key: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("INSERT IGNORE INTO sealing_key (public_key) VALUES (?)", public_key).execute(db).await.map(|_| ())
}

/// True once anybody has signed here.
///
/// # Errors
/// When the database fails.
pub async fn any(db: &MySqlPool) -> Result<bool, sqlx::Error> {
    Ok(sqlx::query_scalar!("SELECT COUNT(*) FROM signature").fetch_one(db).await? > 0)
}

/// Number of the pack and attempt by which a record was superseded; none where it was not, or is not known here.
///
/// # Errors
/// When the database fails.
pub async fn superseded_by(db: &MySqlPool, content_sha256: &str) -> Result<Option<(String, u32)>, Problem> {
    let row = sqlx::query!(
        "SELECT p.number AS pack, a.number FROM attempt a JOIN pack p ON p.id = a.pack_id JOIN content c ON c.attempt_id = a.id WHERE a.supersedes = ? LIMIT 1",
        content_sha256
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.pack, r.number)))
}

/// For some seconds nothing is added to an attempt: whoever wants to is told to try again.
///
/// # Errors
/// When the database fails.
pub async fn pause(db: &MySqlPool, attempt: &str) -> Result<(), Problem> {
    sqlx::query!(
        "INSERT INTO sealing_pause (attempt_id, until_at) VALUES (?, CURRENT_TIMESTAMP(6) + INTERVAL 20 SECOND)
         ON DUPLICATE KEY UPDATE until_at = CURRENT_TIMESTAMP(6) + INTERVAL 20 SECOND",
        attempt
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The end of that.
///
/// # Errors
/// When the database fails.
pub async fn resume(db: &MySqlPool, attempt: &str) -> Result<(), Problem> {
    sqlx::query!("DELETE FROM sealing_pause WHERE attempt_id = ?", attempt).execute(db).await?;
    Ok(())
}

/// What a record is made of, counted: another once anything of it was added.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Marks {
    events: i64,
    readings: i64,
    files: i64,
    signatures: i64,
    corrections: i64,
    last_tick: u64,
    struck: i64,
}

/// The marks of an attempt, with the recorder's instants up to a moment of the run's own time.
///
/// # Errors
/// When the database fails.
pub async fn marks(db: impl sqlx::MySqlExecutor<'_>, id: &str, until_us: i64) -> Result<Marks, Problem> {
    let m = sqlx::query!(
        "SELECT (SELECT COUNT(*) FROM event WHERE attempt_id = ?) AS \"events!\", (SELECT COUNT(*) FROM reading WHERE attempt_id = ?) AS \"readings!\",
                (SELECT COUNT(*) FROM recording WHERE attempt_id = ?) AS \"files!\", (SELECT COUNT(*) FROM signature WHERE attempt_id = ?) AS \"signatures!\",
                (SELECT COUNT(*) FROM correction WHERE attempt_id = ?) AS \"corrections!\",
                (SELECT MAX(seq) FROM tick WHERE attempt_id = ? AND run_us <= ?) AS last_tick,
                (SELECT COUNT(*) FROM struck WHERE attempt_id = ?) AS \"struck!\"",
        id, id, id, id, id, id, until_us, id
    )
    .fetch_one(db)
    .await?;
    Ok(Marks {
        events: m.events,
        readings: m.readings,
        files: m.files,
        signatures: m.signatures,
        corrections: m.corrections,
        last_tick: m.last_tick.unwrap_or(0),
        struck: m.struck,
    })
}

/// The same of a run that was read.
pub fn marks_of(run: &Run, signatures: usize) -> Marks {
    let count = |n: usize| i64::try_from(n).unwrap_or(i64::MAX);
    Marks {
        events: count(run.events().len()),
        readings: count(run.typed().len()),
        files: count(run.recordings().len()),
        signatures: count(signatures),
        corrections: count(run.corrections().len()),
        last_tick: run.recorded_ticks().last().map_or(0, |t| t.seq),
        struck: count(run.typed().iter().filter(|r| r.struck.is_some()).count()),
    }
}

/// True where a signature of this id was given already.
///
/// # Errors
/// When the database fails.
pub async fn given(db: &MySqlPool, id: &str, attempt: &str) -> Result<bool, Problem> {
    Ok(sqlx::query_scalar!("SELECT COUNT(*) FROM signature WHERE id = ? AND attempt_id = ?", id, attempt).fetch_one(db).await? > 0)
}

/// A link with which somebody without an account signs one record.
#[derive(Debug, Clone)]
pub struct SignLink {
    /// The attempt.
    pub attempt: String,
    /// What they sign.
    pub act: Act,
    /// For whom it was made.
    pub name: String,
    /// Who made it.
    pub made_by: String,
}

/// Makes a link; an earlier one for the same signature is good no more.
///
/// # Errors
/// When the database fails.
pub async fn link(db: &MySqlPool, token_sha256: &str, link: &SignLink, until: moment::Instant) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    sqlx::query!(
        "UPDATE sign_link SET used_at = CURRENT_TIMESTAMP(6) WHERE attempt_id = ? AND act = ? AND used_at IS NULL",
        link.attempt,
        link.act.key()
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "INSERT INTO sign_link (token_sha256, attempt_id, act, name, made_by, expires_at) VALUES (?, ?, ?, ?, ?, ?)",
        token_sha256,
        link.attempt,
        link.act.key(),
        link.name,
        link.made_by,
        stored(until)
    )
    .execute(&mut *tx)
    .await?;
    Ok(tx.commit().await?)
}

/// What a link is for; none where it was used, replaced, or has run out.
///
/// # Errors
/// When the database fails.
pub async fn linked(db: &MySqlPool, token_sha256: &str) -> Result<Option<SignLink>, Problem> {
    let row = sqlx::query!(
        "SELECT attempt_id, act, name, made_by FROM sign_link WHERE token_sha256 = ? AND used_at IS NULL AND expires_at > CURRENT_TIMESTAMP(6)",
        token_sha256
    )
    .fetch_optional(db)
    .await?;
    Ok(row.and_then(|r| Some(SignLink { attempt: r.attempt_id, act: Act::from_key(&r.act)?, name: r.name, made_by: r.made_by })))
}

/// Uses a link up; false where somebody was first.
///
/// # Errors
/// When the database fails.
pub async fn used(db: &MySqlPool, token_sha256: &str) -> Result<bool, Problem> {
    let done = sqlx::query!("UPDATE sign_link SET used_at = CURRENT_TIMESTAMP(6) WHERE token_sha256 = ? AND used_at IS NULL", token_sha256)
        .execute(db)
        .await?;
    Ok(done.rows_affected() == 1)
}

/// Adds a signature under the account that answers for it.
///
/// # Errors
/// When this act is signed already.
pub async fn insert(tx: &mut MySqlTransaction<'_>, id: &str, attempt: &str, account: &str, s: &SignedStatement) -> Result<(), Problem> {
    let text = serde_json::to_string(s)?;
    let done = sqlx::query!(
        "INSERT INTO signature (id, attempt_id, act, person, statement) VALUES (?, ?, ?, ?, ?)",
        id,
        attempt,
        s.act.key(),
        account,
        text
    )
    .execute(&mut **tx)
    .await;
    match done {
        Err(e) if crate::problem::duplicate(&e) => Err(Problem::Conflict(format!("This test is already signed as {}.", s.act.key()))),
        other => Ok(other.map(|_| ())?),
    }
}
