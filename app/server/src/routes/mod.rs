//! Routes, one resource a file. A handler loads, calls the core, converts.

pub mod account;
pub mod again;
pub mod attempts;
pub mod bench;
pub mod by_hand_signatures;
pub mod corrections;
pub mod events;
pub mod hold;
pub mod instruments;
pub mod joined;
pub mod keeping;
pub mod library;
pub mod lines;
pub mod live;
pub mod looks;
pub mod news;
pub mod packs;
pub mod parts;
pub mod people;
pub mod practice;
pub mod projects;
pub mod quick;
pub mod readings;
pub mod recordings;
pub mod records;
pub mod registers;
pub mod rig;
pub mod security;
pub mod session;
pub mod setup;
pub mod signatures;
pub mod site;
pub mod specification;
pub mod suggested;
pub mod today;
pub mod verify;
pub mod words;

use crate::budget::{self, MostMb};
use crate::problem::Problem;
use axum::body::Bytes;
use axum::extract::rejection::{JsonRejection, QueryRejection};
use axum::extract::{FromRequest, FromRequestParts, Request};
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};

/// JSON of a request, whose faults are problems.
#[derive(Debug, FromRequest)]
#[from_request(via(axum::Json), rejection(Problem))]
pub struct Body<T>(pub T);

impl From<JsonRejection> for Problem {
    fn from(e: JsonRejection) -> Self {
        Self::Unreadable(e.body_text())
    }
}

/// What stands behind the question mark of an address, whose faults are problems.
#[derive(Debug, FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(Problem))]
pub struct Query<T>(pub T);

impl From<QueryRejection> for Problem {
    fn from(e: QueryRejection) -> Self {
        Self::Unreadable(e.body_text())
    }
}

/// A file as the body of a request; one that is too large is a problem with a sentence.
#[derive(Debug)]
pub struct File(pub Bytes);

impl<S: Send + Sync> FromRequest<S> for File {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let most = request.extensions().get::<MostMb>().map_or(budget::USUAL.body_mb, |m| m.0);
        Bytes::from_request(request, state).await.map(Self).map_err(|e| {
            if e.status() == StatusCode::PAYLOAD_TOO_LARGE { Problem::TooLarge(most) } else { Problem::Unreadable(e.body_text()) }
        })
    }
}

/// Version named in If-Match.
pub(crate) fn version(headers: &HeaderMap) -> Result<u32, Problem> {
    let text = headers.get(header::IF_MATCH).and_then(|v| v.to_str().ok()).ok_or(Problem::VersionNeeded)?;
    text.trim_matches('"').strip_prefix('v').and_then(|v| v.parse().ok()).ok_or(Problem::VersionNeeded)
}

/// A version as ETag.
pub(crate) fn etag(version: u32) -> HeaderMap {
    let mut headers = HeaderMap::new();
    if let Ok(value) = HeaderValue::from_str(&format!("\"v{version}\"")) {
        headers.insert(header::ETAG, value);
    }
    headers
}

/// An id made by the client: a UUID, so that two never clash.
pub(crate) fn uuid(id: &str) -> Result<(), Problem> {
    // in the one form in which it is stored and compared: no braces, no "urn:"
    match uuid::Uuid::try_parse(id) {
        Ok(parsed) if parsed.hyphenated().to_string() == id.to_ascii_lowercase() => Ok(()),
        _ => Err(Problem::invalid("id", format!("\"{id}\" is not a UUID in its usual form"))),
    }
}

/// Text that must not be empty nor longer than its column.
pub(crate) fn text(field: &str, value: &str, most: usize, what: &str) -> Result<(), Problem> {
    match value.trim().chars().count() {
        0 => Err(Problem::invalid(field, format!("{what} is missing: type it"))),
        n if n > most => Err(Problem::invalid(field, format!("{what} has {n} characters, {most} fit: shorten it"))),
        _ => Ok(()),
    }
}
