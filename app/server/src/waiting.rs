//! A server that has begun before its database: it answers at once, says what it waits for, and goes on by itself.

use crate::door::Door;
use crate::problem::Problem;
use crate::{App, Config, api};
use axum::Router;
use axum::extract::{Request, State};
use axum::middleware;
use axum::response::{IntoResponse, Response};
use std::sync::{Arc, OnceLock};
use std::time::Duration;
use tower::ServiceExt;

/// How often the database is asked for.
const EVERY: Duration = Duration::from_millis(500);

/// The application, as soon as there is one.
pub type Whole = Arc<OnceLock<Router>>;

/// What is served from the first moment on.
pub fn router(whole: Whole, door: &Door) -> Router {
    api::headers(Router::new().fallback(answer).with_state(whole), door)
        .layer(middleware::from_fn_with_state(Arc::new(door.clone()), crate::door::enter))
}

async fn answer(State(whole): State<Whole>, request: Request) -> Response {
    match whole.get() {
        Some(router) => router.clone().oneshot(request).await.unwrap_or_else(|never| match never {}),
        None if request.uri().path().starts_with("/api/") => Problem::Away(5).into_response(),
        None => crate::assets::serve(request.uri().clone()).await,
    }
}

/// Connects as soon as the database answers, however long that takes; `says` is told what is waited for.
///
/// # Errors
/// When the database answers and something else is wrong: its tables, the key.
pub async fn for_the_database(config: &Config, says: impl Fn(&str)) -> anyhow::Result<App> {
    let mut said = false;
    loop {
        match crate::state::answers(&config.database_url).await? {
            Ok(()) => return App::start(config).await,
            Err(why) if !said => {
                says(&format!(
                    "Waiting for the database at {}: {why}. This server goes on by itself as soon as it answers.",
                    crate::state::place(&config.database_url)
                ));
                said = true;
            }
            Err(_) => {}
        }
        tokio::time::sleep(EVERY).await;
    }
}
