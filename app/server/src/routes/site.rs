//! The site: its name, zone and units, which an administrator changes.

use super::{Body, text};
use crate::access::{Action, may};
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::state::App;
use crate::store::site;
use crate::who::Who;
use axum::extract::State;
use axum::http::StatusCode;
use moment::Zone;
use quantity::Units;
use serde::{Deserialize, Serialize};

/// What the site is called, its zone and its units.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SiteSettings {
    /// Name, as it stands on records from now on.
    pub name: String,
    /// Zone, for projects that have none of their own.
    pub zone: String,
    /// Units, for projects that have none of their own.
    pub units: Units,
}

/// Changes name, zone and units of the site; records keep those under which they were sealed.
#[utoipa::path(put, path = "/api/v1/site", tag = "people", request_body = SiteSettings,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(State(app): State<App>, who: Who, caller: Caller, Body(body): Body<SiteSettings>) -> Result<StatusCode, Problem> {
    may(&who, Action::People)?;
    text("name", &body.name, 120, "the name of the site")?;
    let zone = Zone::named(body.zone.trim())
        .ok_or_else(|| Problem::invalid("zone", format!("there is no zone {}: name one as Europe/Lisbon", body.zone)))?;
    let before = site::get(&app.db).await?;
    site::set(&app.db, body.name.trim(), &zone, body.units).await?;
    let what = format!(
        "{} in {} ({}), before {} in {} ({})",
        body.name.trim(),
        zone.name(),
        body.units.words(),
        before.name,
        before.zone.name(),
        before.units.words()
    );
    note(&app, What::SiteChanged, &who.sign_in, Some(caller.0), &what).await;
    Ok(StatusCode::NO_CONTENT)
}
