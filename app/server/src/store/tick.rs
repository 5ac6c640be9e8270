//! Table `tick`: what the recorder read at one instant, every channel together, only ever added to.

use crate::problem::Problem;
use run::own_time::{Kept, Moment};
use run::rows::{Answer, ClockSet, Sampled, Tick};
use sqlx::MySqlPool;

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

/// Who records.
#[derive(Debug, Clone, Copy)]
pub struct Recorder<'a> {
    /// The attempt.
    pub attempt: &'a str,
    /// Holder of its lease.
    pub holder: &'a str,
    /// Which start of which machine counts the time.
    pub boot: &'a str,
}

/// Stores an instant under a lease, with the next number of the sequence, and renews the lease. The same instant again changes nothing.
///
/// # Errors
/// When the database fails; the caller keeps the tick and tries again.
pub async fn insert(db: &MySqlPool, by: Recorder<'_>, moment: Moment, values: &[Sampled]) -> Result<Stored, sqlx::Error> {
    let Recorder { attempt, holder, boot } = by;
    let mut tx = db.begin().await?;
    let held = sqlx::query!(
        "UPDATE recorder_lease SET last_seq = last_seq + 1, expires_at = CURRENT_TIMESTAMP(6) + INTERVAL 1600000 MICROSECOND,
           boot = ?, steady_us = ?, run_us = ?, lead_us = COALESCE(?, lead_us) WHERE attempt_id = ? AND holder = ?",
        boot,
        moment.steady_us,
        moment.run_us,
        moment.set_lead_us,
        attempt,
        holder
    )
    .execute(&mut *tx)
    .await?;
    if held.rows_affected() == 0 {
        return Ok(Stored::LeaseLost);
    }
    let done = sqlx::query!(
        "INSERT INTO tick (attempt_id, seq, at_us, run_us, body) SELECT attempt_id, last_seq, ?, ?, ? FROM recorder_lease WHERE attempt_id = ?",
        moment.at_us,
        moment.run_us,
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
            if let Some(lead) = moment.set_lead_us {
                sqlx::query!(
                    "INSERT INTO clock_set (attempt_id, seq, at_us, run_us, lead_us) SELECT attempt_id, last_seq, ?, ?, ? FROM recorder_lease WHERE attempt_id = ?",
                    moment.at_us,
                    moment.run_us,
                    lead,
                    attempt
                )
                .execute(&mut *tx)
                .await?;
            }
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
    let rows = sqlx::query!("SELECT seq, at_us, run_us, body FROM tick WHERE attempt_id = ? AND seq > ? ORDER BY seq", attempt, seq)
        .fetch_all(db)
        .await?;
    Ok(rows.into_iter().map(|r| Tick { seq: r.seq, at_us: r.at_us, run_us: r.run_us, values: unpack(&r.body) }).collect())
}

/// When the installation's clock was set anew during an attempt, in order.
///
/// # Errors
/// When the database fails.
pub async fn clock_sets(db: &MySqlPool, attempt: &str) -> Result<Vec<ClockSet>, Problem> {
    Ok(sqlx::query_as!(ClockSet, "SELECT at_us, run_us, lead_us FROM clock_set WHERE attempt_id = ? ORDER BY seq", attempt)
        .fetch_all(db)
        .await?)
}

/// What was last stored of the run's own time; none before the first reading.
///
/// # Errors
/// When the database fails.
pub async fn kept(db: &MySqlPool, attempt: &str) -> Result<Option<Kept>, sqlx::Error> {
    sqlx::query_as!(Kept, "SELECT boot, steady_us, run_us, lead_us FROM recorder_lease WHERE attempt_id = ? AND run_us <> 0", attempt)
        .fetch_optional(db)
        .await
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
