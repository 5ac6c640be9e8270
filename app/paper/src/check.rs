//! A report that somebody holds: its sealed file, and whether its pages are those that were printed from it.

use crate::attached::{NoSealedFile, sealed_file};
use crate::signed::{PagesSignature, look};
use crate::{Document, Press};
use record::sealed::SealedRecord;
use record::verify::{Verification, verify_again};
use serde::Serialize;

/// What the pages of a report are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Pages {
    /// signed by the installation that sealed the record, every byte of the file
    Signed,
    /// not signed, and byte for byte what this version prints from the sealed file
    AsPrinted,
    /// not signed, and not what this version prints: printed by another version before pages were signed, or altered
    NotAsPrinted,
    /// signed, and changed since, or signed by somebody else than who sealed the record
    Altered,
}

impl Pages {
    /// In a sentence.
    pub const fn sentence(self) -> &'static str {
        match self {
            Self::Signed => {
                "The pages are those that were printed: the installation that sealed the record signed every byte of this file."
            }
            Self::AsPrinted => "The pages are not signed. They are, byte for byte, what this version prints from the sealed file.",
            Self::NotAsPrinted => {
                "The pages are in doubt: they are not signed, and not what this version prints from the sealed file. Another version printed them, or they \
                 were altered. Rely on the sealed file alone, or print it anew."
            }
            Self::Altered => {
                "The pages are not those that were printed: their signature does not fit this file, or is not by the installation that sealed the record."
            }
        }
    }
}

/// Takes the sealed file out of a report and looks at its pages: by their signature, and where there is none by printing them anew with the press, in the size
/// and form that the report itself has, to compare.
///
/// # Errors
/// When it is no PDF, or carries no sealed file.
pub fn check(bytes: &[u8], press: &dyn Press) -> Result<(Vec<u8>, Pages), NoSealedFile> {
    let sealed = sealed_file(bytes)?;
    let pages = match look(bytes) {
        PagesSignature::By(key) => {
            let seal = serde_json::from_slice::<SealedRecord>(&sealed).ok().map(|r| r.seal.public_key);
            if seal == Some(key.to_hex()) { Pages::Signed } else { Pages::Altered }
        }
        PagesSignature::Broken(_) => Pages::Altered,
        // nothing is laid out of a file that does not prove itself
        PagesSignature::None if whole(&sealed) && printed_anew(bytes, &sealed, press) == Some(true) => Pages::AsPrinted,
        PagesSignature::None => Pages::NotAsPrinted,
    };
    Ok((sealed, pages))
}

fn whole(sealed: &[u8]) -> bool {
    matches!(verify_again(sealed, None, |_| false), Verification::Genuine { .. })
}

fn printed_anew(bytes: &[u8], sealed: &[u8], press: &dyn Press) -> Option<bool> {
    // cut off: not worth a layout
    if !bytes.trim_ascii_end().ends_with(b"%%EOF") {
        return Some(false);
    }
    let record: SealedRecord = serde_json::from_slice(sealed).ok()?;
    let site = crate::attached::author(bytes)?;
    let document = Document { parts: &record.parts, signatures: &record.signatures, seal: Some(&record.seal), site: &site };
    let (paper, form) = crate::attached::printed_as(bytes)?;
    press.pdf(&document, Some(sealed.to_vec()), paper, form).ok().map(|made| made == bytes)
}
