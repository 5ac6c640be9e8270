//! Puts up the demo's site, or an empty database, for whoever works on the program: what `cargo xtask` runs once both are built.

mod database;
mod demo;

use anyhow::{Context, Result, bail};
use clap::{Parser, Subcommand};
use std::path::{Path, PathBuf};

#[derive(Debug, Parser)]
#[command(name = "stand")]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// The demo's site until Ctrl-C.
    Demo {
        /// Throws the demo's data away and loads it again.
        #[arg(long)]
        fresh: bool,
        /// Port of the application.
        #[arg(long, default_value_t = 8600)]
        port: u16,
    },
    /// The demo's site in a folder for as long as a command runs; it is told `ZERO_LEAK_BASE` and `ZERO_LEAK_PEOPLE`.
    With {
        /// Folder of the installation.
        folder: PathBuf,
        /// The command.
        #[arg(last = true, required = true)]
        command: Vec<String>,
    },
    /// An empty database with the migrations applied for as long as a command runs; it is told `DATABASE_URL`.
    Database {
        /// The command.
        #[arg(last = true, required = true)]
        command: Vec<String>,
    },
}

/// The workspace's folder.
fn root() -> PathBuf {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    here.ancestors().nth(2).unwrap_or(here).to_path_buf()
}

/// The program, which is built beside this one.
fn binary() -> Result<PathBuf> {
    Ok(std::env::current_exe()?.with_file_name("zero-leak"))
}

/// Runs a command in the workspace's folder and fails when it fails.
async fn run(command: &[String], env: &[(&str, &str)]) -> Result<()> {
    let (program, args) = command.split_first().context("no command was given")?;
    let status = tokio::process::Command::new(program)
        .args(args)
        .current_dir(root())
        .envs(env.iter().copied())
        .status()
        .await
        .with_context(|| format!("{program} cannot be started: is it installed?"))?;
    if !status.success() {
        bail!("`{}` failed", command.join(" "));
    }
    Ok(())
}

async fn with(folder: &Path, command: &[String]) -> Result<()> {
    let (installation, people) = demo::start(folder, None).await?;
    let (base, people) = (installation.base(), serde_json::to_string(&people)?);
    let result = run(command, &[("ZERO_LEAK_BASE", &base), ("ZERO_LEAK_PEOPLE", &people)]).await;
    installation.stop().await?;
    result
}

#[tokio::main]
async fn main() -> Result<()> {
    match Cli::parse().command {
        Command::Demo { fresh, port } => demo::demo(fresh, port).await,
        Command::With { folder, command } => with(&folder, &command).await,
        Command::Database { command } => database::with(&command).await,
    }
}
