//! Tables `project` and `member`: what belongs together under one specification, zone, units and numbering, and who has which role in it.

use super::history::{self, Changed, Kind};
use crate::problem::Problem;
use moment::Zone;
use pack::people::{Member, Role};
use pack::signing::Form;
use quantity::Units;
use serde::Serialize;
use sqlx::MySqlPool;
use terms::Term;

/// A project.
#[derive(Debug, Clone)]
pub struct Project {
    /// Id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Its zone, or the site's.
    pub zone: Zone,
    /// Its units for whoever chose none, or the site's.
    pub units: Units,
    /// What the numbers of its packs begin with.
    pub pack_prefix: String,
    /// What those of its quick tests begin with.
    pub quick_prefix: String,
    /// Version.
    pub version: u32,
}

impl Project {
    /// What the numbers of tests of a size begin with.
    pub fn prefix(&self, form: Form) -> &str {
        match form {
            Form::Quick => &self.quick_prefix,
            Form::Pack => &self.pack_prefix,
        }
    }
}

/// A project as stored, with the site's zone and units where it has none of its own.
pub(super) struct Raw {
    /// Id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Zone.
    pub zone: String,
    /// Units in words.
    pub units: String,
    /// For packs.
    pub pack_prefix: String,
    /// For quick tests.
    pub quick_prefix: String,
    /// Version.
    pub version: u32,
}

impl Raw {
    /// With the zone and the units that the words name.
    pub(super) fn read(self) -> Project {
        Project {
            zone: Zone::named(&self.zone).unwrap_or_else(Zone::utc),
            units: Units::default().read(&self.units),
            id: self.id,
            name: self.name,
            pack_prefix: self.pack_prefix,
            quick_prefix: self.quick_prefix,
            version: self.version,
        }
    }
}

/// One project.
///
/// # Errors
/// When there is none.
pub async fn get(db: &MySqlPool, id: &str) -> Result<Project, Problem> {
    let raw = sqlx::query_as!(
        Raw,
        "SELECT p.id, p.name, COALESCE(p.zone, s.zone) AS `zone!`, COALESCE(p.units, s.units) AS `units!`, p.pack_prefix, p.quick_prefix, p.version
           FROM project p JOIN site s ON s.id = 1 WHERE p.id = ?",
        id
    )
    .fetch_optional(db)
    .await?;
    raw.map(Raw::read).ok_or(Problem::NotFound("project"))
}

/// Every project by name.
///
/// # Errors
/// When the database fails.
pub async fn all(db: &MySqlPool) -> Result<Vec<Project>, Problem> {
    let raw = sqlx::query_as!(
        Raw,
        "SELECT p.id, p.name, COALESCE(p.zone, s.zone) AS `zone!`, COALESCE(p.units, s.units) AS `units!`, p.pack_prefix, p.quick_prefix, p.version
           FROM project p JOIN site s ON s.id = 1 ORDER BY p.name"
    )
    .fetch_all(db)
    .await?;
    Ok(raw.into_iter().map(Raw::read).collect())
}

/// Makes a project with an empty specification.
///
/// # Errors
/// When the name is taken.
pub async fn insert(db: &MySqlPool, id: &str, name: &str) -> Result<(), sqlx::Error> {
    let mut tx = db.begin().await?;
    sqlx::query!("INSERT INTO project (id, name) VALUES (?, ?)", id, name).execute(&mut *tx).await?;
    sqlx::query!("INSERT INTO project_specification (project_id, body) VALUES (?, '{}')", id).execute(&mut *tx).await?;
    tx.commit().await
}

/// Members of a project whose accounts are open, by name.
///
/// # Errors
/// When the database fails.
pub async fn members(db: &MySqlPool, project: &str) -> Result<Vec<Member>, Problem> {
    let rows = sqlx::query!(
        "SELECT m.person, m.role FROM member m JOIN person p ON p.sign_in = m.person WHERE m.project_id = ? AND p.ended_at IS NULL ORDER BY m.person",
        project
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().filter_map(|r| Some(Member { person: r.person, role: Role::from_key(&r.role)? })).collect())
}

/// Gives a person a role in a project, in the place of any that they had.
///
/// # Errors
/// When there is no such person or project.
pub async fn set_role(db: &MySqlPool, project: &str, person: &str, role: Role) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "INSERT INTO member (project_id, person, role) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE role = VALUES(role)",
        project,
        person,
        role.key()
    )
    .execute(db)
    .await
    .map(|_| ())
}

/// What is a project's own.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Settings {
    /// Name.
    pub name: String,
    /// Zone; the site's where there is none.
    pub zone: Option<String>,
    /// Units; the site's where there are none.
    pub units: Option<Units>,
    /// What the numbers of packs begin with.
    pub pack_prefix: String,
    /// What those of quick tests begin with.
    pub quick_prefix: String,
}

/// What is a project's own, as it is.
///
/// # Errors
/// When there is none.
pub async fn settings(db: &MySqlPool, id: &str) -> Result<Settings, Problem> {
    let row = sqlx::query!("SELECT name, zone, units, pack_prefix, quick_prefix FROM project WHERE id = ?", id).fetch_optional(db).await?;
    let row = row.ok_or(Problem::NotFound("project"))?;
    Ok(Settings {
        name: row.name,
        zone: row.zone,
        units: row.units.map(|words| Units::default().read(&words)),
        pack_prefix: row.pack_prefix,
        quick_prefix: row.quick_prefix,
    })
}

fn taken(name: &str) -> Problem {
    Problem::invalid("name", format!("there is a project named {name} already: choose another name"))
}

/// Makes a project; the same id again changes nothing.
///
/// # Errors
/// When the name is taken.
pub async fn make(db: &MySqlPool, id: &str, new: &Settings) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let made = sqlx::query!(
        "INSERT INTO project (id, name, zone, units, pack_prefix, quick_prefix) VALUES (?, ?, ?, ?, ?, ?)",
        id,
        new.name,
        new.zone,
        new.units.map(Units::words),
        new.pack_prefix,
        new.quick_prefix
    )
    .execute(&mut *tx)
    .await;
    match made {
        Err(e) if crate::problem::duplicate(&e) => {
            drop(tx);
            return match settings(db, id).await {
                Ok(there) if there == *new => Ok(()),
                Ok(_) => Err(Problem::VersionNeeded),
                Err(_) => Err(taken(&new.name)),
            };
        }
        other => other?,
    };
    sqlx::query!("INSERT INTO project_specification (project_id, body) VALUES (?, '{}')", id).execute(&mut *tx).await?;
    Ok(tx.commit().await?)
}

/// Changes a project when it is still at `version`, and keeps what it was.
///
/// # Errors
/// When somebody else changed it meanwhile, or the name is taken.
pub async fn change(db: &MySqlPool, id: &str, new: &Settings, version: u32, by: &str) -> Result<(), Problem> {
    let before = settings(db, id).await?;
    let mut tx = db.begin().await?;
    let done = sqlx::query!(
        "UPDATE project SET name = ?, zone = ?, units = ?, pack_prefix = ?, quick_prefix = ?, version = version + 1 WHERE id = ? AND version = ?",
        new.name,
        new.zone,
        new.units.map(Units::words),
        new.pack_prefix,
        new.quick_prefix,
        id,
        version
    )
    .execute(&mut *tx)
    .await;
    match done {
        Err(e) if crate::problem::duplicate(&e) => return Err(taken(&new.name)),
        Err(e) => return Err(e.into()),
        Ok(done) if done.rows_affected() == 0 => {
            return Err(Problem::Changed(
                "The project was changed by somebody else after you opened it: reload, then save again.".to_owned(),
            ));
        }
        Ok(_) => {}
    }
    let of = Changed { kind: Kind::Project, subject: id, item: &new.name, person: by, why: None };
    history::note(&mut *tx, of, Some(&before), new).await?;
    Ok(tx.commit().await?)
}
