//! What a person changes in how a record is read: a defect let stand, a boundary of the hold moved. The record keeps both, and why.

use super::attempts::of_person;
use super::{Body, text, uuid};
use crate::access::Action;
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::store::correction;
use crate::store::signature;
use crate::who::Who;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use judge::case::Boundary;
use moment::Zone;
use quantity::RunTime;
use run::Run;
use run::rows::Correction;

/// Adds a correction; the same id again changes nothing. Refused once the record is signed.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/corrections/{correction}", tag = "run", params(("attempt" = String, Path), ("correction" = String, Path)), request_body = Correction,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, correction_id)): Path<(String, String)>,
    Body(body): Body<Correction>,
) -> Result<StatusCode, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Judge).await?;
    uuid(&correction_id)?;
    text("reason", body.reason(), 500, "the reason")?;
    let finite = match &body {
        Correction::Overrule { start_s, .. } => start_s.is_finite(),
        Correction::Move { found_s, moved_s, .. } => found_s.is_finite() && moved_s.is_finite(),
        Correction::Decide { .. } => true,
    };
    if !finite {
        return Err(Problem::invalid("moved_s", "a time must be a number of seconds"));
    }
    if signature::content(&app.db, &id).await?.is_some() {
        return Err(Problem::Conflict(
            "The record is signed: what it rests on is not changed any more. Start a new attempt that supersedes it.".to_owned(),
        ));
    }
    if let Correction::Move { boundary: Boundary::Between, found_s, moved_s, .. } = &body {
        let held = runs::current(&app, &attempt).await?;
        stays_between_its_neighbours(&held.read(), &pack.project.zone, *found_s, *moved_s)?;
    }
    if matches!(body, Correction::Decide { .. }) {
        let held = runs::current(&app, &attempt).await?;
        may_be_decided(&app, &pack.project.zone, &id, &held).await?;
    }
    correction::insert(&app.db, &id, &correction_id, &body, &who.sign_in).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Refuses a decision where there is none to make: it stands beside a leak that is shown, once the hold is over.
async fn may_be_decided(app: &App, zone: &Zone, attempt: &str, held: &std::sync::Arc<crate::kept::Held>) -> Result<(), Problem> {
    let over = {
        let run = held.read();
        run.has(terms::EventKind::HoldEnded) || run.over()
    };
    if !over {
        return Err(Problem::Conflict("The hold is not over: what it shows may change. End it first, then decide.".to_owned()));
    }
    let judged = crate::views::judged::judged(app, zone, attempt, held).await?;
    let by_basis = judged.as_ref().and_then(|j| j.lines.as_ref()).map(|l| &l.by_basis);
    let open = by_basis.is_some_and(|b| b.to_decide.is_some() || b.decided.is_some());
    if open {
        return Ok(());
    }
    Err(Problem::Conflict("There is nothing to decide: no leak is shown that a test which meets its basis leaves unexplained.".to_owned()))
}

/// Refuses a boundary between two stretches that is not there, or would pass another.
fn stays_between_its_neighbours(run: &Run, zone: &Zone, found: RunTime, moved: RunTime) -> Result<(), Problem> {
    let room = judge::segments::room_of(&run.stretches(), run.hold(), found).ok_or_else(|| {
        Problem::Conflict(
            "No stretch of the run begins there any more: readings or events came in since. Load the page anew and move it from there."
                .to_owned(),
        )
    })?;
    if moved > room.start && moved < room.end {
        return Ok(());
    }
    let clock = |t: RunTime| zone.clock_to_second(run.shown(t.s()));
    Err(Problem::invalid(
        "moved_s",
        format!(
            "a boundary stays between its neighbours: put it after {} and before {}, or move those first",
            clock(room.start),
            clock(room.end)
        ),
    ))
}
