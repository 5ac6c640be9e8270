//! Table `pack`.

use super::history::{self, Changed, Kind};
use super::project::{self, Project};
use crate::clock::instant;
use crate::problem::Problem;
use formats::parts::GridRow;
use moment::Instant;
use pack::plan::Plan;
use pack::signing::Form;
use serde::Serialize;
use sqlx::MySqlPool;
use terms::Term;

/// A pack as stored.
#[derive(Debug, Clone)]
pub struct PackRow {
    /// Id.
    pub id: String,
    /// Its project.
    pub project: Project,
    /// Number.
    pub number: String,
    /// Title.
    pub title: String,
    /// Size.
    pub form: Form,
    /// Plan.
    pub plan: Plan,
    /// Rows of the grid as typed.
    pub rows: Vec<GridRow>,
    /// Version.
    pub version: u32,
    /// Who made it.
    pub created_by: String,
    /// Who changed it last.
    pub updated_by: String,
    /// When.
    pub updated_at: Instant,
}

struct Raw {
    id: String,
    number: String,
    title: String,
    form: String,
    plan: String,
    cells: String,
    version: u32,
    created_by: String,
    updated_by: String,
    updated_at: time::OffsetDateTime,
    project_id: String,
    project_name: String,
    zone: String,
    units: String,
    pack_prefix: String,
    quick_prefix: String,
    project_version: u32,
}

/// Rows of the first format have no ids: theirs are made of the pack's and their place, the same each time until they are saved.
fn with_ids(mut rows: Vec<GridRow>, pack: &str) -> Vec<GridRow> {
    for (i, row) in rows.iter_mut().enumerate().filter(|(_, r)| r.id.is_empty()) {
        row.id = format!("{pack}-{i}");
    }
    rows
}

impl Raw {
    fn read(self) -> Result<PackRow, Problem> {
        Ok(PackRow {
            form: Form::from_key(&self.form).ok_or_else(|| crate::problem::internal(&"unknown form"))?,
            plan: serde_json::from_str(&self.plan)?,
            rows: with_ids(serde_json::from_str(&self.cells)?, &self.id),
            id: self.id,
            number: self.number,
            title: self.title,
            version: self.version,
            created_by: self.created_by,
            updated_by: self.updated_by,
            updated_at: instant(self.updated_at),
            project: project::Raw {
                id: self.project_id,
                name: self.project_name,
                zone: self.zone,
                units: self.units,
                pack_prefix: self.pack_prefix,
                quick_prefix: self.quick_prefix,
                version: self.project_version,
            }
            .read(),
        })
    }
}

/// One pack.
///
/// # Errors
/// When there is none.
pub async fn get(db: &MySqlPool, id: &str) -> Result<PackRow, Problem> {
    let raw = sqlx::query_as!(
        Raw,
        "SELECT k.id, k.number, k.title, k.form, k.plan, k.cells, k.version, k.created_by, k.updated_by, k.updated_at,
                k.project_id, p.name AS project_name, COALESCE(p.zone, s.zone) AS `zone!`, COALESCE(p.units, s.units) AS `units!`,
                p.pack_prefix, p.quick_prefix, p.version AS project_version
           FROM pack k JOIN project p ON p.id = k.project_id JOIN site s ON s.id = 1 WHERE k.id = ?",
        id
    )
    .fetch_optional(db)
    .await?;
    raw.ok_or(Problem::NotFound("pack"))?.read()
}

/// What is known of a pack whether or not the rest of it can be read.
///
/// # Errors
/// When there is none.
pub async fn known(db: &MySqlPool, id: &str) -> Result<Unreadable, Problem> {
    sqlx::query_as!(Unreadable, "SELECT id, number, title, created_by, project_id AS project FROM pack WHERE id = ?", id)
        .fetch_optional(db)
        .await?
        .ok_or(Problem::NotFound("pack"))
}

/// Ids of all packs.
///
/// # Errors
/// When the database fails.
pub async fn ids(db: &MySqlPool) -> Result<Vec<String>, Problem> {
    Ok(sqlx::query_scalar!("SELECT id FROM pack ORDER BY id").fetch_all(db).await?)
}

/// Numbers of a project that begin so.
///
/// # Errors
/// When the database fails.
pub async fn numbers(db: &MySqlPool, project: &str, begins: &str) -> Result<Vec<String>, Problem> {
    Ok(sqlx::query_scalar!("SELECT number FROM pack WHERE project_id = ? AND LEFT(number, CHAR_LENGTH(?)) = ?", project, begins, begins)
        .fetch_all(db)
        .await?)
}

/// What is known of a pack that cannot be read.
#[derive(Debug, Clone)]
pub struct Unreadable {
    /// Id.
    pub id: String,
    /// Number.
    pub number: String,
    /// Title.
    pub title: String,
    /// Who made it.
    pub created_by: String,
    /// Id of its project.
    pub project: String,
}

/// Every pack, the newest number last; one that cannot be read takes no other with it.
///
/// # Errors
/// When the database fails.
pub async fn all(db: &MySqlPool) -> Result<Vec<Result<PackRow, Unreadable>>, Problem> {
    let raw = sqlx::query_as!(
        Raw,
        "SELECT k.id, k.number, k.title, k.form, k.plan, k.cells, k.version, k.created_by, k.updated_by, k.updated_at,
                k.project_id, p.name AS project_name, COALESCE(p.zone, s.zone) AS `zone!`, COALESCE(p.units, s.units) AS `units!`,
                p.pack_prefix, p.quick_prefix, p.version AS project_version
           FROM pack k JOIN project p ON p.id = k.project_id JOIN site s ON s.id = 1 ORDER BY k.number"
    )
    .fetch_all(db)
    .await?;
    let read = |raw: Raw| {
        let known = Unreadable {
            id: raw.id.clone(),
            number: raw.number.clone(),
            title: raw.title.clone(),
            created_by: raw.created_by.clone(),
            project: raw.project_id.clone(),
        };
        raw.read().map_err(|_| known)
    };
    Ok(raw.into_iter().map(read).collect())
}

/// A pack to be made.
#[derive(Debug, Clone, Copy)]
pub struct NewPackRow<'a> {
    /// Id made by the client.
    pub id: &'a str,
    /// Its project.
    pub project: &'a Project,
    /// Number; empty for the next free one.
    pub number: &'a str,
    /// Title.
    pub title: &'a str,
    /// Size.
    pub form: Form,
    /// Plan.
    pub plan: &'a Plan,
    /// Rows of the grid.
    pub rows: &'a [GridRow],
    /// Who makes it.
    pub by: &'a str,
}

/// Makes a pack; the same id again changes nothing. An empty number is given the next free one.
///
/// # Errors
/// When the number is taken.
pub async fn insert(db: &MySqlPool, new: &NewPackRow<'_>) -> Result<(), Problem> {
    let NewPackRow { id, project, number, title, form, by, .. } = *new;
    let (plan, cells) = (serde_json::to_string(new.plan)?, serde_json::to_string(new.rows)?);
    let there = sqlx::query_scalar!("SELECT created_by FROM pack WHERE id = ?", id).fetch_optional(db).await?;
    match there {
        Some(maker) if maker == by => return Ok(()),
        Some(_) => return Err(Problem::Conflict("This id is another pack's: send the new pack under a new id.".to_owned())),
        None => {}
    }
    let prefix = project.prefix(form);
    let mut free =
        1 + sqlx::query_scalar!("SELECT COUNT(*) FROM pack WHERE project_id = ? AND number LIKE CONCAT(?, '-%')", project.id, prefix)
            .fetch_one(db)
            .await?;
    loop {
        let given = if number.is_empty() { format!("{prefix}-{free:03}") } else { number.to_owned() };
        let done = sqlx::query!(
            "INSERT INTO pack (id, project_id, number, title, form, plan, cells, created_by, updated_by) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            id,
            project.id,
            given,
            title,
            form.key(),
            plan,
            cells,
            by,
            by
        )
        .execute(db)
        .await;
        match done {
            // somebody took the number that was free: the next one
            Err(e) if crate::problem::duplicate(&e) && number.is_empty() => free += 1,
            Err(e) if crate::problem::duplicate(&e) => {
                return Err(Problem::invalid("number", format!("the number {number} is taken in this project: choose another")));
            }
            other => return Ok(other.map(|_| ())?),
        }
    }
}

/// What the history keeps of a pack: its plan as it is, its rows as they were typed.
#[derive(Serialize)]
struct Kept<'a> {
    title: &'a str,
    plan: &'a Plan,
    rows: &'a [GridRow],
}

impl<'a> Kept<'a> {
    fn of(row: &'a PackRow) -> Self {
        Self { title: &row.title, plan: &row.plan, rows: &row.rows }
    }
}

/// Changes a pack when it is still at `version`.
///
/// # Errors
/// When somebody else changed it meanwhile.
pub async fn update(db: &MySqlPool, row: &PackRow, version: u32, by: &str) -> Result<u32, Problem> {
    let (plan, cells) = (serde_json::to_string(&row.plan)?, serde_json::to_string(&row.rows)?);
    let before = get(db, &row.id).await?;
    let mut tx = db.begin().await?;
    let done = sqlx::query!(
        "UPDATE pack SET title = ?, plan = ?, cells = ?, version = version + 1, updated_by = ?, updated_at = CURRENT_TIMESTAMP(6) WHERE id = ? AND version = ?",
        row.title,
        plan,
        cells,
        by,
        row.id,
        version
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 1 {
        let of = Changed { kind: Kind::Plan, subject: &row.id, item: &row.number, person: by };
        history::note(&mut *tx, of, Some(&Kept::of(&before)), &Kept::of(row)).await?;
        tx.commit().await?;
        return Ok(version + 1);
    }
    drop(tx);
    let now = get(db, &row.id).await?;
    Err(Problem::Changed(format!(
        "{} changed this pack after you opened it (version {} is now {}). Nothing of yours was stored, and what you typed is still here: look at the newer version, then save again.",
        now.updated_by, version, now.version
    )))
}
