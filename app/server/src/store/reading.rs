//! Table `reading`: typed readings, added once each.

use crate::problem::Problem;
use serde::{Deserialize, Serialize};
use sqlx::{MySqlPool, QueryBuilder};
use time::OffsetDateTime;

/// What a reading is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Channel {
    /// gauge pressure, Pa
    Pressure,
    /// temperature, °C
    Temperature,
}

impl Channel {
    /// Name in the database and in records.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Pressure => "pressure",
            Self::Temperature => "temperature",
        }
    }
}

/// A reading as stored.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ReadingRow {
    /// Id made by whoever sent it.
    pub id: String,
    /// When it was read.
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// What it is of.
    pub channel: Channel,
    /// Pa or °C.
    pub value: f64,
    /// As typed.
    pub as_typed: String,
    /// Who read it.
    pub person: String,
    /// When it was stored, by the database's clock.
    #[serde(with = "time::serde::rfc3339", default = "super::event::never")]
    pub stored_at: OffsetDateTime,
    /// How far the clock that it was read by stood ahead of the run's own time, µs; nil unless that clock was set anew during the run.
    #[serde(default, skip_serializing_if = "super::event::is_nil")]
    pub lead_us: i64,
}

/// Readings of an attempt in time order.
///
/// # Errors
/// When the database fails.
pub async fn of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<ReadingRow>, Problem> {
    let rows = sqlx::query!("SELECT id, at, channel, value, as_typed, person, lead_us, stored_at FROM reading WHERE attempt_id = ? ORDER BY TIMESTAMPADD(MICROSECOND, -lead_us, at), id", attempt)
        .fetch_all(db)
        .await?;
    Ok(rows
        .into_iter()
        .map(|r| ReadingRow {
            id: r.id,
            at: r.at,
            channel: if r.channel == "pressure" { Channel::Pressure } else { Channel::Temperature },
            value: r.value,
            as_typed: r.as_typed,
            person: r.person,
            lead_us: r.lead_us,
            stored_at: r.stored_at,
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
    let mut query = QueryBuilder::new("INSERT IGNORE INTO reading (id, attempt_id, at, channel, value, as_typed, person, lead_us) ");
    query.push_values(readings, |mut row, r| {
        row.push_bind(&r.id)
            .push_bind(attempt)
            .push_bind(r.at)
            .push_bind(r.channel.key())
            .push_bind(r.value)
            .push_bind(&r.as_typed)
            .push_bind(&r.person)
            .push_bind(r.lead_us);
    });
    let added = query.build().execute(&mut *tx).await?.rows_affected();
    if usize::try_from(added).unwrap_or(0) < readings.len() {
        for r in readings {
            let same = sqlx::query_scalar!(
                "SELECT COUNT(*) FROM reading WHERE id = ? AND attempt_id = ? AND channel = ? AND at = ? AND ABS(value - ?) <= 1e-12 * ABS(value)",
                r.id, attempt, r.channel.key(), r.at, r.value
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
