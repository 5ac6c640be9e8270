//! Signing: the password again each time; the first signature freezes the content.

use super::{Body, attempts::of_person, uuid};
use crate::access::Action;
use crate::door::Caller;
use crate::kept::Held;
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::security::{What, note};
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::pack::PackRow;
use crate::store::signature::{self, ContentRow};
use crate::views::freeze::parts;
use crate::views::sealing::{follows_from_its_rows, sealed};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use pack::people::Role;
use pack::signing::Act;
use record::sealed::{Content, SignedByHand, SignedStatement};
use run::signing::{After, Signer};
use serde::Deserialize;
use sqlx::MySqlTransaction;
use std::sync::Arc;
use terms::Term;

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
    caller: Caller,
    Path((id, signature_id)): Path<(String, String)>,
    Body(body): Body<Sign>,
) -> Result<Json<Vec<SignedStatement>>, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Sign).await?;
    uuid(&signature_id)?;
    if signature::given(&app.db, &signature_id, &id).await? {
        return Ok(Json(signature::of_attempt(&app.db, &id).await?));
    }
    crate::sign_in::check(&app, &who.sign_in, &body.password, crate::sign_in::Door::Signature, caller.0).await?;
    let role = who.role_in(&pack.project.id).ok_or(Problem::NotFound("attempt"))?;
    let by = By { account: &who.sign_in, role, hand: None };
    Ok(Json(given_by(&app, &by, &pack, &attempt, &signature_id, (body.act, caller)).await?))
}

/// Who gives a signature.
pub(super) struct By<'a> {
    /// Sign-in name; of somebody without an account that of whoever gave them the device or the link.
    pub account: &'a str,
    /// In which role.
    pub role: Role,
    /// How somebody without an account signs.
    pub hand: Option<SignedByHand>,
}

/// Gives the next signature, and writes down in the log that it was given.
pub(super) async fn given_by(
    app: &App,
    by: &By<'_>,
    pack: &PackRow,
    attempt: &AttemptRow,
    signature_id: &str,
    (act, caller): (Act, Caller),
) -> Result<Vec<SignedStatement>, Problem> {
    let hand = by.hand.as_ref().map_or_else(String::new, |h| format!(", {} {}", h.name, h.way.words()));
    let what = format!("{} attempt {} as {}{hand}", pack.number, attempt.number, act.key());
    let signed = sealed_by(app, by, pack, attempt, signature_id, act).await;
    signature::resume(&app.db, &attempt.id).await?;
    let signed = signed?;
    note(app, What::Sealed, by.account, Some(caller.0), &what).await;
    Ok(signed)
}

/// Makes and stores the next signature. What was read is what is frozen: it is judged and sealed with no transaction open, and where something was added
/// meanwhile once more, while nobody adds.
async fn sealed_by(
    app: &App,
    by: &By<'_>,
    pack: &PackRow,
    attempt: &AttemptRow,
    signature_id: &str,
    act: Act,
) -> Result<Vec<SignedStatement>, Problem> {
    let id = &attempt.id;
    for tried in 0..TRIES {
        if tried > 0 {
            signature::pause(&app.db, id).await?;
        }
        let held = runs::from_nothing(app, attempt).await?;
        let until_us = held.read().recorded_until_us();
        let given = signature::of_attempt(&app.db, id).await?.len();
        let read = signature::marks_of(&held.read(), given);
        let next = prepared(app, by, pack, attempt, &held, act).await?;
        // with connections of its own: whoever waits for the lock holds those of everybody else
        let _turn = app.signers.acquire().await.map_err(|e| crate::problem::internal(&e))?;
        let mut tx = app.signing.begin().await?;
        locked(&mut tx, id).await?;
        if signature::marks(&mut *tx, id, until_us).await? == read {
            return store(tx, app, id, (signature_id, by.account), next).await;
        }
    }
    Err(Problem::Conflict(
        "Nothing was signed: somebody kept adding to this test while it was being sealed. Look at what was added, then sign.".to_owned(),
    ))
}

/// How often it is tried, from the second time on with a pause for everybody else.
const TRIES: usize = 3;

/// From here until the commit nothing is added to the attempt.
async fn locked(tx: &mut MySqlTransaction<'_>, id: &str) -> Result<(), Problem> {
    sqlx::query_scalar!("SELECT number FROM attempt WHERE id = ? FOR UPDATE", id).fetch_one(&mut **tx).await?;
    Ok(())
}

async fn store(
    mut tx: MySqlTransaction<'_>,
    app: &App,
    id: &str,
    (signature_id, account): (&str, &str),
    next: Next,
) -> Result<Vec<SignedStatement>, Problem> {
    if next.signatures.len() == 1 {
        signature::freeze(&mut tx, id, &next.content.written).await?;
    }
    let given = next.signatures.last().ok_or_else(|| crate::problem::internal(&"no signature"))?;
    signature::insert(&mut tx, signature_id, id, account, given).await?;
    signature::keep_file(&mut tx, id, next.signatures.len(), &next.file, &app.key.public().to_hex()).await?;
    tx.commit().await?;
    Ok(next.signatures)
}

/// A signature that is ready to be stored, with the file that it seals.
struct Next {
    content: ContentRow,
    signatures: Vec<SignedStatement>,
    file: Vec<u8>,
}

/// Makes the next signature and its sealed file; holds no connection while it judges.
async fn prepared(app: &App, by: &By<'_>, pack: &PackRow, attempt: &AttemptRow, held: &Arc<Held>, act: Act) -> Result<Next, Problem> {
    let id = &attempt.id;
    let earlier = signature::of_attempt(&app.db, id).await?;
    let content = match signature::content(&app.db, id).await? {
        Some(row) => {
            follows_from_its_rows(app, attempt, held, &row).await?;
            row
        }
        None => {
            let made = parts(app, pack, attempt, held).await?;
            let write = move || Ok::<_, Problem>(ContentRow { written: Content::new(&made)?, parts: made });
            tokio::task::spawn_blocking(write).await.map_err(|e| crate::problem::internal(&e))??
        }
    };
    let done: Vec<(Act, String)> = earlier.iter().map(|s| (s.act, s.person.clone())).collect();
    let p = &content.parts;
    let signer = Signer { person: by.account, role: by.role, form: pack.form, done: &done, hand: by.hand.as_ref().map(|h| h.way) };
    if let Some(sentence) = held.read().sign_objection(
        &After { attempt: attempt.number, looks: &p.looks, restore: &p.restore },
        Some(&p.judgement),
        act,
        &signer,
    ) {
        return Err(Problem::Conflict(sentence));
    }
    let stated = act.statement(pack.form, p.plan.signers, p.judgement.outcome());
    let statement = SignedStatement {
        act,
        person: by.hand.as_ref().map_or(by.account, |h| &h.name).to_owned(),
        role: by.role,
        statement: format!("{stated}{}", by.hand.as_ref().map_or("", |h| h.way.proviso())),
        by_hand: by.hand.clone(),
        signed_at: app.clock.now().to_string(),
        content_sha256: content.written.sha256()?,
        previous_sha256: String::new(),
        ed25519: String::new(),
    }
    .sign(earlier.last(), &app.key)?;
    let signatures: Vec<SignedStatement> = earlier.into_iter().chain([statement]).collect();
    let file = sealed(app, &content, signatures.clone()).await?;
    Ok(Next { content, signatures, file })
}
