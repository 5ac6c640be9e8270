//! The hold chart.

use super::attempts::of_person;
use crate::access::Action;
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::views::hold::{HoldView, hold_view};
use crate::views::judged::judged;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use run::proposed::Proposed;
use std::sync::Arc;
use terms::EventKind;

/// Every reading, for a chart that pans through all of them: two series one after the other, pressure then temperature, each a count
/// (32 bit) and as many pairs of time (s from the release) and value (Pa gauge, °C), 64 bit floats, all little-endian.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/series", tag = "run", params(("attempt" = String, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "application/octet-stream"), (status = 404, body = ProblemBody)))]
pub async fn series(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Vec<u8>, Problem> {
    let (_, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let held = runs::current(&app, &attempt).await?;
    Ok(crate::views::hold::series(&held.read()))
}

/// What the loggers' files of a run show of its course, for a person to confirm by one act; nothing of it is booked yet.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/proposed", tag = "run", params(("attempt" = String, Path)), responses((status = 200, body = Vec<Proposed>), (status = 404, body = ProblemBody)))]
pub async fn proposed(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<Vec<Proposed>>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let held = runs::current(&app, &attempt).await?;
    let run = held.read();
    Ok(Json(run.proposed(&app.tell(&pack.project, who.reads_on(&pack).units(run.dial())))))
}

/// Readings, limits and events of a run.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/hold", tag = "run", params(("attempt" = String, Path)), responses((status = 200, body = HoldView), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<HoldView>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let held = runs::current(&app, &attempt).await?;
    let ended = held.read().has(EventKind::HoldEnded);
    let settles_s = match judged(&app, &pack.project.zone, &attempt.id, &held).await?.filter(|_| !ended) {
        Some(judgement) => {
            let (held, zone) = (Arc::clone(&held), pack.project.zone.clone());
            let look = move |_: &crate::heavy::Left| {
                let case = held.read().case(&zone)?;
                judge::planning::settles_at(&case, &judgement.found)
            };
            app.looking.run(look).await?
        }
        None => None,
    };
    let view = hold_view(&held.read(), settles_s.map(|t| t.s()))?;
    Ok(Json(view))
}
