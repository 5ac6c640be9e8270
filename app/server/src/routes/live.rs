//! A run as it happens: server-sent events with a sequence, so that whoever was away goes on without a gap.

use super::{Query, attempts::of_person};
use crate::access::Action;
use crate::kept::Held;
use crate::problem::{Problem, ProblemBody};
use crate::rooms::News;
use crate::session_store;
use crate::state::App;
use crate::views::live::{enter, view};
use crate::who::{IDLE, RENEW_AFTER, Reader, Who};
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::sse::{Event, KeepAlive, KeepAliveStream, Sse};
use run::live::LiveView;
use run::rows::Sampled;
use serde::{Deserialize, Serialize};
use std::convert::Infallible;
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;

/// How often it is asked whether who watches still may.
const STANDS_EVERY: std::time::Duration = std::time::Duration::from_secs(2);

/// Instants of the recorder that the needle's way is drawn from.
const TRAIL: u64 = 600;

/// From where on.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub struct LiveQuery {
    /// Last number of the sequence that is known; the header Last-Event-ID wins.
    #[serde(default)]
    pub after: Option<u64>,
    /// Units in which its sentences are said, "psi,fahrenheit,foot,us_gallon": a stream has no header for it.
    #[serde(default)]
    pub units: Option<String>,
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
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let resumed = headers.get("last-event-id").and_then(|v| v.to_str().ok()).and_then(|v| v.parse::<u64>().ok());
    let (room, held) = enter(&app, &attempt).await?;
    // who comes for the first time gets the needle's way, not the day: the chart has that
    let first = held.read().last_seq().saturating_sub(TRAIL);
    let after = resumed.or(query.after).unwrap_or(first);
    let reads = query.units.as_deref().map_or(who.reads, |words| Reader::of(words, pack.project.units)).usually(pack.project.units);
    let (sender, receiver) = mpsc::channel(64);
    tokio::spawn(async move {
        let mut state = room.news.subscribe();
        let mut look = tokio::time::interval(STANDS_EVERY);
        let (mut cursor, mut revision) = (after, None::<String>);
        loop {
            let news: Option<News> = state.borrow_and_update().clone();
            if let Some(news) = news {
                for tick in after_seq(&held, cursor) {
                    cursor = tick.seq;
                    if sender.send(Ok(event("tick", &tick).id(tick.seq.to_string()))).await.is_err() {
                        return;
                    }
                }
                if revision.as_ref().is_some_and(|r| *r != news.revision) && sender.send(Ok(event("changed", &()))).await.is_err() {
                    return;
                }
                let view = view(&app, &pack.project, &attempt, &held, &news, reads);
                revision = Some(news.revision);
                if sender.send(Ok(event("view", &view))).await.is_err() {
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

/// Instants after a number of the sequence.
fn after_seq(held: &Held, seq: u64) -> Vec<TickLine> {
    let run = held.read();
    let from = run.ticks().partition_point(|t| t.seq <= seq);
    run.ticks()[from..].iter().map(|t| TickLine { seq: t.seq, t_s: run.seconds_us(t.run_us), values: t.values.clone() }).collect()
}

fn event(name: &str, data: &impl Serialize) -> Event {
    Event::default().event(name).json_data(data).unwrap_or_else(|_| Event::default().event(name))
}
