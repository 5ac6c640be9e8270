//! Tables `person`, `member`, `invitation` and `second_factor`, as administrators and people themselves change them. Every change is in the security log.

use crate::clock::{instant, stored};
use crate::problem::Problem;
use moment::Instant;
use pack::people::Role;
use sqlx::{MySqlConnection, MySqlPool};
use std::collections::BTreeMap;
use terms::Term;

/// A person as an administrator sees them.
#[derive(Debug, Clone)]
pub struct PersonRow {
    /// Sign-in name.
    pub sign_in: String,
    /// True for whoever looks after the installation.
    pub administrator: bool,
    /// True once the account was ended.
    pub ended: bool,
    /// True once they chose a password.
    pub joined: bool,
    /// True where a second factor is asked of them.
    pub second_factor: bool,
    /// Until when their one-time link is good; none where there is none.
    pub link_until: Option<Instant>,
    /// Roles by project.
    pub roles: BTreeMap<String, Role>,
}

/// Everybody, by name.
///
/// # Errors
/// When the database fails.
pub async fn people(db: &MySqlPool) -> Result<Vec<PersonRow>, Problem> {
    let rows = sqlx::query!(
        "SELECT p.sign_in, p.administrator AS `administrator: bool`, p.ended_at IS NOT NULL AS `ended!: bool`, p.password_hash <> '' AS `joined!: bool`,
                f.confirmed_at IS NOT NULL AS `factor!: bool`,
                (SELECT MAX(i.expires_at) FROM invitation i WHERE i.person = p.sign_in AND i.expires_at > CURRENT_TIMESTAMP(6)) AS `link: time::OffsetDateTime`
           FROM person p LEFT JOIN second_factor f ON f.person = p.sign_in ORDER BY p.sign_in"
    )
    .fetch_all(db)
    .await?;
    let mut roles: BTreeMap<String, BTreeMap<String, Role>> = BTreeMap::new();
    for m in sqlx::query!("SELECT person, project_id, role FROM member").fetch_all(db).await? {
        if let Some(role) = Role::from_key(&m.role) {
            roles.entry(m.person).or_default().insert(m.project_id, role);
        }
    }
    let of = rows.into_iter().map(|r| PersonRow {
        roles: roles.remove(&r.sign_in).unwrap_or_default(),
        sign_in: r.sign_in,
        administrator: r.administrator,
        ended: r.ended,
        joined: r.joined,
        second_factor: r.factor,
        link_until: r.link.map(instant),
    });
    Ok(of.collect())
}

/// Makes an account without a password, which its owner chooses by a link.
///
/// # Errors
/// When the name is taken.
pub async fn make(db: &MySqlPool, sign_in: &str, administrator: bool, roles: &BTreeMap<String, Role>) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let made = sqlx::query!(
        "INSERT INTO person (id, sign_in, administrator, password_hash) VALUES (?, ?, ?, '')",
        uuid::Uuid::now_v7().to_string(),
        sign_in,
        administrator
    )
    .execute(&mut *tx)
    .await;
    match made {
        Err(e) if crate::problem::duplicate(&e) => {
            return Err(Problem::invalid("sign_in", format!("somebody signs in as {sign_in} already, or did once: choose another name")));
        }
        other => other?,
    };
    put_roles(&mut tx, sign_in, roles).await?;
    Ok(tx.commit().await?)
}

async fn put_roles(tx: &mut MySqlConnection, sign_in: &str, roles: &BTreeMap<String, Role>) -> Result<(), Problem> {
    for (project, role) in roles {
        sqlx::query!(
            "INSERT INTO member (project_id, person, role) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE role = VALUES(role)",
            project,
            sign_in,
            role.key()
        )
        .execute(&mut *tx)
        .await?;
    }
    Ok(())
}

/// Gives a person these roles and no other.
///
/// # Errors
/// When the database fails.
pub async fn set_roles(db: &MySqlPool, sign_in: &str, roles: &BTreeMap<String, Role>) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    let had = sqlx::query_scalar!("SELECT project_id FROM member WHERE person = ? FOR UPDATE", sign_in).fetch_all(&mut *tx).await?;
    for project in had.iter().filter(|p| !roles.contains_key(*p)) {
        sqlx::query!("DELETE FROM member WHERE person = ? AND project_id = ?", sign_in, project).execute(&mut *tx).await?;
    }
    put_roles(&mut tx, sign_in, roles).await?;
    Ok(tx.commit().await?)
}

/// Ends an account and its sessions, links and second factor; what it did stays under its name. False where there is none that is open.
///
/// # Errors
/// When it is the last administrator's.
pub async fn end(db: &MySqlPool, sign_in: &str) -> Result<bool, Problem> {
    let mut tx = db.begin().await?;
    let done = sqlx::query!("UPDATE person SET ended_at = CURRENT_TIMESTAMP(6) WHERE sign_in = ? AND ended_at IS NULL", sign_in)
        .execute(&mut *tx)
        .await?;
    forget(&mut tx, sign_in).await?;
    tx.commit().await?;
    Ok(done.rows_affected() == 1)
}

async fn forget(tx: &mut MySqlConnection, sign_in: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("DELETE FROM session WHERE person = ?", sign_in).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM invitation WHERE person = ?", sign_in).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM second_factor WHERE person = ?", sign_in).execute(&mut *tx).await?;
    Ok(())
}

/// Puts a one-time link in the place of a password, of every session and of the second factor. False where there is no such account that is open.
///
/// # Errors
/// When the database fails.
pub async fn link(db: &MySqlPool, sign_in: &str, token_sha256: &str, by: &str, until: Instant) -> Result<bool, Problem> {
    let mut tx = db.begin().await?;
    sqlx::query!("UPDATE person SET password_hash = '' WHERE sign_in = ? AND ended_at IS NULL", sign_in).execute(&mut *tx).await?;
    let there =
        sqlx::query_scalar!("SELECT COUNT(*) FROM person WHERE sign_in = ? AND ended_at IS NULL", sign_in).fetch_one(&mut *tx).await?;
    if there == 0 {
        return Ok(false);
    }
    forget(&mut tx, sign_in).await?;
    sqlx::query!(
        "INSERT INTO invitation (token_sha256, person, made_by, expires_at) VALUES (?, ?, ?, ?)",
        token_sha256,
        sign_in,
        by,
        stored(until)
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(true)
}

/// Whose link this is; none where it was used, has run out, or never was.
///
/// # Errors
/// When the database fails.
pub async fn invited(db: &MySqlPool, token_sha256: &str) -> Result<Option<String>, Problem> {
    Ok(sqlx::query_scalar!(
        "SELECT i.person FROM invitation i JOIN person p ON p.sign_in = i.person
          WHERE i.token_sha256 = ? AND i.expires_at > CURRENT_TIMESTAMP(6) AND p.ended_at IS NULL",
        token_sha256
    )
    .fetch_optional(db)
    .await?)
}

/// Takes a link for a password, once. Whose it was; none where it is not good any more.
///
/// # Errors
/// When the database fails.
pub async fn join(db: &MySqlPool, token_sha256: &str, password_hash: &str) -> Result<Option<String>, Problem> {
    let Some(person) = invited(db, token_sha256).await? else { return Ok(None) };
    let mut tx = db.begin().await?;
    // of two at once one finds it gone
    let taken = sqlx::query!("DELETE FROM invitation WHERE token_sha256 = ?", token_sha256).execute(&mut *tx).await?;
    if taken.rows_affected() == 0 {
        return Ok(None);
    }
    sqlx::query!("UPDATE person SET password_hash = ? WHERE sign_in = ? AND ended_at IS NULL", password_hash, person)
        .execute(&mut *tx)
        .await?;
    sqlx::query!("DELETE FROM invitation WHERE person = ?", person).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(Some(person))
}

/// Changes a password, and ends every session but one.
///
/// # Errors
/// When the database fails.
pub async fn new_password(db: &MySqlPool, sign_in: &str, password_hash: &str, but: &str) -> Result<(), Problem> {
    let mut tx = db.begin().await?;
    sqlx::query!("UPDATE person SET password_hash = ? WHERE sign_in = ?", password_hash, sign_in).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM session WHERE person = ? AND id <> ?", sign_in, but).execute(&mut *tx).await?;
    Ok(tx.commit().await?)
}

/// A session of somebody.
#[derive(Debug, Clone)]
pub struct SessionRow {
    /// Its place in the table.
    pub id: String,
    /// When it began.
    pub made_at: Instant,
    /// When it ends unless it is used.
    pub expires_at: Instant,
    /// The browser, as it names itself.
    pub agent: String,
}

/// Sessions of somebody that stand, the last first.
///
/// # Errors
/// When the database fails.
pub async fn sessions(db: &MySqlPool, sign_in: &str) -> Result<Vec<SessionRow>, Problem> {
    let rows = sqlx::query!(
        "SELECT id, made_at, expires_at, COALESCE(JSON_VALUE(record, '$.data.agent'), '') AS `agent!` FROM session
          WHERE person = ? AND expires_at > CURRENT_TIMESTAMP ORDER BY expires_at DESC LIMIT 100",
        sign_in
    )
    .fetch_all(db)
    .await?;
    let of =
        rows.into_iter().map(|r| SessionRow { id: r.id, made_at: instant(r.made_at), expires_at: instant(r.expires_at), agent: r.agent });
    Ok(of.collect())
}

/// Ends a session of somebody.
///
/// # Errors
/// When the database fails.
pub async fn end_session(db: &MySqlPool, sign_in: &str, id: &str) -> Result<(), Problem> {
    sqlx::query!("DELETE FROM session WHERE person = ? AND id = ?", sign_in, id).execute(db).await?;
    Ok(())
}

/// A second factor.
#[derive(Debug, Clone)]
pub struct FactorRow {
    /// Of what its secret is made besides the sealing key.
    pub salt: String,
    /// True once a code of it was typed.
    pub confirmed: bool,
    /// The last step that was used.
    pub last_step: u64,
}

/// The second factor of somebody.
///
/// # Errors
/// When the database fails.
pub async fn factor(db: &MySqlPool, sign_in: &str) -> Result<Option<FactorRow>, Problem> {
    Ok(sqlx::query_as!(
        FactorRow,
        "SELECT salt, confirmed_at IS NOT NULL AS `confirmed!: bool`, last_step FROM second_factor WHERE person = ?",
        sign_in
    )
    .fetch_optional(db)
    .await?)
}

/// Begins a second factor in the place of one that was never confirmed.
///
/// # Errors
/// When one is in use.
pub async fn begin_factor(db: &MySqlPool, sign_in: &str, salt: &str) -> Result<(), Problem> {
    sqlx::query!(
        "INSERT INTO second_factor (person, salt) VALUES (?, ?) ON DUPLICATE KEY UPDATE salt = IF(confirmed_at IS NULL, VALUES(salt), salt)",
        sign_in,
        salt
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Takes a step of a second factor, once. False where it was taken before, or a later one.
///
/// # Errors
/// When the database fails.
pub async fn take_step(db: &MySqlPool, sign_in: &str, step: u64) -> Result<bool, Problem> {
    let done = sqlx::query!(
        "UPDATE second_factor SET last_step = ?, confirmed_at = COALESCE(confirmed_at, CURRENT_TIMESTAMP(6)) WHERE person = ? AND last_step < ?",
        step,
        sign_in,
        step
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// Takes a second factor away.
///
/// # Errors
/// When the database fails.
pub async fn end_factor(db: &MySqlPool, sign_in: &str) -> Result<(), Problem> {
    sqlx::query!("DELETE FROM second_factor WHERE person = ?", sign_in).execute(db).await?;
    Ok(())
}

/// True while nobody has an account: the installation is to be set up.
///
/// # Errors
/// When the database fails.
pub async fn nobody(db: &MySqlPool) -> Result<bool, sqlx::Error> {
    Ok(sqlx::query_scalar!("SELECT COUNT(*) FROM person").fetch_one(db).await? == 0)
}

/// Somebody who begins with a password of their own: at the first start.
#[derive(Debug, Clone)]
pub struct First<'a> {
    /// Sign-in name.
    pub sign_in: &'a str,
    /// Hash of the password.
    pub password_hash: String,
    /// Role in the first project; none for an administrator.
    pub role: Option<Role>,
}

/// Sets up an empty installation in one act: its first project and its first people. False where somebody was faster.
///
/// # Errors
/// When the database fails.
pub async fn set_up(db: &MySqlPool, project: (&str, &str), people: &[First<'_>]) -> Result<bool, Problem> {
    let mut tx = db.begin().await?;
    // whoever sets up holds this line
    sqlx::query_scalar!("SELECT id FROM site WHERE id = 1 FOR UPDATE").fetch_one(&mut *tx).await?;
    if sqlx::query_scalar!("SELECT COUNT(*) FROM person").fetch_one(&mut *tx).await? > 0 {
        return Ok(false);
    }
    sqlx::query!("INSERT INTO project (id, name) VALUES (?, ?)", project.0, project.1).execute(&mut *tx).await?;
    sqlx::query!("INSERT INTO project_specification (project_id, body) VALUES (?, '{}')", project.0).execute(&mut *tx).await?;
    for first in people {
        sqlx::query!(
            "INSERT INTO person (id, sign_in, administrator, password_hash) VALUES (?, ?, ?, ?)",
            uuid::Uuid::now_v7().to_string(),
            first.sign_in,
            first.role.is_none(),
            first.password_hash
        )
        .execute(&mut *tx)
        .await?;
        if let Some(role) = first.role {
            put_roles(&mut tx, first.sign_in, &BTreeMap::from([(project.0.to_owned(), role)])).await?;
        }
    }
    tx.commit().await?;
    Ok(true)
}
