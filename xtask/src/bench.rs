//! `cargo xtask bench`.

use crate::packages::run;
use anyhow::Result;

/// Runs the benches of the core; each prints a ratio beside its reference.
pub fn bench() -> Result<()> {
    run("", "cargo", &["bench", "--quiet", "--package", "judge", "--bench", "table"])
}
