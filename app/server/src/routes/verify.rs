//! Checking a sealed file, open to anyone: whoever holds a record must not need an account to know whether it is whole.

use super::File;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use axum::Json;
use axum::extract::State;
use record::verify::{Verification, verify};
use serde::Serialize;

/// What the check of a file found.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct VerifyView {
    /// What the file itself says.
    pub verification: Verification,
    /// True when it is whole and sealed by this installation's key.
    pub by_this_installation: bool,
    /// Fingerprint of this installation's key.
    pub our_fingerprint: String,
}

/// Checks a sealed file. Nothing is stored.
#[utoipa::path(post, path = "/api/v1/verify", tag = "record", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = VerifyView), (status = 413, body = ProblemBody)))]
pub async fn post(State(app): State<App>, File(file): File) -> Result<Json<VerifyView>, Problem> {
    let our_fingerprint = app.key.public().fingerprint();
    let verification = tokio::task::spawn_blocking(move || verify(&file, None)).await.map_err(|e| crate::problem::internal(&e))?;
    let by_this_installation = matches!(&verification, Verification::Genuine { fingerprint, .. } if *fingerprint == our_fingerprint);
    Ok(Json(VerifyView { verification, by_this_installation, our_fingerprint }))
}
