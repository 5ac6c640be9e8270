//! `cargo xtask shots`: pictures of the main views, made by the browser tests' own driver.

use crate::packages::{self, BROWSER, run_with};
use crate::{demo, root};
use anyhow::Result;
use std::path::PathBuf;

/// Starts a demo of its own and lets the browser take the pictures.
pub async fn shots(out: Option<PathBuf>, only: &str) -> Result<()> {
    packages::ensure(BROWSER)?;
    let out = out.unwrap_or_else(|| root().join("docs/screenshots"));
    std::fs::create_dir_all(&out)?;
    let folder = root().join(".local/shots");
    let (installation, people) = demo::start(&folder, None).await?;
    let people = serde_json::to_string(&people)?;
    let (base, out) = (installation.base(), out.display().to_string());
    let env = [
        ("ZERO_LEAK_SHOTS_BASE", base.as_str()),
        ("ZERO_LEAK_SHOTS_PEOPLE", &people),
        ("ZERO_LEAK_SHOTS_OUT", &out),
        ("ZERO_LEAK_SHOTS_ONLY", only),
    ];
    let result = run_with("", "cargo", &["run", "--quiet", "--package", "e2e", "--bin", "shots"], &env);
    installation.stop().await?;
    result
}
