//! Projects: name, zone, units, numbering and members. An administrator makes them; whoever has a part in one sees it.

use super::{Body, etag, text, uuid, version};
use crate::access::{Action, may, may_in};
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::state::App;
use crate::store::project::{self as store, Project, Settings};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, header};
use moment::Zone;
use pack::people::Role;
use quantity::Units;
use serde::{Deserialize, Serialize};

/// A member of a project.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct MemberView {
    /// Sign-in name.
    pub sign_in: String,
    /// Role.
    pub role: Role,
}

/// A project.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct ProjectDetail {
    /// Id.
    pub id: String,
    /// Version, for If-Match.
    pub version: u32,
    /// What is its own; what is empty is the site's.
    pub settings: ProjectSettings,
    /// Its zone, or the site's.
    pub zone: String,
    /// Its units, or the site's.
    pub units: Units,
    /// Its members.
    pub members: Vec<MemberView>,
}

/// What is a project's own.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ProjectSettings {
    /// Name.
    pub name: String,
    /// Zone, for instance Europe/Lisbon; empty for the site's.
    #[serde(default)]
    pub zone: String,
    /// Units; absent for the site's.
    #[serde(default)]
    pub units: Option<Units>,
    /// What the numbers of packs begin with.
    #[serde(default = "tp")]
    pub pack_prefix: String,
    /// What those of quick tests begin with.
    #[serde(default = "qt")]
    pub quick_prefix: String,
}

fn tp() -> String {
    "TP".to_owned()
}

fn qt() -> String {
    "QT".to_owned()
}

impl ProjectSettings {
    fn stored(self) -> Result<Settings, Problem> {
        text("name", &self.name, 120, "the name")?;
        for (field, prefix) in [("pack_prefix", &self.pack_prefix), ("quick_prefix", &self.quick_prefix)] {
            if !(1..=12).contains(&prefix.chars().count()) || !prefix.chars().all(|c| c.is_alphanumeric() || c == '-') {
                return Err(Problem::invalid(field, "what a number begins with has one to twelve letters or figures"));
            }
        }
        if self.pack_prefix == self.quick_prefix {
            return Err(Problem::invalid(
                "quick_prefix",
                "packs and quick tests are told apart by their numbers: let them begin differently",
            ));
        }
        let zone = self.zone.trim();
        if !zone.is_empty() && Zone::named(zone).is_none() {
            return Err(Problem::invalid(
                "zone",
                format!("there is no zone {zone}: name one as Europe/Lisbon, or leave it empty for the site's"),
            ));
        }
        Ok(Settings {
            zone: (!zone.is_empty()).then(|| zone.to_owned()),
            name: self.name.trim().to_owned(),
            units: self.units,
            pack_prefix: self.pack_prefix,
            quick_prefix: self.quick_prefix,
        })
    }
}

async fn detail(app: &App, project: Project) -> Result<ProjectDetail, Problem> {
    let own = store::settings(&app.db, &project.id).await?;
    let members = store::members(&app.db, &project.id).await?.into_iter().map(|m| MemberView { sign_in: m.person, role: m.role });
    Ok(ProjectDetail {
        members: members.collect(),
        version: project.version,
        zone: project.zone.name().to_owned(),
        units: project.units,
        id: project.id,
        settings: ProjectSettings {
            name: own.name,
            zone: own.zone.unwrap_or_default(),
            units: own.units,
            pack_prefix: own.pack_prefix,
            quick_prefix: own.quick_prefix,
        },
    })
}

/// Projects in which this person has a part; all for an administrator.
#[utoipa::path(get, path = "/api/v1/projects", tag = "projects", responses((status = 200, body = Vec<ProjectDetail>), (status = 401, body = ProblemBody)))]
pub async fn list(State(app): State<App>, who: Who) -> Result<Json<Vec<ProjectDetail>>, Problem> {
    let mut all = Vec::new();
    for project in store::all(&app.db).await? {
        if who.administrator || who.role_in(&project.id).is_some() {
            all.push(detail(&app, project).await?);
        }
    }
    Ok(Json(all))
}

/// One project.
#[utoipa::path(get, path = "/api/v1/projects/{project}", tag = "projects", params(("project" = String, Path)),
    responses((status = 200, body = ProjectDetail), (status = 404, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, Path(project): Path<String>) -> Result<(HeaderMap, Json<ProjectDetail>), Problem> {
    if !who.administrator {
        may_in(&who, &project, Action::See)?;
    }
    let view = detail(&app, store::get(&app.db, &project).await?).await?;
    Ok((etag(view.version), Json(view)))
}

/// Makes a project under an id of the client's, or changes it when nobody else did meanwhile (If-Match).
#[utoipa::path(put, path = "/api/v1/projects/{project}", tag = "projects", params(("project" = String, Path)), request_body = ProjectSettings,
    responses((status = 200, body = ProjectDetail), (status = 403, body = ProblemBody), (status = 412, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(project): Path<String>,
    headers: HeaderMap,
    Body(body): Body<ProjectSettings>,
) -> Result<(HeaderMap, Json<ProjectDetail>), Problem> {
    may(&who, Action::People)?;
    uuid(&project)?;
    let settings = body.stored()?;
    if headers.contains_key(header::IF_MATCH) {
        store::change(&app.db, &project, &settings, version(&headers)?, &who.sign_in).await?;
    } else {
        store::make(&app.db, &project, &settings).await?;
    }
    note(&app, What::ProjectChanged, &who.sign_in, Some(caller.0), &settings.name).await;
    let view = detail(&app, store::get(&app.db, &project).await?).await?;
    Ok((etag(view.version), Json(view)))
}
