//! Who asks: the session behind a request, and the defence against forged requests.

use crate::problem::Problem;
use crate::state::App;
use crate::{session_store, sign_in};
use axum::extract::{FromRequestParts, Request};
use axum::http::request::Parts;
use axum::http::{HeaderMap, Method, header};
use axum::middleware::Next;
use axum::response::Response;
use pack::people::Role;
use quantity::PressureUnit;
use serde::{Deserialize, Serialize};
use tower_sessions::{Expiry, Session};

/// Name of the session's entry.
pub const SESSION_KEY: &str = "who";
/// Header that carries the session's token on every request that changes something.
pub const TOKEN_HEADER: &str = "x-request-token";

/// Header that names the unit in which the person reads pressures.
pub const UNIT_HEADER: &str = "x-pressure-unit";

/// A signed-in person.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Who {
    /// Sign-in name.
    pub sign_in: String,
    /// Role.
    pub role: Role,
    /// Changes with the password.
    #[serde(default)]
    pub credential: String,
    /// Token against forged requests.
    pub token: String,
    /// Unit in which this request's sentences are said, and in which a bare pressure of it is read; none where it says none.
    #[serde(skip)]
    pub unit: Option<PressureUnit>,
    /// The session's place in the table.
    #[serde(skip)]
    pub session: String,
}

/// A session that is used goes on: so long after its last use it ends.
pub const IDLE: time::Duration = time::Duration::hours(12);
/// It is written anew once this much of that has gone.
const RENEW_AFTER: time::Duration = time::Duration::minutes(30);

impl Who {
    /// True while the session stands, and the account has the same password and role: an open stream ends with them.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn stands(&self, app: &App) -> Result<bool, sqlx::Error> {
        let there = sqlx::query_scalar!("SELECT COUNT(*) FROM session WHERE id = ?", self.session).fetch_one(&app.db).await?;
        let account = sign_in::now(&app.db, &self.sign_in).await?;
        Ok(there > 0 && account.is_some_and(|a| a.role == self.role && a.credential == self.credential))
    }
}

impl FromRequestParts<App> for Who {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, Problem> {
        let session = parts.extensions.get::<Session>().cloned().ok_or(Problem::NotSignedIn)?;
        let mut who: Self = session.get(SESSION_KEY).await.map_err(|e| crate::problem::internal(&e))?.ok_or(Problem::NotSignedIn)?;
        // what the account is now counts, not what it was at sign-in
        let account = sign_in::now(&app.db, &who.sign_in).await?.filter(|a| a.credential == who.credential).ok_or(Problem::NotSignedIn)?;
        who.role = account.role;
        if session.expiry_date() - time::OffsetDateTime::now_utc() < IDLE - RENEW_AFTER {
            session.set_expiry(Some(Expiry::OnInactivity(IDLE)));
        }
        who.session = session.id().map(|id| session_store::key(&id)).unwrap_or_default();
        if is_change(&parts.method) {
            let sent = parts.headers.get(TOKEN_HEADER).and_then(|v| v.to_str().ok()).unwrap_or("");
            if sent != who.token {
                return Err(Problem::Forged);
            }
        }
        who.unit = parts.headers.get(UNIT_HEADER).and_then(|v| v.to_str().ok()).and_then(PressureUnit::from_text);
        Ok(who)
    }
}

fn is_change(method: &Method) -> bool {
    !matches!(*method, Method::GET | Method::HEAD | Method::OPTIONS)
}

/// True when a browser says that the request comes from another origin.
fn foreign(headers: &HeaderMap) -> bool {
    let text = |name| headers.get(name).and_then(|v: &axum::http::HeaderValue| v.to_str().ok());
    let cross_site = text(header::HeaderName::from_static("sec-fetch-site")).is_some_and(|s| !matches!(s, "same-origin" | "none"));
    let other_origin = match (text(header::ORIGIN), text(header::HOST)) {
        (Some(origin), Some(host)) => origin.split_once("://").map_or("", |o| o.1) != host,
        _ => false,
    };
    cross_site || other_origin
}

/// Refuses changes that another site's page asks for.
pub async fn same_origin(request: Request, next: Next) -> Result<Response, Problem> {
    if is_change(request.method()) && foreign(request.headers()) {
        return Err(Problem::Forged);
    }
    Ok(next.run(request).await)
}
