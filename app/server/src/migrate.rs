//! Migrations, and the grants that keep the server's account from changing what is only ever added to.

use anyhow::{Context, Result};
use sqlx::MySqlPool;

/// Tables that the server may change; on all others it may only read and add.
const CHANGEABLE: [&str; 8] =
    ["session", "recorder_lease", "instrument", "pack", "punch", "boundary_item", "logger_mapping", "specification"];
/// The table that the server may only read: people are made by the owner of the database.
const READ_ONLY: &str = "person";
/// Tables in which the server may also delete.
const DELETABLE: [&str; 2] = ["session", "logger_mapping"];

/// Brings the tables up to date and grants the server's account what it needs.
///
/// # Errors
/// When a migration fails.
pub async fn migrate(owner: &MySqlPool) -> Result<()> {
    sqlx::migrate!("./migrations").run(owner).await.context("the tables cannot be brought up to date")?;
    let grant = |what: &str, table: &str| format!("GRANT {what} ON zero_leak.{table} TO 'zl_server'@'127.0.0.1'");
    let tables: Vec<String> = sqlx::query_scalar!(
        "SELECT table_name FROM information_schema.tables WHERE table_schema = 'zero_leak' AND table_name <> '_sqlx_migrations'"
    )
    .fetch_all(owner)
    .await?;
    let mut statements: Vec<String> = tables.iter().map(|t| grant(if t == READ_ONLY { "SELECT" } else { "SELECT, INSERT" }, t)).collect();
    statements.extend(CHANGEABLE.map(|t| grant("UPDATE", t)));
    statements.extend(DELETABLE.map(|t| grant("DELETE", t)));
    // what an earlier version granted; where it granted nothing there is nothing to take back
    let taken = format!("REVOKE INSERT ON zero_leak.{READ_ONLY} FROM 'zl_server'@'127.0.0.1'");
    let _ = sqlx::raw_sql(sqlx::AssertSqlSafe(taken)).execute(owner).await;
    for statement in statements {
        sqlx::raw_sql(sqlx::AssertSqlSafe(statement)).execute(owner).await?;
    }
    Ok(())
}
