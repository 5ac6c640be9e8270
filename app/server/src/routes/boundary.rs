//! Blinds put in and items taken out for the test.

use super::{Body, text, uuid};
use crate::access::{Action, may_on};
use crate::judging::Run;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::{attempt, boundary, pack as packs};
use crate::who::Who;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use pack::registers::BoundaryItem;

/// Adds an item, or books that it is set or put back. Nothing is put back while a run is not released.
#[utoipa::path(put, path = "/api/v1/packs/{id}/boundary/{item}", tag = "registers", params(("id" = String, Path), ("item" = String, Path)), request_body = BoundaryItem,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, item)): Path<(String, String)>,
    Body(body): Body<BoundaryItem>,
) -> Result<StatusCode, Problem> {
    may_on(&who, Action::Plan, &packs::get(&app.db, &id).await?)?;
    uuid(&item)?;
    text("tag", &body.tag, 64, "the tag")?;
    text("place", &body.place, 200, "the place")?;
    if body.put_back {
        if !body.set_for_test {
            return Err(Problem::invalid("put_back", format!("{} was never set for the test, so it cannot be put back", body.tag)));
        }
        if let Some(last) = attempt::of_pack(&app.db, &id).await?.into_iter().next_back()
            && !Run::load(&app, last).await?.over()
        {
            return Err(Problem::Conflict(format!("{} stays where it is: {}", body.tag, pack::restore::RELEASE_FIRST.sentence)));
        }
    }
    boundary::put(&app.db, &id, &item, &body, &who.sign_in).await?;
    Ok(StatusCode::NO_CONTENT)
}
