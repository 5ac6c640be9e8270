//! One's own account: password, sessions, second factor.

use super::Body;
use super::people::{check_password, hashed};
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::sign_in::Door;
use crate::state::App;
use crate::store::account;
use crate::who::{IDLE, Who};
use crate::{second_factor, session_store};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use moment::Instant;
use serde::{Deserialize, Serialize};
use tower_sessions::Session;

/// A session of one's own.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct SessionView {
    /// Its id.
    pub id: String,
    /// When it began.
    pub made_at: Instant,
    /// When it was used last, to half an hour.
    pub used_at: Instant,
    /// The browser, as it names itself.
    pub agent: String,
    /// True for the one that asks.
    pub this: bool,
}

/// One's own sessions, the last used first.
#[utoipa::path(get, path = "/api/v1/session/all", tag = "session", responses((status = 200, body = Vec<SessionView>), (status = 401, body = ProblemBody)))]
pub async fn sessions(State(app): State<App>, who: Who) -> Result<Json<Vec<SessionView>>, Problem> {
    let of = account::sessions(&app.db, &who.sign_in).await?.into_iter().map(|s| SessionView {
        this: s.id == who.session,
        used_at: s.expires_at.plus_s(-(IDLE.whole_seconds() as f64)),
        id: s.id,
        made_at: s.made_at,
        agent: s.agent,
    });
    Ok(Json(of.collect()))
}

/// Ends one of one's own sessions.
#[utoipa::path(delete, path = "/api/v1/session/all/{id}", tag = "session", params(("id" = String, Path)), responses((status = 204), (status = 401, body = ProblemBody)))]
pub async fn end_session(State(app): State<App>, who: Who, caller: Caller, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    account::end_session(&app.db, &who.sign_in, &id).await?;
    note(&app, What::SessionEnded, &who.sign_in, Some(caller.0), "").await;
    Ok(StatusCode::NO_CONTENT)
}

/// A password in the place of another.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPassword {
    /// The password as it is.
    pub now: String,
    /// As it is to be.
    pub new: String,
}

/// Changes one's own password; every other session ends.
#[utoipa::path(put, path = "/api/v1/session/password", tag = "session", request_body = NewPassword,
    responses((status = 204), (status = 401, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn password(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    session: Session,
    Body(body): Body<NewPassword>,
) -> Result<StatusCode, Problem> {
    crate::sign_in::check(&app, &who.sign_in, &body.now, Door::Account, caller.0).await?;
    check_password("new", &body.new, &who.sign_in)?;
    account::new_password(&app.db, &who.sign_in, &hashed(&app, &body.new).await?, &who.session).await?;
    // this session goes on under the new password
    if let Some(account) = crate::sign_in::now(&app.db, &who.sign_in).await? {
        let renewed = Who { credential: account.credential, ..who.clone() };
        session.insert(session_store::SESSION_KEY, &renewed).await.map_err(|e| session_store::problem(&e))?;
    }
    note(&app, What::PasswordSet, &who.sign_in, Some(caller.0), "by whose it is").await;
    Ok(StatusCode::NO_CONTENT)
}

/// A second factor to set up.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct FactorView {
    /// The picture that an application on a telephone reads.
    pub svg: String,
    /// The secret in letters, for one that reads none.
    pub letters: String,
}

/// Begins one's own second factor; it counts once a code of it was typed.
#[utoipa::path(post, path = "/api/v1/session/second-factor", tag = "session", responses((status = 200, body = FactorView), (status = 409, body = ProblemBody)))]
pub async fn begin_factor(State(app): State<App>, who: Who) -> Result<Json<FactorView>, Problem> {
    let setup = second_factor::begin(&app, &who.sign_in).await?;
    Ok(Json(FactorView { svg: setup.svg, letters: setup.letters }))
}

/// A code, with the password where the factor is taken away.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Code {
    /// The six figures that it shows now.
    pub code: String,
    /// The password.
    pub password: String,
}

/// Confirms one's own second factor by a code of it.
#[utoipa::path(put, path = "/api/v1/session/second-factor", tag = "session", request_body = Code,
    responses((status = 204), (status = 401, body = ProblemBody), (status = 404, body = ProblemBody)))]
pub async fn confirm_factor(State(app): State<App>, who: Who, caller: Caller, Body(body): Body<Code>) -> Result<StatusCode, Problem> {
    crate::sign_in::check(&app, &who.sign_in, &body.password, Door::Account, caller.0).await?;
    second_factor::take(&app, &who.sign_in, &body.code).await?;
    note(&app, What::FactorSet, &who.sign_in, Some(caller.0), "").await;
    Ok(StatusCode::NO_CONTENT)
}

/// Takes one's own second factor away, with the password and a code of it.
#[utoipa::path(delete, path = "/api/v1/session/second-factor", tag = "session", request_body = Code,
    responses((status = 204), (status = 401, body = ProblemBody), (status = 404, body = ProblemBody)))]
pub async fn end_factor(State(app): State<App>, who: Who, caller: Caller, Body(body): Body<Code>) -> Result<StatusCode, Problem> {
    crate::sign_in::check(&app, &who.sign_in, &body.password, Door::Account, caller.0).await?;
    second_factor::take(&app, &who.sign_in, &body.code).await?;
    account::end_factor(&app.db, &who.sign_in).await?;
    note(&app, What::FactorTaken, &who.sign_in, Some(caller.0), "").await;
    Ok(StatusCode::NO_CONTENT)
}
