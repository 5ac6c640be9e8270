//! `cargo xtask bench`.

use crate::packages::{self, BROWSER, run};
use anyhow::Result;

/// Runs the benches of the core and those of the whole application; each prints a ratio beside its reference of the same run.
pub fn bench(quick: bool) -> Result<()> {
    run("", "cargo", &["bench", "--quiet", "--package", "rules", "--bench", "window"])?;
    run("", "cargo", &["bench", "--quiet", "--package", "system", "--bench", "flood"])?;
    run("", "cargo", &["bench", "--quiet", "--package", "run", "--bench", "view"])?;
    // the table of docs/judging.md on fresh holds: so many that each fault is in a hundred
    let holds = if quick { "200" } else { "4400" };
    run("", "cargo", &["run", "--quiet", "--release", "--package", "holds", "--bin", "measure", "--", holds])?;
    run("", "cargo", &["run", "--quiet", "--release", "--package", "holds", "--bin", "labelled"])?;
    run("", "cargo", &["run", "--quiet", "--release", "--package", "holds", "--bin", "speed"])?;
    packages::ensure(BROWSER)?;
    packages::build_binary()?;
    let mut site = vec!["run", "--quiet", "--package", "e2e", "--bin", "site_figures", "--"];
    site.extend(quick.then_some("--quick"));
    run("", "cargo", &site)?;
    let mut figures = vec!["run", "--quiet", "--package", "e2e", "--bin", "figures", "--"];
    figures.extend(quick.then_some("--quick"));
    run("", "cargo", &figures)
}
