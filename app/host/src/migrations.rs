//! Applies migrations from a folder, for the moment when the server that carries them is not yet compiled.

use anyhow::{Context, Result};
use sqlx::mysql::{MySqlConnectOptions, MySqlPoolOptions, MySqlSslMode};
use std::path::Path;
use std::str::FromStr;

/// Brings an empty database up to date.
///
/// # Errors
/// When a migration fails.
pub async fn apply(url: &str, folder: &Path) -> Result<()> {
    let options = MySqlConnectOptions::from_str(url)?.ssl_mode(MySqlSslMode::Disabled);
    let pool = MySqlPoolOptions::new().max_connections(1).connect_with(options).await?;
    sqlx::migrate::Migrator::new(folder).await?.run(&pool).await.context("a migration failed")?;
    pool.close().await;
    Ok(())
}
