//! `cargo xtask check`: format, lints, layers, generated files, the front end's linter.

use crate::packages::{self, SERVER, run};
use crate::{generate, modules, root, web};
use anyhow::{Context, Result, bail};
use serde_json::Value;
use sha2::Digest;
use std::process::Command;

/// What each crate may depend on within the workspace. A crate that is not here fails the check.
const MAY: &[(&str, &[&str])] = &[
    ("quantity", &[]),
    ("physics", &["quantity"]),
    ("stats", &[]),
    ("hold", &["quantity", "physics"]),
    ("system", &["quantity", "rules"]),
    ("terms", &[]),
    ("rules", &["quantity", "physics", "terms"]),
    ("judge", &["terms", "quantity", "physics", "hold", "rules"]),
    ("pack", &["terms", "moment", "quantity", "physics", "rules"]),
    ("record", &["terms", "moment", "quantity", "physics", "rules", "judge", "pack", "run"]),
    ("watch", &["quantity", "physics", "stats"]),
    ("moment", &[]),
    ("run", &["terms", "moment", "quantity", "physics", "rules", "judge", "pack", "watch"]),
    ("rig", &["quantity", "physics"]),
    ("paper", &["record"]),
    ("report", &["paper", "terms", "moment", "quantity", "rules", "judge", "pack", "record"]),
    ("formats", &["quantity", "rules", "run"]),
    ("holdfolder", &["terms", "quantity", "physics", "rules", "hold"]),
    ("host", &[]),
    ("server", &["terms", "moment", "quantity", "physics", "rules", "system", "judge", "pack", "run", "record", "formats", "paper"]),
    (
        "cli",
        &[
            "terms",
            "moment",
            "quantity",
            "run",
            "rules",
            "system",
            "judge",
            "pack",
            "record",
            "rig",
            "paper",
            "report",
            "server",
            "holdfolder",
            "formats",
            "demo",
        ],
    ),
    ("demo", &[]),
    ("e2e", &["host", "demo"]),
    ("cases", &["quantity", "physics", "rules", "formats"]),
    ("fuzz", &["quantity", "rules", "judge", "pack", "record", "paper", "report", "formats", "holdfolder", "rig"]),
    ("holds", &["terms", "quantity", "physics", "hold", "holdfolder"]),
    ("stand", &["host", "demo"]),
    ("xtask", &[]),
];

/// Crates of the core may use none of these: they touch the world.
const NOT_IN_CORE: &[&str] = &["tokio", "sqlx", "axum", "reqwest", "rand", "time", "jiff"];
/// Save this: the calendar and its zones, with no clock.
const BUT: (&str, &str) = ("moment", "jiff");

/// All checks.
pub fn check() -> Result<()> {
    packages::ensure(SERVER)?;
    println!("format ...");
    run("", "cargo", &["fmt", "--all", "--check"])?;
    println!("layers ...");
    layers()?;
    modules::check()?;
    rules_have_tests()?;
    snapshots_current()?;
    println!("lints ...");
    run("", "cargo", &["clippy", "--quiet", "--workspace", "--all-targets", "--", "-D", "warnings"])?;
    println!("front end ...");
    web::build()?;
    run("web", "npm", &["run", "--silent", "lint"])?;
    println!("generated files ...");
    generate::current()?;
    println!("All checks passed.");
    Ok(())
}

/// Holds the dependencies of the workspace's crates against [`MAY`].
fn layers() -> Result<()> {
    let out = Command::new("cargo").args(["metadata", "--format-version", "1", "--no-deps", "--offline"]).current_dir(root()).output()?;
    let metadata: Value = serde_json::from_slice(&out.stdout).context("cargo metadata")?;
    let packages = metadata["packages"].as_array().context("no packages")?;
    let names: Vec<&str> = packages.iter().filter_map(|p| p["name"].as_str()).collect();
    let mut looked_at = 0;
    for package in packages {
        let name = package["name"].as_str().unwrap_or_default();
        let Some((_, may)) = MAY.iter().find(|(n, _)| *n == name) else {
            bail!("{name} is not in the table of layers: say in xtask/src/check.rs what it may use")
        };
        let in_core = package["manifest_path"].as_str().is_some_and(|p| p.contains("/core/"));
        for dependency in package["dependencies"].as_array().into_iter().flatten() {
            let used = dependency["name"].as_str().unwrap_or_default();
            let only_in_tests = dependency["kind"].as_str() == Some("dev");
            if names.contains(&used) && !may.contains(&used) {
                bail!("{name} uses {used}, which its layer may not");
            }
            if in_core && !only_in_tests && NOT_IN_CORE.contains(&used) && (name, used) != BUT {
                bail!("{name} uses {used}: the core touches no clock, file, network or randomness");
            }
            looked_at += 1;
        }
    }
    anyhow::ensure!(looked_at > 50, "only {looked_at} dependencies were looked at");
    Ok(())
}

/// What an independent package saw is only worth something while the files that it looked at are the same.
fn snapshots_current() -> Result<()> {
    let mut looked_at = 0;
    for entry in std::fs::read_dir(root().join("checks"))? {
        let path = entry?.path();
        if !path.to_string_lossy().ends_with(".snapshot.txt") {
            continue;
        }
        for line in std::fs::read_to_string(&path)?.lines() {
            let Some((file, kept)) = line.strip_prefix("sha256 ").and_then(|l| l.split_once(' ')) else { continue };
            let bytes = std::fs::read(root().join(file)).with_context(|| format!("{} names {file}", path.display()))?;
            let now: String = sha2::Sha256::digest(&bytes).iter().map(|b| format!("{b:02x}")).collect();
            anyhow::ensure!(now == kept, "{} is stale: {file} has changed since. Run the script beside it again", path.display());
            looked_at += 1;
        }
    }
    anyhow::ensure!(looked_at > 2, "only {looked_at} files stand behind the snapshots of checks/");
    Ok(())
}

/// Every rule names a test that exists and has the rule's id in its name, and its file.
fn rules_have_tests() -> Result<()> {
    let page = std::fs::read_to_string(root().join("RULES.md")).context("RULES.md is missing: run `cargo xtask generate`")?;
    let tests = Command::new("git").args(["grep", "-hoE", "fn [a-z0-9_]+\\(", "--", "*/tests/*.rs"]).current_dir(root()).output()?;
    let tests = String::from_utf8(tests.stdout)?;
    let mut rules = 0;
    for line in page.lines().filter(|l| l.starts_with("| `")) {
        let cells: Vec<&str> = line.split(" | ").collect();
        let code = |i: usize| cells.get(i).map_or("", |c| c.trim_matches(['|', ' ', '`']));
        let (id, file, test) = (code(0), code(4), code(5));
        anyhow::ensure!(root().join(file).is_file(), "rule {id} names the file {file}, which is not there");
        anyhow::ensure!(tests.contains(&format!("fn {test}(")), "rule {id} names the test {test}, which is not there");
        let name = id.to_lowercase().replace('-', "_");
        // those of a basis stand in the worked case of that basis
        anyhow::ensure!(file.ends_with(".toml") || test.contains(&name), "the test {test} of rule {id} has to have {name} in its name");
        rules += 1;
    }
    anyhow::ensure!(rules > 30, "only {rules} rules were looked at");
    Ok(())
}
