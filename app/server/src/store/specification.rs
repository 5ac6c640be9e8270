//! Tables `project_specification` and `specification_state`.

use crate::clock::instant;
use crate::problem::Problem;
use moment::Instant;
use rules::specification::Specification;
use sqlx::MySqlPool;

/// The specification with its version.
#[derive(Debug, Clone)]
pub struct SpecificationRow {
    /// What the project lays down.
    pub specification: Specification,
    /// Version.
    pub version: u32,
}

/// The specification as it is.
///
/// # Errors
/// When the database fails.
pub async fn get(db: &MySqlPool, project: &str) -> Result<SpecificationRow, Problem> {
    let row = sqlx::query!("SELECT body, version FROM project_specification WHERE project_id = ?", project).fetch_one(db).await?;
    Ok(SpecificationRow { specification: serde_json::from_str(&row.body)?, version: row.version })
}

/// Changes it when it is still at `version`, and keeps the state.
///
/// # Errors
/// When somebody else changed it.
pub async fn put(db: &MySqlPool, project: &str, specification: &Specification, version: u32, by: &str) -> Result<u32, Problem> {
    let body = serde_json::to_string(specification)?;
    let mut change = db.begin().await?;
    let done = sqlx::query!(
        "UPDATE project_specification SET body = ?, version = version + 1 WHERE project_id = ? AND version = ?",
        body,
        project,
        version
    )
    .execute(&mut *change)
    .await?;
    if done.rows_affected() != 1 {
        return Err(Problem::Changed(
            "The specification was changed by somebody else after you opened it: reload, then save again.".to_owned(),
        ));
    }
    sqlx::query!(
        "INSERT INTO specification_state (project_id, version, body, changed_by) VALUES (?, ?, ?, ?)",
        project,
        version + 1,
        body,
        by
    )
    .execute(&mut *change)
    .await?;
    change.commit().await?;
    Ok(version + 1)
}

/// Who changed it last, and when; none while nobody did.
///
/// # Errors
/// When the database fails.
pub async fn last_change(db: &MySqlPool, project: &str) -> Result<Option<(String, Instant)>, Problem> {
    let row = sqlx::query!(
        "SELECT changed_by, changed_at AS `at: time::OffsetDateTime` FROM specification_state WHERE project_id = ? ORDER BY version DESC LIMIT 1",
        project
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.changed_by, instant(r.at))))
}

/// The library as the project has it.
pub async fn library(db: &MySqlPool, project: &str) -> Result<std::sync::Arc<rules::library::Library>, Problem> {
    let row = get(db, project).await?;
    row.specification.library().map_err(|e| Problem::invalid("specification.library", e))
}
