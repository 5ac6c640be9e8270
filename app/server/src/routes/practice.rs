//! Practice on a copy: the same test on a rig of its own, never a record.

use super::again::boundary;
use super::attempts::of_person;
use super::uuid;
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::store::{instrument, pack as packs};
use crate::views::pack::{PackView, pack_view};
use crate::views::practice::can_practise;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use pack::plan::RunKind;
use run::debrief::Debrief;

/// Makes a copy for practice: parts, plan and boundary as they are, everything set for the test, nothing that was ever recorded. The same id again changes nothing.
#[utoipa::path(put, path = "/api/v1/packs/{id}/practice/{copy}", tag = "packs", params(("id" = String, Path), ("copy" = String, Path, description = "UUID made by the client")),
    responses((status = 201, body = PackView), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, copy)): Path<(String, String)>,
) -> Result<(StatusCode, Json<PackView>), Problem> {
    let row = packs::get(&app.db, &id).await?;
    may_on(&who, Action::Practise, &row)?;
    uuid(&copy)?;
    let store = instrument::lent_to(&app.db, &row.project.id).await?;
    let gauge = store.iter().find(|i| i.tag == row.plan.gauge_tag);
    if !can_practise(&app, gauge) {
        return Err(Problem::Conflict("This test's gauge is not on the practice rig, so there is no simulated system that behaves as it does: practise on one whose gauge is.".to_owned()));
    }
    let mut plan = row.plan.clone();
    plan.run = RunKind::Practice;
    plan.people.performs.clone_from(&who.sign_in);
    let number = free_number(&app, &row).await?;
    let title: String = format!("Practice: {}", row.title).chars().take(200).collect();
    let new = packs::NewPackRow {
        id: &copy,
        project: &row.project,
        number: &number,
        title: &title,
        form: row.form,
        plan: &plan,
        rows: &row.rows,
        by: &who.sign_in,
    };
    packs::insert(&app.db, &new).await?;
    boundary(&app, &who, &id, &copy, true).await?;
    Ok((StatusCode::CREATED, Json(pack_view(&app, &who, packs::get(&app.db, &copy).await?).await?)))
}

/// The number of the original with the next free P.
async fn free_number(app: &App, of: &packs::PackRow) -> Result<String, Problem> {
    let stem: String = of.number.chars().take(26).collect();
    let all = packs::numbers(&app.db, &of.project.id, &format!("{stem}-P")).await?;
    let taken = |n: &str| all.iter().any(|p| p == n);
    Ok((1..).map(|i| format!("{stem}-P{i}")).find(|n| !taken(n)).unwrap_or(stem))
}

/// What a practice run teaches, once it is over: what its system hid and whether it was found, what was skipped, what would have been dangerous.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/debrief", tag = "run", params(("attempt" = String, Path)),
    responses((status = 200, body = Debrief), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn debrief(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<Debrief>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    if attempt.frozen.plan.run != RunKind::Practice {
        return Err(Problem::Conflict("This is no practice run: nobody hid anything in it.".to_owned()));
    }
    let held = runs::current(&app, &attempt).await?;
    let run = held.read();
    if !run.over() {
        return Err(Problem::Conflict(
            "The practice is not over: what it hides is told once the pressure is booked as released.".to_owned(),
        ));
    }
    let hidden = app.practice.hidden().ok_or(Problem::NotFound("practice rig"))?;
    let tell = app.tell(&pack.project, who.reads_on(&pack).units(run.dial()));
    Ok(Json(run.debrief(&hidden, &tell)))
}
