//! Reads a hold from a folder with `case.json` and `readings.csv`, in litres, bar and °C, and hands it over in SI.

mod case;
mod line;
mod readings;

pub use case::{Case, LeakUnit};
pub use line::{FoundDefect, Line, judge};
pub use readings::read_readings;

use std::path::Path;

/// A hold of a folder.
#[derive(Debug, Clone)]
pub struct FolderHold {
    /// What is known.
    pub case: Case,
    /// The same in SI.
    pub hold: hold::Hold,
    /// Its readings.
    pub record: hold::Record,
}

/// Why a folder cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum FolderError {
    /// a file is missing
    #[error("{file} cannot be read: {why}")]
    File {
        /// Which.
        file: String,
        /// Why.
        why: String,
    },
    /// a file does not say what it should
    #[error("{file} does not describe a hold: {why}")]
    Content {
        /// Which.
        file: String,
        /// Why.
        why: String,
    },
}

/// True for a folder that holds a case of this form.
pub fn is_case(folder: &Path) -> bool {
    folder.join("case.json").is_file() && folder.join("readings.csv").is_file()
}

/// Reads a folder; nothing but its `case.json` and `readings.csv` is looked at.
///
/// # Errors
/// When one of them is missing or does not say what it should.
pub fn read(folder: &Path) -> Result<FolderHold, FolderError> {
    let name = |file: &str| folder.join(file).display().to_string();
    let file_error = |file: &str, e: &std::io::Error| FolderError::File { file: name(file), why: e.to_string() };
    let text = std::fs::read_to_string(folder.join("case.json")).map_err(|e| file_error("case.json", &e))?;
    let case: Case = serde_json::from_str(&text).map_err(|e| FolderError::Content { file: name("case.json"), why: e.to_string() })?;
    let bytes = std::fs::read(folder.join("readings.csv")).map_err(|e| file_error("readings.csv", &e))?;
    of(case, &bytes).map_err(|why| FolderError::Content { file: folder.display().to_string(), why })
}

/// A hold from a case and the bytes of its readings.
///
/// # Errors
/// In a sentence.
pub fn of(case: Case, readings: &[u8]) -> Result<FolderHold, String> {
    let mut hold = case.hold()?;
    let mut record = read_readings(&case, readings)?;
    // times may have any origin; the hold starts with its first reading
    if let Some(origin) = record.time_s.first().copied().filter(|t| *t < -1.0 || *t > 2.0 * case.logging.interval_s) {
        record.time_s.iter_mut().for_each(|t| *t -= origin);
        for step in &mut hold.steps {
            step.start_s -= origin;
            step.end_s -= origin;
        }
    }
    Ok(FolderHold { case, hold, record })
}
