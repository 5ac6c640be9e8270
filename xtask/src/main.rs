//! The workspace's own commands: `cargo xtask demo`, `test`, `check`, `routes`, `generate`, `shots`, `bench`.

mod bench;
mod check;
mod generate;
mod modules;
mod packages;
mod routes;
mod shots;
mod tests;
mod web;

use anyhow::Result;
use clap::{Parser, Subcommand};
use std::path::PathBuf;

#[derive(Debug, Parser)]
#[command(name = "cargo xtask")]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Installs what is missing, builds, starts database and server, loads the demo once, prints the address.
    Demo {
        /// Throws the demo's data away and loads it again.
        #[arg(long)]
        fresh: bool,
        /// Port of the application.
        #[arg(long, default_value_t = 8600)]
        port: u16,
    },
    /// Every test, the browser's included.
    Test,
    /// Format, lints, layers, generated files.
    Check,
    /// Generated requests on every route as engineer, supervisor and owner: never 5xx, every answer as docs/openapi.json describes it.
    Routes {
        /// How many.
        #[arg(long, default_value_t = 1000)]
        calls: u32,
    },
    /// Makes what is made from the code: rules page, API, types, schemas, checked queries.
    Generate,
    /// Pictures of the main views from the demo's data.
    Shots {
        /// Where to; `docs/screenshots` by default.
        #[arg(long)]
        out: Option<PathBuf>,
        /// Only views whose name contains this.
        #[arg(long, default_value = "")]
        only: String,
    },
    /// Figures, each beside its reference in the same run.
    Bench {
        /// Records for half a minute instead of five.
        #[arg(long)]
        quick: bool,
    },
}

/// The workspace's folder.
pub fn root() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).parent().map_or_else(|| PathBuf::from("."), PathBuf::from)
}

/// Installs and builds what the demo needs; what puts it up.
fn stand() -> Result<String> {
    packages::ensure(packages::SERVER)?;
    web::build()?;
    Ok(packages::build_aloud()?.display().to_string())
}

/// Runs the demo until Ctrl-C, which it hears itself.
fn demo(fresh: bool, port: u16) -> Result<()> {
    use std::os::unix::process::CommandExt;
    let mut stand = std::process::Command::new(stand()?);
    stand.args(["demo", "--port", &port.to_string()]).args(fresh.then_some("--fresh"));
    Err(stand.exec().into())
}

fn main() -> Result<()> {
    match Cli::parse().command {
        Command::Demo { fresh, port } => demo(fresh, port),
        Command::Test => tests::test(),
        Command::Check => check::check(),
        Command::Routes { calls } => routes::routes(calls),
        Command::Generate => generate::generate(),
        Command::Shots { out, only } => shots::shots(out, &only),
        Command::Bench { quick } => bench::bench(quick),
    }
}
