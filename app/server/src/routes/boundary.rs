//! Blinds put in and items taken out for the test.

use super::{Body, text, uuid};
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::store::history::{self, Change};
use crate::store::{attempt, boundary, pack as packs};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use pack::acts::{BoundaryAct, Stage};
use pack::registers::BoundaryItem;
use run::situation::At;

/// Adds an item, or books that it is set or put back. Nothing is put back while a run is not released.
#[utoipa::path(put, path = "/api/v1/packs/{id}/boundary/{item}", tag = "registers", params(("id" = String, Path), ("item" = String, Path)), request_body = BoundaryItem,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, item)): Path<(String, String)>,
    Body(body): Body<BoundaryItem>,
) -> Result<StatusCode, Problem> {
    let pack = packs::get(&app.db, &id).await?;
    may_on(&who, Action::Plan, &pack)?;
    uuid(&item)?;
    text("tag", &body.tag, 64, "the tag")?;
    text("place", &body.place, 200, "the place")?;
    if body.put_back && !body.set_for_test {
        return Err(Problem::invalid("put_back", format!("{} was never set for the test, so it cannot be put back", body.tag)));
    }
    let there = boundary::of_pack(&app.db, &id).await?.into_iter().find(|b| b.id == item).map(|b| b.item);
    let attempt = attempt::of_pack(&app.db, &id).await?.into_iter().next_back();
    if let (true, Some(attempt)) = (there.as_ref() != Some(&body), attempt) {
        let held = runs::current(&app, &attempt).await?;
        let run = held.read();
        let at = At::new(&run, app.clock.now(), app.clock.rate());
        let tag = there.as_ref().map_or(&body.tag, |t| &t.tag);
        let against = at.boundary_objections(
            act(there.as_ref(), &body, at.stage()),
            tag,
            &app.tell(&pack.project, who.reads_on(&pack).units(run.dial())),
        );
        if !against.is_empty() {
            return Err(Problem::Conflict(against.join(" ")));
        }
    }
    boundary::put(&app.db, &id, &item, &body, &who.sign_in).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// What a change of an item is.
fn act(there: Option<&BoundaryItem>, body: &BoundaryItem, stage: Stage) -> BoundaryAct {
    let Some(there) = there else { return BoundaryAct::Set };
    let as_it_was = (&there.tag, there.kind, &there.place) == (&body.tag, body.kind, &body.place);
    let owed = there.set_for_test && !there.put_back;
    match (as_it_was, owed) {
        (true, true) if body.put_back => BoundaryAct::PutBack,
        (true, false) if body.set_for_test => BoundaryAct::Set,
        // the system was released for test with it in
        (_, true) if stage != Stage::Closed => BoundaryAct::ChangeOwed,
        _ => BoundaryAct::Change,
    }
}

/// Who changed plan, rows, blinds, removed items and punch list of a pack, when, from what to what; the last first.
#[utoipa::path(get, path = "/api/v1/packs/{id}/history", tag = "packs", params(("id" = String, Path)), responses((status = 200, body = Vec<Change>), (status = 404, body = ProblemBody)))]
pub async fn changes(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<Vec<Change>>, Problem> {
    may_on(&who, Action::See, &packs::get(&app.db, &id).await?)?;
    Ok(Json(history::of(&app.db, &id, false).await?))
}
