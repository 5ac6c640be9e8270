//! Where a test is kept: put away when it was begun by mistake, moved to another project.

use super::{Body, text};
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::{attempt, instrument, pack as store, project, register};
use crate::views::pack::{PackView, differences, pack_view, planned};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use pack::registers::BoundaryItem;
use pack::signing::Form;
use serde::{Deserialize, Serialize};
use terms::Term;

/// Away, or back.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Away {
    /// True to put it away, false to bring it back.
    pub away: bool,
    /// Why it is put away.
    #[serde(default)]
    pub reason: String,
}

/// Puts a test away that was begun by mistake: it leaves every list and can be brought back. One that holds a reading is kept.
#[utoipa::path(put, path = "/api/v1/packs/{id}/away", tag = "packs", params(("id" = String, Path)), request_body = Away,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn away(State(app): State<App>, who: Who, Path(id): Path<String>, Body(body): Body<Away>) -> Result<StatusCode, Problem> {
    let row = store::get(&app.db, &id).await?;
    may_on(&who, Action::Plan, &row)?;
    if !body.away {
        store::put_away(&app.db, &row, None, &who.sign_in).await?;
        return Ok(StatusCode::NO_CONTENT);
    }
    text("reason", &body.reason, 500, "the reason")?;
    if store::holds_a_reading(&app.db, &id).await? {
        return Err(Problem::Conflict(format!(
            "{} holds readings: it is a record of what was done, and stays in the lists. Release its pressure and close it as it is.",
            row.number
        )));
    }
    // released, it may be under water or pressure though nobody has read it yet
    if let Some(last) = attempt::of_pack(&app.db, &id).await?.into_iter().next_back() {
        let over = crate::runs::current(&app, &last).await?.read().over();
        if !over {
            return Err(Problem::Conflict(format!(
                "{} is released for test, and somebody may be filling it: book its pressure as released first, then put it away.",
                row.number
            )));
        }
    }
    let blinds: Vec<String> = register::of_pack(&app.db, &id)
        .await?
        .items::<BoundaryItem>()?
        .into_iter()
        .filter(|b| b.set_for_test && !b.put_back)
        .map(|b| b.tag)
        .collect();
    if !blinds.is_empty() {
        return Err(Problem::Conflict(format!(
            "{} {} booked as set on the system: book {} back first, or nobody would look for {} any more.",
            blinds.join(", "),
            if blinds.len() == 1 { "is" } else { "are" },
            if blinds.len() == 1 { "it" } else { "them" },
            if blinds.len() == 1 { "it" } else { "them" },
        )));
    }
    store::put_away(&app.db, &row, Some(body.reason.trim()), &who.sign_in).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// What would change if a pack were moved.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct MoveView {
    /// Why it cannot be moved; absent where it can.
    pub refused: Option<String>,
    /// Its number there.
    pub number: String,
    /// What would change, a sentence each; empty where nothing would.
    pub changes: Vec<String>,
}

/// A pack that may be moved to a project by whoever asks, and that project.
async fn moving(app: &App, who: &Who, id: &str, to: &str) -> Result<(store::PackRow, project::Project), Problem> {
    let row = store::get(&app.db, id).await?;
    may_on(who, Action::Plan, &row)?;
    crate::access::may_in(who, to, Action::Make(row.form))?;
    Ok((row, project::get(&app.db, to).await?))
}

async fn refused(app: &App, row: &store::PackRow, to: &project::Project) -> Result<Option<String>, Problem> {
    if row.project.id == to.id {
        return Ok(Some(format!("{} is in {} already.", row.number, to.name)));
    }
    let tested = !attempt::of_pack(&app.db, &row.id).await?.is_empty();
    Ok(tested.then(|| {
        format!(
            "{} was released for test under the specification of {}: its record stays there. Make a new pack in {} for the next test.",
            row.number, row.project.name, to.name
        )
    }))
}

async fn changes(app: &App, who: &Who, row: &store::PackRow, to: &project::Project, number: &str) -> Result<Vec<String>, Problem> {
    let registers = register::of_pack(&app.db, &row.id).await?;
    let there = store::PackRow { project: to.clone(), ..row.clone() };
    let reads = Some(who.reads_on(row));
    let now = planned(app, row, &registers, reads).await?;
    let then = planned(app, &there, &registers, reads).await?;
    let mut all = Vec::new();
    if number != row.number {
        all.push(format!("Its number {} is taken in {}: it becomes {number}.", row.number, to.name));
    }
    if row.project.zone.name() != to.zone.name() {
        all.push(format!("Its times are those of {} instead of {}.", to.zone.name(), row.project.zone.name()));
    }
    let lent = instrument::lent_to(&app.db, &to.id).await?;
    for tag in row.plan.recorded() {
        if !lent.iter().any(|i| i.tag == tag) {
            all.push(format!("{tag} is not lent to {}: its keeper lends it, or another is chosen.", to.name));
        }
    }
    let members = project::members(&app.db, &to.id).await?;
    for act in pack::signing::acts(row.form, row.plan.signers) {
        let name = act.person(&row.plan.people);
        if !name.is_empty() && !members.iter().any(|m| m.person == name && (row.form == Form::Quick || m.role == act.role())) {
            all.push(format!("{name} is no {} in {}: another is named, or an administrator gives the role.", act.role().words(), to.name));
        }
    }
    all.extend(differences(&now, &then));
    Ok(all)
}

/// What would change if a pack were moved to another project; moves nothing.
#[utoipa::path(get, path = "/api/v1/packs/{id}/project/{project}", tag = "packs", params(("id" = String, Path), ("project" = String, Path)),
    responses((status = 200, body = MoveView), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody)))]
pub async fn look(State(app): State<App>, who: Who, Path((id, to)): Path<(String, String)>) -> Result<Json<MoveView>, Problem> {
    let (row, to) = moving(&app, &who, &id, &to).await?;
    let number = store::number_in(&app.db, &row, &to).await?;
    let refused = refused(&app, &row, &to).await?;
    let changes = if refused.is_some() { Vec::new() } else { changes(&app, &who, &row, &to, &number).await? };
    Ok(Json(MoveView { refused, number, changes }))
}

/// Moves a pack to another project.
#[utoipa::path(put, path = "/api/v1/packs/{id}/project/{project}", tag = "packs", params(("id" = String, Path), ("project" = String, Path)),
    responses((status = 200, body = PackView), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 412, body = ProblemBody)))]
pub async fn put(State(app): State<App>, who: Who, Path((id, to)): Path<(String, String)>) -> Result<Json<PackView>, Problem> {
    let (row, to) = moving(&app, &who, &id, &to).await?;
    if let Some(sentence) = refused(&app, &row, &to).await? {
        return Err(Problem::Conflict(sentence));
    }
    let number = store::number_in(&app.db, &row, &to).await?;
    store::move_to(&app.db, &row, &to, &number, &who.sign_in).await?;
    Ok(Json(pack_view(&app, &who, store::get(&app.db, &id).await?).await?))
}
