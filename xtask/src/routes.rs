//! `cargo xtask routes`: generated requests on every route of an installation with the demo's data, by an independent package.

use crate::packages::{self, run, run_with};
use crate::{root, stand};
use anyhow::Result;

/// For the package that makes the requests.
const PYTHON: &[(&str, &str)] = &[("python3", "python3"), ("pip3", "python3-pip")];

/// Starts an installation of its own, calls its routes, and stops it.
pub fn routes(calls: u32) -> Result<()> {
    packages::ensure(PYTHON)?;
    let python = root().join(".local/python");
    if !python.join("schemathesis").exists() {
        println!("Installing what checks/requirements.txt names ...");
        let into = python.display().to_string();
        run(
            "",
            "python3",
            &["-m", "pip", "install", "--quiet", "--disable-pip-version-check", "--target", &into, "-r", "checks/requirements.txt"],
        )?;
    }
    let folder = root().join(".local/routes");
    if folder.exists() {
        std::fs::remove_dir_all(&folder)?;
    }
    run_with(
        "",
        &stand()?,
        &["with", &folder.display().to_string(), "--", "python3", "checks/routes.py", &calls.to_string()],
        &[("PYTHONPATH", &python.display().to_string()), ("PYTHONDONTWRITEBYTECODE", "1")],
    )
}
