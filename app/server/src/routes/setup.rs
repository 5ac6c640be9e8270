//! The first start of an empty installation, by whoever has the code that its terminal printed.

use super::people::{check_password, hashed};
use super::{Body, text};
use crate::demo_site::DemoAccount;
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::state::App;
use crate::store::account::{self, First};
use crate::store::site;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use moment::Zone;
use pack::people::Role;
use quantity::Units;
use serde::{Deserialize, Serialize};

/// Whether an installation is to be set up.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct SetupView {
    /// True while nobody has an account.
    pub needed: bool,
    /// Name of the site, where it has one.
    pub site: String,
    /// True where it can be set up with an invented site and its people.
    pub demo: bool,
}

/// Whether this installation is to be set up.
#[utoipa::path(get, path = "/api/v1/setup", tag = "session", responses((status = 200, body = SetupView)))]
pub async fn get(State(app): State<App>) -> Result<Json<SetupView>, Problem> {
    let needed = account::nobody(&app.db).await?;
    // to whoever is not signed in nothing is said of an installation that stands
    let site = if needed { site::get(&app.db).await?.name } else { String::new() };
    Ok(Json(SetupView { needed, site, demo: needed && app.demo.is_some() }))
}

/// Somebody with a name and a password of their own.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Account {
    /// Sign-in name.
    pub sign_in: String,
    /// Password.
    pub password: String,
}

/// Whoever works on tests from the beginning.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Worker {
    /// Sign-in name.
    pub sign_in: String,
    /// Password.
    pub password: String,
    /// Role in the first project.
    pub role: Role,
}

/// What an installation begins with.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Setup {
    /// The code that the terminal printed.
    pub code: String,
    /// Whoever looks after it.
    pub administrator: Account,
    /// Whoever works on tests, where that is known; others are invited.
    #[serde(default)]
    pub worker: Option<Worker>,
    /// Name of the site.
    pub site: String,
    /// Its zone.
    pub zone: String,
    /// Its units, for whoever chooses none.
    pub units: Units,
    /// Name of the first project.
    pub project: String,
    /// True to load an invented site to look round in.
    #[serde(default)]
    pub demo: bool,
}

/// What was set up.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct SetUp {
    /// People of the invented site, where one is being loaded.
    pub demo: Vec<DemoAccount>,
}

/// Refuses everything that is wrong, each at its field.
fn check(body: &Setup) -> Result<Zone, Problem> {
    text("site", &body.site, 120, "the name of the site")?;
    text("project", &body.project, 120, "the name of the first project")?;
    let zone = Zone::named(body.zone.trim())
        .ok_or_else(|| Problem::invalid("zone", format!("there is no zone {}: name one as Europe/Lisbon", body.zone)))?;
    text("administrator.sign_in", &body.administrator.sign_in, 64, "the administrator's sign-in name")?;
    check_password("administrator.password", &body.administrator.password, &body.administrator.sign_in)?;
    if let Some(worker) = &body.worker {
        text("worker.sign_in", &worker.sign_in, 64, "the sign-in name")?;
        check_password("worker.password", &worker.password, &worker.sign_in)?;
        if worker.sign_in.trim().eq_ignore_ascii_case(body.administrator.sign_in.trim()) {
            return Err(Problem::invalid(
                "worker.sign_in",
                "whoever looks after the installation has no part in any test: take another name for the account with which you test",
            ));
        }
        if worker.role == Role::Administrator {
            return Err(Problem::invalid("worker.role", "choose what they do on tests"));
        }
    }
    Ok(zone)
}

/// Sets up an empty installation; only with the code that its terminal printed, and only while nobody has an account.
#[utoipa::path(post, path = "/api/v1/setup", tag = "session", request_body = Setup,
    responses((status = 201, body = SetUp), (status = 403, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody), (status = 429, body = ProblemBody)))]
pub async fn post(State(app): State<App>, caller: Caller, Body(body): Body<Setup>) -> Result<(StatusCode, Json<SetUp>), Problem> {
    app.limits.sign_in(caller.0)?;
    let typed: String = body.code.chars().filter(|c| c.is_ascii_alphanumeric()).collect::<String>().to_uppercase();
    if app.setup_code.as_deref().is_none_or(|code| code.replace('-', "") != typed) {
        return Err(Problem::invalid("code", "this is not the code that the terminal printed: look where the server was started"));
    }
    let zone = check(&body)?;
    let mut people = vec![First {
        sign_in: body.administrator.sign_in.trim(),
        password_hash: hashed(&app, &body.administrator.password).await?,
        role: None,
    }];
    if let Some(worker) = &body.worker {
        people.push(First {
            sign_in: worker.sign_in.trim(),
            password_hash: hashed(&app, &worker.password).await?,
            role: Some(worker.role),
        });
    }
    let demo = if body.demo { app.demo.as_ref().map(|d| d.people()).unwrap_or_default() } else { Vec::new() };
    for (account, role) in &demo {
        people.push(First { sign_in: &account.sign_in, password_hash: hashed(&app, &account.password).await?, role: Some(*role) });
    }
    let project = uuid::Uuid::now_v7().to_string();
    if !account::set_up(&app.db, (&project, body.project.trim()), &people).await? {
        return Err(Problem::Conflict("This installation was set up a moment ago: sign in.".to_owned()));
    }
    site::set(&app.db, body.site.trim(), &zone, body.units).await?;
    note(&app, What::SiteChanged, body.administrator.sign_in.trim(), Some(caller.0), "set up").await;
    for first in &people {
        note(&app, What::AccountMade, first.sign_in, Some(caller.0), first.role.map_or("administrator", |r| r.into())).await;
    }
    let accounts: Vec<DemoAccount> = demo.into_iter().map(|d| d.0).collect();
    if let (false, Some(loads)) = (accounts.is_empty(), &app.demo) {
        loads.load(accounts.clone());
    }
    Ok((StatusCode::CREATED, Json(SetUp { demo: accounts })))
}
