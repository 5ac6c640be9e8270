//! The paper: a record as a printed report or a one-page certificate, PDF/A-3 with the sealed file inside. It lays out; it judges nothing.

mod chart;
mod content;
mod printable;
mod sections;
mod words;
mod world;

pub mod attached;
pub mod check;
pub mod paper_key;
pub mod signed;

use printable::Letters;
use record::sealed::{Parts, Seal, SignedStatement};
use typst_pdf::{PdfOptions, PdfStandard, PdfStandards};

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

/// Size of the text of a report, and of a certificate that fits on its page, pt.
const TEXT_PT: f64 = 9.5;
/// Sizes that a certificate is set in, the greatest that fits on one page; a report runs over as many pages as it needs.
const SMALLER_PT: [f64; 4] = [8.7, 8.0, 7.4, 6.8];

/// What is laid out, and with which letters.
#[derive(Debug, Clone, Copy)]
struct Layout<'a> {
    document: &'a Document<'a>,
    sealed: Option<&'a [u8]>,
    paper: Paper,
    form: Form,
    letters: Letters,
}

fn compiled(layout: Layout) -> Result<typst_layout::PagedDocument, ReportError> {
    let mut made = sized(layout, TEXT_PT)?;
    for pt in SMALLER_PT {
        if layout.form == Form::Report || made.pages().len() == 1 {
            break;
        }
        made = sized(layout, pt)?;
    }
    Ok(made)
}

/// Tries with every letter, and where letters do not join as they stand, with those alone that stand by themselves.
fn whatever_is_written<T>(of: impl Fn(Letters) -> Result<T, ReportError>) -> Result<T, ReportError> {
    of(Letters::All).or_else(|_| of(Letters::Plain))
}

fn sized(layout: Layout, text_pt: f64) -> Result<typst_layout::PagedDocument, ReportError> {
    let Layout { document, sealed, paper, form, letters } = layout;
    let mut content = serde_json::to_value(content::content(document, paper, form, text_pt, sealed.is_some()))?;
    printable::every_text(&mut content, letters);
    let world = world::Files::new(serde_json::to_vec(&content)?, sealed.map(<[u8]>::to_vec));
    typst::compile(&world).output.map_err(|errors| ReportError::Layout(layout_words(&errors)))
}

fn layout_words(errors: &[typst::diag::SourceDiagnostic]) -> String {
    errors.iter().map(|e| e.message.to_string()).collect::<Vec<_>>().join("; ")
}

/// The report as PDF/A-3a, accessible by PDF/UA-1, with the sealed file attached under [`attached::NAME`] when it is given.
///
/// # Errors
/// When the layout fails.
pub fn pdf(document: &Document, sealed: Option<Vec<u8>>, paper: Paper, form: Form) -> Result<Vec<u8>, ReportError> {
    whatever_is_written(|letters| pdf_with(Layout { document, sealed: sealed.as_deref(), paper, form, letters }))
}

fn pdf_with(layout: Layout) -> Result<Vec<u8>, ReportError> {
    let document = layout.document;
    let pages = compiled(layout)?;
    let standards = PdfStandards::new(&[PdfStandard::A_3a, PdfStandard::Ua_1]).map_err(|e| ReportError::Layout(e.message().to_string()))?;
    let ident = document.seal.map_or_else(|| document.parts.subject.released_at.clone(), |s| s.content_sha256.clone());
    let options = PdfOptions {
        ident: typst::foundations::Smart::Custom(ident),
        creator: typst::foundations::Smart::Custom(Some(format!("Zero Leak {}", env!("CARGO_PKG_VERSION")))),
        standards,
        ..PdfOptions::default()
    };
    typst_pdf::pdf(&pages, &options).map_err(|errors| ReportError::Layout(layout_words(&errors)))
}

/// The same, signed over every byte as printed pages: only what somebody has signed is, never a draft.
///
/// # Errors
/// When the layout fails, or nobody has signed.
pub fn signed_pdf(
    document: &Document,
    sealed: Vec<u8>,
    paper: Paper,
    form: Form,
    key: &paper_key::PaperKey,
) -> Result<Vec<u8>, ReportError> {
    let last = document.signatures.last().ok_or_else(|| ReportError::Layout("nobody has signed it".to_owned()))?;
    let subject = &document.parts.subject;
    let reason = format!("Pages as printed from the sealed record of {}, attempt {}", subject.pack_number, subject.attempt);
    let pages = pdf(document, Some(sealed), paper, form)?;
    signed::sign(&pages, key, &last.signed_at, &reason).map_err(|e| ReportError::Layout(e.to_string()))
}

/// The same pages as pictures for the screen, one SVG a page.
///
/// # Errors
/// When the layout fails.
pub fn pages(document: &Document, paper: Paper, form: Form) -> Result<Vec<String>, ReportError> {
    let pages = whatever_is_written(|letters| compiled(Layout { document, sealed: None, paper, form, letters }))?;
    Ok(pages.pages().iter().map(|p| typst_svg::svg(p, &typst_svg::SvgOptions::default())).collect())
}
