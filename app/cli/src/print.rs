//! `zero-leak print`: the report of a sealed file, without a database.

use anyhow::{Context, Result};
use clap::{Args, ValueEnum};
use paper::Press;
use paper::paper_key::PaperKey;
use record::key::SealingKey;
use record::sealed::SealedRecord;
use report::Typesetter;
use std::path::{Path, PathBuf};

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
    /// File of the key that sealed it: the pages are signed with it.
    #[arg(long)]
    key_file: Option<PathBuf>,
}

/// The key of a file.
pub fn key(file: &Path) -> Result<SealingKey> {
    let text = std::fs::read_to_string(file).with_context(|| format!("{} cannot be read", file.display()))?;
    SealingKey::from_hex(&text).with_context(|| format!("{} does not hold a sealing key", file.display()))
}

/// Writes the certificate of printed pages.
pub fn certificate(key_file: &Path, out: &Path) -> Result<()> {
    let certificate = PaperKey::of(&key(key_file)?)?.certificate_der()?;
    std::fs::write(out, certificate).with_context(|| format!("{} cannot be written", out.display()))
}

/// Prints a report from a sealed file.
pub fn print(options: &Print) -> Result<()> {
    let bytes = std::fs::read(&options.file).with_context(|| format!("{} cannot be read", options.file.display()))?;
    let record: SealedRecord = serde_json::from_slice(&bytes).with_context(|| format!("{} is no sealed record", options.file.display()))?;
    let document = paper::Document { parts: &record.parts, signatures: &record.signatures, seal: Some(&record.seal), site: &options.site };
    let paper = match options.paper {
        PaperName::A4 => paper::Paper::A4,
        PaperName::Letter => paper::Paper::Letter,
    };
    let form = if options.certificate { paper::Form::Certificate } else { paper::Form::Report };
    let pdf = match &options.key_file {
        Some(file) => {
            let key = key(file)?;
            anyhow::ensure!(
                key.public().to_hex() == record.seal.public_key,
                "{} is not the key that sealed this record: pages are signed by who sealed it",
                file.display()
            );
            paper::signed_pdf(&Typesetter, &document, bytes, (paper, form), &PaperKey::of(&key)?)?
        }
        None => Typesetter.pdf(&document, Some(bytes), paper, form)?,
    };
    std::fs::write(&options.out, pdf).with_context(|| format!("{} cannot be written", options.out.display()))
}
