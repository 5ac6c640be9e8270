//! The security log, for an administrator.

use super::Query;
use crate::access::{Action, may};
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::state::App;
use crate::store::security as store;
use crate::who::Who;
use axum::Json;
use axum::body::Body;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use record::chain::{BEFORE_ALL, Entry, FORMAT, Head, check};
use serde::{Deserialize, Serialize};
use std::convert::Infallible;
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;

/// Entries of a page.
const PAGE: u32 = 200;

/// Which page.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub struct Before {
    /// Entries before this number; the last ones without it.
    #[serde(default)]
    pub before: Option<u64>,
}

/// A page of the log.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct LogPage {
    /// Entries, the last first.
    pub entries: Vec<Entry>,
    /// True when there are earlier ones.
    pub more: bool,
    /// That they follow one another, or where they do not.
    pub sentence: String,
    /// True when they do.
    pub whole: bool,
}

/// Entries of the security log, the last first.
#[utoipa::path(get, path = "/api/v1/security", tag = "security", params(Before), responses((status = 200, body = LogPage), (status = 403, body = ProblemBody)))]
pub async fn list(State(app): State<App>, who: Who, Query(page): Query<Before>) -> Result<Json<LogPage>, Problem> {
    may(&who, Action::Security)?;
    let last = store::last(&app.db).await?;
    let end = page.before.map_or(last, |before| last.min(before.saturating_sub(1)));
    // one more in front: the first of the page is checked against it
    let from = end.saturating_sub(u64::from(PAGE) + 1);
    let mut entries = store::after(&app.db, from, PAGE + 1).await?;
    entries.retain(|e| e.seq <= end);
    let (before, next) =
        if from == 0 { (BEFORE_ALL.to_owned(), 1) } else { (entries.first().map(|e| e.hash.clone()).unwrap_or_default(), from + 2) };
    let first = usize::from(from > 0).min(entries.len());
    let checked = check(&entries[first..], next, &before);
    let entries: Vec<Entry> = entries.drain(first..).rev().collect();
    Ok(Json(LogPage {
        more: entries.last().is_some_and(|e| e.seq > 1),
        sentence: match (&checked, entries.is_empty()) {
            (Ok(_), true) => "Nothing has been noted yet.".to_owned(),
            (Ok(_), false) => "Each of these entries follows the one before it.".to_owned(),
            (Err(e), _) => format!("This log was tampered with: {e}. Keep the exports that you have, and compare."),
        },
        whole: checked.is_ok(),
        entries,
    }))
}

/// The whole log, a line for each entry; `zero-leak check-log` checks it.
#[utoipa::path(get, path = "/api/v1/security/log", tag = "security",
    responses((status = 200, body = Vec<u8>, content_type = "application/x-ndjson", description = "the log, one JSON object a line"), (status = 403, body = ProblemBody)))]
pub async fn export(State(app): State<App>, who: Who, caller: Caller) -> Result<Response, Problem> {
    may(&who, Action::Security)?;
    note(&app, What::Exported, &who.sign_in, Some(caller.0), "the security log").await;
    let end = store::last(&app.db).await?;
    let site = crate::store::site::get(&app.db).await?;
    let head = serde_json::to_string(&Head { format: FORMAT.to_owned(), site: site.name })?;
    let name = format!("attachment; filename=\"security-log-{}.jsonl\"", app.today(&site.zone).0);
    let (lines, receiver) = mpsc::channel::<Result<String, Infallible>>(4);
    tokio::spawn(async move {
        let (mut seq, mut text) = (0, head + "\n");
        loop {
            if lines.send(Ok(std::mem::take(&mut text))).await.is_err() || seq >= end {
                return;
            }
            // what cannot be read ends the file, and the check says that entries are missing
            let Ok(some) = store::after(&app.db, seq, 1000).await else { return };
            let Some(last) = some.last() else { return };
            seq = last.seq;
            text = some.iter().filter(|e| e.seq <= end).filter_map(|e| serde_json::to_string(e).ok()).map(|l| l + "\n").collect();
        }
    });
    Ok((
        [(header::CONTENT_TYPE, "application/x-ndjson".to_owned()), (header::CONTENT_DISPOSITION, name)],
        Body::from_stream(ReceiverStream::new(receiver)),
    )
        .into_response())
}
