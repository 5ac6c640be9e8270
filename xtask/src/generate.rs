//! `cargo xtask generate`: what is made from the code, and whether what is committed is that.

use crate::packages::{build_binary, output, run, run_with};
use crate::{root, web};
use anyhow::{Context, Result, bail};
use std::collections::BTreeMap;
use std::path::Path;

/// What is described, and the file it goes to.
const DESCRIBED: [(&str, &str); 11] = [
    ("openapi", "docs/openapi.json"),
    ("rules", "RULES.md"),
    ("test-bases", "docs/test-bases.md"),
    ("fields", "docs/formats/fields.md"),
    ("system", "docs/formats/system.schema.json"),
    ("hold-case", "docs/formats/hold-case.schema.json"),
    ("run", "docs/formats/run.schema.json"),
    ("sealed-record", "docs/formats/sealed-record.schema.json"),
    ("shown", "web/src/units/shown.gen.json"),
    ("shown-cases", "web/tests/units/shown-cases.gen.json"),
    ("rig-scenario", "docs/formats/rig-scenario.schema.json"),
];

/// Makes all of it.
pub fn generate() -> Result<()> {
    queries(&root().join(".sqlx"))?;
    let binary = build_binary()?;
    for (what, file) in DESCRIBED {
        let path = root().join(file);
        path.parent().map_or(Ok(()), std::fs::create_dir_all)?;
        std::fs::write(path, output(&binary, &["describe", what])?)?;
    }
    web::packages()?;
    run("web", "npm", &["run", "--silent", "types"])
}

/// Fails when a committed file is not what the code makes.
pub fn current() -> Result<()> {
    let binary = build_binary()?;
    for (what, file) in DESCRIBED {
        let made = output(&binary, &["describe", what])?;
        if std::fs::read_to_string(root().join(file)).unwrap_or_default() != made {
            bail!("{file} is not what the code makes: run `cargo xtask generate` and commit it");
        }
    }
    let types = root().join("target/schema.gen.ts");
    run("web", "npx", &["openapi-typescript", "../docs/openapi.json", "-o", "../target/schema.gen.ts"])?;
    if std::fs::read(&types)? != std::fs::read(root().join("web/src/api/schema.gen.ts"))? {
        bail!("web/src/api/schema.gen.ts is not what the API makes: run `cargo xtask generate` and commit it");
    }
    let fresh = root().join("target/sqlx-fresh");
    queries(&fresh)?;
    if hashes(&fresh)? != hashes(&root().join(".sqlx"))? {
        bail!(".sqlx does not hold the queries of the code: run `cargo xtask generate` and commit it");
    }
    Ok(())
}

/// Checks every query against a fresh database with the migrations applied, and writes what was found.
fn queries(into: &Path) -> Result<()> {
    if into.exists() {
        std::fs::remove_dir_all(into)?;
    }
    std::fs::create_dir_all(into)?;
    // the program itself cannot be built while a query is new
    let stand = root().join("target/debug/stand");
    if !stand.exists() {
        run("", "cargo", &["build", "--quiet", "--package", "stand"])?;
    }
    let stand = stand.display().to_string();
    // the macros of a crate that is up to date are not run again
    touch(&root().join("app/server/src/lib.rs"))?;
    let into = into.display().to_string();
    let result = run_with(
        "",
        &stand,
        &["database", "--", "cargo", "check", "--quiet", "--package", "server"],
        &[("SQLX_OFFLINE", "false"), ("SQLX_OFFLINE_DIR", &into)],
    );
    touch(&root().join("app/server/src/lib.rs"))?;
    result
}

fn touch(file: &Path) -> Result<()> {
    let f = std::fs::OpenOptions::new().append(true).open(file).with_context(|| file.display().to_string())?;
    Ok(f.set_modified(std::time::SystemTime::now())?)
}

/// Content of each file of a folder by its name, but for the length that a database guesses for a column: it is another from one build of it to the next.
fn hashes(folder: &Path) -> Result<BTreeMap<String, String>> {
    let mut all = BTreeMap::new();
    for entry in std::fs::read_dir(folder)? {
        let entry = entry?;
        let content = std::fs::read_to_string(entry.path())?;
        let told: Vec<&str> = content.lines().filter(|l| !l.trim_start().starts_with("\"max_size\":")).collect();
        all.insert(entry.file_name().to_string_lossy().into_owned(), told.join("\n"));
    }
    anyhow::ensure!(!all.is_empty(), "{} holds no query", folder.display());
    Ok(all)
}
