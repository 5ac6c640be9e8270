//! Runs as the database has them.

use crate::kept::Held;
use crate::problem::Problem;
use crate::state::App;
use crate::store::attempt::{self, AttemptRow};
use crate::store::project::Project;
use crate::store::{correction, event, reading, recording, specification, tick};
use crate::who::Reader;
use run::Run;
use run::rows::{Row, Rows};
use std::sync::Arc;

/// What people booked and brought of an attempt.
async fn booked(app: &App, row: &AttemptRow) -> Result<Rows, Problem> {
    let id = &row.id;
    Ok(Rows {
        events: event::of_attempt(&app.db, id).await?,
        typed: reading::of_attempt(&app.db, id).await?,
        recordings: recording::rows_of_attempt(&app.db, id).await?,
        ticks: Vec::new(),
        clock_sets: tick::clock_sets(&app.db, id).await?,
        corrections: correction::of_attempt(&app.db, id).await?,
        let_out_before: event::let_out_before(&app.db, &row.pack_id, row.number).await?,
    })
}

/// A run as it stands now: what came in since somebody looked last is read, and no more.
///
/// # Errors
/// When the database fails.
pub async fn current(app: &App, row: &AttemptRow) -> Result<Arc<Held>, Problem> {
    let held = app.runs.of(&row.id, || Run::new(row.released_at, Arc::clone(&row.frozen)));
    brought_up(app, row, &held).await?;
    Ok(held)
}

/// Reads on; gives back the revision of what was booked.
///
/// # Errors
/// When the database fails.
pub async fn brought_up(app: &App, row: &AttemptRow, held: &Held) -> Result<String, Problem> {
    let mut revision = held.revision.lock().await;
    let now = attempt::revision(&app.db, &row.id).await?;
    let since = held.read().last_seq();
    let mut rows: Vec<Row> = Vec::new();
    if revision.as_ref() != Some(&now) {
        rows.extend(booked(app, row).await?.into_rows());
    }
    rows.extend(tick::after(&app.db, &row.id, since).await?.into_iter().map(Row::Tick));
    if !rows.is_empty() {
        held.write().add_all(rows);
    }
    *revision = Some(now.clone());
    Ok(now)
}

/// A run read from nothing: what is frozen or sealed rests on the rows as they are, not on what was kept of them.
///
/// # Errors
/// When the database fails.
pub async fn from_nothing(app: &App, row: &AttemptRow) -> Result<Arc<Held>, Problem> {
    let rows = Rows { ticks: tick::after(&app.db, &row.id, 0).await?, ..booked(app, row).await? };
    let (released_at, frozen) = (row.released_at, Arc::clone(&row.frozen));
    let run = tokio::task::spawn_blocking(move || Run::of(released_at, frozen, rows)).await.map_err(|e| crate::problem::internal(&e))?;
    Ok(Arc::new(Held::new(run)))
}

/// Why the release no longer stands under what the project lays down now.
///
/// # Errors
/// When the database fails.
pub async fn withdrawn(app: &App, project: &Project, run: &Held, reads: Reader) -> Result<Option<String>, Problem> {
    let specification = specification::get(&app.db, &project.id).await?.specification;
    let run = run.read();
    Ok(run.withdrawn(&specification, rules::say::Say(reads.units(run.dial()))))
}

/// What somebody under pressure has to know of what the project lays down now.
///
/// # Errors
/// When the database fails.
pub async fn warned(app: &App, project: &Project, run: &Held, reads: Reader) -> Result<Option<String>, Problem> {
    let specification = specification::get(&app.db, &project.id).await?.specification;
    let run = run.read();
    Ok(run.warned(&specification, rules::say::Say(reads.units(run.dial()))))
}
