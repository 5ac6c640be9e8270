//! Checking a sealed file, open to anyone: whoever holds a record must not need an account to know whether it is whole.

use super::File;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use axum::Json;
use axum::extract::State;
use record::verify::{Verification, verify};
use report::attached::is_pdf;
use report::check::{Pages, check};
use serde::Serialize;

/// What the check of a file found.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct VerifyView {
    /// What the file itself says.
    pub verification: Verification,
    /// True when it is whole and sealed by this installation's key.
    pub by_this_installation: bool,
    /// For a PDF: whether its pages are those that are printed from the sealed file in it.
    pub pages: Option<Pages>,
    /// The same in a sentence; for a PDF without a sealed file, what is missing.
    pub pages_sentence: String,
    /// Fingerprint of this installation's key.
    pub our_fingerprint: String,
}

/// Checks a sealed file, or a report with one in it. Nothing is stored.
#[utoipa::path(post, path = "/api/v1/verify", tag = "record", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = VerifyView), (status = 413, body = ProblemBody)))]
pub async fn post(State(app): State<App>, File(file): File) -> Result<Json<VerifyView>, Problem> {
    let our_fingerprint = app.key.public().fingerprint();
    let looked = tokio::task::spawn_blocking(move || look(&file)).await.map_err(|e| crate::problem::internal(&e))?;
    let (verification, pages, pages_sentence) = looked;
    let by_this_installation = matches!(&verification, Verification::Genuine { fingerprint, .. } if *fingerprint == our_fingerprint);
    Ok(Json(VerifyView { verification, by_this_installation, pages, pages_sentence, our_fingerprint }))
}

/// Checks a sealed file, or the one in a PDF and the PDF's pages.
fn look(file: &[u8]) -> (Verification, Option<Pages>, String) {
    if !is_pdf(file) {
        return (verify(file, None), None, String::new());
    }
    match check(file) {
        Ok((sealed, pages)) => (verify(&sealed, None), Some(pages), pages.sentence().to_owned()),
        Err(e) => (Verification::Unreadable { sentence: format!("{e}.") }, None, String::new()),
    }
}
