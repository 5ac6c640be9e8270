//! A run as it happens: server-sent events with a sequence, so that whoever was away goes on without a gap.

use super::attempts::of_person;
use crate::access::Action;
use crate::live::{LiveView, Snapshot};
use crate::problem::{Problem, ProblemBody};
use crate::session_store;
use crate::state::App;
use crate::store::tick::{Sampled, Tick};
use crate::who::{IDLE, RENEW_AFTER, Who};
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::sse::{Event, KeepAlive, KeepAliveStream, Sse};
use serde::{Deserialize, Serialize};
use std::convert::Infallible;
use time::OffsetDateTime;
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;

/// How often it is asked whether who watches still may.
const STANDS_EVERY: std::time::Duration = std::time::Duration::from_secs(2);

/// From where on.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub struct LiveQuery {
    /// Last number of the sequence that is known; the header Last-Event-ID wins.
    #[serde(default)]
    pub after: Option<u64>,
}

/// One instant of the recorder as sent; its number is the event's id.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct TickLine {
    /// Number in the sequence.
    pub seq: u64,
    /// Seconds from the release.
    pub t_s: f64,
    /// Channels.
    pub values: Vec<Sampled>,
}

/// What the stream carries: `tick` with an id for every instant, `view` for the moment, `changed` when something was booked.
#[derive(Debug, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case", tag = "event", content = "data")]
pub enum LiveEvent {
    /// an instant of the recorder
    Tick(TickLine),
    /// the moment
    View(Box<LiveView>),
    /// an event, a typed reading, a file or a signature was added
    Changed,
}

/// Follows a run.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/live", tag = "run", params(("attempt" = String, Path), LiveQuery),
    responses((status = 200, body = LiveEvent, content_type = "text/event-stream"), (status = 404, body = ProblemBody)))]
pub async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(query): Query<LiveQuery>,
    headers: HeaderMap,
) -> Result<Sse<KeepAliveStream<ReceiverStream<Result<Event, Infallible>>>>, Problem> {
    let (_, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let resumed = headers.get("last-event-id").and_then(|v| v.to_str().ok()).and_then(|v| v.parse::<u64>().ok());
    let after = resumed.or(query.after).unwrap_or(0);
    let released = attempt.released_at;
    let room = app.hub.enter(&app, attempt);
    let (sender, receiver) = mpsc::channel(64);
    tokio::spawn(async move {
        let mut state = room.subscribe();
        let mut look = tokio::time::interval(STANDS_EVERY);
        let (mut cursor, mut revision) = (after, None::<String>);
        loop {
            let snapshot: Option<Snapshot> = state.borrow_and_update().clone();
            if let Some(snapshot) = snapshot {
                for tick in room.after(cursor) {
                    cursor = tick.seq;
                    if sender.send(Ok(event("tick", &line(&tick, released)).id(tick.seq.to_string()))).await.is_err() {
                        return;
                    }
                }
                if revision.as_ref().is_some_and(|r| *r != snapshot.revision) && sender.send(Ok(event("changed", &()))).await.is_err() {
                    return;
                }
                revision = Some(snapshot.revision);
                if sender.send(Ok(event("view", snapshot.view.as_ref()))).await.is_err() {
                    return;
                }
            }
            tokio::select! {
                changed = state.changed() => if changed.is_err() { return },
                _ = look.tick() => match who.stands(&app).await {
                    Ok(false) => return,
                    // a screen that is watched keeps its person signed in
                    Ok(true) => drop(session_store::renew(&app.db, &who.session, IDLE, RENEW_AFTER).await),
                    Err(_) => {}
                },
                () = sender.closed() => return,
                () = app.stopping.cancelled() => return,
            }
        }
    });
    Ok(Sse::new(ReceiverStream::new(receiver)).keep_alive(KeepAlive::default()))
}

fn line(tick: &Tick, released: OffsetDateTime) -> TickLine {
    let zero = i64::try_from(released.unix_timestamp_nanos() / 1000).unwrap_or(0);
    TickLine { seq: tick.seq, t_s: (tick.run_us - zero) as f64 * 1e-6, values: tick.values.clone() }
}

fn event(name: &str, data: &impl Serialize) -> Event {
    Event::default().event(name).json_data(data).unwrap_or_else(|_| Event::default().event(name))
}
