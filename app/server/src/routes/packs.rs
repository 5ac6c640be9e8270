//! Packs: list, make, see, change, and *why?*.

use super::{Body, etag, text, uuid, version};
use crate::access::{Action, may_on, meant};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::{attempt, pack as store, register};
use crate::views::against::{self, Against};
use crate::views::pack::{PackView, locked, pack_view};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use formats::parts::GridRow;
use pack::plan::Plan;
use pack::signing::Form;
use quantity::bounds;
use rules::basis::bound::Base;
use rules::basis::{book, field_of};
use rules::derivation::Derivation;
use serde::{Deserialize, Serialize};

/// A new pack or quick test.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPack {
    /// Id of its project; without one the only project in which whoever makes it may.
    #[serde(default)]
    pub project: Option<String>,
    /// Number; empty for the next free one.
    #[serde(default)]
    pub number: String,
    /// Title.
    pub title: String,
    /// Size.
    pub form: Form,
    /// Plan.
    pub plan: Plan,
    /// Rows of parts as typed; a bare pressure is in the unit that the request names, or in bar.
    #[serde(default, alias = "cells")]
    pub rows: Vec<GridRow>,
}

/// Bounds that a plan's figures must keep.
fn check_plan(plan: &Plan) -> Result<(), Problem> {
    let inside = |field: &str, bound: &bounds::Bound, value: f64| bound.check(value).map(|_| ()).map_err(|e| Problem::invalid(field, e));
    let basis = &plan.basis;
    // an unknown basis, question or answer is refused before anything is stored; what is missing shows on the screen
    basis.entry(book::shipped()).map_err(|e| Problem::invalid(e.field(), e))?;
    for base in Base::ALL {
        if let Some(p) = basis.given(base) {
            inside(field_of(base), &bounds::DESIGN_PRESSURE, p.bar())?;
        }
    }
    if let Some(t) = basis.design_temperature_c {
        inside("design_temperature_c", &bounds::DESIGN_TEMPERATURE, t.c())?;
    }
    if let Some(hold) = basis.agreed_hold_s {
        inside("agreed_hold_s", &bounds::HOLD, hold.minutes())?;
    }
    if let Some(fall) = basis.owners_fall {
        basis.check_owners_fall().map_err(|e| Problem::invalid(e.field(), e))?;
        inside("owners_fall", &bounds::HOLD, fall.within_s.minutes())?;
    }
    inside("water_temperature_c", &bounds::WATER_TEMPERATURE, plan.water_temperature_c.c())?;
    inside("gauge_elevation_m", &bounds::HEIGHT, plan.gauge_elevation_m.m())?;
    for also in &plan.also {
        inside("also.elevation_m", &bounds::HEIGHT, also.elevation_m.m())?;
    }
    if let Some(hold) = plan.hold_s {
        inside("hold_s", &bounds::HOLD, hold.minutes())?;
        let floor = plan.basis.hold_floor();
        if hold < floor {
            return Err(Problem::invalid(
                "hold_s",
                match basis.owners_fall {
                    Some(fall) if floor == fall.within_s => {
                        format!("the owner's fall is judged over {:.0} minutes: hold as long, or longer", floor.minutes())
                    }
                    _ => format!("the basis asks for at least {:.0} minutes; the owner may ask for more, never for less", floor.minutes()),
                },
            ));
        }
    }
    if let Some(own) = &plan.own_gauge {
        own.check().map_err(|(field, why)| Problem::invalid(format!("own_gauge.{field}"), why))?;
    }
    if plan.required_sensitivity_m3_per_s.is_some_and(|q| !(q.m3_per_s() > 0.0 && q.is_finite())) {
        return Err(Problem::invalid(
            "required_sensitivity_m3_per_s",
            "the leak to rule out must be above zero: leave it empty where none is asked",
        ));
    }
    if let Some(next) = plan.next_test.as_ref().filter(|n| !n.on.trim().is_empty()) {
        if !moment::is_day(next.on.trim()) {
            return Err(Problem::invalid(
                "next_test.on",
                "the day of the next test is no date: write it like 2027-03-31, or leave it empty",
            ));
        }
        if next.by.trim().is_empty() {
            return Err(Problem::invalid("next_test.by", "say by which rule, or whose word, the next test is due on that day"));
        }
    }
    plan.settings.check().map_err(|e| Problem::invalid(e.field(), e))?;
    plan.site.check().map_err(|e| Problem::invalid(format!("site.{}", e.field()), e))?;
    Ok(())
}

/// Makes a pack under an id of the client's; the same again changes nothing.
#[utoipa::path(put, path = "/api/v1/packs/{id}", tag = "packs", params(("id" = String, Path, description = "UUID made by the client")), request_body = NewPack,
    responses((status = 201, body = PackView), (status = 403, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn make(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Body(new): Body<NewPack>,
) -> Result<(StatusCode, HeaderMap, Json<PackView>), Problem> {
    let view = made(&app, &who, &id, new).await?;
    Ok((StatusCode::CREATED, etag(view.version), Json(view)))
}

/// Stores a new pack, and shows it.
pub(super) async fn made(app: &App, who: &Who, id: &str, new: NewPack) -> Result<PackView, Problem> {
    let project = meant(who, new.project.as_deref(), Action::Make(new.form))?;
    uuid(id)?;
    text("title", &new.title, 200, "the title")?;
    if new.number.chars().count() > 32 {
        return Err(Problem::invalid("number", "a number has at most 32 characters"));
    }
    check_plan(&new.plan)?;
    let project = crate::store::project::get(&app.db, project).await?;
    let library = crate::store::specification::library(&app.db, &project.id).await?;
    crate::grid::refuse_bad_rows(&library, &new.rows, who.reads.pressure)?;
    let rows = crate::grid::kept(new.rows, who.reads.pressure, &who.sign_in);
    let row = store::NewPackRow {
        id,
        project: &project,
        number: new.number.trim(),
        title: new.title.trim(),
        form: new.form,
        plan: &new.plan,
        rows: &rows,
        by: &who.sign_in,
    };
    store::insert(&app.db, &row).await?;
    pack_view(app, who, store::get(&app.db, id).await?).await
}

/// One pack with everything that its screens show.
#[utoipa::path(get, path = "/api/v1/packs/{id}", tag = "packs", params(("id" = String, Path)), responses((status = 200, body = PackView), (status = 404, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<(HeaderMap, Json<PackView>), Problem> {
    let view = pack_view(&app, &who, store::get(&app.db, &id).await?).await?;
    Ok((etag(view.version), Json(view)))
}

/// What the hold as planned will be able to show, and what would show the leak that is asked.
#[derive(Debug, serde::Serialize, utoipa::ToSchema)]
pub struct PromiseView {
    /// The promise; absent where the plan says too little.
    pub promise: Option<judge::planning::Promise>,
    /// What is missing for one, in a sentence; empty where nothing is.
    pub missing: String,
}

/// What the hold of a plan promises.
#[utoipa::path(get, path = "/api/v1/packs/{id}/promise", tag = "packs", params(("id" = String, Path)), responses((status = 200, body = PromiseView), (status = 404, body = ProblemBody)))]
pub async fn promise(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<PromiseView>, Problem> {
    let pack = store::get(&app.db, &id).await?;
    may_on(&who, Action::See, &pack)?;
    let case = crate::views::pack::planned_case(&app, &who, &pack).await?;
    let missing = |sentence: &str| PromiseView { promise: None, missing: sentence.to_owned() };
    Ok(Json(match case {
        None => missing("Choose a gauge of the store, and enter parts with diameter, wall, length and material."),
        Some(case) if case.bodies.is_empty() => {
            missing("Enter parts with diameter, wall, length and material: without a volume no leak rate follows.")
        }
        Some(case) => {
            let promise = app.looking.run(move |_| judge::planning::promise(&case)).await?;
            PromiseView { promise, missing: String::new() }
        }
    }))
}

/// Title and plan.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PlanChange {
    /// Title.
    pub title: String,
    /// Plan.
    pub plan: Plan,
}

/// Loads a pack that this person may plan now.
pub(super) async fn plannable(app: &App, who: &Who, id: &str) -> Result<store::PackRow, Problem> {
    let row = store::get(&app.db, id).await?;
    may_on(who, Action::Plan, &row)?;
    if let Some(sentence) = crate::views::pack::away(app, &row) {
        return Err(Problem::Conflict(sentence));
    }
    if let Some(last) = attempt::of_pack(&app.db, id).await?.into_iter().next_back() {
        let number = last.number;
        let run = crate::runs::current(app, &last).await?;
        let over = run.read().over();
        if let Some(sentence) =
            locked(Some((number, over || crate::runs::withdrawn(app, &row.project, &run, who.reads_on(&row)).await?.is_some())))
        {
            return Err(Problem::Conflict(sentence));
        }
    }
    Ok(row)
}

/// Changes title and plan, when nobody else did meanwhile (If-Match).
#[utoipa::path(put, path = "/api/v1/packs/{id}/plan", tag = "packs", params(("id" = String, Path), ("if-match" = String, Header)), request_body = PlanChange,
    responses((status = 200, body = PackView), (status = 403, body = ProblemBody), (status = 409, body = ProblemBody), (status = 412, body = ProblemBody), (status = 422, body = ProblemBody), (status = 428, body = ProblemBody)))]
pub async fn plan(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    headers: HeaderMap,
    Body(change): Body<PlanChange>,
) -> Result<(HeaderMap, Json<PackView>), Problem> {
    let mut row = plannable(&app, &who, &id).await?;
    let version = version(&headers)?;
    text("title", &change.title, 200, "the title")?;
    check_plan(&change.plan)?;
    row.title = change.title;
    row.plan = change.plan;
    store::update(&app.db, &row, version, &who.sign_in).await?;
    get(State(app), who, Path(id)).await
}

/// What would follow from another plan, with some parts left out.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WhatIf {
    /// The plan as it might be.
    pub plan: Plan,
    /// Tags of parts that are left out.
    #[serde(default)]
    pub without: Vec<String>,
}

/// What would follow, or why nothing would.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct WhatWould {
    /// What would follow; absent where nothing would.
    pub derived: Option<rules::system::Derived>,
    /// Everything that would stand against it, each at its field.
    pub against: Vec<Against>,
}

/// Derives a plan that is not stored, from the parts as they are stored or with some left out; stores nothing.
#[utoipa::path(post, path = "/api/v1/packs/{id}/what-if", tag = "packs", params(("id" = String, Path)), request_body = WhatIf,
    responses((status = 200, body = WhatWould), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn what_if(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Body(body): Body<WhatIf>,
) -> Result<Json<WhatWould>, Problem> {
    let mut row = store::get(&app.db, &id).await?;
    may_on(&who, Action::See, &row)?;
    check_plan(&body.plan)?;
    row.plan = body.plan;
    if let Some(stray) = body.without.iter().find(|t| !row.rows.iter().any(|r| r.cell("tag") == t.as_str())) {
        return Err(Problem::invalid("without", format!("no part is called \"{stray}\": name one of the list")));
    }
    row.rows.retain(|r| !body.without.iter().any(|t| r.cell("tag") == t));
    row.plan.joints.retain(|j| !body.without.contains(&j.a) && !body.without.contains(&j.b));
    let planned = crate::views::pack::planned(&app, &row, &register::Registers::default(), Some(who.reads_on(&row))).await?;
    let derived = planned.derived.ok();
    let against = against::all(&planned.refusals, derived.as_ref().map_or(&[], |d| &d.objections));
    Ok(Json(WhatWould { against, derived }))
}

/// Answers *why?* for one figure: `required`, `lower`, `upper`, `planned`, `look`, `stop-line`, `relief`, `alarm`, `gauge-range`, `hold`, or `part:TAG`.
#[utoipa::path(get, path = "/api/v1/packs/{id}/why/{figure}", tag = "packs", params(("id" = String, Path), ("figure" = String, Path)),
    responses((status = 200, body = Derivation), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn why(State(app): State<App>, who: Who, Path((id, figure)): Path<(String, String)>) -> Result<Json<Derivation>, Problem> {
    let row = store::get(&app.db, &id).await?;
    may_on(&who, Action::See, &row)?;
    let figure = rules::why::Figure::from_name(&figure).ok_or(Problem::NotFound("figure"))?;
    let registers = register::of_pack(&app.db, &id).await?;
    let planned = crate::views::pack::planned(&app, &row, &registers, Some(who.reads_on(&row))).await?;
    let refused = |e: rules::system::Refusal| Problem::invalid(e.field(), &e);
    let derived = planned.derived.map_err(refused)?;
    rules::why::why(&planned.system, &derived, &figure).map_err(refused)?.map(Json).ok_or(Problem::NotFound("figure"))
}
