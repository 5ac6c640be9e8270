//! The front end: its packages, and its build when a source is newer than the last one.

use crate::packages::run;
use crate::root;
use anyhow::Result;
use std::path::Path;
use std::time::SystemTime;

fn modified(path: &Path) -> SystemTime {
    std::fs::metadata(path).and_then(|m| m.modified()).unwrap_or(SystemTime::UNIX_EPOCH)
}

/// Newest change below a folder.
fn newest(path: &Path) -> SystemTime {
    let mut latest = modified(path);
    if let Ok(entries) = std::fs::read_dir(path) {
        for entry in entries.flatten() {
            let p = entry.path();
            latest = latest.max(if p.is_dir() { newest(&p) } else { modified(&p) });
        }
    }
    latest
}

/// Installs the front end's packages when they are missing or the lock file is newer.
///
/// # Errors
/// When npm fails.
pub fn packages() -> Result<()> {
    let web = root().join("web");
    let mark = web.join("node_modules/.installed");
    if !mark.exists() || modified(&mark) < modified(&web.join("package-lock.json")) {
        println!("Installing the front end's packages ...");
        run("web", "npm", &["ci", "--no-audit", "--no-fund", "--loglevel=error"])?;
        std::fs::write(mark, "")?;
    }
    Ok(())
}

/// Builds the front end when a source is newer than the last build.
///
/// # Errors
/// When it does not build.
pub fn build() -> Result<()> {
    packages()?;
    let web = root().join("web");
    let built = modified(&web.join("dist/index.html"));
    let sources = ["src", "worker", "index.html", "package.json", "vite.config.ts", "vite.worker.config.mjs", "tsconfig.json"]
        .iter()
        .map(|s| newest(&web.join(s)))
        .max();
    if sources.is_some_and(|s| s > built) {
        println!("Building the front end ...");
        run("web", "npm", &["run", "--silent", "build"])?;
    }
    Ok(())
}
