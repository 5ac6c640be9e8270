//! Signing: the password again each time; the first signature freezes the content.

use super::{Body, attempts::of_person, uuid};
use crate::access::Action;
use crate::attempt_view::sign_objection;
use crate::freeze::{parts, rfc3339};
use crate::judging::Run;
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::signature;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use pack::signing::Act;
use record::sealed::{Content, SignedStatement};
use serde::Deserialize;

/// A signature to give.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sign {
    /// What it does.
    pub act: Act,
    /// The person's password, again.
    pub password: String,
}

/// Signs; the same id again changes nothing.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/signatures/{signature}", tag = "record", params(("attempt" = String, Path), ("signature" = String, Path)), request_body = Sign,
    responses((status = 200, body = Vec<SignedStatement>), (status = 401, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, signature_id)): Path<(String, String)>,
    Body(body): Body<Sign>,
) -> Result<Json<Vec<SignedStatement>>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Sign).await?;
    uuid(&signature_id)?;
    let given =
        sqlx::query_scalar!("SELECT COUNT(*) FROM signature WHERE id = ? AND attempt_id = ? AND person = ?", signature_id, id, who.sign_in)
            .fetch_one(&app.db)
            .await?;
    if given > 0 {
        return Ok(Json(signature::of_attempt(&app.db, &id).await?));
    }
    crate::sign_in::check(&app, &who.sign_in, &body.password).await?;
    // from here until the commit nothing is added to the attempt: what is read is what is frozen
    let mut tx = app.db.begin().await?;
    sqlx::query_scalar!("SELECT number FROM attempt WHERE id = ? FOR UPDATE", id).fetch_one(&mut *tx).await?;
    let run = Run::load(&app, attempt).await?;
    let frozen = signature::content(&app.db, &id).await?;
    let first = frozen.is_none();
    let (content, written) = match frozen {
        Some(row) => (row.parts, row.written),
        None => {
            let made = parts(&app, &pack, &run).await?;
            let written = Content::new(&made)?;
            (made, written)
        }
    };
    let earlier = signature::of_attempt(&app.db, &id).await?;
    let done: Vec<(Act, String)> = earlier.iter().map(|s| (s.act, s.person.clone())).collect();
    if let Some(sentence) = sign_objection(&pack, &run, &content.restore, Some(&content.judgement), &done, body.act, &who) {
        return Err(Problem::Conflict(sentence));
    }
    let statement = SignedStatement {
        act: body.act,
        person: who.sign_in.clone(),
        role: who.role,
        statement: body.act.statement(pack.form).to_owned(),
        signed_at: rfc3339(app.clock.now()),
        content_sha256: written.sha256()?,
        previous_sha256: String::new(),
        ed25519: String::new(),
    }
    .sign(earlier.last(), &app.key)?;
    if first {
        signature::freeze(&mut tx, &id, &written).await?;
    }
    signature::insert(&mut tx, &signature_id, &id, &statement).await?;
    tx.commit().await?;
    Ok(Json(signature::of_attempt(&app.db, &id).await?))
}
