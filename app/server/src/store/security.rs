//! Table `security_log`: only ever added to, each entry covering the one before it.

use crate::problem::Problem;
use record::chain::{BEFORE_ALL, Entry};
use sqlx::MySqlPool;
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What happened.
#[derive(Debug, Clone, Copy, PartialEq, Eq, VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum What {
    /// a person signed in
    #[strum(message = "signed in")]
    SignedIn,
    /// name and password did not go together
    #[strum(message = "could not sign in")]
    SignInRefused,
    /// a person signed out
    #[strum(message = "signed out")]
    SignedOut,
    /// an account asked for what it may not have
    #[strum(message = "was refused")]
    Refused,
    /// a record, a report or this log was handed out
    #[strum(message = "took out")]
    Exported,
    /// the key sealed a signature
    #[strum(message = "sealed")]
    Sealed,
    /// the certificate of printed pages was handed out
    #[strum(message = "certificate given out")]
    CertificateGiven,
    /// an instrument, its certificate or its keeper was changed
    #[strum(message = "changed an instrument")]
    InstrumentChanged,
    /// a server began, with this key
    #[strum(message = "server started")]
    Started,
    /// an account was made
    #[strum(message = "account made")]
    AccountMade,
    /// an account was ended
    #[strum(message = "account ended")]
    AccountEnded,
    /// an account that was ended was opened again
    #[strum(message = "account opened again")]
    AccountReopened,
    /// the role of an account was changed
    #[strum(message = "role changed")]
    RoleChanged,
    /// an account has a new password
    #[strum(message = "new password")]
    PasswordSet,
    /// somebody made a one-time link for an account
    #[strum(message = "one-time link made")]
    LinkMade,
    /// somebody used a one-time link and chose a password
    #[strum(message = "joined by a link")]
    Joined,
    /// a second factor was set up
    #[strum(message = "second factor set up")]
    FactorSet,
    /// a second factor was taken away
    #[strum(message = "second factor taken away")]
    FactorTaken,
    /// a session was ended by whose it is
    #[strum(message = "ended a session")]
    SessionEnded,
    /// a project was made or changed
    #[strum(message = "project changed")]
    ProjectChanged,
    /// the installation was set up, or how it is looked after was changed
    #[strum(message = "site changed")]
    SiteChanged,
    /// another sealing key was adopted
    #[strum(message = "key adopted")]
    KeyAdopted,
}

/// Adds an entry after the last.
///
/// # Errors
/// When the database fails.
pub async fn add(db: &MySqlPool, at_us: i64, [what, account, address, detail]: [&str; 4]) -> Result<(), sqlx::Error> {
    let cut = |text: &str, most: usize| text.chars().take(most).collect::<String>();
    let (account, detail) = (cut(account, 64), cut(detail, 500));
    let mut tx = db.begin().await?;
    // whoever holds this line is the only one that adds
    sqlx::query_scalar!("SELECT id FROM security_head WHERE id = 1 FOR UPDATE").fetch_one(&mut *tx).await?;
    let last = sqlx::query!("SELECT seq, hash FROM security_log ORDER BY seq DESC LIMIT 1").fetch_optional(&mut *tx).await?;
    let (seq, before) = last.map_or((0, BEFORE_ALL.to_owned()), |l| (l.seq, l.hash));
    let entry = Entry::after(&before, seq + 1, at_us, [what, &account, address, &detail]);
    sqlx::query!(
        "INSERT INTO security_log (seq, at_us, what, account, address, detail, hash) VALUES (?, ?, ?, ?, ?, ?, ?)",
        entry.seq,
        entry.at_us,
        entry.what,
        entry.account,
        entry.address,
        entry.detail,
        entry.hash
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await
}

/// At most so many entries after a number, the first first.
///
/// # Errors
/// When the database fails.
pub async fn after(db: &MySqlPool, seq: u64, most: u32) -> Result<Vec<Entry>, Problem> {
    Ok(sqlx::query_as!(
        Entry,
        "SELECT seq, at_us, what, account, address, detail, hash FROM security_log WHERE seq > ? ORDER BY seq LIMIT ?",
        seq,
        most
    )
    .fetch_all(db)
    .await?)
}

/// Number of the last entry; 0 of an empty log.
///
/// # Errors
/// When the database fails.
pub async fn last(db: &MySqlPool) -> Result<u64, Problem> {
    Ok(sqlx::query_scalar!("SELECT seq FROM security_log ORDER BY seq DESC LIMIT 1").fetch_optional(db).await?.unwrap_or(0))
}
