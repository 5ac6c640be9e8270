//! Reads a hold from a folder with `case.json` and `readings.csv`, in litres, bar and °C, and hands it over in SI.

mod case;
mod error;
mod line;
mod readings;

pub use case::{Case, LeakUnit};
pub use error::{ContentError, FolderError};
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
    let read = |file: &str| std::fs::read(folder.join(file)).map_err(|source| FolderError::File { file: name(file), source });
    let content = |file: String| move |source: ContentError| FolderError::Content { file, source };
    let case: Case = serde_json::from_slice(&read("case.json")?).map_err(|e| content(name("case.json"))(e.into()))?;
    of(case, &read("readings.csv")?).map_err(content(folder.display().to_string()))
}

/// A hold from a case and the bytes of its readings.
///
/// # Errors
/// What is wrong with it.
pub fn of(case: Case, readings: &[u8]) -> Result<FolderHold, ContentError> {
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
