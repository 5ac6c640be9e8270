//! The punch list.

use super::{Body, text, uuid};
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::{pack as packs, punch};
use crate::who::Who;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use pack::registers::Punch;

/// Adds or clears an item.
#[utoipa::path(put, path = "/api/v1/packs/{id}/punch/{item}", tag = "registers", params(("id" = String, Path), ("item" = String, Path)), request_body = Punch,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, item)): Path<(String, String)>,
    Body(body): Body<Punch>,
) -> Result<StatusCode, Problem> {
    may_on(&who, Action::Punch, &packs::get(&app.db, &id).await?)?;
    uuid(&item)?;
    text("number", &body.number, 32, "the number")?;
    text("text", &body.text, 500, "what is wrong")?;
    text("owner", &body.owner, 64, "who clears it")?;
    punch::put(&app.db, &id, &item, &body, &who.sign_in).await?;
    Ok(StatusCode::NO_CONTENT)
}
