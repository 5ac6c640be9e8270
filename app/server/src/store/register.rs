//! Table `register_item`: the items of every register of a pack.

use super::history::{self, Changed, Kind};
use crate::problem::{Problem, duplicate, internal};
use moment::Instant;
use pack::registers::{Item, Read, Register};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use sqlx::{MySqlConnection, MySqlPool};
use std::collections::BTreeMap;

/// Who ticked something, and when.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Mark {
    /// By whom.
    pub by: String,
    /// When, µs since 1970, UTC.
    pub at_us: i64,
}

/// That an item is removed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Removed {
    /// By whom.
    pub by: String,
    /// When.
    pub at: Instant,
    /// Why.
    pub why: String,
}

/// An item as it is stored.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct ItemRow {
    /// Id.
    pub id: String,
    /// Version; whoever changes the item names it.
    pub version: u32,
    /// The item, with the fields of its register.
    #[schema(value_type = Object)]
    pub item: Value,
    /// Who ticked which field.
    pub marks: BTreeMap<String, Mark>,
    /// Absent while it stands.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub removed: Option<Removed>,
    /// Register that it is of.
    #[serde(skip)]
    pub register: String,
}

/// An item that stands, as its register has it.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Kept<T> {
    /// Id.
    pub id: String,
    /// Version; whoever changes the item names it.
    pub version: u32,
    /// The item.
    #[serde(flatten)]
    pub item: T,
    /// Who ticked which field.
    pub marks: BTreeMap<String, Mark>,
}

/// Every item of a pack that stands.
#[derive(Debug, Clone, Default)]
pub struct Registers(Vec<ItemRow>);

impl Registers {
    /// The items of one register, by what they are called.
    ///
    /// # Errors
    /// When one is stored that its register does not know.
    pub fn kept<T: Item>(&self) -> Result<Vec<Kept<T>>, Problem> {
        self.0
            .iter()
            .filter(|r| r.register == T::REGISTER.key)
            .map(|r| {
                let item = serde_json::from_value(r.item.clone()).map_err(|e| internal(&e))?;
                Ok(Kept { id: r.id.clone(), version: r.version, item, marks: r.marks.clone() })
            })
            .collect()
    }

    /// The same without who and when.
    ///
    /// # Errors
    /// When one is stored that its register does not know.
    pub fn items<T: Item>(&self) -> Result<Vec<T>, Problem> {
        Ok(self.kept::<T>()?.into_iter().map(|k| k.item).collect())
    }
}

/// Every item of a pack that stands, of all registers.
///
/// # Errors
/// When the database fails.
pub async fn of_pack(db: &MySqlPool, pack: &str) -> Result<Registers, Problem> {
    let rows = sqlx::query!(
        "SELECT id, register, version, body, marks FROM register_item WHERE pack_id = ? AND stands = 1 ORDER BY register, tag",
        pack
    )
    .fetch_all(db)
    .await?;
    let row = |id, register, version, body: String, marks: String| -> Result<ItemRow, Problem> {
        Ok(ItemRow { id, register, version, item: serde_json::from_str(&body)?, marks: serde_json::from_str(&marks)?, removed: None })
    };
    Ok(Registers(rows.into_iter().map(|r| row(r.id, r.register, r.version, r.body, r.marks)).collect::<Result<_, _>>()?))
}

/// Every item of one register, the removed ones too, by what they are called.
///
/// # Errors
/// When the database fails.
pub async fn all_of(db: &MySqlPool, pack: &str, register: &Register) -> Result<Vec<ItemRow>, Problem> {
    let rows = sqlx::query!(
        "SELECT id, version, body, marks, removed_by, removed_at, removed_why FROM register_item WHERE pack_id = ? AND register = ? ORDER BY tag, id",
        pack,
        register.key
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            let removed = r.removed_by.zip(r.removed_at).zip(r.removed_why);
            Ok(ItemRow {
                id: r.id,
                version: r.version,
                item: serde_json::from_str(&r.body)?,
                marks: serde_json::from_str(&r.marks)?,
                removed: removed.map(|((by, at), why)| Removed { by, at: crate::clock::instant(at), why }),
                register: register.key.to_owned(),
            })
        })
        .collect()
}

/// A change of one item.
#[derive(Debug, Clone, Copy)]
pub struct Change<'a> {
    /// Pack.
    pub pack: &'a str,
    /// Register.
    pub register: &'static Register,
    /// Id of the item.
    pub id: &'a str,
    /// By whom.
    pub by: &'a str,
    /// When.
    pub at: Instant,
    /// The version that is changed; none for a new item.
    pub version: Option<u32>,
    /// Why, where it is said.
    pub why: Option<&'a str>,
}

impl Change<'_> {
    fn noted<'a>(&'a self, tag: &'a str) -> Changed<'a> {
        Changed { kind: Kind::Register(self.register), subject: self.pack, item: tag, person: self.by, why: self.why }
    }

    /// Refuses a version that is not the one that stands.
    fn keeps_up(&self, tag: &str, now: u32) -> Result<(), Problem> {
        match self.version {
            None => Err(Problem::VersionNeeded),
            Some(v) if v == now => Ok(()),
            Some(v) => Err(Problem::Changed(format!(
                "Somebody changed {} {tag} after you saw it (version {v} is now {now}). Nothing of yours was stored: look at it as it is now, then do it again.",
                self.register.one
            ))),
        }
    }
}

/// Adds an item or changes it; sent twice it is done once. Returns the version that then stands.
///
/// # Errors
/// When another is called the same, the id is another pack's, the item is removed, or somebody changed it meanwhile.
pub async fn put(db: &MySqlPool, change: &Change<'_>, read: &Read) -> Result<u32, Problem> {
    let mut tx = db.begin().await?;
    let version = put_in(&mut tx, change, read).await?;
    tx.commit().await?;
    Ok(version)
}

/// The same as a part of more that is stored together or not at all.
///
/// # Errors
/// As of [`put`].
pub async fn put_in(tx: &mut MySqlConnection, change: &Change<'_>, read: &Read) -> Result<u32, Problem> {
    let there =
        sqlx::query!("SELECT pack_id, register, version, body, marks, removed_at FROM register_item WHERE id = ? FOR UPDATE", change.id)
            .fetch_optional(&mut *tx)
            .await?;
    if there.as_ref().is_some_and(|r| r.pack_id != change.pack || r.register != change.register.key) {
        return Err(Problem::NotFound(change.register.one));
    }
    let before: Option<Value> = there.as_ref().map(|r| serde_json::from_str(&r.body)).transpose()?;
    if let (Some(r), Some(before)) = (&there, &before) {
        if r.removed_at.is_some() {
            return Err(Problem::Conflict(format!(
                "This {} was removed and stays so, with its reason: add a new one.",
                change.register.one
            )));
        }
        if *before == read.body {
            return Ok(r.version);
        }
        change.keeps_up(&read.tag, r.version)?;
    }
    let mut was: BTreeMap<String, Mark> = there.as_ref().map(|r| serde_json::from_str(&r.marks)).transpose()?.unwrap_or_default();
    // whoever ticked it first did it, for as long as the tick stands
    let new = || Mark { by: change.by.to_owned(), at_us: change.at.us() };
    // another finding is another act
    if before.as_ref().is_some_and(|b| change.register.marks_anew.iter().any(|f| b.get(f) != read.body.get(f))) {
        was.clear();
    }
    let marks: BTreeMap<&str, Mark> = change.register.ticked(&read.body).map(|f| (f, was.remove(f).unwrap_or_else(new))).collect();
    let (body, marks, version) =
        (serde_json::to_string(&read.body)?, serde_json::to_string(&marks)?, there.as_ref().map_or(1, |r| r.version + 1));
    let done = if there.is_some() {
        sqlx::query!(
            "UPDATE register_item SET tag = ?, body = ?, marks = ?, version = ? WHERE id = ?",
            read.tag,
            body,
            marks,
            version,
            change.id
        )
        .execute(&mut *tx)
        .await
    } else {
        sqlx::query!(
            "INSERT INTO register_item (id, pack_id, register, tag, body, marks) VALUES (?, ?, ?, ?, ?, ?)",
            change.id,
            change.pack,
            change.register.key,
            read.tag,
            body,
            marks
        )
        .execute(&mut *tx)
        .await
    };
    match done {
        Err(e) if duplicate(&e) => {
            let field = change.register.columns.first().map_or("tag", |c| c.field);
            return Err(Problem::invalid(
                field,
                format!("a {} of this pack is called {} already: call it something else", change.register.one, read.tag),
            ));
        }
        other => other?,
    };
    history::note(&mut *tx, change.noted(&read.tag), before.as_ref(), &read.body).await?;
    Ok(version)
}

/// Takes an item off its register; it stays readable, with the reason.
///
/// # Errors
/// When there is none, or somebody changed it meanwhile.
pub async fn remove(db: &MySqlPool, change: &Change<'_>, why: &str) -> Result<u32, Problem> {
    let mut tx = db.begin().await?;
    let there =
        sqlx::query!("SELECT pack_id, register, tag, version, body, removed_at FROM register_item WHERE id = ? FOR UPDATE", change.id)
            .fetch_optional(&mut *tx)
            .await?
            .filter(|r| r.pack_id == change.pack && r.register == change.register.key)
            .ok_or(Problem::NotFound(change.register.one))?;
    if there.removed_at.is_some() {
        return Ok(there.version);
    }
    change.keeps_up(&there.tag, there.version)?;
    sqlx::query!(
        "UPDATE register_item SET stands = NULL, removed_by = ?, removed_at = ?, removed_why = ?, version = version + 1 WHERE id = ?",
        change.by,
        crate::clock::stored(change.at),
        why,
        change.id
    )
    .execute(&mut *tx)
    .await?;
    let before: Value = serde_json::from_str(&there.body)?;
    history::note(&mut *tx, Changed { why: Some(why), ..change.noted(&there.tag) }, Some(&before), &Value::Null).await?;
    tx.commit().await?;
    Ok(there.version + 1)
}
