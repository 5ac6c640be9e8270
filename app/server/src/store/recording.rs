//! Table `recording`: a logger's file byte for byte, and its rows packed.

use crate::clock::instant;
use crate::problem::Problem;
use formats::logger::Mapping;
use moment::Instant;
use record::sealed::LoggerFile;
use run::rows::{LoggerRow, Recording};
use sqlx::MySqlPool;

/// Bytes of one packed row: time in µs, pressure in Pa, temperature in °C, each little-endian; NaN where absent.
const ROW: usize = 24;

fn pack(rows: &[LoggerRow]) -> Vec<u8> {
    let mut out = Vec::with_capacity(rows.len() * ROW);
    for r in rows {
        out.extend_from_slice(&r.at_us.to_le_bytes());
        out.extend_from_slice(&r.pressure_pa.unwrap_or(f64::NAN).to_le_bytes());
        out.extend_from_slice(&r.temperature_c.unwrap_or(f64::NAN).to_le_bytes());
    }
    out
}

fn unpack(bytes: &[u8]) -> Vec<LoggerRow> {
    let eight = |row: &[u8], at: usize| <[u8; 8]>::try_from(&row[at..at + 8]).unwrap_or_default();
    let figure = |row: &[u8], at| Some(f64::from_le_bytes(eight(row, at))).filter(|v| !v.is_nan());
    bytes
        .chunks_exact(ROW)
        .map(|row| LoggerRow { at_us: i64::from_le_bytes(eight(row, 0)), pressure_pa: figure(row, 8), temperature_c: figure(row, 16) })
        .collect()
}

/// A file to be stored.
#[derive(Debug)]
pub struct NewRecording<'a> {
    /// Id made by whoever sends it.
    pub id: &'a str,
    /// Attempt.
    pub attempt: &'a str,
    /// Name of the file.
    pub file_name: &'a str,
    /// The file.
    pub raw: &'a [u8],
    /// How it was read.
    pub mapping: &'a Mapping,
    /// Its rows.
    pub rows: &'a [LoggerRow],
    /// Who brought it.
    pub person: &'a str,
}

/// Adds a recording; the same file again changes nothing.
///
/// # Errors
/// When the database fails.
pub async fn insert(db: &MySqlPool, new: &NewRecording<'_>) -> Result<(), Problem> {
    let sha256 = record::canonical::sha256_hex(new.raw);
    let mapping = serde_json::to_string(new.mapping)?;
    let count = u32::try_from(new.rows.len()).unwrap_or(u32::MAX);
    let done = sqlx::query!(
        "INSERT INTO recording (id, attempt_id, file_name, sha256, raw, mapping, row_count, packed, person) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        new.id, new.attempt, new.file_name, sha256, new.raw, mapping, count, pack(new.rows), new.person
    )
    .execute(db)
    .await;
    match done {
        Err(e) if crate::problem::duplicate(&e) => same_as_stored(db, new, &sha256).await,
        other => Ok(other.map(|_| ())?),
    }
}

/// Refuses a file that would be read otherwise than it was, and another file under an id that is used.
async fn same_as_stored(db: &MySqlPool, new: &NewRecording<'_>, sha256: &str) -> Result<(), Problem> {
    let there = sqlx::query!(
        "SELECT attempt_id, file_name, sha256 AS \"sha256: String\", mapping, packed, person FROM recording WHERE id = ? OR (attempt_id = ? AND sha256 = ?) ORDER BY id = ? DESC",
        new.id, new.attempt, sha256, new.id
    )
    .fetch_one(db)
    .await?;
    if there.attempt_id != new.attempt {
        return Err(Problem::Conflict("Under this id a file of another run is stored already: send this one under a new id.".to_owned()));
    }
    if there.sha256 != sha256 {
        return Err(Problem::Conflict(format!(
            "Under this id another file is stored already ({}, by {}): send this one under a new id.",
            there.file_name, there.person
        )));
    }
    let stored: Mapping = serde_json::from_str(&there.mapping)?;
    if stored == *new.mapping {
        return Ok(());
    }
    let span = |rows: &[LoggerRow]| {
        let at = |r: Option<&LoggerRow>| r.map_or_else(String::new, |r| Instant::from_us(r.at_us).to_string());
        format!("{} to {}", at(rows.first()), at(rows.last()))
    };
    Err(Problem::Conflict(format!(
        "This file is stored already, by {}, and was read otherwise: zone {}, {}. Read as you say now, with the zone {}, it would be {}. Nothing was changed: \
         what is stored is never read anew. If it was read wrongly, note that under what happened and begin a new attempt, or have the file written anew by \
         the logger with the right clock.",
        there.person,
        stored.zone,
        span(&unpack(&there.packed)),
        new.mapping.zone,
        span(new.rows)
    )))
}

/// Rows of every recording of an attempt, file by file in the order in which they came.
///
/// # Errors
/// When the database fails.
pub async fn rows_of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<Recording>, Problem> {
    let files = sqlx::query!("SELECT id, stored_at, packed FROM recording WHERE attempt_id = ? ORDER BY stored_at, id", attempt)
        .fetch_all(db)
        .await?;
    Ok(files.into_iter().map(|f| Recording { id: f.id, stored_at: instant(f.stored_at), rows: unpack(&f.packed) }).collect())
}

/// Every file of an attempt, without its bytes.
///
/// # Errors
/// When the database fails.
pub async fn files_of_attempt(db: &MySqlPool, attempt: &str) -> Result<Vec<LoggerFile>, Problem> {
    let rows = sqlx::query!(
        "SELECT file_name, sha256, row_count, mapping, person, stored_at FROM recording WHERE attempt_id = ? ORDER BY stored_at, id",
        attempt
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            let mapping = serde_json::from_str(&r.mapping)?;
            Ok(LoggerFile {
                file_name: r.file_name,
                sha256: r.sha256,
                rows: r.row_count,
                mapping,
                by: r.person,
                stored_at: instant(r.stored_at).to_string(),
            })
        })
        .collect()
}
