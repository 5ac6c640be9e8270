//! Release for test: an attempt begins, what is planned is frozen in it.

use super::{Body, uuid};
use crate::access::{Action, may_on};
use crate::kept::Held;
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::{attempt, pack as packs, register, signature};
use crate::views::pack::{PackView, pack_view, planned};
use crate::who::{Reader, Who};
use axum::Json;
use axum::extract::{Path, State};
use moment::Instant;
use pack::gates::GateResult;
use pack::signing::Form;
use run::Frozen;
use run::frozen::PassedGate;
use serde::Deserialize;
use std::sync::Arc;

/// A release.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Release {
    /// When it was released, when that is booked afterwards; absent for now.
    #[serde(default)]
    pub released_at: Option<Instant>,
    /// Why a signed record is superseded; needed when there is one.
    #[serde(default)]
    pub supersedes_reason: String,
}

/// 2000-01-01T00:00:00Z, µs: no test of before was released here.
const YEAR_2000_US: i64 = 946_684_800_000_000;

/// An attempt that this person may work on, and its pack.
pub(super) async fn of_person(app: &App, who: &Who, id: &str, action: Action) -> Result<(packs::PackRow, AttemptRow), Problem> {
    let row = attempt::get(&app.db, id).await?;
    let pack = packs::get(&app.db, &row.pack_id).await?;
    may_on(who, action, &pack).map_err(|e| if matches!(e, Problem::NotFound(_)) { Problem::NotFound("attempt") } else { e })?;
    Ok((pack, row))
}

/// Refuses to book anything on a release that no longer stands.
pub(super) async fn stands(app: &App, pack: &packs::PackRow, run: &Held, reads: Reader) -> Result<(), Problem> {
    match runs::withdrawn(app, &pack.project, run, reads).await? {
        Some(sentence) => Err(Problem::Conflict(sentence)),
        None => Ok(()),
    }
}

/// Releases a pack for test; the same id again changes nothing. Refused while a gate is shut, or while an attempt is under way.
#[utoipa::path(put, path = "/api/v1/packs/{id}/attempts/{attempt}", tag = "run", params(("id" = String, Path), ("attempt" = String, Path)), request_body = Release,
    responses((status = 200, body = PackView), (status = 403, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn release(
    State(app): State<App>,
    who: Who,
    Path((id, attempt_id)): Path<(String, String)>,
    Body(body): Body<Release>,
) -> Result<Json<PackView>, Problem> {
    let row = packs::get(&app.db, &id).await?;
    may_on(&who, Action::Release, &row)?;
    uuid(&attempt_id)?;
    if let Some(sentence) = crate::views::pack::away(&app, &row) {
        return Err(Problem::Conflict(sentence));
    }
    let earlier = attempt::of_pack(&app.db, &id).await?;
    if earlier.iter().any(|a| a.id == attempt_id) {
        return Ok(Json(pack_view(&app, &who, row).await?));
    }
    let registers = register::of_pack(&app.db, &id).await?;
    let planned = planned(&app, &row, &registers, Some(who.reads_on(&row))).await?;
    // whoever works alone has nobody else to clear anything
    let said = |g: &GateResult| match row.form {
        Form::Quick => g.sentence.clone(),
        Form::Pack => format!("{} (The {} clears it.)", g.sentence, g.who),
    };
    let shut: Vec<String> = planned.gates.iter().filter(|g| !g.ready).map(said).collect();
    if !shut.is_empty() {
        return Err(Problem::Conflict(format!("Not released: {}", shut.join(" "))));
    }
    let released_at = body.released_at.unwrap_or_else(|| app.clock.now());
    if released_at > app.clock.now().plus_s(300.0) {
        return Err(Problem::invalid("released_at", "the release lies in the future: check the date and the zone"));
    }
    if released_at < Instant::from_us(YEAR_2000_US) {
        return Err(Problem::invalid("released_at", "the release lies before the year 2000: check the date"));
    }
    let mut follows = None;
    let mut supersedes = None;
    if let Some(last) = earlier.into_iter().next_back() {
        let (number, last_id) = (last.number, last.id.clone());
        let run = runs::current(&app, &last).await?;
        let over = run.read().over();
        if !over && runs::withdrawn(&app, &row.project, &run, who.reads_on(&row)).await?.is_none() {
            return Err(Problem::Conflict(format!(
                "Attempt {number} is under way: release its pressure and book that before another begins."
            )));
        }
        follows = Some(number);
        supersedes = signature::content_sha256(&app.db, &last_id).await?;
    }
    let reason = body.supersedes_reason.trim();
    if supersedes.is_some() && reason.is_empty() {
        return Err(Problem::invalid(
            "supersedes_reason",
            "the last attempt is signed: nothing signed is edited, it is superseded, and that needs a reason",
        ));
    }
    let new = AttemptRow {
        id: attempt_id,
        pack_id: id.clone(),
        number: follows.unwrap_or(0) + 1,
        follows,
        supersedes_reason: supersedes.is_some().then(|| reason.to_owned()),
        supersedes,
        released_at,
        released_by: who.sign_in.clone(),
        frozen: Arc::new(Frozen {
            title: row.title.clone(),
            plan: row.plan.clone(),
            parts: planned.parts,
            instruments: planned.instruments,
            specification: planned.system.specification.clone(),
            // what was released is what was derived, in the unit that it is worked in
            derived: rules::system::derive(&rules::system::System { said_in: None, ..planned.system }).ok(),
            rules_version: judge::judgement::RULES_VERSION.to_owned(),
            gates: planned.gates.into_iter().map(|g| PassedGate { rule: g.rule, found: g.sentence }).collect(),
        }),
    };
    attempt::insert(&app.db, &new).await?;
    Ok(Json(pack_view(&app, &who, packs::get(&app.db, &id).await?).await?))
}
