//! `cargo xtask test`.

use crate::packages::{self, BROWSER, SERVER, run};
use crate::web;
use anyhow::Result;

/// Every test: the browser's need the server's binary and the front end's build.
pub fn test() -> Result<()> {
    packages::ensure(SERVER)?;
    packages::ensure(BROWSER)?;
    web::build()?;
    run("web", "npm", &["run", "--silent", "test"])?;
    packages::build_binary()?;
    run("", "cargo", &["test", "--workspace", "--quiet", "--no-fail-fast"])
}
