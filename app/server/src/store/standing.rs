//! Where the lists stand: what changed since somebody looked, and what still waits for its line.

use super::listing::{Sees, one_of};
use sqlx::{MySql, MySqlPool, QueryBuilder};

/// Where the lists stand: changes with every line that is made and every pack that becomes due.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stand {
    /// The last number of the sequence.
    pub rev: u64,
    /// Packs that are due.
    pub due: i64,
    /// Changes with each mark.
    pub marks: i64,
}

/// Where the lists stand now.
///
/// # Errors
/// When the database fails.
pub async fn stand(db: &MySqlPool) -> Result<Stand, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT h.rev, (SELECT COUNT(*) FROM pack_due) AS `due!`, (SELECT CAST(COALESCE(SUM(seq), 0) AS SIGNED) FROM pack_due) AS `marks!: i64`
           FROM line_head h WHERE h.id = 1"
    )
    .fetch_one(db)
    .await?;
    Ok(Stand { rev: row.rev, due: row.due, marks: row.marks })
}

/// How many packs of what somebody sees wait for their line.
///
/// # Errors
/// When the database fails.
pub async fn due(db: &MySqlPool, sees: &Sees) -> Result<i64, sqlx::Error> {
    let mut q = QueryBuilder::new("SELECT COUNT(*) FROM pack_due d WHERE ");
    one_of(&mut q, "d.project_id", sees.whole.keys().chain(&sees.named).cloned());
    q.build_query_scalar().fetch_one(db).await
}

/// For how long the pack has waited that waits longest for its line, s; zero where none waits.
///
/// # Errors
/// When the database fails.
pub async fn lag_s(db: &MySqlPool) -> Result<f64, sqlx::Error> {
    let us = sqlx::query_scalar!(
        "SELECT CAST(COALESCE(TIMESTAMPDIFF(MICROSECOND, MIN(since), CURRENT_TIMESTAMP(6)), 0) AS SIGNED) AS `us!: i64` FROM pack_due"
    )
    .fetch_one(db)
    .await?;
    Ok(us as f64 / 1e6)
}

/// A line that was made: pack, project and its number in the sequence.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Made {
    /// Pack.
    pub pack_id: String,
    /// Project.
    pub project_id: String,
    /// Number in the sequence.
    pub rev: u64,
}

/// Lines that were made after a number of the sequence.
///
/// # Errors
/// When the database fails.
pub async fn made_after(db: &MySqlPool, rev: u64, most: u32) -> Result<Vec<Made>, sqlx::Error> {
    sqlx::query_as!(Made, "SELECT pack_id, project_id, rev FROM pack_line WHERE rev > ? ORDER BY rev LIMIT ?", rev, most)
        .fetch_all(db)
        .await
}

/// Which of some packs name somebody.
///
/// # Errors
/// When the database fails.
pub async fn naming(db: &MySqlPool, person: &str, packs: &[String]) -> Result<Vec<String>, sqlx::Error> {
    let mut q = QueryBuilder::<MySql>::new("SELECT n.pack_id FROM pack_person n WHERE n.person = ");
    q.push_bind(person).push(" AND ");
    one_of(&mut q, "n.pack_id", packs.iter().cloned());
    q.build_query_scalar().fetch_all(db).await
}
