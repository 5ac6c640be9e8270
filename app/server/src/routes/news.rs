//! What has changed in lists, as it happens: server-sent events with the number of the sequence, so that whoever was away misses nothing.

use crate::access::sees_in_lists;
use crate::problem::{Problem, ProblemBody};
use crate::session_store;
use crate::state::App;
use crate::store::listing::Sees;
use crate::store::standing::{self, Made};
use crate::who::{IDLE, RENEW_AFTER, Who};
use axum::extract::State;
use axum::http::HeaderMap;
use axum::response::sse::{Event, KeepAlive, KeepAliveStream, Sse};
use serde::Serialize;
use std::convert::Infallible;
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;

/// How often it is asked whether who watches still may.
const STANDS_EVERY: std::time::Duration = std::time::Duration::from_secs(10);
/// How often it is said that the server is there: whoever hears nothing for longer knows that the connection is gone.
const HERE_EVERY: std::time::Duration = std::time::Duration::from_secs(1);
/// Most packs that one event names; more are "many".
const MOST: u32 = 200;

/// Lists have changed.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct ListNews {
    /// Packs whose line was made anew, of those that this person sees.
    pub packs: Vec<String>,
}

async fn of(app: &App, sees: &Sees, made: Vec<Made>) -> Result<Vec<String>, sqlx::Error> {
    let (whole, other): (Vec<_>, Vec<_>) = made.into_iter().partition(|m| sees.whole.contains_key(&m.project_id));
    let named: Vec<String> = other.into_iter().filter(|m| sees.named.contains(&m.project_id)).map(|m| m.pack_id).collect();
    let mut all: Vec<String> = whole.into_iter().map(|m| m.pack_id).collect();
    if !named.is_empty() {
        all.extend(standing::naming(&app.db, &sees.person, &named).await?);
    }
    Ok(all)
}

/// Follows the lists.
#[utoipa::path(get, path = "/api/v1/news", tag = "packs", responses((status = 200, body = ListNews, content_type = "text/event-stream"), (status = 401, body = ProblemBody)))]
pub async fn get(
    State(app): State<App>,
    who: Who,
    headers: HeaderMap,
) -> Result<Sse<KeepAliveStream<ReceiverStream<Result<Event, Infallible>>>>, Problem> {
    let resumed = headers.get("last-event-id").and_then(|v| v.to_str().ok()).and_then(|v| v.parse::<u64>().ok());
    let mut stand = standing::stand(&app.db).await?;
    stand.rev = resumed.unwrap_or(stand.rev).min(stand.rev);
    let (sender, receiver) = mpsc::channel(16);
    let sees = sees_in_lists(&who);
    tokio::spawn(async move {
        let mut news = app.news.subscribe();
        let mut look = tokio::time::interval(STANDS_EVERY);
        let mut here = tokio::time::interval(HERE_EVERY);
        here.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
        // whoever resumes asks at once
        let mut first = resumed.is_some();
        loop {
            if !std::mem::take(&mut first) {
                tokio::select! {
                    changed = news.changed() => if changed.is_err() { return },
                    _ = look.tick() => match who.stands(&app).await {
                        Ok(false) => return,
                        Ok(true) => {
                            drop(session_store::renew(&app.db, &who.session, IDLE, RENEW_AFTER).await);
                            continue;
                        }
                        Err(_) => continue,
                    },
                    _ = here.tick() => {
                        // an event without data is none; one who does not read on is not waited for
                        drop(sender.try_send(Ok(Event::default().event("here").data("1"))));
                        continue;
                    }
                    () = sender.closed() => return,
                    () = app.stopping.cancelled() => return,
                }
            }
            let now = *news.borrow_and_update();
            let Some(now) = now.filter(|n| *n != stand) else { continue };
            let made = if now.rev > stand.rev { standing::made_after(&app.db, stand.rev, MOST).await } else { Ok(Vec::new()) };
            let Ok(made) = made else { continue };
            let to = if made.len() == MOST as usize { made.last().map_or(now.rev, |m| m.rev) } else { now.rev };
            let Ok(packs) = of(&app, &sees, made).await else { continue };
            let event = Event::default().event("lists").id(to.to_string()).json_data(ListNews { packs });
            first = to < now.rev;
            stand = standing::Stand { rev: to, ..now };
            if let Ok(event) = event
                && sender.send(Ok(event)).await.is_err()
            {
                return;
            }
        }
    });
    Ok(Sse::new(ReceiverStream::new(receiver)).keep_alive(KeepAlive::default()))
}
