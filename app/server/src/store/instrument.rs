//! Table `instrument`.

use super::history::{self, Changed, Kind};
use crate::problem::Problem;
use pack::instrument::{Instrument, Quarantine};
use sqlx::MySqlPool;
use std::collections::BTreeMap;

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

/// Those that are lent to a project and can be read, by tag.
///
/// # Errors
/// When the database fails.
pub async fn lent_to(db: &MySqlPool, project: &str) -> Result<Vec<Instrument>, Problem> {
    let rows = sqlx::query!(
        "SELECT i.tag, i.body FROM instrument i JOIN instrument_loan o ON o.tag = i.tag WHERE o.project_id = ? ORDER BY i.tag",
        project
    )
    .fetch_all(db)
    .await?;
    // one that cannot be read is named where the store is shown
    Ok(rows.into_iter().filter_map(|r| serde_json::from_str(&r.body).ok()).collect())
}

/// To which projects instruments are lent, by tag.
///
/// # Errors
/// When the database fails.
pub async fn loans(db: &MySqlPool) -> Result<BTreeMap<String, Vec<String>>, Problem> {
    let mut all: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for r in sqlx::query!("SELECT tag, project_id FROM instrument_loan ORDER BY tag, project_id").fetch_all(db).await? {
        all.entry(r.tag).or_default().push(r.project_id);
    }
    Ok(all)
}

/// Lends an instrument to these projects and to no other; what changed is kept.
///
/// # Errors
/// When a test of a project from which it would be taken is under way with it.
pub async fn lend(db: &MySqlPool, tag: &str, projects: &[String], by: &str) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let before = sqlx::query_scalar!("SELECT project_id FROM instrument_loan WHERE tag = ? ORDER BY project_id FOR UPDATE", tag)
        .fetch_all(&mut *tx)
        .await?;
    for project in before.iter().filter(|p| !projects.contains(p)) {
        let under_test = sqlx::query_scalar!(
            "SELECT l.number FROM pack_uses u JOIN pack_line l ON l.pack_id = u.pack_id
              WHERE u.tag = ? AND l.project_id = ? AND l.state_kind = 'running' ORDER BY l.number LIMIT 1",
            tag,
            project
        )
        .fetch_optional(&mut *tx)
        .await?;
        if let Some(number) = under_test {
            return Err(Problem::Conflict(format!(
                "{tag} is in use on {number}, which is under test: take it back once the pressure is released."
            )));
        }
        sqlx::query!("DELETE FROM instrument_loan WHERE tag = ? AND project_id = ?", tag, project).execute(&mut *tx).await?;
    }
    for project in projects.iter().filter(|p| !before.contains(p)) {
        sqlx::query!("INSERT INTO instrument_loan (tag, project_id) VALUES (?, ?)", tag, project).execute(&mut *tx).await?;
    }
    let lent = |to: &[String]| serde_json::json!({ "lent_to": to });
    let note = Changed { kind: Kind::Instrument, subject: tag, item: tag, person: by, why: None };
    history::note(&mut *tx, note, Some(&lent(&before)), &lent(projects)).await?;
    Ok(tx.commit().await?)
}

/// One of them, if it is there.
///
/// # Errors
/// When the database fails.
pub async fn get(db: &MySqlPool, tag: &str) -> Result<Option<InstrumentRow>, Problem> {
    let row = sqlx::query!("SELECT body, version, keeper FROM instrument WHERE tag = ?", tag).fetch_optional(db).await?;
    row.map(|r| Ok(InstrumentRow { instrument: serde_json::from_str(&r.body)?, version: r.version, keeper: r.keeper })).transpose()
}

/// Adds an instrument (`version` none), which whoever adds it keeps and which is lent to their projects, or changes it when it is still at `version`.
///
/// # Errors
/// When it is there already, or somebody else changed it.
pub async fn put(db: &MySqlPool, instrument: &Instrument, version: Option<u32>, by: &str, projects: &[String]) -> Result<u32, Problem> {
    let body = serde_json::to_string(instrument)?;
    let tag = instrument.tag.as_str();
    let note = Changed { kind: Kind::Instrument, subject: tag, item: tag, person: by, why: None };
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
            for project in projects {
                sqlx::query!("INSERT INTO instrument_loan (tag, project_id) VALUES (?, ?)", tag, project).execute(&mut *tx).await?;
            }
            history::note(&mut *tx, note, None, instrument).await?;
            tx.commit().await?;
            Ok(1)
        }
    }
}

/// Puts an instrument into quarantine; one that is there already, or that the store does not have, stays as it is.
///
/// # Errors
/// When the database fails, or it was changed meanwhile.
pub async fn quarantine(db: &MySqlPool, tag: &str, quarantine: Quarantine, by: &str) -> Result<(), Problem> {
    match get(db, tag).await? {
        Some(row) if row.instrument.quarantine.is_none() => {
            let instrument = Instrument { quarantine: Some(quarantine), ..row.instrument };
            put(db, &instrument, Some(row.version), by, &[]).await.map(|_| ())
        }
        _ => Ok(()),
    }
}

/// Passes an instrument on to another keeper.
///
/// # Errors
/// When there is no such person, or no such instrument.
pub async fn pass_on(db: &MySqlPool, tag: &str, from: Option<&str>, to: &str, by: &str) -> Result<(), Problem> {
    let there = sqlx::query_scalar!("SELECT COUNT(*) FROM person WHERE sign_in = ? AND ended_at IS NULL AND NOT administrator", to)
        .fetch_one(db)
        .await?;
    if there == 0 {
        return Err(Problem::invalid("keeper", format!("nobody signs in as {to}: pass it on to somebody who does")));
    }
    let mut tx = db.begin().await?;
    sqlx::query!("UPDATE instrument SET keeper = ? WHERE tag = ?", to, tag).execute(&mut *tx).await?;
    let keeper = |name: &str| serde_json::json!({ "keeper": name });
    let note = Changed { kind: Kind::Instrument, subject: tag, item: tag, person: by, why: None };
    history::note(&mut *tx, note, from.map(keeper).as_ref(), &keeper(to)).await?;
    Ok(tx.commit().await?)
}
