//! Sessions in the database, so that a restart signs nobody out.

use async_trait::async_trait;
use sqlx::MySqlPool;
use tower_sessions::SessionStore;
use tower_sessions::session::{Id, Record};
use tower_sessions::session_store::{Error, Result};

/// What stands in the table in the place of a session's id: whoever reads the table cannot take over a session.
pub fn key(id: &Id) -> String {
    record::canonical::sha256_hex(id.to_string().as_bytes())
}

/// Keeps sessions in the table `session`.
#[derive(Debug, Clone)]
pub struct DatabaseSessions(pub MySqlPool);

fn backend(e: impl std::fmt::Display) -> Error {
    Error::Backend(e.to_string())
}

#[async_trait]
impl SessionStore for DatabaseSessions {
    async fn create(&self, record: &mut Record) -> Result<()> {
        // 128 random bits: a clash is not to be expected, and would be refused by the primary key
        self.save(record).await
    }

    async fn save(&self, record: &Record) -> Result<()> {
        let text = serde_json::to_string(record).map_err(|e| Error::Encode(e.to_string()))?;
        sqlx::query!(
            "INSERT INTO session (id, record, expires_at) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE record = VALUES(record), expires_at = VALUES(expires_at)",
            key(&record.id),
            text,
            record.expiry_date
        )
        .execute(&self.0)
        .await
        .map_err(backend)?;
        Ok(())
    }

    async fn load(&self, id: &Id) -> Result<Option<Record>> {
        let row = sqlx::query_scalar!("SELECT record FROM session WHERE id = ? AND expires_at > CURRENT_TIMESTAMP", key(id))
            .fetch_optional(&self.0)
            .await
            .map_err(backend)?;
        row.map(|text| serde_json::from_str(&text).map_err(|e| Error::Decode(e.to_string()))).transpose()
    }

    async fn delete(&self, id: &Id) -> Result<()> {
        sqlx::query!("DELETE FROM session WHERE id = ? OR expires_at < CURRENT_TIMESTAMP", key(id))
            .execute(&self.0)
            .await
            .map_err(backend)?;
        Ok(())
    }
}
