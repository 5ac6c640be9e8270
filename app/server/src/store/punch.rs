//! Table `punch`.

use super::history::{self, Changed, Kind};
use crate::clock::instant;
use crate::problem::Problem;
use moment::Instant;
use pack::registers::{Punch, PunchCategory};
use serde::{Deserialize, Serialize};
use sqlx::MySqlPool;
use terms::Term;

/// A punch item with its id.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PunchRow {
    /// Id.
    pub id: String,
    /// The item.
    #[serde(flatten)]
    pub punch: Punch,
    /// Who cleared it.
    pub cleared_by: Option<String>,
    /// When.
    #[serde(skip)]
    pub cleared_at: Option<Instant>,
}

/// Items of a pack, by number.
///
/// # Errors
/// When the database fails.
pub async fn of_pack(db: &MySqlPool, pack: &str) -> Result<Vec<PunchRow>, Problem> {
    let rows =
        sqlx::query!("SELECT id, number, category, text, owner, cleared_by, cleared_at FROM punch WHERE pack_id = ? ORDER BY number", pack)
            .fetch_all(db)
            .await?;
    rows.into_iter()
        .map(|r| {
            let category = PunchCategory::from_key(&r.category).ok_or_else(|| crate::problem::internal(&"unknown category"))?;
            Ok(PunchRow {
                id: r.id,
                punch: Punch { number: r.number, category, text: r.text, owner: r.owner, cleared: r.cleared_by.is_some() },
                cleared_by: r.cleared_by,
                cleared_at: r.cleared_at.map(instant),
            })
        })
        .collect()
}

/// Adds an item, or changes its clearing; the item's pack never changes.
///
/// # Errors
/// When the number is taken, or the id is another pack's.
pub async fn put(db: &MySqlPool, pack: &str, id: &str, punch: &Punch, by: &str) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let owner = sqlx::query!("SELECT pack_id, number, category, text, owner, cleared_by FROM punch WHERE id = ? FOR UPDATE", id)
        .fetch_optional(&mut *tx)
        .await?;
    let before = owner.as_ref().and_then(|r| {
        let category = PunchCategory::from_key(&r.category)?;
        Some(Punch { number: r.number.clone(), category, text: r.text.clone(), owner: r.owner.clone(), cleared: r.cleared_by.is_some() })
    });
    let done = match owner {
        Some(row) if row.pack_id != pack => return Err(Problem::NotFound("punch item")),
        Some(row) => {
            let cleared_by = punch.cleared.then(|| row.cleared_by.unwrap_or_else(|| by.to_owned()));
            sqlx::query!(
                "UPDATE punch SET number = ?, category = ?, text = ?, owner = ?, cleared_at = IF(? IS NULL, NULL, COALESCE(cleared_at, CURRENT_TIMESTAMP(6))), cleared_by = ? WHERE id = ?",
                punch.number, punch.category.key(), punch.text, punch.owner, cleared_by, cleared_by, id
            )
            .execute(&mut *tx)
            .await
        }
        None => {
            let cleared_by = punch.cleared.then_some(by);
            sqlx::query!(
                "INSERT INTO punch (id, pack_id, number, category, text, owner, cleared_by, cleared_at) VALUES (?, ?, ?, ?, ?, ?, ?, IF(? IS NULL, NULL, CURRENT_TIMESTAMP(6)))",
                id, pack, punch.number, punch.category.key(), punch.text, punch.owner, cleared_by, cleared_by
            )
            .execute(&mut *tx)
            .await
        }
    };
    match done {
        Err(e) if crate::problem::duplicate(&e) => {
            Err(Problem::invalid("number", format!("punch {} is on this pack already: give it another number", punch.number)))
        }
        other => {
            other?;
            history::note(&mut *tx, Changed { kind: Kind::Punch, subject: pack, item: &punch.number, person: by }, before.as_ref(), punch)
                .await?;
            Ok(tx.commit().await?)
        }
    }
}
