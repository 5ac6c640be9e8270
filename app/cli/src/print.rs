//! `zero-leak print`: the report of a sealed file, without a database.

use anyhow::{Context, Result};
use clap::{Args, ValueEnum};
use record::sealed::SealedRecord;
use std::path::PathBuf;

/// Size of the paper.
#[derive(Debug, Clone, Copy, ValueEnum)]
enum PaperName {
    /// A4
    A4,
    /// US Letter
    Letter,
}

/// Options of `print`.
#[derive(Debug, Args)]
pub struct Print {
    /// The sealed file.
    file: PathBuf,
    /// Where the PDF goes.
    #[arg(long, short)]
    out: PathBuf,
    /// Name of the site that the pages carry.
    #[arg(long, default_value = "This site")]
    site: String,
    /// Size of the paper.
    #[arg(long, value_enum, default_value = "a4")]
    paper: PaperName,
    /// One page instead of the whole report.
    #[arg(long)]
    certificate: bool,
}

/// Prints a report from a sealed file.
pub fn print(options: &Print) -> Result<()> {
    let bytes = std::fs::read(&options.file).with_context(|| format!("{} cannot be read", options.file.display()))?;
    let record: SealedRecord = serde_json::from_slice(&bytes).with_context(|| format!("{} is no sealed record", options.file.display()))?;
    let document = report::Document { parts: &record.parts, signatures: &record.signatures, seal: Some(&record.seal), site: &options.site };
    let paper = match options.paper {
        PaperName::A4 => report::Paper::A4,
        PaperName::Letter => report::Paper::Letter,
    };
    let form = if options.certificate { report::Form::Certificate } else { report::Form::Report };
    let pdf = report::pdf(&document, Some(bytes), paper, form)?;
    std::fs::write(&options.out, pdf).with_context(|| format!("{} cannot be written", options.out.display()))
}
