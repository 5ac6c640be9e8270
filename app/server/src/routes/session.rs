//! Signing in and out.

use super::Body;
use crate::access::{Action, may_in};
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::session_store;
use crate::session_store::SESSION_KEY;
use crate::sign_in::Account;
use crate::state::App;
use crate::store;
use crate::who::Who;
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use pack::people::Role;
use pack::signing::Form;
use serde::{Deserialize, Serialize};
use tower_sessions::Session;

/// Name and password.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignIn {
    /// Sign-in name.
    pub sign_in: String,
    /// Password.
    pub password: String,
    /// The six figures of the second factor, where one is in use.
    #[serde(default)]
    pub code: String,
}

/// A project in which somebody has a part.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct MyProject {
    /// Id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Their role in it.
    pub role: Role,
    /// Its zone.
    pub zone: String,
    /// Its units, for whoever chose none.
    pub units: quantity::Units,
    /// True where they may make a pack in it.
    pub may_make_pack: bool,
    /// True where they may make a quick test in it.
    pub may_make_quick: bool,
}

/// Who is signed in, and where.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Me {
    /// Sign-in name.
    pub sign_in: String,
    /// True for whoever looks after the installation.
    pub administrator: bool,
    /// What they are, in words: "engineer", "engineer and witness".
    pub role_words: String,
    /// True where a second factor is in use.
    pub second_factor: bool,
    /// True where the site asks for a second factor and there is none yet.
    pub owes_factor: bool,
    /// Projects in which they have a part, by name.
    pub projects: Vec<MyProject>,
    /// Token to send back as `x-request-token` with every change.
    pub token: String,
    /// Name of the site.
    pub site: String,
    /// Zone of the site.
    pub zone: String,
    /// The site's units, for whoever chose none.
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

pub(super) async fn me(app: &App, who: Who) -> Result<Me, Problem> {
    let site = store::site::get(&app.db).await?;
    let may = |project: &str, form| may_in(&who, project, Action::Make(form)).is_ok();
    let projects = store::project::all(&app.db).await?.into_iter().filter_map(|p| {
        Some(MyProject {
            role: who.role_in(&p.id)?,
            may_make_pack: may(&p.id, Form::Pack),
            may_make_quick: may(&p.id, Form::Quick),
            zone: p.zone.name().to_owned(),
            units: p.units,
            id: p.id,
            name: p.name,
        })
    });
    Ok(Me {
        role_words: who.role_words(),
        administrator: who.administrator,
        second_factor: who.second_factor,
        owes_factor: who.owes_factor,
        projects: projects.collect(),
        site: site.name,
        zone: site.zone.name().to_owned(),
        units: site.units,
        fingerprint: app.key.public().fingerprint(),
        now: app.clock.now(),
        clock_rate: app.clock.rate(),
        clock_by_hand: app.clock.by_hand(),
        token: who.token,
        sign_in: who.sign_in,
    })
}

/// Signs in.
#[utoipa::path(post, path = "/api/v1/session", tag = "session", request_body = SignIn, responses((status = 200, body = Me), (status = 401, body = ProblemBody), (status = 429, body = ProblemBody)))]
pub async fn sign_in(
    State(app): State<App>,
    caller: Caller,
    session: Session,
    headers: HeaderMap,
    Body(body): Body<SignIn>,
) -> Result<Json<Me>, Problem> {
    // counted under the door at which passwords are asked for
    if !app.guesses.knows(&crate::sign_in::Door::SignIn.counts(&body.sign_in), caller.0) {
        app.limits.sign_in(caller.0)?;
    }
    let checked = crate::sign_in::check(&app, &body.sign_in, &body.password, crate::sign_in::Door::SignIn, caller.0).await;
    if let Err(Problem::WrongPassword) = &checked {
        note(&app, What::SignInRefused, &body.sign_in, Some(caller.0), "name and password did not go together").await;
    }
    let account = checked?;
    if account.second_factor {
        let counted = crate::sign_in::Door::SecondFactor.counts(&account.sign_in);
        app.guesses.may(&counted, caller.0)?;
        if body.code.trim().is_empty() {
            return Err(Problem::CodeNeeded);
        }
        let taken = crate::second_factor::take(&app, &account.sign_in, &body.code).await;
        app.guesses.tried(&counted, caller.0, taken.is_ok());
        if taken.is_err() {
            note(&app, What::SignInRefused, &account.sign_in, Some(caller.0), "the code of the second factor did not fit").await;
        }
        taken?;
    }
    let agent = headers.get(header::USER_AGENT).and_then(|v| v.to_str().ok()).unwrap_or("").chars().take(200).collect();
    let who = begin(&session, account, agent).await?;
    note(&app, What::SignedIn, &who.sign_in, Some(caller.0), &format!("as {}", who.role_words())).await;
    Ok(Json(me(&app, who).await?))
}

/// Begins a session.
pub(super) async fn begin(session: &Session, account: Account, agent: String) -> Result<Who, Problem> {
    // a new id at sign-in, so that an id planted before it is worth nothing
    session.cycle_id().await.map_err(|e| session_store::problem(&e))?;
    let token: [u8; 16] = rand::random();
    let who = Who {
        sign_in: account.sign_in,
        administrator: account.administrator,
        roles: account.roles,
        second_factor: account.second_factor,
        owes_factor: account.owes_factor,
        credential: account.credential,
        token: record::canonical::hex(&token),
        reads: crate::who::Reader::default(),
        session: String::new(),
    };
    session.insert(SESSION_KEY, &who).await.map_err(|e| session_store::problem(&e))?;
    session.insert("agent", agent).await.map_err(|e| session_store::problem(&e))?;
    Ok(who)
}

/// Who is signed in.
#[utoipa::path(get, path = "/api/v1/session", tag = "session", responses((status = 200, body = Me), (status = 401, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who) -> Result<Json<Me>, Problem> {
    Ok(Json(me(&app, who).await?))
}

/// Signs out.
#[utoipa::path(delete, path = "/api/v1/session", tag = "session", responses((status = 204), (status = 401, body = ProblemBody)))]
pub async fn sign_out(State(app): State<App>, who: Who, caller: Caller, session: Session) -> Result<StatusCode, Problem> {
    note(&app, What::SignedOut, &who.sign_in, Some(caller.0), "").await;
    session.flush().await.map_err(|e| session_store::problem(&e))?;
    Ok(StatusCode::NO_CONTENT)
}
