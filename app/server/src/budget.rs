//! What a request may cost: size of its body, time and a place among those that are answered at once, route by route; whatever is not in the
//! table has the least.

use crate::door::Caller;
use crate::places::SLOWER;
use crate::problem::Problem;
use crate::state::App;
use axum::extract::{DefaultBodyLimit, MatchedPath, Request, State};
use axum::http::header::CONTENT_LENGTH;
use axum::middleware::Next;
use axum::response::Response;
use std::sync::Arc;
use std::time::{Duration, Instant};
use tokio_stream::StreamExt;

/// What goes before what when there is more to do than can be done.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Class {
    /// booking, reading in, following a run, signing: never waits for the others, and has connections of its own
    Urgent,
    /// has a queue of its own, see [`crate::heavy`]
    Heavy,
    /// all else: so many at once, the rest is turned away within a second
    Usual,
}

/// A budget.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Budget {
    /// Largest body, MB.
    pub body_mb: usize,
    /// Longest time to an answer, s; a stream's is that to its first byte.
    pub seconds: u64,
    /// Class.
    pub class: Class,
}

const fn usual(body_mb: usize, seconds: u64) -> Budget {
    Budget { body_mb, seconds, class: Class::Usual }
}

const fn urgent(body_mb: usize, seconds: u64) -> Budget {
    Budget { body_mb, seconds, class: Class::Urgent }
}

const fn heavy(body_mb: usize, seconds: u64) -> Budget {
    Budget { body_mb, seconds, class: Class::Heavy }
}

/// Of a route that the table does not name.
pub const USUAL: Budget = usual(2, 5);

/// Routes that need more, or go first: a grid of ten thousand rows, a logger's file of a day, a report of it, judging a hard hold.
const TABLE: [(&str, Budget); 26] = [
    ("/api/v1/session", urgent(1, 5)),
    ("/api/v1/attempts/{attempt}/readings", urgent(2, 5)),
    ("/api/v1/attempts/{attempt}/readings/{reading}/strike", urgent(1, 5)),
    ("/api/v1/attempts/{attempt}/events/{event}", urgent(1, 5)),
    ("/api/v1/attempts/{attempt}/looks/{event}", urgent(1, 10)),
    ("/api/v1/attempts/{attempt}/corrections/{correction}", urgent(1, 20)),
    ("/api/v1/attempts/{attempt}/live", urgent(1, 5)),
    ("/api/v1/attempts/{attempt}/rig", urgent(1, 5)),
    ("/api/v1/attempts/{attempt}/signatures/{signature}", urgent(1, 20)),
    ("/api/v1/attempts/{attempt}/drawn/{signature}", urgent(1, 20)),
    // the page that is signed is laid out for it
    ("/api/v1/signing", heavy(1, 30)),
    ("/api/v1/packs/{id}/attempts/{attempt}", urgent(1, 20)),
    ("/api/v1/packs/{id}/registers/{register}/{item}", urgent(1, 5)),
    ("/api/v1/verify", heavy(32, 30)),
    ("/api/v1/packs/{id}/parts/preview", heavy(8, 20)),
    ("/api/v1/attempts/{attempt}/recordings/preview", heavy(96, 20)),
    ("/api/v1/attempts/{attempt}/recordings/{recording}", heavy(96, 20)),
    ("/api/v1/attempts/{attempt}/report", heavy(1, 30)),
    ("/api/v1/attempts/{attempt}/report/pages", heavy(1, 30)),
    ("/api/v1/packs/{id}", usual(8, 10)),
    ("/api/v1/packs/{id}/parts", usual(8, 10)),
    ("/api/v1/packs/{id}/parts/check", usual(8, 10)),
    ("/api/v1/packs/{id}/joined", heavy(1, 10)),
    ("/api/v1/packs/{id}/suggested", heavy(1, 10)),
    ("/api/v1/attempts/{attempt}/hold", usual(2, 20)),
    ("/api/v1/projects/{project}/specification/touches", heavy(2, 20)),
];

/// The budget of a route.
pub fn of(path: &str) -> Budget {
    TABLE.iter().find(|(route, _)| *route == path).map_or(USUAL, |(_, budget)| *budget)
}

/// The size of body that a request may have, MB, as its route's budget has it.
#[derive(Debug, Clone, Copy)]
pub struct MostMb(pub usize);

/// Whoever has no place by then is turned away.
const TURNED_AWAY: Duration = Duration::from_millis(800);
/// So long what is too large is read before it is refused.
const DRAINED_WITHIN: Duration = Duration::from_secs(10);
/// And so much of it, bytes.
const DRAINED: usize = 128 << 20;

async fn drain(request: Request) {
    let mut body = request.into_body().into_data_stream();
    let mut read = 0;
    while let Some(Ok(piece)) = body.next().await {
        read += piece.len();
        if read > DRAINED {
            return;
        }
    }
}

/// Holds a request to the budget of its route.
///
/// # Errors
/// When its body is larger, or the answer takes longer.
pub async fn hold(
    State(app): State<App>,
    path: Option<MatchedPath>,
    caller: Caller,
    mut request: Request,
    next: Next,
) -> Result<Response, Problem> {
    app.limits.address(caller.0)?;
    let route = path.map_or_else(String::new, |p| p.as_str().to_owned());
    let budget = of(&route);
    let begun = Instant::now();
    let places = match budget.class {
        Class::Urgent => None,
        Class::Usual => Some(&app.places.usual),
        Class::Heavy => Some(&app.places.heavy),
    };
    // whoever leaves gives the place back with the future
    let _place = match places {
        Some(places) => {
            let place = tokio::time::timeout(TURNED_AWAY, Arc::clone(places).acquire_owned()).await;
            Some(place.map_err(|_| Problem::Busy(2))?.map_err(|e| crate::problem::internal(&e))?)
        }
        None => None,
    };
    let most = budget.body_mb * 1024 * 1024;
    let said = request.headers().get(CONTENT_LENGTH).and_then(|v| v.to_str().ok()).and_then(|v| v.parse::<usize>().ok());
    if said.is_some_and(|n| n > most) {
        // read and forgotten, or whoever still sends would hear of a broken connection instead of the reason
        let _ = tokio::time::timeout(DRAINED_WITHIN, drain(request)).await;
        return Err(Problem::TooLarge(budget.body_mb));
    }
    DefaultBodyLimit::max(most).apply(&mut request);
    request.extensions_mut().insert(MostMb(budget.body_mb));
    let within = Duration::from_secs(SLOWER * budget.seconds);
    let changes = crate::door::is_change(request.method());
    let answer = tokio::time::timeout(within, next.run(request)).await.map_err(|_| Problem::Busy(10));
    if changes {
        // what was changed may stand in a list
        app.lines.notify_one();
    }
    if begun.elapsed() > within / 3 {
        tracing::warn!(route, seconds = begun.elapsed().as_secs_f64(), budget = within.as_secs_f64(), "a request took long");
    }
    answer
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_route_of_the_table_is_one_of_the_api() {
        let described = crate::openapi();
        for (route, budget) in TABLE {
            assert!(described.paths.paths.contains_key(route), "{route} is not a route");
            assert!(budget.body_mb <= 96 && budget.seconds <= 30, "{route}: {budget:?}");
        }
        assert_eq!(of("/api/v1/library"), USUAL);
    }
}
