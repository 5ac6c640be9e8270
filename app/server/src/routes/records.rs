//! Sealed files: to download, and to check.

use super::attempts::of_person;
use crate::access::Action;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::signature;
use crate::who::Who;
use axum::body::Body;
use axum::extract::{Path, State};
use axum::http::{HeaderValue, header};
use axum::response::Response;

/// The sealed file of an attempt, with the signatures given so far.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/sealed", tag = "record", params(("attempt" = String, Path)),
    responses((status = 200, content_type = "application/json", body = record::sealed::SealedRecord), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn sealed(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Response, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::See).await?;
    let content = signature::content(&app.db, &id)
        .await?
        .ok_or_else(|| Problem::Conflict("Nobody has signed this attempt: there is nothing to seal yet.".to_owned()))?;
    let file = record::sealed::seal(content.parts, signature::of_attempt(&app.db, &id).await?, &app.key)?.to_bytes()?;
    let mut response = Response::new(Body::from(file));
    response.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/json"));
    let plain: String = pack.number.chars().map(|c| if c.is_ascii_alphanumeric() || c == '-' { c } else { '_' }).collect();
    if let Ok(value) = HeaderValue::from_str(&format!("attachment; filename=\"{plain}-attempt-{}.sealed.json\"", attempt.number)) {
        response.headers_mut().insert(header::CONTENT_DISPOSITION, value);
    }
    Ok(response)
}
