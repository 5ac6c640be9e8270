//! `zero-leak`: serve, derive, judge, rig, print, verify.

mod backup;
mod compute;
mod demo_site;
mod describe;
mod holds;
mod import;
mod practice;
mod print;
mod rig;
mod say;
mod serve;
mod shown;

use clap::{Parser, Subcommand};
use std::path::PathBuf;
use std::process::ExitCode;

/// Plans, runs, judges and seals code-based pressure tests.
#[derive(Debug, Parser)]
#[command(name = "zero-leak", version)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Serves the application on loopback.
    Serve(serve::Serve),
    /// Brings the tables up to date (address of the owning account in ZERO_LEAK_OWNER_URL).
    Migrate,
    /// Adds a person, or changes their role and password (read from standard input). With --recover: makes a one-time link for an administrator, when the last
    /// one is lost.
    Person {
        /// Sign-in name.
        sign_in: String,
        /// engineer, supervisor, reader, inspector, witness, owner or administrator.
        #[arg(required_unless_present = "recover")]
        role: Option<String>,
        /// Makes this account an administrator's again: its password and second factor end, and a link is printed with which a new password is chosen.
        #[arg(long)]
        recover: bool,
        /// Project in which they have that role; made where there is none of that name.
        #[arg(long, default_value = "First project")]
        project: String,
    },
    /// Ends an account: nobody signs in with it any more; what it did stays under its name.
    EndPerson {
        /// Sign-in name.
        sign_in: String,
    },
    /// Holds the lines of the lists against the derivation of every pack, with the options of the server: 0 each is what is derived; 1 otherwise.
    CheckLines(serve::Serve),
    /// Backs up the database into a new folder (address of the owning account in ZERO_LEAK_OWNER_URL); the sealing key is kept apart.
    Backup {
        /// The folder; it must not be there yet.
        folder: PathBuf,
    },
    /// Restores a backup into an empty database (address of the owning account in ZERO_LEAK_OWNER_URL), with the sealing key that was kept apart.
    Restore {
        /// The folder of the backup.
        folder: PathBuf,
        /// File of the sealing key.
        #[arg(long)]
        key_file: PathBuf,
    },
    /// Checks an exported security log: 0 nothing was altered or taken out; 1 otherwise.
    CheckLog {
        /// The file.
        file: PathBuf,
    },
    /// Derives the window at the gauge for a system and prints it as JSON.
    Derive {
        /// File in the format of docs/formats/system.schema.json.
        file: PathBuf,
    },
    /// Tells as JSON what a file would bring, and stores nothing: a water network (INP), or a list of parts (CSV).
    Import {
        /// The file.
        file: PathBuf,
    },
    /// Judges a hold and prints finding and verdict as JSON; of a folder of holds, one line each.
    Judge {
        /// File in the format of docs/formats/hold-case.schema.json, or a folder of holds (docs/formats/README.md).
        file: PathBuf,
    },
    /// Tells a run in sentences: what was released, what happened, where it stands and what comes next.
    Run {
        /// File in the format of docs/formats/run.schema.json.
        file: PathBuf,
    },
    /// Runs a simulated system behind Modbus TCP, for training and tests.
    Rig(rig::RigOptions),
    /// Prints the report of a sealed file as a PDF; needs no database.
    Print(print::Print),
    /// Makes the key of a file known to the database, so that a server goes on with it after the old one was lost.
    AdoptKey {
        /// File of the sealing key.
        #[arg(long)]
        key_file: PathBuf,
    },
    /// Writes the certificate that printed pages are signed with, for readers of PDF to trust (DER).
    Certificate {
        /// File of the sealing key.
        #[arg(long)]
        key_file: PathBuf,
        /// Where it goes.
        #[arg(long, short)]
        out: PathBuf,
    },
    /// Checks a sealed record or a report with one in it: 0 genuine; 1 altered, signed by nobody, or sealed by another key; 2 unreadable; 3 unaltered,
    /// but who sealed it or what its pages are is not proven.
    Verify {
        /// The sealed file, or the PDF.
        file: PathBuf,
        /// Public key of the installation that should have sealed it: 64 hex digits, or a file that holds them.
        #[arg(long)]
        key: Option<String>,
    },
    /// Prints what is made from the code: `openapi`, `rules`, `system`, `hold-case`, `run`, `sealed-record`, `rig-scenario`.
    #[command(hide = true)]
    Describe {
        /// What.
        what: String,
    },
}

fn main() -> ExitCode {
    let cli = Cli::parse();
    match cli.command {
        Command::Serve(options) => report(serve::serve(&options)),
        Command::Migrate => report(serve::migrate()),
        Command::Person { sign_in, recover: true, .. } => report(serve::recover(&sign_in)),
        Command::Person { sign_in, role, project, .. } => report(serve::person(&sign_in, role.as_deref().unwrap_or_default(), &project)),
        Command::EndPerson { sign_in } => report(serve::end_person(&sign_in)),
        Command::Backup { folder } => report(backup::backup(&folder)),
        Command::Restore { folder, key_file } => report(backup::restore(&folder, &key_file)),
        Command::CheckLines(options) => serve::check_lines(&options).unwrap_or_else(|e| report(Err(e))),
        Command::CheckLog { file } => compute::check_log(&file).unwrap_or_else(|e| report(Err(e))),
        Command::Derive { file } => compute::derive(&file).unwrap_or_else(|e| report(Err(e))),
        Command::Import { file } => report(import::import(&file)),
        Command::Judge { file } if file.is_dir() => holds::judge(&file).unwrap_or_else(|e| report(Err(e))),
        Command::Judge { file } => report(compute::judge(&file)),
        Command::Run { file } => report(compute::run(&file)),
        Command::Print(options) => report(print::print(&options)),
        Command::AdoptKey { key_file } => report(print::key(&key_file).and_then(|key| serve::adopt_key(&key))),
        Command::Certificate { key_file, out } => report(print::certificate(&key_file, &out)),
        Command::Rig(options) => report(rig::rig(&options)),
        Command::Verify { file, key } => compute::verify(&file, key.as_deref()),
        Command::Describe { what } => report(describe::describe(&what)),
    }
}

/// 0 when done; otherwise one sentence on standard error, and 2.
fn report(result: anyhow::Result<()>) -> ExitCode {
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("zero-leak: {e:#}");
            ExitCode::from(2)
        }
    }
}
