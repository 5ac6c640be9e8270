//! What concerns the security of the installation, noted as it happens.

use crate::door::{Caller, Named, is_change};
use crate::problem::Problem;
use crate::state::App;
use crate::store::security;
pub use crate::store::security::What;
use axum::extract::{Request, State};
use axum::http::StatusCode;
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use std::net::IpAddr;
use terms::Term;

/// Notes what happened. What cannot be noted is said in the server's own log, and keeps nobody from their work.
pub async fn note(app: &App, what: What, account: &str, from: Option<IpAddr>, detail: &str) {
    let address = from.map_or_else(|| "local".to_owned(), |ip| ip.to_string());
    let now = app.clock.now().us();
    if let Err(e) = security::add(&app.urgent, now, [what.key(), account, &address, detail]).await {
        tracing::error!(what = what.key(), account, address, detail, error = %e, "the security log cannot be added to");
    }
}

/// Notes what is refused, and refuses changes that another site's page asks for.
pub async fn watch(State(app): State<App>, caller: Caller, mut request: Request, next: Next) -> Response {
    let named = Named::default();
    request.extensions_mut().insert(named.clone());
    let asked = format!("{} {}", request.method(), request.uri().path());
    let response = if is_change(request.method()) && app.door.foreign(request.headers()) {
        Problem::Forged.into_response()
    } else {
        next.run(request).await
    };
    if response.status() == StatusCode::FORBIDDEN && app.limits.is_noted(caller.0) {
        note(&app, What::Refused, named.0.get().map_or("", String::as_str), Some(caller.0), &asked).await;
    }
    response
}
