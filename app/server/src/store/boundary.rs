//! Table `boundary_item`.

use super::history::{self, Changed, Kind};
use crate::clock::instant;
use crate::problem::Problem;
use moment::Instant;
use pack::registers::{BoundaryItem, BoundaryKind};
use serde::{Deserialize, Serialize};
use sqlx::MySqlPool;
use terms::Term;

/// A boundary item with its id.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BoundaryRow {
    /// Id.
    pub id: String,
    /// The item.
    #[serde(flatten)]
    pub item: BoundaryItem,
    /// Who set it.
    pub set_by: Option<String>,
    /// Who put it back.
    pub back_by: Option<String>,
    /// When it was set.
    #[serde(skip)]
    pub set_at: Option<Instant>,
    /// When it was put back.
    #[serde(skip)]
    pub back_at: Option<Instant>,
}

/// Items of a pack, by tag.
///
/// # Errors
/// When the database fails.
pub async fn of_pack(db: &MySqlPool, pack: &str) -> Result<Vec<BoundaryRow>, Problem> {
    let rows = sqlx::query!(
        "SELECT id, tag, kind, place, set_by, back_by, set_at, back_at FROM boundary_item WHERE pack_id = ? ORDER BY tag",
        pack
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            let kind = BoundaryKind::from_key(&r.kind).ok_or_else(|| crate::problem::internal(&"unknown kind"))?;
            let item = BoundaryItem { tag: r.tag, kind, place: r.place, set_for_test: r.set_by.is_some(), put_back: r.back_by.is_some() };
            Ok(BoundaryRow {
                id: r.id,
                item,
                set_by: r.set_by,
                back_by: r.back_by,
                set_at: r.set_at.map(instant),
                back_at: r.back_at.map(instant),
            })
        })
        .collect()
}

/// Adds an item, or books that it was set or put back.
///
/// # Errors
/// When the tag is taken, or the id is another pack's.
pub async fn put(db: &MySqlPool, pack: &str, id: &str, item: &BoundaryItem, by: &str) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let found = sqlx::query!("SELECT pack_id, tag, kind, place, set_by, back_by FROM boundary_item WHERE id = ? FOR UPDATE", id)
        .fetch_optional(&mut *tx)
        .await?;
    if found.as_ref().is_some_and(|r| r.pack_id != pack) {
        return Err(Problem::NotFound("boundary item"));
    }
    let (was_set, was_back) = found.as_ref().map_or((None, None), |r| (r.set_by.clone(), r.back_by.clone()));
    let set_by = item.set_for_test.then(|| was_set.unwrap_or_else(|| by.to_owned()));
    let back_by = item.put_back.then(|| was_back.unwrap_or_else(|| by.to_owned()));
    let done = if found.is_some() {
        sqlx::query!(
            "UPDATE boundary_item SET tag = ?, kind = ?, place = ?,
               set_at = IF(? IS NULL, NULL, COALESCE(set_at, CURRENT_TIMESTAMP(6))), set_by = ?,
               back_at = IF(? IS NULL, NULL, COALESCE(back_at, CURRENT_TIMESTAMP(6))), back_by = ? WHERE id = ?",
            item.tag,
            item.kind.key(),
            item.place,
            set_by,
            set_by,
            back_by,
            back_by,
            id
        )
        .execute(&mut *tx)
        .await
    } else {
        sqlx::query!(
            "INSERT INTO boundary_item (id, pack_id, tag, kind, place, set_by, set_at, back_by, back_at)
             VALUES (?, ?, ?, ?, ?, ?, IF(? IS NULL, NULL, CURRENT_TIMESTAMP(6)), ?, IF(? IS NULL, NULL, CURRENT_TIMESTAMP(6)))",
            id,
            pack,
            item.tag,
            item.kind.key(),
            item.place,
            set_by,
            set_by,
            back_by,
            back_by
        )
        .execute(&mut *tx)
        .await
    };
    match done {
        Err(e) if crate::problem::duplicate(&e) => {
            Err(Problem::invalid("tag", format!("{} is on this pack already: give it another tag", item.tag)))
        }
        other => {
            other?;
            let before = found.and_then(|r| {
                let (kind, set, back) = (BoundaryKind::from_key(&r.kind)?, r.set_by.is_some(), r.back_by.is_some());
                Some(BoundaryItem { tag: r.tag, kind, place: r.place, set_for_test: set, put_back: back })
            });
            history::note(&mut *tx, Changed { kind: Kind::Boundary, subject: pack, item: &item.tag, person: by }, before.as_ref(), item)
                .await?;
            Ok(tx.commit().await?)
        }
    }
}
