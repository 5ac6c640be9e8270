//! Table `tick`: what the recorder read at one instant, every channel together, only ever added to.

use crate::problem::Problem;
use serde::Serialize;
use sqlx::MySqlPool;

/// How a channel answered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Answer {
    /// with a figure
    Read,
    /// not at all
    None,
    /// with something that is no figure
    Unreadable,
}

/// One channel at one instant.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Sampled {
    /// Place in the attempt's list of instruments.
    pub channel: u8,
    /// How it answered.
    pub answer: Answer,
    /// Pa, °C or strokes; absent unless it answered with a figure.
    pub value: Option<f64>,
}

/// One instant.
#[derive(Debug, Clone, PartialEq)]
pub struct Tick {
    /// Sequence in the attempt, from 1, without a gap.
    pub seq: u64,
    /// µs since 1970.
    pub at_us: i64,
    /// Channels.
    pub values: Vec<Sampled>,
}

/// Bytes of one channel: its number, how it answered, the figure little-endian.
const ENTRY: usize = 10;

fn pack(values: &[Sampled]) -> Vec<u8> {
    let mut out = Vec::with_capacity(values.len() * ENTRY);
    for v in values {
        out.push(v.channel);
        out.push(match v.answer {
            Answer::Read => 0,
            Answer::None => 1,
            Answer::Unreadable => 2,
        });
        out.extend_from_slice(&v.value.unwrap_or(f64::NAN).to_le_bytes());
    }
    out
}

fn unpack(bytes: &[u8]) -> Vec<Sampled> {
    bytes
        .chunks_exact(ENTRY)
        .map(|e| Sampled {
            channel: e[0],
            answer: match e[1] {
                0 => Answer::Read,
                1 => Answer::None,
                _ => Answer::Unreadable,
            },
            value: Some(f64::from_le_bytes(<[u8; 8]>::try_from(&e[2..10]).unwrap_or_default())).filter(|v| !v.is_nan()),
        })
        .collect()
}

/// What became of a tick that was to be stored.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stored {
    /// it is there
    Yes,
    /// another server holds the lease
    LeaseLost,
    /// the record is signed: nothing is added
    Signed,
}

/// Stores an instant under a lease, with the next number of the sequence, and renews the lease. The same instant again changes nothing.
///
/// # Errors
/// When the database fails; the caller keeps the tick and tries again.
pub async fn insert(db: &MySqlPool, attempt: &str, holder: &str, at_us: i64, values: &[Sampled]) -> Result<Stored, sqlx::Error> {
    let mut tx = db.begin().await?;
    let held = sqlx::query!(
        "UPDATE recorder_lease SET last_seq = last_seq + 1, expires_at = CURRENT_TIMESTAMP(6) + INTERVAL 4 SECOND WHERE attempt_id = ? AND holder = ?",
        attempt,
        holder
    )
    .execute(&mut *tx)
    .await?;
    if held.rows_affected() == 0 {
        return Ok(Stored::LeaseLost);
    }
    let done = sqlx::query!(
        "INSERT INTO tick (attempt_id, seq, at_us, body) SELECT attempt_id, last_seq, ?, ? FROM recorder_lease WHERE attempt_id = ?",
        at_us,
        pack(values),
        attempt
    )
    .execute(&mut *tx)
    .await;
    match done {
        // the transaction is rolled back, so the number is given to the next
        Err(e) if crate::problem::duplicate(&e) => Ok(Stored::Yes),
        Err(e) if e.as_database_error().and_then(|d| d.code().map(|c| c == "45000")).unwrap_or(false) => Ok(Stored::Signed),
        Err(e) => Err(e),
        Ok(_) => {
            tx.commit().await?;
            Ok(Stored::Yes)
        }
    }
}

/// Instants of an attempt after a number of the sequence, in its order.
///
/// # Errors
/// When the database fails.
pub async fn after(db: &MySqlPool, attempt: &str, seq: u64) -> Result<Vec<Tick>, Problem> {
    let rows =
        sqlx::query!("SELECT seq, at_us, body FROM tick WHERE attempt_id = ? AND seq > ? ORDER BY seq", attempt, seq).fetch_all(db).await?;
    Ok(rows.into_iter().map(|r| Tick { seq: r.seq, at_us: r.at_us, values: unpack(&r.body) }).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_packed_is_unpacked_whatever_answered() {
        let values = [
            Sampled { channel: 0, answer: Answer::Read, value: Some(25.46e5) },
            Sampled { channel: 7, answer: Answer::None, value: None },
            Sampled { channel: 255, answer: Answer::Unreadable, value: None },
            Sampled { channel: 3, answer: Answer::Read, value: Some(-0.0) },
        ];
        assert_eq!(unpack(&pack(&values)), values);
        assert_eq!(pack(&values).len(), 4 * ENTRY);
        assert!(unpack(&[]).is_empty());
    }
}
