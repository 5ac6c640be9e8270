//! Table `logger_mapping`: how a logger's files are read, remembered by the names of their columns.

use super::history::{self, Changed, Kind};
use crate::problem::Problem;
use formats::logger::Mapping;
use sqlx::MySqlPool;

fn key(header: &[String]) -> String {
    record::canonical::sha256_hex(header.join("\u{1f}").as_bytes())
}

/// The mapping that a person last used for files with these columns.
///
/// # Errors
/// When the database fails.
pub async fn recall(db: &MySqlPool, person: &str, header: &[String]) -> Result<Option<Mapping>, Problem> {
    let row = sqlx::query_scalar!("SELECT mapping FROM logger_mapping WHERE header_sha256 = ? AND person = ?", key(header), person)
        .fetch_optional(db)
        .await?;
    let mapping: Option<Mapping> = row.and_then(|text| serde_json::from_str(&text).ok());
    // which of two hours it was is asked about for each file
    Ok(mapping.map(|m| Mapping { doubled_hour: None, ..m }))
}

/// Remembers a mapping for the person who read a file of a pack with it.
///
/// # Errors
/// When the database fails.
pub async fn remember(db: &MySqlPool, pack: &str, person: &str, header: &[String], mapping: &Mapping) -> Result<(), Problem> {
    let text = serde_json::to_string(mapping)?;
    let before = recall(db, person, header).await?;
    let columns = header.join(", ");
    let note = Changed { kind: Kind::Mapping, subject: pack, item: &columns, person, why: None };
    let mut tx = db.begin().await?;
    history::note(&mut *tx, note, before.as_ref(), mapping).await?;
    sqlx::query!(
        "INSERT INTO logger_mapping (header_sha256, person, mapping) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE mapping = VALUES(mapping)",
        key(header),
        person,
        text
    )
    .execute(&mut *tx)
    .await?;
    Ok(tx.commit().await?)
}
