//! The quick test: its owner's answers make a plan and its parts.

use super::packs::{NewPack, made};
use super::{Body, etag, uuid};
use crate::access::{Action, meant};
use crate::problem::{FieldProblem, Problem, ProblemBody};
use crate::state::App;
use crate::views::pack::PackView;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use formats::parts::GridRow;
use pack::quick::{self, QuickObject, answered};
use pack::signing::Form;
use quantity::bounds::WATER_TEMPERATURE;
use quantity::parse;
use serde::Deserialize;
use serde_json::json;
use std::collections::BTreeMap;

/// The answers of a quick test.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct QuickTest {
    /// Id of its project; without one the only project in which whoever makes it may.
    #[serde(default)]
    pub project: Option<String>,
    /// What people call it.
    pub title: String,
    /// Key of the object.
    pub object: String,
    /// Answers by the key of the question, each figure with its unit.
    #[serde(default)]
    pub answers: BTreeMap<String, String>,
    /// Temperature of water and metal at the test, with its unit.
    pub at_test: String,
    /// Tag of the gauge.
    pub gauge: String,
}

/// Who a result is for where nobody else relies on it.
const RELIED_ON_BY: &str = "its owner";

/// Makes a quick test of its owner's answers under an id of the client's; the same again changes nothing. All that is missing is said at once.
#[utoipa::path(put, path = "/api/v1/quick/{id}", tag = "packs", params(("id" = String, Path, description = "UUID made by the client")), request_body = QuickTest,
    responses((status = 201, body = PackView), (status = 403, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn make(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Body(body): Body<QuickTest>,
) -> Result<(StatusCode, HeaderMap, Json<PackView>), Problem> {
    let project = meant(&who, body.project.as_deref(), Action::Make(Form::Quick))?.to_owned();
    uuid(&id)?;
    let object = quick::object(&body.object).ok_or_else(|| Problem::invalid("object", "choose what it is from those that are offered"))?;
    let unit = who.reads.pressure.unwrap_or_default();
    let mut missing: Vec<FieldProblem> = Vec::new();
    if body.title.trim().is_empty() {
        missing.push(FieldProblem::new("title", "Write what people call it."));
    }
    if body.gauge.trim().is_empty() {
        missing.push(FieldProblem::new("gauge", "Choose the gauge that you will read."));
    }
    let at_test = parse::temperature(&WATER_TEMPERATURE, &body.at_test);
    missing.extend(at_test.as_ref().err().map(|e| FieldProblem::new("at_test", e.to_string())));
    let (plan, rows) = match answered(object, &body.answers, unit) {
        Ok(made) => {
            let rows: Vec<GridRow> = made.parts.into_iter().map(|typed| GridRow { typed, ..GridRow::default() }).collect();
            let library = crate::store::specification::library(&app.db, &project).await?;
            let fate = crate::grid::fate(&library, &rows, who.reads.pressure);
            let problems = fate.rows.iter().flat_map(|r| r.problems.iter().map(move |p| (r.line - 1, p)));
            missing.extend(problems.map(|(part, p)| FieldProblem::new(asked_for(object, part, &p.column), p.sentence.clone())));
            (made.plan, rows)
        }
        Err(all) => {
            missing.extend(all.into_iter().map(|m| FieldProblem::new(format!("answers.{}", m.key), m.sentence)));
            (json!({}), Vec::new())
        }
    };
    let Some(at_test) = at_test.ok().filter(|_| missing.is_empty()) else { return Err(Problem::Several(missing)) };
    let mut plan = plan;
    plan["claim"] = json!("both");
    plan["worked_in"] = serde_json::to_value(unit).unwrap_or_default();
    plan["relied_on_by"] = json!(RELIED_ON_BY);
    plan["water_temperature_c"] = json!(at_test.c());
    plan["site"]["metal_c"] = json!(at_test.c());
    plan["gauge_tag"] = json!(body.gauge.trim());
    plan["gauge_elevation_m"] = json!(0.0);
    plan["people"] = json!({ "performs": who.sign_in });
    let plan = serde_json::from_value(plan).map_err(|e| crate::problem::internal(&e))?;
    let new = NewPack { project: Some(project), number: String::new(), title: body.title, form: Form::Quick, plan, rows };
    let view = made(&app, &who, &id, new).await?;
    Ok((StatusCode::CREATED, etag(view.version), Json(view)))
}

/// The question whose answer a cell is.
fn asked_for(object: &QuickObject, part: usize, column: &str) -> String {
    let into = format!("part:{part}:{column}");
    object.ask.iter().find(|a| a.into.contains(&into)).map_or_else(|| "answers".to_owned(), |a| format!("answers.{}", a.key))
}
