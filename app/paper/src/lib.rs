//! What is printed, by whom it is signed, and how a printed file is checked. What lays the pages out is given as a [`Press`]: whoever checks or
//! signs needs no typesetter.

pub mod attached;
pub mod check;
pub mod paper_key;
pub mod signed;

use record::sealed::{Parts, Seal, SignedStatement};

/// What is printed.
#[derive(Debug, Clone, Copy)]
pub struct Document<'a> {
    /// The content.
    pub parts: &'a Parts,
    /// Signatures so far, in order.
    pub signatures: &'a [SignedStatement],
    /// The seal; none before the first signature.
    pub seal: Option<&'a Seal>,
    /// Name of the site.
    pub site: &'a str,
}

/// Size of the paper.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Paper {
    /// A4
    #[default]
    A4,
    /// US Letter
    Letter,
}

/// How much is printed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Form {
    /// the whole report
    #[default]
    Report,
    /// one page, for a quick test
    Certificate,
}

/// What the title of a whole report begins with; no certificate's does.
pub const REPORT_TITLE: &str = "Pressure test report";

/// Why nothing can be printed.
#[derive(Debug, thiserror::Error)]
pub enum ReportError {
    /// A figure of the record is not finite, so the record has no written form.
    #[error("the report cannot be made: {0}")]
    Content(#[from] serde_json::Error),
    /// The layout failed; a fault of the program, not of the record.
    #[error("the report cannot be laid out: {0}. The sealed file is whole all the same: keep it, and report this")]
    Layout(String),
}

/// Lays records out.
pub trait Press: Send + Sync + std::fmt::Debug {
    /// The report as PDF/A-3a, accessible by PDF/UA-1, with the sealed file attached under [`attached::NAME`] when it is given.
    ///
    /// # Errors
    /// When the layout fails.
    fn pdf(&self, document: &Document, sealed: Option<Vec<u8>>, paper: Paper, form: Form) -> Result<Vec<u8>, ReportError>;

    /// The same pages as pictures for the screen, one SVG a page.
    ///
    /// # Errors
    /// When the layout fails.
    fn pages(&self, document: &Document, paper: Paper, form: Form) -> Result<Vec<String>, ReportError>;
}

/// The report of a press, signed over every byte as printed pages: only what somebody has signed is, never a draft.
///
/// # Errors
/// When the layout fails, or nobody has signed.
pub fn signed_pdf(
    press: &dyn Press,
    document: &Document,
    sealed: Vec<u8>,
    (paper, form): (Paper, Form),
    key: &paper_key::PaperKey,
) -> Result<Vec<u8>, ReportError> {
    let last = document.signatures.last().ok_or_else(|| ReportError::Layout("nobody has signed it".to_owned()))?;
    let subject = &document.parts.subject;
    let reason = format!("Pages as printed from the sealed record of {}, attempt {}", subject.pack_number, subject.attempt);
    let pages = press.pdf(document, Some(sealed), paper, form)?;
    signed::sign(&pages, key, &last.signed_at, &reason).map_err(|e| ReportError::Layout(e.to_string()))
}
