//! The look at what must be looked at: the list that a test begins with, and the act that closes it.

use super::attempts::{of_person, stands};
use super::events::{NewEvent, objections, row};
use super::readings::instant;
use super::{Body, uuid};
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::store::pack::{self as packs, PackRow};
use crate::store::register::{self, Change, Kept};
use crate::store::{attempt, event, signature};
use crate::views::afterwards::{Afterwards, items};
use crate::views::pack::planned;
use crate::who::Who;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use moment::Instant;
use pack::looks::proposed;
use pack::registers::{Item, LookAt, LookFound, Read, Unreadable};
use run::situation::{Act, At};
use serde::Deserialize;
use terms::{EventKind, LeakPlace};

/// Most characters of the note that goes with a look.
const MOST_NOTE: usize = 500;

/// A place that is not dry.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NotDry {
    /// Id of the place on the list.
    pub item: String,
    /// `leaks` or `not_seen`.
    pub found: LookFound,
    /// Where it leaks, or why it could not be seen and what stands in for the look.
    pub place: String,
    /// Class of a leak; of what is fitted for the test only it is a test fitting.
    #[serde(default)]
    pub class: Option<LeakPlace>,
    /// Id of the leak as an event.
    #[serde(default)]
    pub event: Option<String>,
}

/// All dry, except these.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AllDryExcept {
    /// When.
    pub at: Instant,
    /// What is not dry.
    #[serde(default)]
    pub except: Vec<NotDry>,
    /// Only these places; every one that is still open where it is absent. The look is booked once all are closed.
    #[serde(default)]
    pub only: Option<Vec<String>>,
    /// Free words.
    #[serde(default)]
    pub note: String,
}

fn read(look: &LookAt) -> Result<Read, Problem> {
    LookAt::REGISTER.read(&serde_json::to_value(look)?).map_err(|e| match e {
        Unreadable::Form(e) => Problem::invalid("except", &e),
        Unreadable::Against(all) => {
            let why: Vec<String> = all.iter().map(|o| format!("{}: {}", look.what, o.why)).collect();
            Problem::invalid("except", why.join("; "))
        }
    })
}

/// Makes the list of places to look at: those of such an object, what was altered, its parts and what is fitted for the test only. What is on the list
/// already stays as it is.
#[utoipa::path(put, path = "/api/v1/packs/{id}/looks", tag = "registers", params(("id" = String, Path)),
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn make(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    let pack = packs::get(&app.db, &id).await?;
    may_on(&who, Action::Looks, &pack)?;
    not_signed(&app, &pack).await?;
    list(&app, &who, &pack).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Puts on a list what is proposed for such an object and is not on it.
pub(super) async fn list(app: &App, who: &Who, pack: &PackRow) -> Result<(), Problem> {
    let registers = register::of_pack(&app.db, &pack.id).await?;
    let after = Afterwards::of(&registers)?;
    let parts = planned(app, pack, &registers, None).await?.parts;
    let mut tx = app.db.begin().await?;
    for look in proposed(pack.plan.object, pack.plan.why_now, &parts, &items(&after.boundary), &items(&after.looks)) {
        let item = uuid::Uuid::new_v4().to_string();
        let change = Change {
            pack: &pack.id,
            register: LookAt::REGISTER,
            id: &item,
            by: &who.sign_in,
            at: app.clock.now(),
            version: None,
            why: None,
        };
        match register::put_in(&mut tx, &change, &read(&look)?).await {
            // somebody else made it in the same moment: it is there, and nothing of this one is kept
            Err(Problem::Invalid { field, .. }) if field == "what" => return Ok(()),
            other => drop(other?),
        }
    }
    Ok(tx.commit().await?)
}

/// Closes every place that is still open in this attempt: all dry, except those that are named. Books the look, and each leak at its place. Sent twice it is
/// done once.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/looks/{event}", tag = "run", params(("attempt" = String, Path), ("event" = String, Path)), request_body = AllDryExcept,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, event)): Path<(String, String)>,
    Body(body): Body<AllDryExcept>,
) -> Result<StatusCode, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    uuid(&event)?;
    let held = runs::current(&app, &attempt).await?;
    if held.read().events().iter().any(|e| e.id == event) {
        return Ok(StatusCode::NO_CONTENT);
    }
    instant(&app, &held.read(), "at", body.at)?;
    not_signed(&app, &pack).await?;
    stands(&app, &pack, &held, who.reads_on(&pack)).await?;
    if body.note.chars().count() > MOST_NOTE {
        return Err(Problem::invalid("note", "a note has at most 500 characters"));
    }
    let looks: Vec<Kept<LookAt>> = Afterwards::of(&register::of_pack(&app.db, &pack.id).await?)?.looks;
    if looks.is_empty() {
        return Err(Problem::Conflict("There is no list of places to look at: make it first, on Hold.".to_owned()));
    }
    let (changes, leaks) = found(&looks, &body, attempt.number)?;
    let mut events = Vec::new();
    for (event, place, note) in leaks {
        uuid(&event)?;
        events.push((event, NewEvent { place: Some(place), note, ..NewEvent::of(EventKind::LeakSeen, body.at) }));
    }
    let whole = NewEvent { note: not_seen(&changes, &body.note), ..NewEvent::of(EventKind::LookDone, body.at) };
    // everything is refused before anything is stored: a look shows something only under pressure, whether or not it is the last
    objections(&app, &who, &pack, &held, &whole)?;
    for (_, event) in &events {
        objections(&app, &who, &pack, &held, event)?;
    }
    let closed = |l: &Kept<LookAt>| l.item.closed_in(attempt.number) || changes.iter().any(|(k, _)| k.id == l.id);
    if looks.iter().all(closed) {
        events.push((event, whole));
    }
    // all of it, or nothing: a leak on the list has its event
    let mut tx = app.db.begin().await?;
    for (kept, look) in &changes {
        let change = Change {
            pack: &pack.id,
            register: LookAt::REGISTER,
            id: &kept.id,
            by: &who.sign_in,
            at: app.clock.now(),
            version: Some(kept.version),
            why: None,
        };
        register::put_in(&mut tx, &change, &read(look)?).await?;
    }
    for (id, event) in events {
        event::insert_in(&mut tx, &attempt.id, &row(&app, &who, &held, id, event)).await?;
    }
    tx.commit().await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A place with what was found at it; and a leak with its event, its class and what it is called.
type Closed<'a> = (&'a Kept<LookAt>, LookAt);
type Leak = (String, LeakPlace, String);

/// What becomes of each place that is still open in an attempt.
fn found<'a>(looks: &'a [Kept<LookAt>], body: &AllDryExcept, attempt: u32) -> Result<(Vec<Closed<'a>>, Vec<Leak>), Problem> {
    let (mut changes, mut leaks) = (Vec::new(), Vec::new());
    let asked = |id: &String| body.only.as_ref().is_none_or(|o| o.contains(id));
    for x in &body.except {
        if !asked(&x.item) || !looks.iter().any(|l| l.id == x.item) {
            return Err(Problem::invalid("except", "one of the places that are named is not on the list: look at it as it is now"));
        }
    }
    for kept in looks {
        let named = body.except.iter().find(|x| x.item == kept.id);
        let again = body.only.is_some() || named.is_some();
        if !asked(&kept.id) || (kept.item.closed_in(attempt) && !again) {
            continue;
        }
        let (found, place) = named.map_or((LookFound::Dry, ""), |x| (x.found, x.place.trim()));
        if !matches!(found, LookFound::Dry | LookFound::Leaks | LookFound::NotSeen) {
            return Err(Problem::invalid("except", "a place that is named leaks, or could not be seen"));
        }
        if found == LookFound::Leaks
            && let Some(x) = named
        {
            let class = if kept.item.counts() { x.class } else { Some(LeakPlace::TestFitting) };
            let (Some(class), Some(event)) = (class, x.event.clone()) else {
                return Err(Problem::invalid("except", format!("{}: say what kind of place leaks there", kept.item.what)));
            };
            leaks.push((event, class, format!("{}: {place}", kept.item.what)));
        }
        let look = LookAt { found, place: place.to_owned(), attempt, looked: true, ..kept.item.clone() };
        read(&look)?;
        changes.push((kept, look));
    }
    Ok((changes, leaks))
}

/// The note of a look: what could not be seen stands in it by name.
fn not_seen(changes: &[Closed<'_>], note: &str) -> String {
    let hidden: Vec<&str> = changes.iter().filter(|(_, l)| l.found == LookFound::NotSeen).map(|(_, l)| l.what.as_str()).collect();
    let said = if hidden.is_empty() { note.trim().to_owned() } else { format!("Not seen: {}. {}", hidden.join("; "), note.trim()) };
    said.trim().chars().take(MOST_NOTE).collect()
}

/// Refuses to change what a signature covers.
pub(super) async fn not_signed(app: &App, pack: &PackRow) -> Result<(), Problem> {
    let Some(last) = attempt::of_pack(&app.db, &pack.id).await?.into_iter().next_back() else { return Ok(()) };
    match signature::content(&app.db, &last.id).await? {
        None => Ok(()),
        Some(_) => Err(Problem::Conflict(
            "This attempt is signed, and what was looked at is part of it: nothing of it is changed. What is found now belongs to another attempt.".to_owned(),
        )),
    }
}

/// What a run says about a change of one place on the list.
pub(super) async fn may_change(
    app: &App,
    who: &Who,
    pack: &PackRow,
    before: Option<&LookAt>,
    after: Option<&LookAt>,
) -> Result<(), Problem> {
    not_signed(app, pack).await?;
    // a leak is neither taken off nor opened again, nor made unseen or another place: the decision about it goes by its name
    let stays = |a: &LookAt, b: &LookAt| a.what == b.what && matches!(a.found, LookFound::Leaks | LookFound::Dry);
    if let Some(b) = before.filter(|b| b.found == LookFound::Leaks && !after.is_some_and(|a| stays(a, b))) {
        return Err(Problem::Conflict(format!(
            "{} leaked in attempt {}: it stays on the list. Write what is decided about it, and look at it again.",
            b.what, b.attempt
        )));
    }
    let Some(after) = after else { return Ok(()) };
    let same = before.is_some_and(|b| (b.found, &b.place, b.attempt) == (after.found, &after.place, after.attempt));
    if same || !after.looked {
        return Ok(());
    }
    let last = attempt::of_pack(&app.db, &pack.id).await?.into_iter().next_back();
    let Some(last) = last.filter(|a| a.number == after.attempt) else {
        return Err(Problem::invalid("attempt", "a place is closed in the attempt that is under way, and there is none of this number"));
    };
    if after.found == LookFound::Leaks {
        return Err(Problem::invalid(
            "found",
            "a leak is booked with its class and its time: close the place on Hold, where it asks for both",
        ));
    }
    // what cannot be seen any more is closed with its reason whenever that is known
    if after.found == LookFound::NotSeen {
        return Ok(());
    }
    let held = runs::current(app, &last).await?;
    let tell = app.tell(&pack.project, who.reads_on(pack).units(held.read().dial()));
    let (against, _) = At::new(&held.read(), app.clock.now(), app.clock.rate()).objections(&Act::of(EventKind::LookDone), &tell);
    if against.is_empty() { Ok(()) } else { Err(Problem::Conflict(against.join(" "))) }
}
