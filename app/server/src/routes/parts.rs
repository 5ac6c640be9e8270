//! The parts grid and its preview.

use super::{Body, File, Query, version};
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::{pack as store, specification};
use crate::views::pack::PackView;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use formats::parts::{GridRow, PartsFate};
use serde::Deserialize;

/// Rows as typed.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Rows {
    /// Rows of the grid; a bare pressure is in the unit that the request names, or in bar.
    #[serde(alias = "cells")]
    pub rows: Vec<GridRow>,
}

/// Replaces the parts, when every row is good and nobody else changed the pack (If-Match).
#[utoipa::path(put, path = "/api/v1/packs/{id}/parts", tag = "packs", params(("id" = String, Path), ("if-match" = String, Header)), request_body = Rows,
    responses((status = 200, body = PackView), (status = 409, body = ProblemBody), (status = 412, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    headers: HeaderMap,
    Body(body): Body<Rows>,
) -> Result<(HeaderMap, Json<PackView>), Problem> {
    let mut row = super::packs::plannable(&app, &who, &id).await?;
    let version = version(&headers)?;
    let library = specification::library(&app.db, &row.project.id).await?;
    crate::grid::refuse_bad_rows(&library, &body.rows, who.reads.pressure)?;
    row.rows = crate::grid::kept(body.rows, who.reads.pressure, &who.sign_in);
    store::update(&app.db, &row, version, &who.sign_in).await?;
    super::packs::get(State(app), who, Path(id)).await
}

/// Tells the fate of each row of a grid; stores nothing.
#[utoipa::path(post, path = "/api/v1/packs/{id}/parts/check", tag = "packs", params(("id" = String, Path)), request_body = Rows, responses((status = 200, body = PartsFate), (status = 404, body = ProblemBody)))]
pub async fn check(State(app): State<App>, who: Who, Path(id): Path<String>, Body(body): Body<Rows>) -> Result<Json<PartsFate>, Problem> {
    let pack = store::get(&app.db, &id).await?;
    may_on(&who, Action::Plan, &pack)?;
    let library = specification::library(&app.db, &pack.project.id).await?;
    Ok(Json(crate::grid::fate(&library, &body.rows, who.reads.pressure)))
}

/// How a file is read.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub struct Columns {
    /// Names of its columns, with units where they carry one, separated by semicolons; for a file whose first line names none.
    columns: Option<String>,
}

/// Tells the fate of each row of a file, or of what was pasted from a spreadsheet; stores nothing.
#[utoipa::path(post, path = "/api/v1/packs/{id}/parts/preview", tag = "packs", params(("id" = String, Path), Columns), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = PartsFate), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn preview(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(named): Query<Columns>,
    File(file): File,
) -> Result<Json<PartsFate>, Problem> {
    let pack = store::get(&app.db, &id).await?;
    may_on(&who, Action::Plan, &pack)?;
    // a spreadsheet has no lines: its rows are counted once it is read
    let lines = if formats::workbook::is_workbook(&file) { 0 } else { file.iter().filter(|b| **b == b'\n').count() };
    if lines > 2 * crate::grid::MOST_ROWS {
        return Err(Problem::invalid(
            "file",
            format!("{lines} lines are more than one system may have ({}): split it", crate::grid::MOST_ROWS),
        ));
    }
    let library = specification::library(&app.db, &pack.project.id).await?;
    let columns: Option<Vec<String>> = named.columns.map(|c| c.split(';').map(|n| n.trim().to_owned()).collect());
    let unit = who.reads.pressure.unwrap_or_default();
    let read = app.looking.run(move |_| formats::parts::read_text(&library, &file, columns.as_deref(), unit)).await?;
    let fate = read.map_err(|e| Problem::invalid("file", e))?;
    if fate.rows.len() > crate::grid::MOST_ROWS {
        let (rows, most) = (fate.rows.len(), crate::grid::MOST_ROWS);
        return Err(Problem::invalid("file", format!("{rows} rows are more than one system may have ({most}): split it")));
    }
    Ok(Json(fate))
}
