//! Table `event`: what happened in a run, only ever added to.

use crate::clock::{instant, stored};
use crate::problem::Problem;
use moment::Instant;
use run::rows::EventRow;
use sqlx::{MySqlConnection, MySqlExecutor, MySqlPool};
use terms::Term;
use terms::{EventKind, LeakPlace};
use time::OffsetDateTime;

/// Key of a place class, as its JSON form writes it.
fn place_key(place: LeakPlace) -> Result<String, Problem> {
    Ok(serde_json::to_value(place)?.as_str().unwrap_or_default().to_owned())
}

/// Events of an attempt in time order.
///
/// # Errors
/// When the database fails.
pub async fn of_attempt(db: impl MySqlExecutor<'_>, attempt: &str) -> Result<Vec<EventRow>, Problem> {
    let rows = sqlx::query!(
        "SELECT id, kind, at, place, looked, volume_m3, figure, about, note, person, lead_us, stored_at FROM event WHERE attempt_id = ? ORDER BY TIMESTAMPADD(MICROSECOND, -lead_us, at), id",
        attempt
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            let kind = EventKind::from_key(&r.kind).ok_or_else(|| crate::problem::internal(&"unknown event"))?;
            let place = r.place.map(|p| serde_json::from_value(serde_json::Value::String(p))).transpose()?;
            Ok(EventRow {
                id: r.id,
                kind,
                at: instant(r.at),
                place,
                looked: r.looked,
                volume_m3: r.volume_m3,
                figure: r.figure,
                of: r.about,
                note: r.note,
                person: r.person,
                lead_us: r.lead_us,
                stored_at: instant(r.stored_at),
            })
        })
        .collect()
}

/// When the pressure was let out that attempts of a pack before one of them had brought; none where none had.
///
/// # Errors
/// When the database fails.
pub async fn let_out_before(db: &MySqlPool, pack: &str, number: u32) -> Result<Option<Instant>, Problem> {
    let at = sqlx::query_scalar!(
        "SELECT MAX(e.at) AS \"at: OffsetDateTime\" FROM event e JOIN attempt a ON a.id = e.attempt_id
         WHERE a.pack_id = ? AND a.number < ? AND e.kind = 'released'
           AND EXISTS (SELECT 1 FROM event s WHERE s.attempt_id = a.id AND s.kind = 'step_reached')",
        pack,
        number
    )
    .fetch_one(db)
    .await?;
    Ok(at.map(instant))
}

/// Leaks that were booked in the attempts of a pack, those at fittings for the test only where the run stopped before its hold.
///
/// # Errors
/// When the database fails.
pub async fn leaks_of_pack(db: &MySqlPool, pack: &str) -> Result<Vec<(u32, LeakPlace, String)>, Problem> {
    let rows = sqlx::query!(
        "SELECT a.number, e.place AS \"place!\", e.note,
                EXISTS (SELECT 1 FROM event p WHERE p.attempt_id = a.id AND p.kind = 'pump_off') AS \"held: bool\"
         FROM attempt a JOIN event e ON e.attempt_id = a.id WHERE a.pack_id = ? AND e.kind = 'leak_seen' ORDER BY a.number, e.at, e.id",
        pack
    )
    .fetch_all(db)
    .await?;
    let read = rows.into_iter().map(|r| Ok((r.number, serde_json::from_value(serde_json::Value::String(r.place))?, r.note, r.held)));
    let all: Vec<(u32, LeakPlace, String, bool)> = read.collect::<Result<_, Problem>>()?;
    Ok(all
        .into_iter()
        .filter(|(_, place, _, held)| !(*held && *place == LeakPlace::TestFitting))
        .map(|(n, p, note, _)| (n, p, note))
        .collect())
}

/// True where two say the same, but for their notes.
fn same(a: &EventRow, b: &EventRow) -> bool {
    let of = |e: &EventRow| (e.kind, e.at, e.place, e.looked, e.volume_m3, e.figure, e.of.clone());
    of(a) == of(b)
}

/// Adds an event; the same again changes nothing.
///
/// # Errors
/// When the id is taken by another event.
pub async fn insert(db: &MySqlPool, attempt: &str, e: &EventRow) -> Result<(), Problem> {
    insert_in(&mut *db.acquire().await?, attempt, e).await
}

/// The same as a part of more that is stored together or not at all.
///
/// # Errors
/// As of [`insert`].
pub async fn insert_in(db: &mut MySqlConnection, attempt: &str, e: &EventRow) -> Result<(), Problem> {
    let (place, at) = (e.place.map(place_key).transpose()?, stored(e.at));
    let done = sqlx::query!(
        "INSERT INTO event (id, attempt_id, kind, at, place, looked, volume_m3, figure, about, note, person, lead_us) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        e.id,
        attempt,
        e.kind.key(),
        at,
        place,
        e.looked,
        e.volume_m3,
        e.figure,
        e.of,
        e.note,
        e.person,
        e.lead_us
    )
    .execute(&mut *db)
    .await;
    match done {
        Err(error) if crate::problem::duplicate(&error) => {
            let there = of_attempt(db, attempt).await?.into_iter().find(|t| t.id == e.id);
            let note =
                |t: &EventRow| t.note.strip_prefix(pack::acts::BY_WORD).unwrap_or(&t.note).trim() == e.note.trim() || t.note == e.note;
            match there {
                Some(t) if same(&t, e) && note(&t) => Ok(()),
                Some(t) => Err(Problem::Conflict(format!(
                    "Under this id \"{}\" of {} is stored already, with another content: an event is never changed. Book what happened under a new id.",
                    t.kind.words(),
                    t.at
                ))),
                None => Err(Problem::Conflict("This id belongs to an event of another run: book what happened under a new id.".to_owned())),
            }
        }
        other => Ok(other.map(|_| ())?),
    }
}
