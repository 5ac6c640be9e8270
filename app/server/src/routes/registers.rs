//! The registers of a pack: items that are added, changed, ticked and removed one by one.

use super::looks;
use super::{Body, etag, text, uuid, version};
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody, internal};
use crate::runs;
use crate::state::App;
use crate::store::history;
use crate::store::pack::PackRow;
use crate::store::register::{self, Change, ItemRow};
use crate::store::{attempt, pack as packs};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use pack::acts::{BoundaryAct, Stage};
use pack::registers::{BoundaryItem, Holds, Item, Keepers, LookAt, Register, StillOwed, Unreadable};
use run::situation::At;
use serde::{Deserialize, Serialize};
use serde_json::Value;

/// A field of an item.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct RegisterColumn {
    /// Its name in the data.
    pub field: &'static str,
    /// What it is called.
    pub words: &'static str,
    /// `text`, `note` (a text that may be empty), `term`, `number` or `tick`.
    pub holds: &'static str,
    /// Most characters of a text.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub most: Option<usize>,
}

/// A register with its items.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct RegisterView {
    /// What it is called.
    pub words: &'static str,
    /// What one of its items is called.
    pub one: &'static str,
    /// Fields; the first is what an item is called by.
    pub columns: Vec<RegisterColumn>,
    /// Items, the removed ones too.
    pub items: Vec<ItemRow>,
}

/// Why an item is removed.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Removal {
    /// The reason; it stays with the item.
    pub why: String,
}

fn of(key: &str) -> Result<&'static Register, Problem> {
    Register::of(key).ok_or(Problem::NotFound("register"))
}

/// What whoever keeps a register must be allowed to do.
const fn keeps(register: &Register) -> Action {
    match register.kept_by {
        Keepers::Planners => Action::Plan,
        Keepers::Lookers => Action::Punch,
        Keepers::Crew => Action::Looks,
    }
}

/// A register of a pack: what its fields are called, and every item, the removed ones with who, when and why.
#[utoipa::path(get, path = "/api/v1/packs/{id}/registers/{register}", tag = "registers", params(("id" = String, Path), ("register" = String, Path)),
    responses((status = 200, body = RegisterView), (status = 404, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, Path((id, key)): Path<(String, String)>) -> Result<Json<RegisterView>, Problem> {
    may_on(&who, Action::See, &packs::get(&app.db, &id).await?)?;
    let register = of(&key)?;
    let columns = register.columns.iter().map(|c| {
        let (holds, most) = match c.holds {
            Holds::Text(most) => ("text", Some(most)),
            Holds::Note(most) => ("note", Some(most)),
            Holds::Number => ("number", None),
            Holds::Term => ("term", None),
            Holds::Tick => ("tick", None),
        };
        RegisterColumn { field: c.field, words: c.words, holds, most }
    });
    let items = register::all_of(&app.db, &id, register).await?;
    Ok(Json(RegisterView { words: register.words, one: register.one, columns: columns.collect(), items }))
}

/// The same as a table of comma-separated values: every item, with who ticked what and when, and why it was removed.
#[utoipa::path(get, path = "/api/v1/packs/{id}/registers/{register}/csv", tag = "registers", params(("id" = String, Path), ("register" = String, Path)),
    responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = ProblemBody)))]
pub async fn csv(State(app): State<App>, who: Who, Path((id, key)): Path<(String, String)>) -> Result<Response, Problem> {
    let pack = packs::get(&app.db, &id).await?;
    may_on(&who, Action::See, &pack)?;
    let register = of(&key)?;
    let items = register::all_of(&app.db, &id, register).await?;
    let rows = items.iter().map(|i| {
        let mut cells = Vec::new();
        for c in register.columns {
            let mark = i.marks.get(c.field);
            cells.push(match i.item.get(c.field) {
                Some(Value::String(text)) => text.clone(),
                Some(Value::Bool(done)) => if *done { "yes" } else { "no" }.to_owned(),
                other => other.map(ToString::to_string).unwrap_or_default(),
            });
            if c.holds == Holds::Tick {
                cells.push(mark.map(|m| m.by.clone()).unwrap_or_default());
                cells.push(mark.map(|m| moment::Instant::from_us(m.at_us).to_string()).unwrap_or_default());
            }
        }
        cells.extend(match &i.removed {
            Some(r) => [r.by.clone(), r.at.to_string(), r.why.clone()],
            None => [String::new(), String::new(), String::new()],
        });
        cells
    });
    let heads = register
        .columns
        .iter()
        .flat_map(|c| match c.holds {
            Holds::Tick => vec![c.words.to_owned(), format!("{} by", c.words), format!("{} at", c.words)],
            _ => vec![c.words.to_owned()],
        })
        .chain(["removed by", "removed at", "why removed"].map(str::to_owned));
    let table = formats::table::csv(heads.collect(), rows).map_err(|e| internal(&e))?;
    let name = format!("{}-{}.csv", pack.number, register.key);
    let named: String = name.chars().map(|c| if c.is_ascii_alphanumeric() || "-._".contains(c) { c } else { '_' }).collect();
    let mut response = table.into_response();
    let own = response.headers_mut();
    own.insert(header::CONTENT_TYPE, HeaderValue::from_static("text/csv; charset=utf-8"));
    if let Ok(value) = HeaderValue::from_str(&format!("attachment; filename=\"{named}\"")) {
        own.insert(header::CONTENT_DISPOSITION, value);
    }
    Ok(response)
}

/// Adds an item, changes it or ticks it; a new one without If-Match, else with the version that is changed. Sent twice it is done once.
#[utoipa::path(put, path = "/api/v1/packs/{id}/registers/{register}/{item}", tag = "registers",
    params(("id" = String, Path), ("register" = String, Path), ("item" = String, Path), ("If-Match" = Option<String>, Header)), request_body = Object,
    responses((status = 204), (status = 400, body = ProblemBody), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody),
        (status = 409, body = ProblemBody), (status = 412, body = ProblemBody), (status = 422, body = ProblemBody), (status = 428, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, key, item)): Path<(String, String, String)>,
    headers: HeaderMap,
    Body(body): Body<Value>,
) -> Result<(StatusCode, HeaderMap), Problem> {
    let pack = packs::get(&app.db, &id).await?;
    let register = of(&key)?;
    may_on(&who, keeps(register), &pack)?;
    uuid(&item)?;
    let read = register.read(&body).map_err(|e| match e {
        Unreadable::Form(e) => Problem::invalid("body", format!("this is no {}: {e}", register.one)),
        Unreadable::Against(all) => {
            Problem::invalid(all.first().map_or("body", |o| o.field), all.iter().map(|o| o.why.as_str()).collect::<Vec<_>>().join("; "))
        }
    })?;
    let there = register::all_of(&app.db, &id, register).await?.into_iter().find(|i| i.id == item && i.removed.is_none());
    may_change(&app, &who, &pack, register, there.as_ref().map(|i| &i.item), Some(&read.body)).await?;
    let version = if headers.contains_key(header::IF_MATCH) { Some(version(&headers)?) } else { None };
    let change = Change { pack: &id, register, id: &item, by: &who.sign_in, at: app.clock.now(), version, why: None };
    let now = register::put(&app.db, &change, &read).await?;
    Ok((StatusCode::NO_CONTENT, etag(now)))
}

/// Takes an item off its register, with a reason; it stays readable and nothing asks for it any more.
#[utoipa::path(put, path = "/api/v1/packs/{id}/registers/{register}/{item}/removal", tag = "registers",
    params(("id" = String, Path), ("register" = String, Path), ("item" = String, Path), ("If-Match" = String, Header)), request_body = Removal,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody),
        (status = 412, body = ProblemBody), (status = 422, body = ProblemBody), (status = 428, body = ProblemBody)))]
pub async fn remove(
    State(app): State<App>,
    who: Who,
    Path((id, key, item)): Path<(String, String, String)>,
    headers: HeaderMap,
    Body(body): Body<Removal>,
) -> Result<(StatusCode, HeaderMap), Problem> {
    let pack = packs::get(&app.db, &id).await?;
    let register = of(&key)?;
    may_on(&who, keeps(register), &pack)?;
    uuid(&item)?;
    text("why", &body.why, 500, "the reason")?;
    let version = Some(version(&headers)?);
    if let Some(there) = register::all_of(&app.db, &id, register).await?.into_iter().find(|i| i.id == item && i.removed.is_none()) {
        may_change(&app, &who, &pack, register, Some(&there.item), None).await?;
    }
    let change = Change { pack: &id, register, id: &item, by: &who.sign_in, at: app.clock.now(), version, why: None };
    let now = register::remove(&app.db, &change, body.why.trim()).await?;
    Ok((StatusCode::NO_CONTENT, etag(now)))
}

/// What a run says about a change: nothing at the boundary is touched under pressure, and what was in during a run is only booked out.
async fn may_change(
    app: &App,
    who: &Who,
    pack: &PackRow,
    register: &Register,
    before: Option<&Value>,
    after: Option<&Value>,
) -> Result<(), Problem> {
    if before == after {
        return Ok(());
    }
    if register.key == LookAt::REGISTER.key {
        let typed = |item: Option<&Value>| item.map(|v| serde_json::from_value::<LookAt>(v.clone())).transpose();
        return looks::may_change(app, who, pack, typed(before)?.as_ref(), typed(after)?.as_ref()).await;
    }
    if register.key == StillOwed::REGISTER.key {
        return promise_stands(app, pack, before, after).await;
    }
    if register.key != BoundaryItem::REGISTER.key {
        return Ok(());
    }
    let Some(attempt) = attempt::of_pack(&app.db, &pack.id).await?.into_iter().next_back() else { return Ok(()) };
    let typed = |item: Option<&Value>| item.map(|v| serde_json::from_value::<BoundaryItem>(v.clone())).transpose();
    let (before, after) = (typed(before)?, typed(after)?);
    let held = runs::current(app, &attempt).await?;
    let run = held.read();
    let at = At::new(&run, app.clock.now(), app.clock.rate());
    let tag = before.as_ref().or(after.as_ref()).map_or("", |t| &t.tag);
    let against = at.boundary_objections(
        act(before.as_ref(), after.as_ref(), at.stage()),
        tag,
        &app.tell(&pack.project, who.reads_on(pack).units(run.dial())),
    );
    if against.is_empty() { Ok(()) } else { Err(Problem::Conflict(against.join(" "))) }
}

/// What a record was accepted with is done, not taken off.
async fn promise_stands(app: &App, pack: &PackRow, before: Option<&Value>, after: Option<&Value>) -> Result<(), Problem> {
    let Some(before) = before.map(|v| serde_json::from_value::<StillOwed>(v.clone())).transpose()? else { return Ok(()) };
    let after = after.map(|v| serde_json::from_value::<StillOwed>(v.clone())).transpose()?;
    let kept = after.is_some_and(|a| a.carried && (&a.what, a.kind) == (&before.what, before.kind));
    if before.carried && !before.done && !kept && looks::not_signed(app, pack).await.is_err() {
        return Err(Problem::Conflict(format!(
            "The record was signed with {} carried over: do it, and tick it as done. It is neither renamed nor taken off.",
            before.what
        )));
    }
    Ok(())
}

/// What a change of an item at the boundary is.
fn act(there: Option<&BoundaryItem>, body: Option<&BoundaryItem>, stage: Stage) -> BoundaryAct {
    let Some(there) = there else { return BoundaryAct::Set };
    let owed = there.set_for_test && !there.put_back;
    let as_it_was = body.filter(|b| (&there.tag, there.kind, &there.place) == (&b.tag, b.kind, &b.place));
    match (as_it_was, owed) {
        (Some(b), true) if b.put_back => BoundaryAct::PutBack,
        (Some(b), false) if b.set_for_test => BoundaryAct::Set,
        // the system was released for test with it in
        (_, true) if stage != Stage::Closed => BoundaryAct::ChangeOwed,
        _ => BoundaryAct::Change,
    }
}

/// Who changed plan, rows and registers of a pack, when, from what to what; the last first.
#[utoipa::path(get, path = "/api/v1/packs/{id}/history", tag = "packs", params(("id" = String, Path)),
    responses((status = 200, body = Vec<history::Change>), (status = 404, body = ProblemBody)))]
pub async fn changes(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<Vec<history::Change>>, Problem> {
    may_on(&who, Action::See, &packs::get(&app.db, &id).await?)?;
    Ok(Json(history::of(&app.db, &id, false).await?))
}

#[cfg(test)]
mod tests {
    use super::*;
    use pack::registers::REGISTERS;

    #[test]
    fn a_register_is_named_in_an_address_as_it_is() {
        for r in REGISTERS {
            assert!(r.key.bytes().all(|b| b.is_ascii_lowercase() || b == b'_') && r.key.len() <= 16, "{}", r.key);
        }
        assert!(of("none").is_err());
    }
}
