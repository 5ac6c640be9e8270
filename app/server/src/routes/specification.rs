//! What the project lays down for all its tests, and the library as it has it.

use super::{Body, etag, version};
use crate::access::{Action, may_in};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::specification as store;
use crate::store::{pack, register};
use crate::views::pack::{differences, planned, planned_under};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use rules::basis::book;
use rules::library::Table;
use rules::specification::{Specification, schools};
use serde::Serialize;

/// An answer on offer.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct AnswerView {
    /// Key.
    pub key: String,
    /// In words.
    pub words: String,
}

/// A question on which practitioners differ; the first answer is the default.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct QuestionView {
    /// Key.
    pub key: String,
    /// The question.
    pub question: String,
    /// Step of the spine where it counts.
    pub step: String,
    /// Figures that it touches.
    pub touches: Vec<String>,
    /// Answers.
    pub answers: Vec<AnswerView>,
}

/// Questions of one basis.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct BasisQuestions {
    /// Id of the basis.
    pub basis: String,
    /// Its name.
    pub name: String,
    /// Questions.
    pub questions: Vec<QuestionView>,
}

/// A table of the library as the project has it.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct TableView {
    /// The table, with the project's values in it.
    #[serde(flatten)]
    pub table: Table,
    /// What people call it.
    pub title: String,
    /// Its columns in words.
    pub heads: Vec<String>,
    /// For each column, true where it holds figures that a project may replace.
    pub figures: Vec<bool>,
    /// How many columns at the left name a row.
    pub key_columns: usize,
}

/// The specification, what it may answer, and the library that follows.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct SpecificationView {
    /// What the project lays down.
    pub specification: Specification,
    /// Version, for If-Match.
    pub version: u32,
    /// Who changed it last, and when, in a sentence; empty while nobody did.
    pub changed: String,
    /// True where this person may change it.
    pub may_change: bool,
    /// Schools.
    pub schools: Vec<QuestionView>,
    /// Questions of the bases.
    pub bases: Vec<BasisQuestions>,
    /// Tables.
    pub tables: Vec<TableView>,
}

fn table_view(t: &Table) -> TableView {
    let is_figure = |(i, column): (usize, &String)| i >= t.key_columns() && !Table::is_words(column);
    TableView {
        title: t.title().to_owned(),
        heads: t.columns.iter().map(|c| Table::head(c)).collect(),
        figures: t.columns.iter().enumerate().map(is_figure).collect(),
        key_columns: t.key_columns(),
        table: t.clone(),
    }
}

async fn view(app: &App, who: &Who, id: &str) -> Result<SpecificationView, Problem> {
    may_in(who, id, Action::See)?;
    let project = crate::store::project::get(&app.db, id).await?;
    let row = store::get(&app.db, id).await?;
    let changed = store::last_change(&app.db, id).await?;
    let library = row.specification.library().map_err(|e| Problem::invalid("specification.library", e))?;
    let say = who.reads.usually(project.units).without_gauge();
    let answer = |key: &str, words: &str| AnswerView { key: key.to_owned(), words: words.to_owned() };
    Ok(SpecificationView {
        changed: changed.map_or_else(String::new, |(by, at)| format!("Changed by {by}, {}.", app.moment(&project.zone, at))),
        may_change: may_in(who, id, Action::Specification).is_ok(),
        schools: schools()
            .iter()
            .map(|s| QuestionView {
                key: s.key.clone(),
                question: s.question.clone(),
                step: s.step.clone(),
                touches: s.touches.clone(),
                answers: s.options.iter().map(|o| answer(&o.key, &o.words.said(say))).collect(),
            })
            .collect(),
        bases: book::shipped()
            .all()
            .filter(|(e, _)| !e.choices.is_empty())
            .map(|(e, _)| BasisQuestions {
                basis: e.id.clone(),
                name: e.name.clone(),
                questions: e
                    .choices
                    .iter()
                    .map(|c| QuestionView {
                        key: c.key.clone(),
                        question: c.question.clone(),
                        step: "prove".to_owned(),
                        touches: vec!["required".to_owned()],
                        answers: c.options.iter().map(|o| answer(&o.key, &o.words.said(say))).collect(),
                    })
                    .collect(),
            })
            .collect(),
        tables: library.tables().iter().map(table_view).collect(),
        specification: row.specification,
        version: row.version,
    })
}

/// The specification with everything that it may answer.
#[utoipa::path(get, path = "/api/v1/projects/{project}/specification", tag = "projects", params(("project" = String, Path)), responses((status = 200, body = SpecificationView), (status = 404, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, Path(project): Path<String>) -> Result<(HeaderMap, Json<SpecificationView>), Problem> {
    let view = view(&app, &who, &project).await?;
    Ok((etag(view.version), Json(view)))
}

/// Changes the specification, when nobody else did meanwhile (If-Match). Released attempts keep the one under which they were released.
#[utoipa::path(put, path = "/api/v1/projects/{project}/specification", tag = "projects", params(("project" = String, Path), ("if-match" = String, Header)), request_body = Specification,
    responses((status = 200, body = SpecificationView), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 412, body = ProblemBody), (status = 422, body = ProblemBody), (status = 428, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path(project): Path<String>,
    headers: HeaderMap,
    Body(body): Body<Specification>,
) -> Result<(HeaderMap, Json<SpecificationView>), Problem> {
    may_in(&who, &project, Action::Specification)?;
    let version = version(&headers)?;
    body.check(book::shipped()).map_err(|e| Problem::invalid("specification", e))?;
    store::put(&app.db, &project, &body, version, &who.sign_in).await?;
    get(State(app), who, Path(project)).await
}

/// A pack that a change of the specification touches.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct TouchedPack {
    /// Id.
    pub id: String,
    /// Number.
    pub number: String,
    /// Title.
    pub title: String,
    /// What changes, a sentence each.
    pub changes: Vec<String>,
}

/// What a change of the specification touches.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Touches {
    /// Packs that it touches, by number.
    pub packs: Vec<TouchedPack>,
    /// How many were looked at.
    pub looked_at: usize,
    /// How many were not, because there was no time: they may be touched as well.
    pub left: usize,
}

/// Most packs that are looked at.
const MOST: usize = 2000;
/// For how long.
const WITHIN: std::time::Duration = std::time::Duration::from_secs(12);

/// Which packs a specification would touch that is not stored; stores nothing. What is under test or signed keeps that under which it was released.
#[utoipa::path(post, path = "/api/v1/projects/{project}/specification/touches", tag = "projects", params(("project" = String, Path)), request_body = Specification,
    responses((status = 200, body = Touches), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn touches(
    State(app): State<App>,
    who: Who,
    Path(project): Path<String>,
    Body(body): Body<Specification>,
) -> Result<Json<Touches>, Problem> {
    may_in(&who, &project, Action::Specification)?;
    body.check(book::shipped()).map_err(|e| Problem::invalid("specification", e))?;
    let began = std::time::Instant::now();
    let open = pack::open_of(&app.db, &project, MOST).await?;
    let (mut packs, mut looked_at) = (Vec::new(), 0);
    for id in &open {
        if began.elapsed() > WITHIN {
            break;
        }
        looked_at += 1;
        // one that cannot be read is said in the lists
        let Ok(row) = pack::get(&app.db, id).await else { continue };
        let changes = changed(&app, &who, &row, &body).await?;
        if !changes.is_empty() {
            packs.push(TouchedPack { id: row.id, number: row.number, title: row.title, changes });
        }
    }
    Ok(Json(Touches { packs, looked_at, left: open.len() - looked_at }))
}

async fn changed(app: &App, who: &Who, row: &pack::PackRow, specification: &Specification) -> Result<Vec<String>, Problem> {
    let registers = register::of_pack(&app.db, &row.id).await?;
    let reads = Some(who.reads_on(row));
    let now = planned(app, row, &registers, reads).await?;
    let then = planned_under(app, row, &registers, reads, specification.clone()).await?;
    Ok(differences(&now, &then))
}
