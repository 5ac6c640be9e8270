//! Passwords: argon2id, checked off the request threads.

use crate::problem::Problem;
use crate::state::App;
use pack::people::Role;
use std::collections::BTreeMap;
use std::net::IpAddr;
use terms::Term;

/// Where a password is asked for. Each counts for itself: who guesses at the door keeps nobody who is inside from signing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Door {
    /// signing in
    SignIn,
    /// signing a record
    Signature,
    /// the code of a second factor
    SecondFactor,
    /// one's own account
    Account,
}

impl Door {
    /// Under which name wrong passwords are counted.
    pub fn counts(self, sign_in: &str) -> String {
        let door = match self {
            Self::SignIn => "in",
            Self::Signature => "sign",
            Self::SecondFactor => "code",
            Self::Account => "own",
        };
        format!("{door}:{sign_in}")
    }
}

/// A person as signed in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Account {
    /// Sign-in name, as it was given when the account was made.
    pub sign_in: String,
    /// True for whoever looks after the installation.
    pub administrator: bool,
    /// Roles by project.
    pub roles: BTreeMap<String, Role>,
    /// Changes with the password.
    pub credential: String,
    /// True where a second factor is in use.
    pub second_factor: bool,
    /// True where the site asks for one, and there is none.
    pub owes_factor: bool,
}

/// What changes with a password.
fn credential(password_hash: &str) -> String {
    record::canonical::sha256_hex(password_hash.as_bytes())[..32].to_owned()
}

/// The account of a name, as it is now; none where there is none any more.
///
/// # Errors
/// When the database fails.
pub async fn now(db: &sqlx::MySqlPool, sign_in: &str) -> Result<Option<Account>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT p.sign_in, p.password_hash, p.administrator AS `administrator: bool`, m.project_id, m.role, f.confirmed_at IS NOT NULL AS `factor!: bool`,
                (s.second_factor = 'everybody' OR (s.second_factor = 'administrators' AND p.administrator)) AS `asked!: bool`
           FROM person p JOIN site s ON s.id = 1 LEFT JOIN member m ON m.person = p.sign_in LEFT JOIN second_factor f ON f.person = p.sign_in
          WHERE p.sign_in = ? AND p.ended_at IS NULL",
        sign_in
    )
    .fetch_all(db)
    .await?;
    let roles = rows.iter().filter_map(|r| Some((r.project_id.clone()?, Role::from_key(r.role.as_deref()?)?))).collect();
    Ok(rows.into_iter().next().map(|r| Account {
        sign_in: r.sign_in,
        administrator: r.administrator,
        roles,
        credential: credential(&r.password_hash),
        second_factor: r.factor,
        owes_factor: r.asked && !r.factor,
    }))
}

/// Checks a name, whatever its case, and password; takes as long for an unknown name as for a known one.
///
/// # Errors
/// When they do not go together, or were wrong too often.
pub async fn check(app: &App, sign_in: &str, password: &str, door: Door, from: IpAddr) -> Result<Account, Problem> {
    let counted = door.counts(sign_in);
    app.guesses.may(&counted, from)?;
    let row = sqlx::query!(
        "SELECT sign_in, password_hash FROM person WHERE LOWER(sign_in) = LOWER(?) AND ended_at IS NULL ORDER BY sign_in = ? DESC LIMIT 1",
        sign_in,
        sign_in
    )
    .fetch_optional(&app.db)
    .await?;
    let password = password.to_owned();
    let found = app
        .passwords
        .run(move |_| match row {
            Some(row) => password_auth::verify_password(&password, &row.password_hash).ok().map(|()| row.sign_in),
            None => {
                let _ = password_auth::generate_hash(&password);
                None
            }
        })
        .await?;
    app.guesses.tried(&counted, from, found.is_some());
    match found {
        Some(sign_in) => now(&app.db, &sign_in).await?.ok_or(Problem::WrongPassword),
        None => Err(Problem::WrongPassword),
    }
}
