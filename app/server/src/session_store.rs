//! Sessions in the database, so that a restart signs nobody out.

use crate::problem::Problem;
use async_trait::async_trait;
use sqlx::MySqlPool;
use tower_sessions::SessionStore;
use tower_sessions::session::{Id, Record};
use tower_sessions::session_store::{Error, Result};

/// Name of the session's entry.
pub const SESSION_KEY: &str = "who";

/// What stands in the table in the place of a session's id: whoever reads the table cannot take over a session.
pub fn key(id: &Id) -> String {
    record::canonical::sha256_hex(id.to_string().as_bytes())
}

/// Keeps sessions in the table `session`.
#[derive(Debug, Clone)]
pub struct DatabaseSessions(pub MySqlPool);

/// What a database that is away says through the session's layer.
const AWAY: &str = "the database is away";

fn backend(e: sqlx::Error) -> Error {
    Error::Backend(if crate::problem::is_away(&e) { AWAY.to_owned() } else { e.to_string() })
}

/// Why a session cannot be read or written.
pub fn problem(e: &tower_sessions::session::Error) -> Problem {
    match e {
        tower_sessions::session::Error::Store(Error::Backend(text)) if text == AWAY => Problem::Away(2),
        other => crate::problem::internal(other),
    }
}

/// Lets a session live on from now once it has so much less than that left, for a stream that is open.
///
/// # Errors
/// When the database fails.
pub async fn renew(db: &MySqlPool, key: &str, idle: time::Duration, after: time::Duration) -> std::result::Result<(), sqlx::Error> {
    sqlx::query!(
        "UPDATE session SET expires_at = TIMESTAMPADD(SECOND, ?, CURRENT_TIMESTAMP) WHERE id = ? AND expires_at > CURRENT_TIMESTAMP
           AND expires_at < TIMESTAMPADD(SECOND, ?, CURRENT_TIMESTAMP)",
        idle.whole_seconds(),
        key,
        (idle - after).whole_seconds()
    )
    .execute(db)
    .await
    .map(|_| ())
}

#[async_trait]
impl SessionStore for DatabaseSessions {
    async fn create(&self, record: &mut Record) -> Result<()> {
        // 128 random bits: a clash is not to be expected, and would be refused by the primary key
        self.save(record).await
    }

    async fn save(&self, record: &Record) -> Result<()> {
        let text = serde_json::to_string(record).map_err(|e| Error::Encode(e.to_string()))?;
        let person = record.data.get(SESSION_KEY).and_then(|who| who["sign_in"].as_str());
        sqlx::query!(
            "INSERT INTO session (id, record, expires_at, person) VALUES (?, ?, ?, ?)
             ON DUPLICATE KEY UPDATE record = VALUES(record), expires_at = VALUES(expires_at), person = VALUES(person)",
            key(&record.id),
            text,
            record.expiry_date,
            person
        )
        .execute(&self.0)
        .await
        .map_err(backend)?;
        Ok(())
    }

    async fn load(&self, id: &Id) -> Result<Option<Record>> {
        let row = sqlx::query!("SELECT record, expires_at FROM session WHERE id = ? AND expires_at > CURRENT_TIMESTAMP", key(id))
            .fetch_optional(&self.0)
            .await
            .map_err(backend)?;
        row.map(|r| {
            let record: Record = serde_json::from_str(&r.record).map_err(|e| Error::Decode(e.to_string()))?;
            // an open stream renews the table's time alone
            Ok(Record { expiry_date: r.expires_at, ..record })
        })
        .transpose()
    }

    async fn delete(&self, id: &Id) -> Result<()> {
        sqlx::query!("DELETE FROM session WHERE id = ? OR expires_at < CURRENT_TIMESTAMP", key(id))
            .execute(&self.0)
            .await
            .map_err(backend)?;
        Ok(())
    }
}
