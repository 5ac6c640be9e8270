//! Table `instrument`.

use super::history::{self, Changed, Kind};
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
    /// Who keeps it: nobody else changes it or its certificate. None of those that were entered before instruments had keepers.
    pub keeper: Option<String>,
}

/// An instrument whose row cannot be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unreadable {
    /// Its tag.
    pub tag: String,
}

/// All of them by tag.
///
/// # Errors
/// When the database fails.
pub async fn rows(db: &MySqlPool) -> Result<Vec<Result<InstrumentRow, Unreadable>>, Problem> {
    let rows = sqlx::query!("SELECT tag, body, version, keeper FROM instrument ORDER BY tag").fetch_all(db).await?;
    let read = |body: &str, tag: String| {
        serde_json::from_str(body).map_err(|e| {
            tracing::error!(tag, error = %e, "an instrument cannot be read");
            Unreadable { tag }
        })
    };
    Ok(rows.into_iter().map(|r| Ok(InstrumentRow { instrument: read(&r.body, r.tag)?, version: r.version, keeper: r.keeper })).collect())
}

/// All that can be read, by tag.
///
/// # Errors
/// When the database fails.
pub async fn all(db: &MySqlPool) -> Result<Vec<InstrumentRow>, Problem> {
    Ok(rows(db).await?.into_iter().filter_map(Result::ok).collect())
}

/// One of them, if it is there.
///
/// # Errors
/// When the database fails.
pub async fn get(db: &MySqlPool, tag: &str) -> Result<Option<InstrumentRow>, Problem> {
    let row = sqlx::query!("SELECT body, version, keeper FROM instrument WHERE tag = ?", tag).fetch_optional(db).await?;
    row.map(|r| Ok(InstrumentRow { instrument: serde_json::from_str(&r.body)?, version: r.version, keeper: r.keeper })).transpose()
}

/// Adds an instrument (`version` none), which whoever adds it keeps, or changes it when it is still at `version`.
///
/// # Errors
/// When it is there already, or somebody else changed it.
pub async fn put(db: &MySqlPool, instrument: &Instrument, version: Option<u32>, by: &str) -> Result<u32, Problem> {
    let body = serde_json::to_string(instrument)?;
    let tag = instrument.tag.as_str();
    let note = Changed { kind: Kind::Instrument, subject: tag, item: tag, person: by };
    let before = get(db, tag).await?;
    let mut tx = db.begin().await?;
    if let Some(version) = version {
        let done = sqlx::query!(
            "UPDATE instrument SET body = ?, version = version + 1, keeper = COALESCE(keeper, ?) WHERE tag = ? AND version = ?",
            body,
            by,
            tag,
            version
        )
        .execute(&mut *tx)
        .await?;
        if done.rows_affected() != 1 {
            return Err(Problem::Changed(format!(
                "{tag} was changed by somebody else after you opened it, or is not in the store: reload, then save again."
            )));
        }
        history::note(&mut *tx, note, before.as_ref().map(|b| &b.instrument), instrument).await?;
        tx.commit().await?;
        return Ok(version + 1);
    }
    match sqlx::query!("INSERT INTO instrument (tag, body, keeper) VALUES (?, ?, ?)", tag, body, by).execute(&mut *tx).await {
        Err(e) if crate::problem::duplicate(&e) => {
            if before.is_some_and(|b| b.instrument == *instrument) {
                Ok(1)
            } else {
                Err(Problem::invalid("tag", format!("{tag} is in the store already: open it to change it")))
            }
        }
        other => {
            other?;
            history::note(&mut *tx, note, None, instrument).await?;
            tx.commit().await?;
            Ok(1)
        }
    }
}

/// Passes an instrument on to another keeper.
///
/// # Errors
/// When there is no such person, or no such instrument.
pub async fn pass_on(db: &MySqlPool, tag: &str, from: Option<&str>, to: &str, by: &str) -> Result<(), Problem> {
    let there = sqlx::query_scalar!("SELECT COUNT(*) FROM person WHERE sign_in = ? AND ended_at IS NULL AND role <> 'administrator'", to)
        .fetch_one(db)
        .await?;
    if there == 0 {
        return Err(Problem::invalid("keeper", format!("nobody signs in as {to}: pass it on to somebody who does")));
    }
    let mut tx = db.begin().await?;
    sqlx::query!("UPDATE instrument SET keeper = ? WHERE tag = ?", to, tag).execute(&mut *tx).await?;
    let keeper = |name: &str| serde_json::json!({ "keeper": name });
    let note = Changed { kind: Kind::Instrument, subject: tag, item: tag, person: by };
    history::note(&mut *tx, note, from.map(keeper).as_ref(), &keeper(to)).await?;
    Ok(tx.commit().await?)
}
