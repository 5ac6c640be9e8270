//! Events of a run.

use super::{
    Body,
    attempts::{of_person, stands},
    readings::instant,
    uuid,
};
use crate::access::Action;
use crate::judging::Run;
use crate::problem::{Problem, ProblemBody};
use crate::situation::At;
use crate::state::App;
use crate::store::event::{self, EventRow};
use crate::who::Who;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use judge::case::LeakPlace;
use pack::acts;
use pack::run::RunEventKind;
use rules::say::Say;
use serde::Deserialize;
use time::OffsetDateTime;

/// Most characters of a note.
const MOST_NOTE: usize = 500;

/// An event to book.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewEvent {
    /// What happened.
    pub kind: RunEventKind,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// Place class of a leak seen, or of a look at one class.
    #[serde(default)]
    pub place: Option<LeakPlace>,
    /// How many places of that class were looked at.
    #[serde(default)]
    pub looked: Option<u32>,
    /// Volume measured of a repump or bleed, m³ (normal m³ of gas).
    #[serde(default)]
    pub volume_m3: Option<f64>,
    /// Free words.
    #[serde(default)]
    pub note: String,
}

/// Books an event; the same again changes nothing. Refused when the order of restoring forbids it, or when the gauge reads otherwise.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/events/{event}", tag = "run", params(("attempt" = String, Path), ("event" = String, Path)), request_body = NewEvent,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, event_id)): Path<(String, String)>,
    Body(body): Body<NewEvent>,
) -> Result<StatusCode, Problem> {
    let (_, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    uuid(&event_id)?;
    check(&body)?;
    let run = Run::load_booked(&app, attempt).await?;
    instant(&app, &run, "at", body.at)?;
    let lead_us = run.lead_us(body.at);
    let mut note = body.note;
    if !run.events.iter().any(|e| e.id == event_id) {
        // what lets the pressure out is refused by nothing but the gauge
        if !matches!(body.kind, RunEventKind::Released | RunEventKind::VentOpened | RunEventKind::Drained) {
            stands(&app, &run).await?;
        }
        let at = At::look(&app, run, body.at).await?;
        let clock = |t_s: f64| app.clock(at.run().shown(t_s));
        let situation = at.situation(Say(who.unit.unwrap_or_default()), &note, &clock);
        let against = acts::objections(body.kind, &situation);
        if !against.is_empty() {
            return Err(Problem::Conflict(against.join(" ")));
        }
        if body.kind == RunEventKind::Released && situation.by_word() {
            note = format!("{}{}", acts::BY_WORD, note.trim());
            if note.chars().count() > MOST_NOTE {
                return Err(Problem::invalid("note", "how zero was proved is told in 470 characters at most: shorten it"));
            }
        }
    }
    let at = body.at.replace_nanosecond(body.at.nanosecond() / 1000 * 1000).unwrap_or(body.at);
    event::insert(
        &app.db,
        &id,
        &EventRow {
            id: event_id,
            kind: body.kind,
            at,
            place: body.place,
            looked: body.looked,
            volume_m3: body.volume_m3,
            note,
            person: who.sign_in,
            lead_us,
            stored_at: app.clock.now(),
        },
    )
    .await?;
    Ok(StatusCode::NO_CONTENT)
}

/// What an event of its kind may and must have.
fn check(body: &NewEvent) -> Result<(), Problem> {
    if body.kind != RunEventKind::LookDone && (body.kind == RunEventKind::LeakSeen) != body.place.is_some() {
        return Err(Problem::invalid("place", "a leak seen needs the place where it was seen; besides it only a look may have one"));
    }
    let of_a_class = body.kind == RunEventKind::LookDone && body.place.is_some();
    if of_a_class != body.looked.is_some() || body.looked.is_some_and(|n| !(1..=100_000).contains(&n)) {
        return Err(Problem::invalid(
            "looked",
            "a look at one class of places needs how many there are, from 1 to 100000; nothing else has a number",
        ));
    }
    let moves_water = matches!(body.kind, RunEventKind::Repump | RunEventKind::Bleed);
    if body.volume_m3.is_some_and(|v| !(moves_water && v > 0.0 && v <= 1e4)) {
        return Err(Problem::invalid("volume_m3", "a measured volume goes with a repump or a bleed, above zero and at most 10 000 m³"));
    }
    if body.kind == RunEventKind::Noted && body.note.trim().is_empty() {
        return Err(Problem::invalid("note", "write what happened, in a few words"));
    }
    if body.note.chars().count() > MOST_NOTE {
        return Err(Problem::invalid("note", "a note has at most 500 characters"));
    }
    Ok(())
}
