//! A report that somebody holds: its sealed file, and whether its pages are those that are printed from it.

use crate::attached::{NoSealedFile, sealed_file};
use crate::{Document, pdf};
use record::sealed::SealedRecord;
use serde::Serialize;

/// What the pages of a report are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Pages {
    /// byte for byte what this version prints from the sealed file
    AsPrinted,
    /// not what this version prints: another version's, or altered
    NotAsPrinted,
}

impl Pages {
    /// In a sentence.
    pub const fn sentence(self) -> &'static str {
        match self {
            Self::AsPrinted => "The pages are, byte for byte, what is printed from the sealed file.",
            Self::NotAsPrinted => {
                "The pages are not what this version prints from the sealed file: another version printed them, or they were altered. Rely on the sealed file alone."
            }
        }
    }
}

/// Takes the sealed file out of a report and prints it anew, in the size and form that the report itself has, to compare.
///
/// # Errors
/// When it is no PDF, or carries no sealed file.
pub fn check(bytes: &[u8]) -> Result<(Vec<u8>, Pages), NoSealedFile> {
    let sealed = sealed_file(bytes)?;
    let same = || {
        let record: SealedRecord = serde_json::from_slice(&sealed).ok()?;
        let site = crate::attached::author(bytes)?;
        let document = Document { parts: &record.parts, signatures: &record.signatures, seal: Some(&record.seal), site: &site };
        let (paper, form) = crate::attached::printed_as(bytes)?;
        pdf(&document, Some(sealed.clone()), paper, form).ok().map(|made| made == bytes)
    };
    let pages = if same() == Some(true) { Pages::AsPrinted } else { Pages::NotAsPrinted };
    Ok((sealed, pages))
}
