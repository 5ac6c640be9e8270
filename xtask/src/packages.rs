//! Debian packages that a fresh machine lacks, and plain commands.

use crate::root;
use anyhow::{Context, Result, bail};
use std::collections::BTreeSet;
use std::io::BufRead;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

/// A program and the Debian package that brings it.
pub type Needed = (&'static str, &'static str);
/// For the application itself.
pub const SERVER: &[Needed] = &[("mariadbd", "mariadb-server"), ("mariadb-install-db", "mariadb-server")];
/// For the browser tests and the pictures.
pub const BROWSER: &[Needed] = &[("chromium", "chromium"), ("chromedriver", "chromium-driver")];

fn present(program: &str) -> bool {
    let path = std::env::var("PATH").unwrap_or_default();
    path.split(':').chain(["/usr/sbin", "/usr/bin"]).any(|d| Path::new(d).join(program).exists())
}

fn is_root() -> bool {
    use std::os::unix::fs::MetadataExt;
    std::fs::metadata("/proc/self").is_ok_and(|m| m.uid() == 0)
}

/// Installs what is missing and says so; without root it names the one line to run.
///
/// # Errors
/// When something is missing and cannot be installed.
pub fn ensure(needed: &[Needed]) -> Result<()> {
    let mut missing: Vec<&str> = needed.iter().filter(|(program, _)| !present(program)).map(|(_, package)| *package).collect();
    missing.dedup();
    if missing.is_empty() {
        return Ok(());
    }
    let line = format!("apt-get update && apt-get install -y --no-install-recommends {}", missing.join(" "));
    if !is_root() {
        bail!("{} must be installed; run this one line, then try again:\n  sudo sh -c '{line}'", missing.join(", "));
    }
    println!("Installing {} ...", missing.join(", "));
    let status = Command::new("sh")
        .args(["-c", &format!("({line}) >/dev/null 2>&1 || ({line})")])
        .env("DEBIAN_FRONTEND", "noninteractive")
        .status()?;
    if !status.success() {
        bail!("{} could not be installed: run `{line}` and see what it says", missing.join(", "));
    }
    Ok(())
}

/// Runs a command in a folder of the workspace and fails when it fails.
///
/// # Errors
/// When it cannot be started or fails.
pub fn run(folder: &str, program: &str, args: &[&str]) -> Result<()> {
    run_with(folder, program, args, &[])
}

/// As [`run`], with variables of the environment.
///
/// # Errors
/// When it cannot be started or fails.
pub fn run_with(folder: &str, program: &str, args: &[&str], env: &[(&str, &str)]) -> Result<()> {
    let status = Command::new(program)
        .args(args)
        .current_dir(root().join(folder))
        .envs(env.iter().copied())
        .status()
        .with_context(|| format!("{program} cannot be started: is it installed?"))?;
    if !status.success() {
        bail!("`{program} {}` failed", args.join(" "));
    }
    Ok(())
}

/// What a command prints.
///
/// # Errors
/// When it cannot be started or fails.
pub fn output(program: &Path, args: &[&str]) -> Result<String> {
    let out = Command::new(program)
        .args(args)
        .current_dir(root())
        .output()
        .with_context(|| format!("{} cannot be started", program.display()))?;
    if !out.status.success() {
        bail!("`{} {}` failed: {}", program.display(), args.join(" "), String::from_utf8_lossy(&out.stderr));
    }
    Ok(String::from_utf8(out.stdout)?)
}

/// Builds the program and what puts up the demo, and tells where the program is.
///
/// # Errors
/// When it does not compile.
pub fn build_binary() -> Result<PathBuf> {
    run("", "cargo", &[&["build", "--quiet"], BUILT].concat())?;
    Ok(root().join("target/debug/zero-leak"))
}

/// What is built together, so that what both use is built once.
const BUILT: &[&str] = &["--package", "cli", "--package", "stand"];

/// How often it is said how far a build is.
const SAID_EVERY: Duration = Duration::from_secs(5);

/// As [`build_binary`], saying every few seconds how many packages of how many are built; what puts up the demo.
///
/// # Errors
/// When it does not compile.
pub fn build_aloud() -> Result<PathBuf> {
    println!("Building ...");
    let tree = output(Path::new("cargo"), &[&["tree", "--edges", "normal,build", "--prefix", "none", "--format", "{p}"], BUILT].concat())?;
    let all: BTreeSet<&str> = tree.lines().map(|l| l.trim_end_matches(" (*)")).filter(|l| !l.is_empty()).collect();
    let mut build = Command::new("cargo")
        .args([&["build", "--quiet", "--message-format", "json-render-diagnostics"], BUILT].concat())
        .current_dir(root())
        .stdout(Stdio::piped())
        .spawn()
        .context("cargo cannot be started: is it installed?")?;
    let out = build.stdout.take().context("cargo says nothing")?;
    let (began, mut said, mut built) = (Instant::now(), Instant::now(), BTreeSet::new());
    for line in std::io::BufReader::new(out).lines() {
        let message: serde_json::Value = serde_json::from_str(&line?).unwrap_or_default();
        if message["reason"] == "compiler-artifact" {
            built.insert(message["package_id"].to_string());
        }
        if said.elapsed() >= SAID_EVERY {
            said = Instant::now();
            println!("  {} of {} packages, {} s", built.len().min(all.len()), all.len(), began.elapsed().as_secs());
        }
    }
    if !build.wait()?.success() {
        bail!("the program does not compile");
    }
    Ok(root().join("target/debug/stand"))
}
