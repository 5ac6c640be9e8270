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
    /// Who put it away, when and why; none while it is in the lists.
    pub away: Option<(String, Instant, String)>,
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
    away_at: Option<time::OffsetDateTime>,
    away_by: Option<String>,
    away_reason: Option<String>,
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
            away: self.away_by.zip(self.away_at).zip(self.away_reason).map(|((by, at), why)| (by, instant(at), why)),
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
        "SELECT k.id, k.number, k.title, k.form, k.plan, k.cells, k.version, k.created_by, k.updated_by, k.updated_at, k.away_at, k.away_by, k.away_reason,
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

/// Ids of all packs that are in the lists.
///
/// # Errors
/// When the database fails.
pub async fn ids(db: &MySqlPool) -> Result<Vec<String>, Problem> {
    Ok(sqlx::query_scalar!("SELECT id FROM pack WHERE away_at IS NULL ORDER BY id").fetch_all(db).await?)
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
        "SELECT k.id, k.number, k.title, k.form, k.plan, k.cells, k.version, k.created_by, k.updated_by, k.updated_at, k.away_at, k.away_by, k.away_reason,
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
        let of = Changed { kind: Kind::Plan, subject: &row.id, item: &row.number, person: by, why: None };
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

/// Whether anything was ever read on a test.
///
/// # Errors
/// When the database fails.
pub async fn holds_a_reading(db: &MySqlPool, id: &str) -> Result<bool, Problem> {
    let found = sqlx::query_scalar!(
        "SELECT EXISTS (SELECT 1 FROM attempt a WHERE a.pack_id = ? AND (EXISTS (SELECT 1 FROM reading r WHERE r.attempt_id = a.id)
            OR EXISTS (SELECT 1 FROM tick t WHERE t.attempt_id = a.id) OR EXISTS (SELECT 1 FROM recording f WHERE f.attempt_id = a.id)))",
        id
    )
    .fetch_one(db)
    .await?;
    Ok(found != 0)
}

/// Puts a test away, or brings it back; what it was is kept.
///
/// # Errors
/// When the database fails.
pub async fn put_away(db: &MySqlPool, row: &PackRow, reason: Option<&str>, by: &str) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let (who, why) = (reason.map(|_| by), reason);
    sqlx::query!(
        "UPDATE pack SET away_at = IF(? IS NULL, NULL, CURRENT_TIMESTAMP(6)), away_by = ?, away_reason = ? WHERE id = ?",
        why,
        who,
        why,
        row.id
    )
    .execute(&mut *tx)
    .await?;
    let away = |why: Option<&str>| serde_json::json!({ "put_away": why });
    let of = Changed { kind: Kind::Pack, subject: &row.id, item: &row.number, person: by, why: None };
    history::note(&mut *tx, of, Some(&away(row.away.as_ref().map(|a| a.2.as_str()))), &away(why)).await?;
    Ok(tx.commit().await?)
}

/// The number that a pack gets in another project: its own, or the next free one there.
///
/// # Errors
/// When the database fails.
pub async fn number_in(db: &MySqlPool, row: &PackRow, project: &Project) -> Result<String, Problem> {
    let taken =
        sqlx::query_scalar!("SELECT COUNT(*) FROM pack WHERE project_id = ? AND number = ?", project.id, row.number).fetch_one(db).await?;
    if taken == 0 {
        return Ok(row.number.clone());
    }
    let prefix = project.prefix(row.form);
    let all = numbers(db, &project.id, &format!("{prefix}-")).await?;
    Ok((1..).map(|i| format!("{prefix}-{i:03}")).find(|n| !all.contains(n)).unwrap_or_else(|| row.number.clone()))
}

/// Moves a pack to another project when it is still at `version`; what it was is kept.
///
/// # Errors
/// When somebody else changed it meanwhile, or the number was taken meanwhile.
pub async fn move_to(db: &MySqlPool, row: &PackRow, project: &Project, number: &str, by: &str) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let done = sqlx::query!(
        "UPDATE pack SET project_id = ?, number = ?, version = version + 1, updated_by = ?, updated_at = CURRENT_TIMESTAMP(6) WHERE id = ? AND version = ?",
        project.id,
        number,
        by,
        row.id,
        row.version
    )
    .execute(&mut *tx)
    .await;
    let changed = || {
        Problem::Changed("This pack, or the project, was changed a moment ago: look again at what would change, then move it.".to_owned())
    };
    match done {
        Err(e) if crate::problem::duplicate(&e) => return Err(changed()),
        Err(e) => return Err(e.into()),
        Ok(done) if done.rows_affected() == 0 => return Err(changed()),
        Ok(_) => {}
    }
    let place = |project: &Project, number: &str| serde_json::json!({ "project": project.name, "number": number });
    let of = Changed { kind: Kind::Pack, subject: &row.id, item: number, person: by, why: None };
    history::note(&mut *tx, of, Some(&place(&row.project, &row.number)), &place(project, number)).await?;
    Ok(tx.commit().await?)
}

/// Packs of a project that are neither under test nor signed nor put away, by number.
///
/// # Errors
/// When the database fails.
pub async fn open_of(db: &MySqlPool, project: &str, most: usize) -> Result<Vec<String>, Problem> {
    Ok(sqlx::query_scalar!(
        "SELECT pack_id FROM pack_line WHERE project_id = ? AND state_kind NOT IN ('running', 'signed') ORDER BY number_key, pack_id LIMIT ?",
        project,
        u32::try_from(most).unwrap_or(u32::MAX)
    )
    .fetch_all(db)
    .await?)
}
