//! Table `attempt`: one release of a pack for test, with what was planned frozen in it.

use crate::clock::{instant, stored};
use crate::problem::Problem;
use moment::Instant;
use run::Frozen;
use sqlx::MySqlPool;
use std::sync::Arc;
use time::OffsetDateTime;

/// An attempt as stored.
#[derive(Debug, Clone)]
pub struct AttemptRow {
    /// Id.
    pub id: String,
    /// Pack.
    pub pack_id: String,
    /// 1 for the first.
    pub number: u32,
    /// The attempt that it follows.
    pub follows: Option<u32>,
    /// Content hash of the record that it supersedes.
    pub supersedes: Option<String>,
    /// Why.
    pub supersedes_reason: Option<String>,
    /// When it was released.
    pub released_at: Instant,
    /// By whom.
    pub released_by: String,
    /// What was frozen.
    pub frozen: Arc<Frozen>,
}

struct Raw {
    id: String,
    pack_id: String,
    number: u32,
    follows: Option<u32>,
    supersedes: Option<String>,
    supersedes_reason: Option<String>,
    released_at: OffsetDateTime,
    released_by: String,
    frozen: String,
}

impl Raw {
    fn read(self) -> Result<AttemptRow, Problem> {
        Ok(AttemptRow {
            frozen: Arc::new(serde_json::from_str::<Frozen>(&self.frozen)?),
            id: self.id,
            pack_id: self.pack_id,
            number: self.number,
            follows: self.follows,
            supersedes: self.supersedes,
            supersedes_reason: self.supersedes_reason,
            released_at: instant(self.released_at),
            released_by: self.released_by,
        })
    }
}

/// One attempt.
///
/// # Errors
/// When there is none.
pub async fn get(db: &MySqlPool, id: &str) -> Result<AttemptRow, Problem> {
    let raw = sqlx::query_as!(Raw, "SELECT id, pack_id, number, follows, supersedes AS \"supersedes: String\", supersedes_reason, released_at, released_by, frozen FROM attempt WHERE id = ?", id)
        .fetch_optional(db)
        .await?;
    raw.ok_or(Problem::NotFound("attempt"))?.read()
}

/// Attempts of a pack, the first first.
///
/// # Errors
/// When the database fails.
pub async fn of_pack(db: &MySqlPool, pack: &str) -> Result<Vec<AttemptRow>, Problem> {
    let raw = sqlx::query_as!(Raw, "SELECT id, pack_id, number, follows, supersedes AS \"supersedes: String\", supersedes_reason, released_at, released_by, frozen FROM attempt WHERE pack_id = ? ORDER BY number", pack)
        .fetch_all(db)
        .await?;
    raw.into_iter().map(Raw::read).collect()
}

/// Adds an attempt; the same id again changes nothing. Two people who release at once get one attempt: the number is unique in the pack.
///
/// # Errors
/// When somebody else released it at the same moment.
pub async fn insert(db: &MySqlPool, row: &AttemptRow) -> Result<(), Problem> {
    let (frozen, released_at) = (serde_json::to_string(&*row.frozen)?, stored(row.released_at));
    let done = sqlx::query!(
        "INSERT INTO attempt (id, pack_id, number, follows, supersedes, supersedes_reason, released_at, released_by, frozen) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        row.id, row.pack_id, row.number, row.follows, row.supersedes, row.supersedes_reason, released_at, row.released_by, frozen
    )
    .execute(db)
    .await;
    match done {
        Err(e) if crate::problem::duplicate(&e) => match get(db, &row.id).await {
            Ok(same) if same.pack_id == row.pack_id => Ok(()),
            _ => Err(Problem::Conflict("Somebody else has just released this pack: reload to see it.".to_owned())),
        },
        other => Ok(other.map(|_| ())?),
    }
}

/// Changes whenever an event, a typed reading, a file, a correction or a signature was added to an attempt.
///
/// # Errors
/// When the database fails.
pub async fn revision(db: &MySqlPool, id: &str) -> Result<String, Problem> {
    let counts = sqlx::query!(
        "SELECT (SELECT COUNT(*) FROM event WHERE attempt_id = ?) AS events, (SELECT COUNT(*) FROM reading WHERE attempt_id = ?) AS readings,
                (SELECT COUNT(*) FROM recording WHERE attempt_id = ?) AS files, (SELECT COUNT(*) FROM signature WHERE attempt_id = ?) AS signatures,
                (SELECT COUNT(*) FROM clock_set WHERE attempt_id = ?) AS clock_sets,
                (SELECT COUNT(*) FROM struck WHERE attempt_id = ?) AS struck,
                (SELECT COUNT(*) FROM correction WHERE attempt_id = ?) AS corrections",
        id, id, id, id, id, id, id
    )
    .fetch_one(db)
    .await?;
    Ok(format!(
        "{:?}",
        (counts.events, counts.readings, counts.files, counts.signatures, counts.clock_sets, counts.struck, counts.corrections)
    ))
}
