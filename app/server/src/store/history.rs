//! Table `history`: who changed what, when, from what to what; only ever added to.

use crate::clock::instant;
use crate::problem::Problem;
use moment::Instant;
use serde::Serialize;
use sqlx::{MySqlExecutor, MySqlPool};
use tokio_stream::StreamExt;

/// What is changed.
#[derive(Debug, Clone, Copy)]
pub enum Kind {
    /// an instrument, its certificate, its keeper; its subject is the tag
    Instrument,
    /// an item of a register; its subject is the pack
    Register(&'static pack::registers::Register),
    /// the plan of a pack; its subject is the pack
    Plan,
    /// a pack put away, brought back or moved to another project; its subject is the pack
    Pack,
    /// name, zone, units or numbering of a project; its subject is the project
    Project,
    /// how a person has files with certain columns read; its subject is the pack of the file
    Mapping,
}

impl Kind {
    /// As stored.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Instrument => "instrument",
            Self::Register(register) => register.key,
            Self::Plan => "plan",
            Self::Pack => "pack",
            Self::Project => "project",
            Self::Mapping => "mapping",
        }
    }
}

/// One change.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Change {
    /// `instrument`, `plan`, `pack`, `project`, `mapping`, or the register, as `punch`.
    pub kind: String,
    /// Tag or number of what was changed.
    pub item: String,
    /// As it was; absent where it was new.
    #[schema(value_type = Option<Object>)]
    pub before: Option<serde_json::Value>,
    /// As it became.
    #[schema(value_type = Object)]
    pub after: serde_json::Value,
    /// By whom.
    pub person: String,
    /// When.
    pub at: Instant,
    /// Why, where it was said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
}

/// A change to note.
#[derive(Debug, Clone, Copy)]
pub struct Changed<'a> {
    /// Kind.
    pub kind: Kind,
    /// Tag of the instrument, or id of the pack.
    pub subject: &'a str,
    /// Tag or number of what was changed.
    pub item: &'a str,
    /// By whom.
    pub person: &'a str,
    /// Why, where it was said.
    pub why: Option<&'a str>,
}

/// Notes a change; one that changes nothing is not noted.
///
/// # Errors
/// When the database fails.
pub async fn note<T: Serialize>(db: impl MySqlExecutor<'_>, what: Changed<'_>, before: Option<&T>, after: &T) -> Result<(), Problem> {
    let (before, after) = (before.map(serde_json::to_string).transpose()?, serde_json::to_string(after)?);
    if before.as_ref() == Some(&after) {
        return Ok(());
    }
    sqlx::query!(
        "INSERT INTO history (id, kind, subject, item, before_, after_, person, why) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        uuid::Uuid::now_v7().to_string(),
        what.kind.key(),
        what.subject,
        what.item.chars().take(64).collect::<String>(),
        before,
        after,
        what.person,
        what.why
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Most changes of one answer, and most bytes of what they were and became: a plan with its rows may be a megabyte.
const MOST: usize = 500;
const MOST_BYTES: usize = 4 << 20;

/// Changes of a subject, the last first; as many as one answer holds.
///
/// # Errors
/// When the database fails.
pub async fn of(db: &MySqlPool, subject: &str, instrument: bool) -> Result<Vec<Change>, Problem> {
    let mut rows = sqlx::query!(
        "SELECT kind, item, before_, after_, person, at, why FROM history WHERE subject = ? AND (kind = 'instrument') = ? ORDER BY at DESC, id DESC",
        subject,
        instrument
    )
    .fetch(db);
    // what cannot be read is shown as it stands
    let read = |text: String| serde_json::from_str(&text).unwrap_or(serde_json::Value::String(text));
    let (mut all, mut bytes) = (Vec::new(), 0);
    while let Some(r) = rows.next().await.transpose()? {
        bytes += r.before_.as_ref().map_or(0, String::len) + r.after_.len();
        if all.len() == MOST || (bytes > MOST_BYTES && !all.is_empty()) {
            break;
        }
        all.push(Change {
            kind: r.kind,
            item: r.item,
            before: r.before_.map(read),
            after: read(r.after_),
            person: r.person,
            at: instant(r.at),
            why: r.why,
        });
    }
    Ok(all)
}
