//! Table `event`: what happened in a run, only ever added to.

use crate::problem::Problem;
use judge::case::LeakPlace;
use pack::run::RunEventKind;
use serde::{Deserialize, Serialize};
use sqlx::MySqlPool;
use time::OffsetDateTime;

/// An event as stored.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct EventRow {
    /// Id made by whoever sent it.
    pub id: String,
    /// What.
    pub kind: RunEventKind,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// Place class of a leak, or of a look at one class.
    pub place: Option<LeakPlace>,
    /// How many places of that class were looked at.
    #[serde(default)]
    pub looked: Option<u32>,
    /// Volume measured of a repump or bleed, m³ (normal m³ of gas).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_m3: Option<f64>,
    /// Free words.
    pub note: String,
    /// Who booked it.
    pub person: String,
    /// When it was booked, by the database's clock.
    #[serde(with = "time::serde::rfc3339", default = "never")]
    pub stored_at: OffsetDateTime,
    /// How far the clock that it was booked by stood ahead of the run's own time, µs; nil unless that clock was set anew during the run.
    #[serde(default, skip_serializing_if = "is_nil")]
    pub lead_us: i64,
}

pub(super) const fn never() -> OffsetDateTime {
    OffsetDateTime::UNIX_EPOCH
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "what serde asks for")]
pub(super) fn is_nil(us: &i64) -> bool {
    *us == 0
}

/// Key of a place class, as its JSON form writes it.
fn place_key(place: LeakPlace) -> Result<String, Problem> {
    Ok(serde_json::to_value(place)?.as_str().unwrap_or_default().to_owned())
}

/// Events of an attempt in time order.
///
/// # Errors
/// When the database fails.
pub async fn of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<EventRow>, Problem> {
    let rows = sqlx::query!(
        "SELECT id, kind, at, place, looked, volume_m3, note, person, lead_us, stored_at FROM event WHERE attempt_id = ? ORDER BY TIMESTAMPADD(MICROSECOND, -lead_us, at), id",
        attempt
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            let kind = RunEventKind::from_key(&r.kind).ok_or_else(|| crate::problem::internal(&"unknown event"))?;
            let place = r.place.map(|p| serde_json::from_value(serde_json::Value::String(p))).transpose()?;
            Ok(EventRow {
                id: r.id,
                kind,
                at: r.at,
                place,
                looked: r.looked,
                volume_m3: r.volume_m3,
                note: r.note,
                person: r.person,
                lead_us: r.lead_us,
                stored_at: r.stored_at,
            })
        })
        .collect()
}

/// When the pressure was let out that attempts of a pack before one of them had brought; none where none had.
///
/// # Errors
/// When the database fails.
pub async fn let_out_before(db: &MySqlPool, pack: &str, number: u32) -> Result<Option<OffsetDateTime>, Problem> {
    let at = sqlx::query_scalar!(
        "SELECT MAX(e.at) AS \"at: OffsetDateTime\" FROM event e JOIN attempt a ON a.id = e.attempt_id
         WHERE a.pack_id = ? AND a.number < ? AND e.kind = 'released'
           AND EXISTS (SELECT 1 FROM event s WHERE s.attempt_id = a.id AND s.kind = 'step_reached')",
        pack,
        number
    )
    .fetch_one(db)
    .await?;
    Ok(at)
}

/// Adds an event; the same again changes nothing.
///
/// # Errors
/// When the id is taken by another event.
pub async fn insert(db: &MySqlPool, attempt: &str, e: &EventRow) -> Result<(), Problem> {
    let place = e.place.map(place_key).transpose()?;
    let done = sqlx::query!(
        "INSERT INTO event (id, attempt_id, kind, at, place, looked, volume_m3, note, person, lead_us) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        e.id,
        attempt,
        e.kind.key(),
        e.at,
        place,
        e.looked,
        e.volume_m3,
        e.note,
        e.person,
        e.lead_us
    )
    .execute(db)
    .await;
    match done {
        Err(error) if crate::problem::duplicate(&error) => {
            let there = of_attempt(db, attempt).await?.into_iter().find(|t| t.id == e.id);
            let note =
                |t: &EventRow| t.note.strip_prefix(pack::acts::BY_WORD).unwrap_or(&t.note).trim() == e.note.trim() || t.note == e.note;
            match there {
                Some(t) if (t.kind, t.at, t.place, t.looked, t.volume_m3) == (e.kind, e.at, e.place, e.looked, e.volume_m3) && note(&t) => {
                    Ok(())
                }
                Some(t) => Err(Problem::Conflict(format!(
                    "Under this id \"{}\" of {} is stored already, with another content: an event is never changed. Book what happened under a new id.",
                    t.kind.words(),
                    crate::freeze::rfc3339(t.at)
                ))),
                None => Err(Problem::Conflict("This id belongs to an event of another run: book what happened under a new id.".to_owned())),
            }
        }
        other => Ok(other.map(|_| ())?),
    }
}
