//! Events of a run.

use super::{
    Body,
    attempts::{of_person, stands},
    readings::instant,
    uuid,
};
use crate::access::Action;
use crate::kept::Held;
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::pack::PackRow;
use crate::store::{event, instrument, register};
use crate::who::Who;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use moment::Instant;
use pack::acts;
use pack::instrument::{InstrumentKind, Quarantine};
use pack::looks::not_looked_at;
use pack::registers::LookAt;
use run::rows::EventRow;
use run::situation::{Act, At};
use serde::Deserialize;
use std::sync::Arc;
use terms::{EventKind, LeakPlace};

/// Most characters of a note.
const MOST_NOTE: usize = 500;

/// An event to book.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewEvent {
    /// What happened.
    pub kind: EventKind,
    /// When.
    pub at: Instant,
    /// Place class of a leak seen, or of a look at one class.
    #[serde(default)]
    pub place: Option<LeakPlace>,
    /// How many places of that class were looked at.
    #[serde(default)]
    pub looked: Option<u32>,
    /// Volume measured of a repump or bleed, m³ (normal m³ of gas).
    #[serde(default)]
    pub volume_m3: Option<f64>,
    /// Figure of what is booked by hand, in the SI unit of its kind.
    #[serde(default)]
    pub figure: Option<f64>,
    /// The thing, place or person that it is about.
    #[serde(default)]
    pub of: Option<String>,
    /// Free words.
    #[serde(default)]
    pub note: String,
}

impl NewEvent {
    /// One of which nothing more is known than when it was.
    pub(super) fn of(kind: EventKind, at: Instant) -> Self {
        Self { kind, at, place: None, looked: None, volume_m3: None, figure: None, of: None, note: String::new() }
    }
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
    let (pack, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    uuid(&event_id)?;
    check(&body)?;
    let held = runs::current(&app, &attempt).await?;
    instant(&app, &held.read(), "at", body.at)?;
    if body.kind == EventKind::BeyondScale {
        a_gauge_of_the_run(&held, body.of.as_deref().unwrap_or_default().trim())?;
    }
    let known = held.read().events().iter().any(|e| e.id == event_id);
    let mut body = body;
    if !known {
        // what lets the pressure out is refused by nothing but the gauge
        if !matches!(body.kind, EventKind::Released | EventKind::VentOpened | EventKind::Drained) {
            stands(&app, &pack, &held, who.reads_on(&pack)).await?;
        }
        if body.kind == EventKind::LookDone && body.place.is_none() {
            list_is_closed(&app, &pack.id, attempt.number).await?;
        }
        let by_word = objections(&app, &who, &pack, &held, &body)?;
        if matches!(body.kind, EventKind::Released | EventKind::GasOff) && by_word {
            body.note = format!("{}{}", acts::BY_WORD, body.note.trim());
            if body.note.chars().count() > MOST_NOTE {
                return Err(Problem::invalid("note", "how zero was proved must fit in 470 characters: shorten it"));
            }
        }
    }
    let past_scale = body.of.clone().filter(|_| body.kind == EventKind::BeyondScale);
    let day = App::day_of(body.at, &pack.project.zone);
    book(&app, &who, &attempt, &held, event_id, body).await?;
    if let Some(tag) = past_scale {
        let why = format!("it was driven past its scale on {}.", pack.number);
        instrument::quarantine(&app.db, tag.trim(), Quarantine { since: day, why }, &who.sign_in).await?;
    }
    Ok(StatusCode::NO_CONTENT)
}

/// Refuses a tag that is no gauge of the run: what is booked of it puts it into quarantine, and nobody does that to an instrument that they do not use.
fn a_gauge_of_the_run(held: &Held, tag: &str) -> Result<(), Problem> {
    let run = held.read();
    let gauges: Vec<&str> = run.frozen().instruments.iter().filter(|i| i.kind == InstrumentKind::Gauge).map(|i| i.tag.as_str()).collect();
    if gauges.contains(&tag) {
        return Ok(());
    }
    Err(Problem::invalid("of", format!("{tag} is no gauge of this test: choose {}", gauges.join(" or "))))
}

/// Refuses a look at everything while places on the list are open.
async fn list_is_closed(app: &App, pack: &str, attempt: u32) -> Result<(), Problem> {
    let looks = register::of_pack(&app.db, pack).await?.items::<LookAt>()?;
    not_looked_at(&looks, attempt).map_or(Ok(()), |open| Err(Problem::Conflict(open)))
}

/// Refuses an event with all that stands against it; says whether it rests on nothing but the person's word.
pub(super) fn objections(app: &App, who: &Who, pack: &PackRow, held: &Arc<Held>, body: &NewEvent) -> Result<bool, Problem> {
    let tell = app.tell(&pack.project, who.reads_on(pack).units(held.read().dial()));
    let act = Act { kind: body.kind, word: &body.note, figure: body.figure };
    let (against, by_word) = At::new(&held.read(), body.at, app.clock.rate()).objections(&act, &tell);
    if against.is_empty() { Ok(by_word) } else { Err(Problem::Conflict(against.join(" "))) }
}

/// Stores an event; one that is there already stays as it is.
async fn book(app: &App, who: &Who, attempt: &AttemptRow, held: &Arc<Held>, id: String, body: NewEvent) -> Result<(), Problem> {
    event::insert(&app.db, &attempt.id, &row(app, who, held, id, body)).await
}

/// An event as it is stored.
pub(super) fn row(app: &App, who: &Who, held: &Arc<Held>, id: String, body: NewEvent) -> EventRow {
    EventRow {
        id,
        kind: body.kind,
        at: body.at,
        place: body.place,
        looked: body.looked,
        volume_m3: body.volume_m3,
        figure: body.figure,
        of: body.of.map(|of| of.trim().to_owned()),
        note: body.note,
        person: who.sign_in.clone(),
        lead_us: held.read().lead_us(body.at),
        stored_at: app.clock.now(),
    }
}

/// What an event of its kind may and must have.
fn check(body: &NewEvent) -> Result<(), Problem> {
    if body.kind != EventKind::LookDone && (body.kind == EventKind::LeakSeen) != body.place.is_some() {
        return Err(Problem::invalid("place", "a leak seen needs the place where it was seen; besides it only a look may have one"));
    }
    let of_a_class = body.kind == EventKind::LookDone && body.place.is_some();
    if of_a_class != body.looked.is_some() || body.looked.is_some_and(|n| !(1..=100_000).contains(&n)) {
        return Err(Problem::invalid(
            "looked",
            "a look at one class of places needs how many there are, from 1 to 100000; nothing else has a number",
        ));
    }
    let moves_water = matches!(body.kind, EventKind::Repump | EventKind::Bleed);
    if body.volume_m3.is_some_and(|v| !(moves_water && v > 0.0 && v <= 1e4)) {
        return Err(Problem::invalid("volume_m3", "a measured volume goes with a repump or a bleed, above zero and at most 10 000 m³"));
    }
    if let Some((field, why)) = pack::by_hand::incomplete(body.kind, body.figure, body.of.as_deref()).into_iter().next() {
        return Err(Problem::invalid(field, why));
    }
    if body.kind == EventKind::Noted && body.note.trim().is_empty() {
        return Err(Problem::invalid("note", "write what happened, in a few words"));
    }
    if body.note.chars().count() > MOST_NOTE {
        return Err(Problem::invalid("note", "a note has at most 500 characters"));
    }
    Ok(())
}
