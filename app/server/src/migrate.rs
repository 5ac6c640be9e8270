//! Migrations, and the grants that keep the server's account from changing what is only ever added to.

use anyhow::{Context, Result};
use sqlx::MySqlPool;

/// Tables that the server may change; on all others it may only read and add.
const CHANGEABLE: [&str; 18] = [
    "session",
    "recorder_lease",
    "instrument",
    "pack",
    "register_item",
    "logger_mapping",
    "project_specification",
    "sealing_pause",
    "site",
    "line_head",
    "pack_line",
    "pack_due",
    "line_count",
    "person",
    "project",
    "member",
    "second_factor",
    "sign_link",
];
/// Tables in which the server may also delete.
const DELETABLE: [&str; 13] = [
    "session",
    "logger_mapping",
    "sealing_pause",
    "pack_due",
    "pack_owed",
    "pack_uses",
    "pack_word",
    "pack_person",
    "pack_line",
    "instrument_loan",
    "member",
    "invitation",
    "second_factor",
];

static MIGRATIONS: sqlx::migrate::Migrator = sqlx::migrate!("./migrations");

/// Refuses tables that are not those of this program.
///
/// # Errors
/// When they are of an earlier or a later version.
pub async fn current(db: &MySqlPool) -> Result<()> {
    let there: Vec<i64> = sqlx::query_scalar("SELECT version FROM _sqlx_migrations WHERE success ORDER BY version")
        .fetch_all(db)
        .await
        .context("the tables of this database are of an earlier version, or there are none: run `zero-leak migrate` as the owner of the database")?;
    let missing = MIGRATIONS.iter().filter(|m| !there.contains(&m.version)).count();
    anyhow::ensure!(
        missing == 0,
        "the tables of this database are of an earlier version ({missing} changes behind): run `zero-leak migrate` as the owner of the database"
    );
    if let Some(later) = there.iter().find(|v| !MIGRATIONS.iter().any(|m| m.version == **v)) {
        anyhow::bail!(
            "the tables of this database are of a later version than this program (change {later} is not known here): run the program that changed them"
        );
    }
    Ok(())
}

/// Brings the tables up to date and grants the server's account what it needs.
///
/// # Errors
/// When a migration fails.
pub async fn migrate(owner: &MySqlPool) -> Result<()> {
    MIGRATIONS.run(owner).await.context("the tables cannot be brought up to date")?;
    let grant = |what: &str, table: &str| format!("GRANT {what} ON zero_leak.{table} TO 'zl_server'@'127.0.0.1'");
    let tables: Vec<String> = sqlx::query_scalar!(
        "SELECT table_name FROM information_schema.tables WHERE table_schema = 'zero_leak' AND table_name <> '_sqlx_migrations'"
    )
    .fetch_all(owner)
    .await?;
    let mut statements: Vec<String> = tables.iter().map(|t| grant("SELECT, INSERT", t)).collect();
    statements.extend(CHANGEABLE.map(|t| grant("UPDATE", t)));
    // it looks whether the tables are its own before it serves
    statements.push(grant("SELECT", "_sqlx_migrations"));
    statements.extend(DELETABLE.map(|t| grant("DELETE", t)));
    for statement in statements {
        sqlx::raw_sql(sqlx::AssertSqlSafe(statement)).execute(owner).await?;
    }
    Ok(())
}

/// How many tables the database has.
///
/// # Errors
/// When it cannot be asked.
pub async fn tables(owner: &MySqlPool) -> Result<i64> {
    Ok(sqlx::query_scalar("SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE()").fetch_one(owner).await?)
}
