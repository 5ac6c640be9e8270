//! An empty database for as long as a command runs.

use crate::{root, run};
use anyhow::Result;
use host::{database::Database, folder::Folder};

/// Starts one in a folder of its own, applies the migrations, runs the command, and clears it away.
pub async fn with(command: &[String]) -> Result<()> {
    let path = root().join(format!("target/database-{}", std::process::id()));
    let folder = Folder::open(&path)?;
    let database = Database::start(&folder).await?;
    let url = database.owner_url();
    host::migrations::apply(&url, &root().join("app/server/migrations")).await?;
    let result = run(command, &[("DATABASE_URL", &url)]).await;
    database.stop().await?;
    std::fs::remove_dir_all(path)?;
    result
}
