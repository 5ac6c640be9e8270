//! Signing in and out.

use super::Body;
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::session_store;
use crate::session_store::SESSION_KEY;
use crate::state::App;
use crate::who::Who;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use pack::people::Role;
use serde::{Deserialize, Serialize};
use terms::Term;
use tower_sessions::Session;

/// Name and password.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignIn {
    /// Sign-in name.
    pub sign_in: String,
    /// Password.
    pub password: String,
}

/// Who is signed in, and where.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Me {
    /// Sign-in name.
    pub sign_in: String,
    /// Role.
    pub role: Role,
    /// Role in words.
    pub role_words: String,
    /// Token to send back as `x-request-token` with every change.
    pub token: String,
    /// Name of the site.
    pub site: String,
    /// Zone of the site.
    pub zone: String,
    /// The project's units, for whoever chose none.
    pub units: quantity::Units,
    /// Fingerprint of the installation's sealing key.
    pub fingerprint: String,
    /// The installation's clock now.
    pub now: moment::Instant,
    /// How many times faster than the real one it runs; 1 unless this is a training installation.
    pub clock_rate: f64,
    /// True where somebody can set it by hand, for a drill.
    pub clock_by_hand: bool,
}

fn me(app: &App, who: Who) -> Me {
    Me {
        role_words: who.role.words().to_owned(),
        sign_in: who.sign_in,
        role: who.role,
        token: who.token,
        site: app.site.to_string(),
        zone: app.zone.name().to_owned(),
        units: app.units,
        fingerprint: app.key.public().fingerprint(),
        now: app.clock.now(),
        clock_rate: app.clock.rate(),
        clock_by_hand: app.clock.by_hand(),
    }
}

/// Signs in.
#[utoipa::path(post, path = "/api/v1/session", tag = "session", request_body = SignIn, responses((status = 200, body = Me), (status = 401, body = ProblemBody), (status = 429, body = ProblemBody)))]
pub async fn sign_in(State(app): State<App>, caller: Caller, session: Session, Body(body): Body<SignIn>) -> Result<Json<Me>, Problem> {
    // counted under the door at which passwords are asked for
    if !app.guesses.knows(&crate::sign_in::Door::SignIn.counts(&body.sign_in), caller.0) {
        app.limits.sign_in(caller.0)?;
    }
    let checked = crate::sign_in::check(&app, &body.sign_in, &body.password, crate::sign_in::Door::SignIn, caller.0).await;
    if let Err(Problem::WrongPassword) = &checked {
        note(&app, What::SignInRefused, &body.sign_in, Some(caller.0), "name and password did not go together").await;
    }
    let account = checked?;
    // a new id at sign-in, so that an id planted before it is worth nothing
    session.cycle_id().await.map_err(|e| session_store::problem(&e))?;
    let token: [u8; 16] = rand::random();
    let who = Who {
        sign_in: account.sign_in,
        role: account.role,
        credential: account.credential,
        token: record::canonical::hex(&token),
        reads: crate::who::Reader::default(),
        session: String::new(),
    };
    session.insert(SESSION_KEY, &who).await.map_err(|e| session_store::problem(&e))?;
    note(&app, What::SignedIn, &who.sign_in, Some(caller.0), &format!("as {}", who.role.words())).await;
    Ok(Json(me(&app, who)))
}

/// Who is signed in.
#[utoipa::path(get, path = "/api/v1/session", tag = "session", responses((status = 200, body = Me), (status = 401, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who) -> Json<Me> {
    Json(me(&app, who))
}

/// Signs out.
#[utoipa::path(delete, path = "/api/v1/session", tag = "session", responses((status = 204), (status = 401, body = ProblemBody)))]
pub async fn sign_out(State(app): State<App>, who: Who, caller: Caller, session: Session) -> Result<StatusCode, Problem> {
    note(&app, What::SignedOut, &who.sign_in, Some(caller.0), "").await;
    session.flush().await.map_err(|e| session_store::problem(&e))?;
    Ok(StatusCode::NO_CONTENT)
}
