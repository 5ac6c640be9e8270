//! People, for administrators: who has an account, with which role in which project. Passwords are chosen by whose they are, by a one-time link.

use super::{Body, text};
use crate::access::{Action, may};
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::state::App;
use crate::store::account::{self, PersonRow};
use crate::store::{project, site};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use moment::Instant;
use pack::people::Role;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use strum::{EnumString, IntoStaticStr};
use terms::Term;

/// Days for which a link is good.
const LINK_DAYS: f64 = 7.0;

/// A person as an administrator sees them.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct PersonView {
    /// Sign-in name.
    pub sign_in: String,
    /// True for whoever looks after the installation.
    pub administrator: bool,
    /// True once the account was ended.
    pub ended: bool,
    /// True once they chose a password.
    pub joined: bool,
    /// True where a second factor is in use.
    pub second_factor: bool,
    /// Until when their one-time link is good.
    pub link_until: Option<Instant>,
    /// Role by id of the project.
    pub roles: BTreeMap<String, Role>,
}

impl From<PersonRow> for PersonView {
    fn from(r: PersonRow) -> Self {
        Self {
            sign_in: r.sign_in,
            administrator: r.administrator,
            ended: r.ended,
            joined: r.joined,
            second_factor: r.second_factor,
            link_until: r.link_until,
            roles: r.roles,
        }
    }
}

/// Of whom a second factor is asked.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema, EnumString, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum FactorAsked {
    /// of nobody; whoever likes sets one up
    Offered,
    /// of administrators
    Administrators,
    /// of everybody
    Everybody,
}

/// A project with its name.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct ProjectName {
    /// Id.
    pub id: String,
    /// Name.
    pub name: String,
}

/// People and what they may belong to.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct PeopleView {
    /// Everybody, by name.
    pub people: Vec<PersonView>,
    /// Projects, by name.
    pub projects: Vec<ProjectName>,
    /// Of whom a second factor is asked.
    pub second_factor: FactorAsked,
}

/// Everybody with an account.
#[utoipa::path(get, path = "/api/v1/people", tag = "people", responses((status = 200, body = PeopleView), (status = 403, body = ProblemBody)))]
pub async fn list(State(app): State<App>, who: Who) -> Result<Json<PeopleView>, Problem> {
    may(&who, Action::People)?;
    let projects = project::all(&app.db).await?.into_iter().map(|p| ProjectName { id: p.id, name: p.name });
    Ok(Json(PeopleView {
        people: account::people(&app.db).await?.into_iter().map(PersonView::from).collect(),
        projects: projects.collect(),
        second_factor: site::second_factor(&app.db).await?.parse().unwrap_or(FactorAsked::Everybody),
    }))
}

/// What a person is to be.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Invite {
    /// True for whoever looks after the installation; they have no part in any test.
    #[serde(default)]
    pub administrator: bool,
    /// Role by id of the project.
    #[serde(default)]
    pub roles: BTreeMap<String, Role>,
}

/// A one-time link.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Link {
    /// Where it leads in this application; what stands behind # never reaches a server by itself.
    pub path: String,
    /// Until when it is good.
    pub until: Instant,
}

/// Roles that may be given: an administrator's is no role in a project.
async fn check(app: &App, sign_in: &str, invite: &Invite) -> Result<(), Problem> {
    text("sign_in", sign_in, 64, "the sign-in name")?;
    if sign_in.chars().any(|c| c.is_control() || c == '/') || sign_in.trim() != sign_in {
        return Err(Problem::invalid("sign_in", "a sign-in name has no slash, and no blank before or behind it"));
    }
    if invite.administrator && !invite.roles.is_empty() {
        return Err(Problem::invalid(
            "roles",
            "an administrator has no part in any test: whoever does both has two accounts, one for each",
        ));
    }
    if !invite.administrator && invite.roles.is_empty() {
        return Err(Problem::invalid("roles", "name at least one project and the role in it: without one nothing is open to them"));
    }
    let projects = project::all(&app.db).await?;
    for (id, role) in &invite.roles {
        if !projects.iter().any(|p| p.id == *id) {
            return Err(Problem::invalid("roles", "one of these projects is not there: reload the page"));
        }
        if *role == Role::Administrator {
            return Err(Problem::invalid("roles", "an administrator is one of the whole installation, not of a project"));
        }
    }
    Ok(())
}

fn said(invite: &Invite) -> String {
    let roles: Vec<&str> = invite.roles.values().map(|r| r.words()).collect();
    if invite.administrator { "administrator".to_owned() } else { format!("{} in {} projects", roles.join(", "), roles.len()) }
}

/// A link that is good once, and its hash.
fn token(app: &App) -> (Link, String) {
    let secret: [u8; 24] = rand::random();
    let token = record::canonical::hex(&secret);
    let hash = record::canonical::sha256_hex(token.as_bytes());
    (Link { path: format!("/join#{token}"), until: app.clock.now().plus_s(LINK_DAYS * 86_400.0) }, hash)
}

/// Invites a person: makes an account without a password, and a link with which its owner chooses one.
#[utoipa::path(put, path = "/api/v1/people/{sign_in}", tag = "people", params(("sign_in" = String, Path)), request_body = Invite,
    responses((status = 201, body = Link), (status = 403, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn invite(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(sign_in): Path<String>,
    Body(body): Body<Invite>,
) -> Result<(StatusCode, Json<Link>), Problem> {
    may(&who, Action::People)?;
    check(&app, &sign_in, &body).await?;
    account::make(&app.db, &sign_in, body.administrator, &body.roles).await?;
    note(&app, What::AccountMade, &sign_in, Some(caller.0), &format!("{}, by {}", said(&body), who.sign_in)).await;
    let link = linked(&app, &who, &sign_in, caller).await?;
    Ok((StatusCode::CREATED, Json(link)))
}

async fn linked(app: &App, who: &Who, sign_in: &str, caller: Caller) -> Result<Link, Problem> {
    let (link, hash) = token(app);
    if !account::link(&app.db, sign_in, &hash, &who.sign_in, link.until).await? {
        return Err(Problem::NotFound("account"));
    }
    note(app, What::LinkMade, sign_in, Some(caller.0), &format!("by {}", who.sign_in)).await;
    Ok(link)
}

/// Sets and takes roles.
#[utoipa::path(put, path = "/api/v1/people/{sign_in}/roles", tag = "people", params(("sign_in" = String, Path)), request_body = Invite,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn roles(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(sign_in): Path<String>,
    Body(body): Body<Invite>,
) -> Result<StatusCode, Problem> {
    may(&who, Action::People)?;
    let there = one(&app, &sign_in).await?;
    if there.administrator != body.administrator {
        return Err(Problem::invalid(
            "administrator",
            "an account is an administrator's or one for tests from its beginning, so that its log is of one kind: make another account",
        ));
    }
    // taking the last role away is said by ending the account, or is meant for a while
    if !body.roles.is_empty() {
        check(&app, &sign_in, &body).await?;
    }
    account::set_roles(&app.db, &sign_in, &body.roles).await?;
    note(&app, What::RoleChanged, &sign_in, Some(caller.0), &format!("{}, by {}", said(&body), who.sign_in)).await;
    Ok(StatusCode::NO_CONTENT)
}

async fn one(app: &App, sign_in: &str) -> Result<PersonRow, Problem> {
    account::people(&app.db).await?.into_iter().find(|p| p.sign_in == sign_in).ok_or(Problem::NotFound("account"))
}

/// Makes a new one-time link: the password, every session and the second factor of the account end at once.
#[utoipa::path(post, path = "/api/v1/people/{sign_in}/link", tag = "people", params(("sign_in" = String, Path)),
    responses((status = 201, body = Link), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn link(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(sign_in): Path<String>,
) -> Result<(StatusCode, Json<Link>), Problem> {
    may(&who, Action::People)?;
    if sign_in == who.sign_in {
        return Err(Problem::Conflict("This is your own account: change your password under it.".to_owned()));
    }
    Ok((StatusCode::CREATED, Json(linked(&app, &who, &sign_in, caller).await?)))
}

/// Ends an account: nobody signs in with it any more, and what it did stays under its name. It is opened again on the server alone.
#[utoipa::path(delete, path = "/api/v1/people/{sign_in}", tag = "people", params(("sign_in" = String, Path)),
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn end(State(app): State<App>, who: Who, caller: Caller, Path(sign_in): Path<String>) -> Result<StatusCode, Problem> {
    may(&who, Action::People)?;
    let there = one(&app, &sign_in).await?;
    if there.administrator {
        let others =
            account::people(&app.db).await?.into_iter().filter(|p| p.administrator && !p.ended && p.joined && p.sign_in != sign_in).count();
        if others == 0 {
            return Err(Problem::Conflict(format!(
                "{sign_in} is the last administrator who can sign in: invite another, who chooses a password, then end this account."
            )));
        }
    }
    if !account::end(&app.db, &sign_in).await? {
        return Ok(StatusCode::NO_CONTENT);
    }
    note(&app, What::AccountEnded, &sign_in, Some(caller.0), &format!("by {}", who.sign_in)).await;
    Ok(StatusCode::NO_CONTENT)
}

/// Of whom a second factor is asked from now on.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskFactor {
    /// Of whom.
    pub second_factor: FactorAsked,
}

/// Asks for a second factor, or only offers it. Whoever owes one sets it up before anything else.
#[utoipa::path(put, path = "/api/v1/site/second-factor", tag = "people", request_body = AskFactor,
    responses((status = 204), (status = 403, body = ProblemBody)))]
pub async fn ask_factor(State(app): State<App>, who: Who, caller: Caller, Body(body): Body<AskFactor>) -> Result<StatusCode, Problem> {
    may(&who, Action::People)?;
    let asked: &'static str = body.second_factor.into();
    site::ask_factor(&app.db, asked).await?;
    note(&app, What::SiteChanged, &who.sign_in, Some(caller.0), &format!("second factor: {asked}")).await;
    Ok(StatusCode::NO_CONTENT)
}

/// A link as somebody has it.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Join {
    /// What stands behind # in the link.
    pub token: String,
    /// The password that they choose; absent to ask only whose link it is.
    #[serde(default)]
    pub password: Option<String>,
}

/// Whose link it is.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Joined {
    /// Sign-in name.
    pub sign_in: String,
    /// Name of the site.
    pub site: String,
}

/// Least characters of a password.
pub(super) const LEAST: usize = 10;

/// A password that is long enough, and not the name.
pub(super) fn check_password(field: &str, password: &str, sign_in: &str) -> Result<(), Problem> {
    if password.chars().count() < LEAST {
        return Err(Problem::invalid(field, format!("a password has at least {LEAST} characters: four plain words are good")));
    }
    if password.chars().count() > 200 {
        return Err(Problem::invalid(field, "a password has at most 200 characters"));
    }
    if !sign_in.is_empty()
        && password.to_lowercase().contains(&sign_in.to_lowercase())
        && sign_in.chars().count() * 2 > password.chars().count()
    {
        return Err(Problem::invalid(field, "a password that is little more than the name is guessed first: take four plain words"));
    }
    Ok(())
}

/// The hash of a password, made beside the requests.
pub(super) async fn hashed(app: &App, password: &str) -> Result<String, Problem> {
    let password = password.to_owned();
    app.passwords.run(move |_| password_auth::generate_hash(&password)).await
}

/// Looks whose one-time link it is, or takes it for a password.
#[utoipa::path(post, path = "/api/v1/join", tag = "people", request_body = Join,
    responses((status = 200, body = Joined), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody), (status = 429, body = ProblemBody)))]
pub async fn join(State(app): State<App>, caller: Caller, Body(body): Body<Join>) -> Result<Json<Joined>, Problem> {
    app.limits.sign_in(caller.0)?;
    let hash = record::canonical::sha256_hex(body.token.trim().as_bytes());
    let gone = || {
        Problem::Conflict("This link was used, was replaced by a newer one, or has run out: ask an administrator for another.".to_owned())
    };
    let sign_in = account::invited(&app.db, &hash).await?.ok_or_else(gone)?;
    if let Some(password) = &body.password {
        check_password("password", password, &sign_in)?;
        let password = hashed(&app, password).await?;
        account::join(&app.db, &hash, &password).await?.ok_or_else(gone)?;
        note(&app, What::Joined, &sign_in, Some(caller.0), "chose a password").await;
    }
    Ok(Json(Joined { sign_in, site: site::get(&app.db).await?.name }))
}
