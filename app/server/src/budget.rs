//! What a request may cost: size of its body and time, route by route; whatever is not in the table has the least.

use crate::problem::Problem;
use axum::extract::{DefaultBodyLimit, MatchedPath, Request};
use axum::http::header::CONTENT_LENGTH;
use axum::middleware::Next;
use axum::response::Response;
use std::time::Duration;
use tokio_stream::StreamExt;

/// A budget.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Budget {
    /// Largest body, MB.
    pub body_mb: usize,
    /// Longest time to an answer, s; a stream's is that to its first byte.
    pub seconds: u64,
}

/// Of a route that the table does not name.
pub const USUAL: Budget = Budget { body_mb: 2, seconds: 15 };

/// Routes that need more: a grid of ten thousand rows, a logger's file of a day, a report of it, judging a hard hold.
const MORE: [(&str, Budget); 14] = [
    ("/api/v1/verify", Budget { body_mb: 32, seconds: 30 }),
    ("/api/v1/packs/{id}", Budget { body_mb: 8, seconds: 30 }),
    ("/api/v1/packs/{id}/parts", Budget { body_mb: 8, seconds: 30 }),
    ("/api/v1/packs/{id}/parts/check", Budget { body_mb: 8, seconds: 30 }),
    ("/api/v1/packs/{id}/parts/preview", Budget { body_mb: 8, seconds: 30 }),
    ("/api/v1/packs", Budget { body_mb: 2, seconds: 60 }),
    ("/api/v1/today", Budget { body_mb: 2, seconds: 60 }),
    ("/api/v1/packs/{id}/attempts/{attempt}", Budget { body_mb: 2, seconds: 60 }),
    ("/api/v1/attempts/{attempt}/recordings/preview", Budget { body_mb: 96, seconds: 60 }),
    ("/api/v1/attempts/{attempt}/recordings/{recording}", Budget { body_mb: 96, seconds: 60 }),
    ("/api/v1/attempts/{attempt}/hold", Budget { body_mb: 2, seconds: 60 }),
    ("/api/v1/attempts/{attempt}/report", Budget { body_mb: 2, seconds: 60 }),
    ("/api/v1/attempts/{attempt}/report/pages", Budget { body_mb: 2, seconds: 60 }),
    ("/api/v1/attempts/{attempt}/signatures/{signature}", Budget { body_mb: 2, seconds: 60 }),
];

/// The budget of a route.
pub fn of(path: &str) -> Budget {
    MORE.iter().find(|(route, _)| *route == path).map_or(USUAL, |(_, budget)| *budget)
}

/// The size of body that a request may have, MB, as its route's budget has it.
#[derive(Debug, Clone, Copy)]
pub struct MostMb(pub usize);

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
pub async fn hold(path: Option<MatchedPath>, mut request: Request, next: Next) -> Result<Response, Problem> {
    let budget = path.map_or(USUAL, |p| of(p.as_str()));
    let most = budget.body_mb * 1024 * 1024;
    let said = request.headers().get(CONTENT_LENGTH).and_then(|v| v.to_str().ok()).and_then(|v| v.parse::<usize>().ok());
    if said.is_some_and(|n| n > most) {
        // read and forgotten, or whoever still sends would hear of a broken connection instead of the reason
        let _ = tokio::time::timeout(DRAINED_WITHIN, drain(request)).await;
        return Err(Problem::TooLarge(budget.body_mb));
    }
    DefaultBodyLimit::max(most).apply(&mut request);
    request.extensions_mut().insert(MostMb(budget.body_mb));
    tokio::time::timeout(Duration::from_secs(budget.seconds), next.run(request)).await.map_err(|_| Problem::Busy(10))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_route_of_the_table_is_one_of_the_api() {
        let described = crate::openapi();
        for (route, budget) in MORE {
            assert!(described.paths.paths.contains_key(route), "{route} is not a route");
            assert!(budget.body_mb <= 96 && budget.seconds <= 60, "{route}: {budget:?}");
        }
        assert_eq!(of("/api/v1/session"), USUAL);
    }
}
