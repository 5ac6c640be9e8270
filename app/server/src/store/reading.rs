//! Table `reading`: typed readings, added once each.

use crate::clock::{instant, stored};
use crate::problem::Problem;
use run::rows::{Channel, ReadingRow, Struck};
use sqlx::{MySqlPool, QueryBuilder};

/// Readings of an attempt in time order.
///
/// # Errors
/// When the database fails.
pub async fn of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<ReadingRow>, Problem> {
    let rows = sqlx::query!("SELECT r.id, r.at, r.channel, r.instrument, r.value, r.as_typed, r.person, r.lead_us, r.stored_at, s.person AS \"struck_by?\", s.reason AS \"reason?\"
         FROM reading r LEFT JOIN struck s ON s.reading_id = r.id WHERE r.attempt_id = ? ORDER BY TIMESTAMPADD(MICROSECOND, -r.lead_us, r.at), r.id", attempt)
        .fetch_all(db)
        .await?;
    Ok(rows
        .into_iter()
        .map(|r| ReadingRow {
            id: r.id,
            at: instant(r.at),
            channel: if r.channel == "pressure" { Channel::Pressure } else { Channel::Temperature },
            of: r.instrument,
            value: r.value,
            as_typed: r.as_typed,
            person: r.person,
            lead_us: r.lead_us,
            stored_at: instant(r.stored_at),
            struck: r.struck_by.zip(r.reason).map(|(by, reason)| Struck { by, reason }),
        })
        .collect())
}

/// Adds readings in one transaction. One that is there already, the same in all, is left; another under the same id is refused.
///
/// # Errors
/// When an id is taken by another reading; nothing is stored then.
pub async fn insert(db: &MySqlPool, attempt: &str, readings: &[ReadingRow]) -> Result<(), Problem> {
    if readings.is_empty() {
        return Ok(());
    }
    let mut tx = db.begin().await?;
    let mut query =
        QueryBuilder::new("INSERT IGNORE INTO reading (id, attempt_id, at, channel, instrument, value, as_typed, person, lead_us) ");
    query.push_values(readings, |mut row, r| {
        row.push_bind(&r.id)
            .push_bind(attempt)
            .push_bind(stored(r.at))
            .push_bind(r.channel.key())
            .push_bind(&r.of)
            .push_bind(r.value)
            .push_bind(&r.as_typed)
            .push_bind(&r.person)
            .push_bind(r.lead_us);
    });
    let added = query.build().execute(&mut *tx).await?.rows_affected();
    if usize::try_from(added).unwrap_or(0) < readings.len() {
        for r in readings {
            let same = sqlx::query_scalar!(
                "SELECT COUNT(*) FROM reading WHERE id = ? AND attempt_id = ? AND channel = ? AND instrument <=> ? AND at = ? AND ABS(value - ?) <= 1e-12 * ABS(value)",
                r.id, attempt, r.channel.key(), r.of, stored(r.at), r.value
            )
            .fetch_one(&mut *tx)
            .await?;
            if same == 0 {
                return Err(Problem::Conflict(format!(
                    "The reading {} is stored already with another value: a reading is never changed. Send the new one under a new id.",
                    r.id
                )));
            }
        }
    }
    tx.commit().await?;
    Ok(())
}

/// Strikes a reading out; the same again changes nothing.
///
/// # Errors
/// When it is struck out already with another reason, or the record is signed.
pub async fn strike(db: &MySqlPool, attempt: &str, id: &str, reason: &str, person: &str) -> Result<(), Problem> {
    let done = sqlx::query!("INSERT INTO struck (reading_id, attempt_id, reason, person) VALUES (?, ?, ?, ?)", id, attempt, reason, person)
        .execute(db)
        .await;
    match done {
        Err(error) if crate::problem::duplicate(&error) => {
            let there = sqlx::query!("SELECT reason, person FROM struck WHERE reading_id = ?", id).fetch_one(db).await?;
            if there.reason == reason && there.person == person {
                return Ok(());
            }
            Err(Problem::Conflict(format!("This reading was struck out already by {}: \"{}\".", there.person, there.reason)))
        }
        other => Ok(other.map(|_| ())?),
    }
}
