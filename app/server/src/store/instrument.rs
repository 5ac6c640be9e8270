//! Table `instrument`.

use crate::problem::Problem;
use pack::instrument::Instrument;
use sqlx::MySqlPool;

/// An instrument with its version.
#[derive(Debug, Clone)]
pub struct InstrumentRow {
    /// The instrument.
    pub instrument: Instrument,
    /// Version.
    pub version: u32,
}

/// All of them by tag.
///
/// # Errors
/// When the database fails.
pub async fn all(db: &MySqlPool) -> Result<Vec<InstrumentRow>, Problem> {
    let rows = sqlx::query!("SELECT body, version FROM instrument ORDER BY tag").fetch_all(db).await?;
    rows.into_iter().map(|r| Ok(InstrumentRow { instrument: serde_json::from_str(&r.body)?, version: r.version })).collect()
}

/// Adds an instrument (`version` none), or changes it when it is still at `version`.
///
/// # Errors
/// When it is there already, or somebody else changed it.
pub async fn put(db: &MySqlPool, instrument: &Instrument, version: Option<u32>) -> Result<u32, Problem> {
    let body = serde_json::to_string(instrument)?;
    if let Some(version) = version {
        let done = sqlx::query!(
            "UPDATE instrument SET body = ?, version = version + 1 WHERE tag = ? AND version = ?",
            body,
            instrument.tag,
            version
        )
        .execute(db)
        .await?;
        return if done.rows_affected() == 1 {
            Ok(version + 1)
        } else {
            Err(Problem::Changed(format!(
                "{} was changed by somebody else after you opened it, or is not in the store: reload, then save again.",
                instrument.tag
            )))
        };
    }
    match sqlx::query!("INSERT INTO instrument (tag, body) VALUES (?, ?)", instrument.tag, body).execute(db).await {
        Err(e) if crate::problem::duplicate(&e) => {
            let same = sqlx::query_scalar!("SELECT COUNT(*) FROM instrument WHERE tag = ? AND body = ?", instrument.tag, body)
                .fetch_one(db)
                .await?
                > 0;
            if same {
                Ok(1)
            } else {
                Err(Problem::invalid("tag", format!("{} is in the store already: open it to change it", instrument.tag)))
            }
        }
        other => Ok(other.map(|_| 1)?),
    }
}
