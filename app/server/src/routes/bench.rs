//! What `cargo xtask bench` holds lists and packs against: the same session and rights, the same rows by one `SELECT`, and nothing else. There only where
//! ZERO_LEAK_BENCH is set.

use crate::access::{Action, may_on, sees_in_lists};
use crate::problem::Problem;
use crate::state::App;
use crate::store::{pack, register};
use crate::views::pack::planned;
use crate::who::Who;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::routing::get;
use sqlx::{MySql, QueryBuilder, Row};

/// The routes.
pub fn routes() -> Router<App> {
    Router::new().route("/api/v1/bench/lines", get(lines)).route("/api/v1/bench/derived/{id}", get(derived))
}

/// Fifty lines as they stand in the table.
async fn lines(State(app): State<App>, who: Who) -> Result<String, Problem> {
    let sees = sees_in_lists(&who);
    let mut q = QueryBuilder::<MySql>::new(
        "SELECT l.pack_id, l.number, l.title, l.basis, l.state, l.body FROM pack_line l WHERE l.project_id IN (''",
    );
    for project in sees.whole.keys() {
        q.push(", ").push_bind(project.clone());
    }
    q.push(") ORDER BY l.number_key, l.pack_id LIMIT 50");
    let mut out = String::new();
    for row in q.build().fetch_all(&app.db).await? {
        for column in ["pack_id", "number", "title", "basis", "state", "body"] {
            out.push_str(row.try_get::<&str, _>(column)?);
            out.push(';');
        }
    }
    Ok(out)
}

/// Loads a pack and derives it.
async fn derived(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    let row = pack::get(&app.db, &id).await?;
    may_on(&who, Action::See, &row)?;
    let registers = register::of_pack(&app.db, &id).await?;
    planned(&app, &row, &registers, Some(who.reads_on(&row))).await?;
    Ok(StatusCode::NO_CONTENT)
}
