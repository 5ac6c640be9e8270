//! Every way in which a request can fail, as RFC 9457 problems. All statuses stand here.

use axum::Json;
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use serde::{Deserialize, Serialize};

/// A problem as sent.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ProblemBody {
    /// Kind of problem, a relative reference.
    pub r#type: String,
    /// Kind of problem, in words.
    pub title: String,
    /// Status of the response.
    pub status: u16,
    /// What, why, and what to do.
    pub detail: String,
    /// The field to mend, where there is one; the first of several.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<String>,
    /// Every field to mend, where there are several.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<FieldProblem>,
}

/// What is wrong with one field.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct FieldProblem {
    /// The field.
    pub field: String,
    /// What, why, and what to do.
    pub sentence: String,
}

impl FieldProblem {
    /// Of a field.
    pub fn new(field: impl Into<String>, sentence: impl Into<String>) -> Self {
        Self { field: field.into(), sentence: sentence.into() }
    }
}

/// Why a request failed.
#[derive(Debug, thiserror::Error)]
pub enum Problem {
    /// Not signed in.
    #[error(
        "You are not signed in, or were away for too long. What you typed stays on this page: sign in again in another tab, come back here, and try again."
    )]
    NotSignedIn,
    /// Wrong name or password.
    #[error("This name and password do not go together.")]
    WrongPassword,
    /// A code of the second factor is asked as well.
    #[error("Type the six figures that your second factor shows now.")]
    CodeNeeded,
    /// The code does not fit.
    #[error("These six figures do not fit, or were used: type those that are shown now.")]
    WrongCode,
    /// Too many sign-ins.
    #[error("Too many attempts to sign in from this address: wait {0} seconds and try again.")]
    TooManySignIns(u32),
    /// Too many wrong passwords for one account.
    #[error("Too many wrong passwords for this name: wait {0} seconds, then type it once more with care.")]
    TooManyGuesses(u32),
    /// Not from this application's own page.
    #[error("This request did not come from a page of this application: reload the page and try again.")]
    Forged,
    /// The role may not.
    #[error("{0}")]
    NotAllowed(String),
    /// Not there, or not for this person.
    #[error("There is no {0} here: it may have been on another pack, or you are not named on this one.")]
    NotFound(&'static str),
    /// Something in the request cannot be used.
    #[error("{sentence}")]
    Invalid {
        /// the field
        field: String,
        /// what, why, and what to do
        sentence: String,
    },
    /// Several things in the request cannot be used.
    #[error("{}", .0.iter().map(|f| f.sentence.as_str()).collect::<Vec<_>>().join(" "))]
    Several(Vec<FieldProblem>),
    /// It can be used, and is asked about first.
    #[error("{sentence}")]
    Doubtful {
        /// the field
        field: String,
        /// what, why, and what to do
        sentence: String,
    },
    /// The body is not what the route takes.
    #[error("The request cannot be read: {0}.")]
    Unreadable(String),
    /// Body too large.
    #[error("The file is larger than {0} MB: split it, or log less often.")]
    TooLarge(usize),
    /// The state of the thing forbids it.
    #[error("{0}")]
    Conflict(String),
    /// Someone else was faster.
    #[error("{0}")]
    Changed(String),
    /// No If-Match.
    #[error("Say which version you change (If-Match): without it somebody else's work could be overwritten unseen.")]
    VersionNeeded,
    /// Too much is asked at once.
    #[error("The server is busy with other work of this kind: try again in {0} seconds. Nothing is lost.")]
    Busy(u32),
    /// The database does not answer.
    #[error(
        "The server's database does not answer, or has too much to do. What you sent was not stored; what is recorded by itself is kept and stored later. \
         Try again in {0} seconds."
    )]
    Away(u32),
    /// More was asked than one may.
    #[error("Too many requests came from this {of} in a short time: wait {seconds} seconds, then go on.")]
    TooMuch {
        /// account or address
        of: &'static str,
        /// s
        seconds: u32,
    },
    /// The database or the program failed.
    #[error("The server could not do this. Nothing was stored. Try again; if it stays, the server's log names the cause under {0}.")]
    Internal(String),
}

impl Problem {
    fn parts(&self) -> (StatusCode, &'static str, &'static str) {
        match self {
            Self::NotSignedIn => (StatusCode::UNAUTHORIZED, "not-signed-in", "Not signed in"),
            Self::WrongPassword => (StatusCode::UNAUTHORIZED, "wrong-password", "Name and password do not fit"),
            Self::CodeNeeded => (StatusCode::UNAUTHORIZED, "code-needed", "A code is asked"),
            Self::WrongCode => (StatusCode::UNAUTHORIZED, "wrong-code", "The code does not fit"),
            Self::TooManySignIns(_) => (StatusCode::TOO_MANY_REQUESTS, "too-many-sign-ins", "Wait a minute"),
            Self::TooManyGuesses(_) => (StatusCode::TOO_MANY_REQUESTS, "too-many-guesses", "Wait"),
            Self::Forged => (StatusCode::FORBIDDEN, "forged", "Not from this application"),
            Self::NotAllowed(_) => (StatusCode::FORBIDDEN, "not-allowed", "Not for this role"),
            Self::NotFound(_) => (StatusCode::NOT_FOUND, "not-found", "Not found"),
            Self::Invalid { .. } | Self::Several(_) => (StatusCode::UNPROCESSABLE_ENTITY, "invalid", "Cannot be used"),
            Self::Doubtful { .. } => (StatusCode::UNPROCESSABLE_ENTITY, "doubtful", "Asked about"),
            Self::Unreadable(_) => (StatusCode::BAD_REQUEST, "unreadable", "Cannot be read"),
            Self::TooLarge(_) => (StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large"),
            Self::Conflict(_) => (StatusCode::CONFLICT, "conflict", "Not now"),
            Self::Changed(_) => (StatusCode::PRECONDITION_FAILED, "changed", "Changed by someone else"),
            Self::VersionNeeded => (StatusCode::PRECONDITION_REQUIRED, "version-needed", "Version needed"),
            Self::Away(_) => (StatusCode::SERVICE_UNAVAILABLE, "away", "The database does not answer"),
            Self::TooMuch { .. } => (StatusCode::TOO_MANY_REQUESTS, "too-much", "Wait"),
            Self::Busy(_) => (StatusCode::SERVICE_UNAVAILABLE, "busy", "Busy"),
            Self::Internal(_) => (StatusCode::INTERNAL_SERVER_ERROR, "internal", "Failed here"),
        }
    }

    /// A field that cannot be used, with a sentence.
    pub fn invalid(field: impl Into<String>, sentence: impl std::fmt::Display) -> Self {
        let mut sentence = sentence.to_string();
        if let Some(first) = sentence.get(..1) {
            sentence = first.to_uppercase() + &sentence[1..];
        }
        if !sentence.ends_with('.') {
            sentence.push('.');
        }
        Self::Invalid { field: field.into(), sentence }
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let (status, kind, title) = self.parts();
        let (field, fields) = match &self {
            Self::Invalid { field, .. } | Self::Doubtful { field, .. } => (Some(field.clone()), Vec::new()),
            Self::Several(all) => (all.first().map(|f| f.field.clone()), all.clone()),
            _ => (None, Vec::new()),
        };
        let body = ProblemBody {
            r#type: format!("/problems/{kind}"),
            title: title.to_owned(),
            status: status.as_u16(),
            detail: self.to_string(),
            field,
            fields,
        };
        let mut response = (status, Json(body)).into_response();
        response.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/problem+json"));
        if let Self::Busy(seconds)
        | Self::TooManySignIns(seconds)
        | Self::Away(seconds)
        | Self::TooManyGuesses(seconds)
        | Self::TooMuch { seconds, .. } = self
        {
            response.headers_mut().insert(header::RETRY_AFTER, HeaderValue::from(seconds));
        }
        response
    }
}

/// Numbers of MariaDB's errors that say that a text cannot be an id: it has letters that no id has.
const NO_ID: [u16; 2] = [1267, 1366];

/// Numbers of MariaDB's errors that say that two transactions waited for one another, or one too long for another.
const WAITED: [u16; 2] = [1205, 1213];

/// State in which a trigger says that the attempt is being signed just now.
const SEALING: &str = "45001";

impl From<sqlx::Error> for Problem {
    fn from(e: sqlx::Error) -> Self {
        if is_away(&e) {
            return Self::Away(2);
        }
        let number = e.as_database_error().and_then(|d| d.try_downcast_ref::<sqlx::mysql::MySqlDatabaseError>()).map(|d| d.number());
        if number.is_some_and(|n| NO_ID.contains(&n)) {
            return Self::NotFound("such thing");
        }
        // two waited for one another, and this one was undone: it is sent again
        if number.is_some_and(|n| WAITED.contains(&n)) {
            return Self::Busy(1);
        }
        // it waits for a signature, and is sent again
        if e.as_database_error().is_some_and(|d| d.code().as_deref() == Some(SEALING)) {
            return Self::Busy(1);
        }
        // a trigger that guards an append-only table speaks in a sentence of its own
        if let Some(db) = e.as_database_error()
            && db.code().as_deref() == Some("45000")
        {
            return Self::Conflict(format!("This cannot be stored: {}.", db.message()));
        }
        internal(&e)
    }
}

impl From<serde_json::Error> for Problem {
    fn from(e: serde_json::Error) -> Self {
        internal(&e)
    }
}

impl From<record::canonical::NotCanonical> for Problem {
    fn from(e: record::canonical::NotCanonical) -> Self {
        internal(&e)
    }
}

/// True when the database cannot be reached, or has no connection to spare.
pub fn is_away(e: &sqlx::Error) -> bool {
    // while it shuts down or starts, the server itself says so: 1053, 1077, 1079, 1927
    let ending = |d: &sqlx::mysql::MySqlDatabaseError| matches!(d.number(), 1053 | 1077 | 1079 | 1927);
    match e {
        sqlx::Error::PoolTimedOut | sqlx::Error::PoolClosed | sqlx::Error::WorkerCrashed | sqlx::Error::Io(_) => true,
        other => other.as_database_error().and_then(|d| d.try_downcast_ref()).is_some_and(ending),
    }
}

/// Logs a failure under an id and gives that id to the person.
pub fn internal(e: &dyn std::fmt::Display) -> Problem {
    let id = uuid::Uuid::now_v7().to_string();
    tracing::error!(%id, error = %e, "request failed");
    Problem::Internal(id)
}

/// The unique key that an insert ran into, if that is what happened.
pub fn duplicate(e: &sqlx::Error) -> bool {
    e.as_database_error().is_some_and(sqlx::error::DatabaseError::is_unique_violation)
}
