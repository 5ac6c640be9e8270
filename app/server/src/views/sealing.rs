//! Before anything is sealed or handed out: is what the database holds what its rows say, and what was signed?

use crate::kept::Held;
use crate::problem::{Problem, internal};
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::signature::{self, ContentRow};
use crate::views::freeze;
use moment::Zone;
use record::sealed::{FORMAT, SignedStatement};
use record::verify::{Verification, verify, verify_again};
use serde_json::Value;
use std::sync::Arc;

/// Figures that differ by less than this share were rounded on another machine.
const ROUNDING: f64 = 1e-6;

/// True when all that was written is so still; what a later version writes besides does not count.
fn holds(written: &Value, now: &Value) -> bool {
    match (written, now) {
        (Value::Number(a), Value::Number(b)) => match (a.as_f64(), b.as_f64()) {
            (Some(a), Some(b)) => (a - b).abs() <= ROUNDING * a.abs().max(b.abs()),
            _ => a == b,
        },
        (Value::Array(a), Value::Array(b)) => a.len() == b.len() && a.iter().zip(b).all(|(a, b)| holds(a, b)),
        (Value::Object(a), Value::Object(b)) => a.iter().all(|(k, v)| b.get(k).map_or(v.is_null(), |w| holds(v, w))),
        _ => written == now,
    }
}

fn planted(what: &str) -> Problem {
    tracing::error!(what, "the content of a record is not what its rows say");
    Problem::Conflict(format!(
        "What the database holds of this record is not what its rows say ({what}): it is neither signed nor handed out. Somebody wrote into the \
         database beside this program, or it is damaged: restore it from its backup, or rely on the sealed file that was handed out."
    ))
}

/// Holds the content that was frozen against the rows that it was made from.
///
/// # Errors
/// When it is not what they say.
pub async fn follows_from_its_rows(app: &App, attempt: &AttemptRow, held: &Arc<Held>, content: &ContentRow) -> Result<(), Problem> {
    let now =
        freeze::rows(app, attempt, held, Zone::named(&content.parts.subject.zone).unwrap_or_else(Zone::utc), content.parts.rows.is_some())
            .await?;
    let content = content.clone();
    tokio::task::spawn_blocking(move || follow(&content, now)).await.map_err(|e| internal(&e))?
}

fn follow(content: &ContentRow, now: Vec<(&'static str, Value)>) -> Result<(), Problem> {
    let written = serde_json::to_value(&content.parts)?;
    let same_rules = content.parts.judgement.rules_version == judge::judgement::RULES_VERSION && content.written.format() == FORMAT;
    for (part, value) in now {
        // the rows themselves are in a record since the fourth format
        if part == "rows" && written[part].is_null() {
            continue;
        }
        // how rows are read for the judge may differ from version to version of the rules, and did before the third format
        if (part != "readings" || same_rules) && !holds_of(&written[part], &value) {
            return Err(planted(part));
        }
    }
    Ok(())
}

/// The same of a part of which the rows say only some members.
fn holds_of(written: &Value, now: &Value) -> bool {
    match (written, now) {
        (Value::Object(w), Value::Object(n)) => n.iter().all(|(name, value)| w.get(name).is_none_or(|w| holds(w, value))),
        _ => holds(written, now),
    }
}

/// Makes the sealed file of so many signatures and proves it by the same check that any reader makes.
///
/// # Errors
/// When it does not prove itself.
pub async fn sealed(app: &App, content: &ContentRow, signatures: Vec<SignedStatement>) -> Result<Vec<u8>, Problem> {
    let (key, written) = (Arc::clone(&app.key), content.written.clone());
    let seal = move || -> Result<_, Problem> {
        let (_, file) = written.seal(&signatures, &key)?;
        Ok((verify(&file, Some(&key.public())), file))
    };
    match tokio::task::spawn_blocking(seal).await.map_err(|e| internal(&e))?? {
        (Verification::Genuine { .. }, file) => Ok(file),
        (Verification::Altered { sentence, .. } | Verification::Unreadable { sentence } | Verification::Unsigned { sentence }, _) => {
            tracing::error!(sentence, "a record does not prove itself");
            Err(Problem::Conflict(format!(
                "This record does not prove itself, so it is neither signed nor handed out: {sentence} Restore the database from its backup, or rely on the \
                 sealed file that was handed out."
            )))
        }
    }
}

/// The sealed file with the signatures given so far: as it was kept when the last was given, or of an earlier version made and proven now.
///
/// # Errors
/// When nobody has signed, or what is stored does not prove itself.
pub async fn delivered(app: &App, attempt: &AttemptRow) -> Result<(ContentRow, Vec<SignedStatement>, Vec<u8>), Problem> {
    let unsigned = || Problem::Conflict("Nobody has signed this attempt: there is nothing to seal yet.".to_owned());
    let id = &attempt.id;
    let content = signature::content(&app.db, id).await?.ok_or_else(unsigned)?;
    let signatures = signature::of_attempt(&app.db, id).await?;
    if signatures.is_empty() {
        return Err(planted("nobody signed it"));
    }
    let held = crate::runs::from_nothing(app, attempt).await?;
    follows_from_its_rows(app, attempt, &held, &content).await?;
    let file = match signature::kept_file(&app.db, id, signatures.len()).await? {
        Some(file) => {
            let (content, signatures) = (content.clone(), signatures.clone());
            tokio::task::spawn_blocking(move || kept(&content, &signatures, file)).await.map_err(|e| internal(&e))??
        }
        None => sealed(app, &content, signatures.clone()).await?,
    };
    Ok((content, signatures, file))
}

/// A file that was kept, when it is of this content and these signatures.
fn kept(content: &ContentRow, signatures: &[SignedStatement], file: Vec<u8>) -> Result<Vec<u8>, Problem> {
    let record: record::sealed::SealedRecord = serde_json::from_slice(&file)?;
    // its hashes and signatures only: what it was derived and judged from was computed again when it was sealed
    let whole = matches!(verify_again(&file, None, |_| false), Verification::Genuine { .. });
    if !whole || record.seal.content_sha256 != content.written.sha256()? || record.signatures != signatures {
        return Err(planted("the sealed file"));
    }
    Ok(file)
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn what_was_written_must_be_so_still_and_what_is_new_does_not_count() {
        let written = json!({ "a": 1.0, "b": [{ "c": "x" }], "none": null });
        assert!(holds(&written, &json!({ "a": 1.000_000_000_1, "b": [{ "c": "x", "later": 2 }], "new": true })));
        for other in [json!({ "a": 1.1, "b": [{ "c": "x" }] }), json!({ "a": 1.0, "b": [] }), json!({ "a": 1.0, "b": [{ "c": "y" }] })] {
            assert!(!holds(&written, &other), "{other}");
        }
    }
}
