//! Sealed files: to download, and to check.

use super::{Query, attempts::of_person};
use crate::access::Action;
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::pack::PackRow;
use crate::store::signature;
use crate::views::freeze::parts;
use crate::views::sealing::delivered;
use crate::who::Who;
use axum::Json;
use axum::body::Body;
use axum::extract::{Path, State};
use axum::http::{HeaderValue, header};
use axum::response::Response;
use record::sealed::{Parts, Seal, SignedStatement};
use serde::Deserialize;
use std::sync::Arc;

/// What is printed, and on what.
#[derive(Debug, Clone, Copy, Deserialize, utoipa::IntoParams)]
pub struct Print {
    /// Paper.
    #[serde(default)]
    #[param(inline)]
    pub paper: PaperName,
    /// Form.
    #[serde(default)]
    #[param(inline)]
    pub form: PrintForm,
}

/// Size of the paper.
#[derive(Debug, Clone, Copy, Default, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PaperName {
    /// A4
    #[default]
    A4,
    /// US Letter
    Letter,
}

/// How much is printed.
#[derive(Debug, Clone, Copy, Default, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PrintForm {
    /// the whole report
    #[default]
    Report,
    /// one page
    Certificate,
}

impl Print {
    fn of(self) -> (paper::Paper, paper::Form) {
        let paper = match self.paper {
            PaperName::A4 => paper::Paper::A4,
            PaperName::Letter => paper::Paper::Letter,
        };
        let form = match self.form {
            PrintForm::Report => paper::Form::Report,
            PrintForm::Certificate => paper::Form::Certificate,
        };
        (paper, form)
    }
}

/// What is printed: sealed once somebody has signed, a draft before.
struct Printable {
    parts: Parts,
    signatures: Vec<SignedStatement>,
    seal: Option<Seal>,
    file: Option<Vec<u8>>,
}

impl Printable {
    async fn load(app: &App, pack: &PackRow, attempt: AttemptRow) -> Result<Self, Problem> {
        if signature::content_sha256(&app.db, &attempt.id).await?.is_none() {
            let held = crate::runs::from_nothing(app, &attempt).await?;
            return Ok(Self { parts: parts(app, pack, &attempt, &held).await?, signatures: vec![], seal: None, file: None });
        }
        let (content, signatures, file) = delivered(app, &attempt).await?;
        let record: record::sealed::SealedRecord = serde_json::from_slice(&file)?;
        Ok(Self { parts: content.parts, signatures, seal: Some(record.seal), file: Some(file) })
    }

    fn document<'a>(&'a self, site: &'a str) -> paper::Document<'a> {
        paper::Document { parts: &self.parts, signatures: &self.signatures, seal: self.seal.as_ref(), site }
    }
}

fn layout_failed(e: paper::ReportError) -> Problem {
    crate::problem::internal(&e)
}

/// The report as PDF/A-3; with the sealed file in it once somebody has signed, as a draft before.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/report", tag = "record", params(("attempt" = String, Path), Print),
    responses((status = 200, body = Vec<u8>, content_type = "application/pdf"), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn report_pdf(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(id): Path<String>,
    Query(print): Query<Print>,
) -> Result<Response, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let number = attempt.number;
    let mut printable = Printable::load(&app, &pack, attempt).await?;
    let (paper, form) = print.of();
    let press = Arc::clone(&app.press);
    let (site, key, ours) = (crate::store::site::get(&app.db).await?.name, Arc::clone(&app.paper_key), app.key.public().to_hex());
    let made = app.printing.run(move |_| {
        let file = printable.file.take();
        let document = printable.document(&site);
        // pages are signed by who sealed the record; a draft is signed by nobody
        match (file, &document.seal) {
            (Some(file), Some(seal)) if seal.public_key == ours => paper::signed_pdf(&*press, &document, file, (paper, form), &key),
            (file, _) => press.pdf(&document, file, paper, form),
        }
        .map_err(layout_failed)
    });
    let made = made.await??;
    note(&app, What::Exported, &who.sign_in, Some(caller.0), &format!("report of {} attempt {number}", pack.number)).await;
    Ok(download(made, "application/pdf", &pack.number, number, "pdf"))
}

/// The pages of the report as they will be printed, one SVG each.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/report/pages", tag = "record", params(("attempt" = String, Path), Print),
    responses((status = 200, body = Vec<String>), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn report_pages(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(print): Query<Print>,
) -> Result<Json<Vec<String>>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    Ok(Json(pages(&app, &pack, attempt, print.of()).await?))
}

/// The one page of an attempt, as whoever has a link to it sees it.
///
/// # Errors
/// While there is nothing to print.
pub(super) async fn printed_pages(app: &App, pack: &PackRow, attempt: AttemptRow) -> Result<Vec<String>, Problem> {
    pages(app, pack, attempt, (paper::Paper::A4, paper::Form::Certificate)).await
}

async fn pages(app: &App, pack: &PackRow, attempt: AttemptRow, (paper, form): (paper::Paper, paper::Form)) -> Result<Vec<String>, Problem> {
    let printable = Printable::load(app, pack, attempt).await?;
    let site = crate::store::site::get(&app.db).await?.name;
    let press = Arc::clone(&app.press);
    app.printing.run(move |_| press.pages(&printable.document(&site), paper, form).map_err(layout_failed)).await?
}

/// A file to keep, under a name that tells what it is.
fn download(file: Vec<u8>, kind: &'static str, pack_number: &str, attempt: u32, ending: &str) -> Response {
    let mut response = Response::new(Body::from(file));
    response.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static(kind));
    let plain: String = pack_number.chars().map(|c| if c.is_ascii_alphanumeric() || c == '-' { c } else { '_' }).collect();
    if let Ok(value) = HeaderValue::from_str(&format!("attachment; filename=\"{plain}-attempt-{attempt}.{ending}\"")) {
        response.headers_mut().insert(header::CONTENT_DISPOSITION, value);
    }
    response
}

/// The sealed file of an attempt, with the signatures given so far.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/sealed", tag = "record", params(("attempt" = String, Path)),
    responses((status = 200, content_type = "application/json", body = record::sealed::SealedRecord), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn sealed(State(app): State<App>, who: Who, caller: Caller, Path(id): Path<String>) -> Result<Response, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let number = attempt.number;
    let (_, _, file) = delivered(&app, &attempt).await?;
    note(&app, What::Exported, &who.sign_in, Some(caller.0), &format!("sealed record of {} attempt {number}", pack.number)).await;
    Ok(download(file, "application/json", &pack.number, number, "sealed.json"))
}
