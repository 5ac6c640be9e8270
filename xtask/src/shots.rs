//! `cargo xtask shots`: pictures of the main views, made by the browser tests' own driver.

use crate::packages::{self, BROWSER, run_with};
use crate::{root, stand};
use anyhow::Result;
use std::path::PathBuf;

/// Starts a demo of its own and lets the browser take the pictures.
pub fn shots(out: Option<PathBuf>, only: &str) -> Result<()> {
    packages::ensure(BROWSER)?;
    let out = out.unwrap_or_else(|| root().join("docs/screenshots"));
    std::fs::create_dir_all(&out)?;
    let folder = root().join(".local/shots").display().to_string();
    let env = [("ZERO_LEAK_SHOTS_OUT", out.display().to_string()), ("ZERO_LEAK_SHOTS_ONLY", only.to_owned())];
    let env = env.each_ref().map(|(name, value)| (*name, value.as_str()));
    run_with("", &stand()?, &["with", &folder, "--", "cargo", "run", "--quiet", "--package", "e2e", "--bin", "shots"], &env)
}
