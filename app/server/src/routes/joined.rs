//! A test's system as it is joined: how it fills and drains, what sees the pressure, what is open at its boundary, and its line-up.

use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::register::Change;
use crate::store::{pack as packs, register};
use crate::views::pack::planned;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use pack::registers::{BoundaryItem, BoundaryKind, Item};
use pack::signing::Form;
use rules::part::{Part, PartKind, Position};
use std::collections::HashSet;
use system::lineup::leaves_something;
use system::look::{SystemLook, look};
use system::survey::{Facts, Signed};

/// A system as it is joined.
#[utoipa::path(get, path = "/api/v1/packs/{id}/joined", tag = "packs", params(("id" = String, Path)),
    responses((status = 200, body = SystemLook), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<SystemLook>, Problem> {
    let row = packs::get(&app.db, &id).await?;
    may_on(&who, Action::See, &row)?;
    let registers = register::of_pack(&app.db, &id).await?;
    let register = registers.items::<BoundaryItem>()?;
    let of = |kind| register.iter().filter(|b| b.kind == kind && b.set_for_test && !b.put_back).map(|b| b.tag.clone()).collect();
    let signed = Signed { shut: of(BoundaryKind::ShutValve), exempt: of(BoundaryKind::Exemption) };
    let planned = planned(&app, &row, &registers, Some(who.reads_on(&row))).await?;
    let simple = row.form == Form::Quick;
    let looked = app
        .looking
        .run(move |_| look(Facts { system: &planned.system, derived: planned.derived.as_ref().ok(), signed: &signed, simple }))
        .await?;
    looked.map(Json).map_err(|_| Problem::invalid("parts", "a height or a volume in the list of parts is no figure: give it again"))
}

/// What a part leaves behind at the boundary.
fn kind_of(part: &Part) -> BoundaryKind {
    match (part.kind, part.positions.test) {
        (_, Some(Position::Out)) => BoundaryKind::RemovedItem,
        (PartKind::Blind, _) => BoundaryKind::Blind,
        (_, Some(Position::Covered)) => BoundaryKind::Exemption,
        (PartKind::ClosedValve, _) => BoundaryKind::ShutValve,
        _ => BoundaryKind::Restraint,
    }
}

/// Puts what the line-up sets and leaves behind on the register of the boundary, where it is not on it yet. What is there stays as it is.
#[utoipa::path(put, path = "/api/v1/packs/{id}/line-up", tag = "registers", params(("id" = String, Path)),
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn on_register(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    let pack = super::packs::plannable(&app, &who, &id).await?;
    let registers = register::of_pack(&app.db, &id).await?;
    let there: HashSet<String> = registers.items::<BoundaryItem>()?.into_iter().map(|b| b.tag).collect();
    let parts = planned(&app, &pack, &registers, None).await?.parts;
    let joined = system::joined::joined(&parts);
    let mut tx = app.db.begin().await?;
    for (part, place) in parts.iter().zip(&joined.places).filter(|(p, _)| leaves_something(p) && !there.contains(&p.tag)) {
        let point = place.and_then(|p| joined.names.get(p.from)).filter(|n| !n.is_empty());
        let item = BoundaryItem {
            tag: part.tag.clone(),
            kind: kind_of(part),
            place: point.cloned().unwrap_or_else(|| system::lineup::what(part)),
            set_for_test: false,
            put_back: false,
        };
        let read = BoundaryItem::REGISTER.read(&serde_json::to_value(&item)?).map_err(|_| {
            Problem::invalid("tag", format!("{} cannot stand on the register: give it a tag of at most 64 characters", item.tag))
        })?;
        let id = uuid::Uuid::new_v4().to_string();
        let change = Change {
            pack: &pack.id,
            register: BoundaryItem::REGISTER,
            id: &id,
            by: &who.sign_in,
            at: app.clock.now(),
            version: None,
            why: None,
        };
        register::put_in(&mut tx, &change, &read).await?;
    }
    tx.commit().await?;
    Ok(StatusCode::NO_CONTENT)
}
