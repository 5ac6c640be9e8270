//! `case.json`, `readings.csv` and `truth.json` of a made hold.

use crate::make::Made;
use std::path::Path;

/// Writes a hold into a folder of its name.
///
/// # Errors
/// When the folder cannot be written.
pub fn write(made: &Made, into: &Path) -> std::io::Result<()> {
    let folder = into.join(&made.name);
    std::fs::create_dir_all(&folder)?;
    std::fs::write(folder.join("case.json"), serde_json::to_vec_pretty(&made.case)?)?;
    std::fs::write(folder.join("readings.csv"), &made.readings)?;
    std::fs::write(folder.join("truth.json"), serde_json::to_vec_pretty(&made.truth)?)
}
