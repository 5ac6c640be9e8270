//! Checking a sealed file, open to anyone: whoever holds a record must not need an account to know whether it is whole.

use super::File;
use crate::door::Caller;
use crate::heavy::Left;
use crate::problem::{Problem, ProblemBody};
use crate::security::{What, note};
use crate::state::App;
use crate::store::signature;
use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use paper::attached::is_pdf;
use paper::check::{Pages, check};
use record::key::PublicKey;
use record::sealed::SealedRecord;
use record::verify::{Verification, verify_again};
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
    /// That it was superseded, in a sentence; absent where it was not.
    pub superseded: Option<String>,
    /// Fingerprint of this installation's key.
    pub our_fingerprint: String,
}

/// Checks a sealed file, or a report with one in it. Nothing is stored.
#[utoipa::path(post, path = "/api/v1/verify", tag = "record", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = VerifyView), (status = 413, body = ProblemBody), (status = 429, body = ProblemBody)))]
pub async fn post(State(app): State<App>, caller: Caller, File(file): File) -> Result<Json<VerifyView>, Problem> {
    app.limits.check(caller.0)?;
    let ours = app.key.public();
    // keys that were replaced stay known
    let known: Vec<PublicKey> = signature::known_keys(&app.db).await?.iter().filter_map(|k| PublicKey::from_hex(k)).chain([ours]).collect();
    let fingerprints: Vec<String> = known.iter().map(PublicKey::fingerprint).collect();
    let press = std::sync::Arc::clone(&app.press);
    let (verification, pages, pages_sentence, content) = app.checking.run(move |left| look(&file, &known, &*press, left)).await?;
    let by_this_installation = matches!(&verification, Verification::Genuine { fingerprint, .. } if fingerprints.contains(fingerprint));
    let superseded = match content.filter(|_| by_this_installation) {
        Some(sha256) => signature::superseded_by(&app.db, &sha256).await?,
        None => None,
    };
    Ok(Json(VerifyView {
        verification,
        by_this_installation,
        pages,
        pages_sentence,
        superseded: superseded
            .map(|(pack, attempt)| format!("This record was superseded: attempt {attempt} of {pack} takes its place. Ask for that one.")),
        our_fingerprint: ours.fingerprint(),
    }))
}

/// The certificate that this installation signs printed pages with (DER): readers of PDF are told to trust it.
#[utoipa::path(get, path = "/api/v1/certificate", tag = "record",
    responses((status = 200, body = Vec<u8>, content_type = "application/pkix-cert", description = "the certificate, DER")))]
pub async fn certificate(State(app): State<App>, caller: Caller) -> Result<Response, Problem> {
    let der = app.paper_key.certificate_der().map_err(|e| crate::problem::internal(&e))?;
    note(&app, What::CertificateGiven, "", Some(caller.0), &app.key.public().fingerprint()).await;
    Ok(([(header::CONTENT_TYPE, "application/pkix-cert")], der).into_response())
}

/// What the file says, what its pages are, that in a sentence, and the hash of its content.
type Looked = (Verification, Option<Pages>, String, Option<String>);

/// Checks a sealed file, or the one in a PDF and the PDF's pages. Only what was sealed here is computed again.
fn look(file: &[u8], known: &[PublicKey], press: &dyn paper::Press, left: &Left) -> Looked {
    let checked = |sealed: &[u8]| {
        let content = serde_json::from_slice::<SealedRecord>(sealed).ok().map(|r| r.seal.content_sha256);
        (verify_again(sealed, None, |key| known.contains(key)), content)
    };
    if !is_pdf(file) {
        let (verification, content) = checked(file);
        return (verification, None, String::new(), content);
    }
    match check(file, press) {
        // nobody waits for the rest
        Ok(_) if left.has() => (Verification::Unreadable { sentence: String::new() }, None, String::new(), None),
        Ok((sealed, pages)) => {
            let (verification, content) = checked(&sealed);
            (verification, Some(pages), pages.sentence().to_owned(), content)
        }
        Err(e) => (Verification::Unreadable { sentence: format!("{e}.") }, None, String::new(), None),
    }
}
