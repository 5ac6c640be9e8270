//! The paper: a record as a printed report or a one-page certificate, PDF/A-3 with the sealed file inside. It lays out; it judges nothing.

mod after;
mod before;
mod chart;
mod content;
mod printable;
mod sections;
mod tested;
mod words;
mod world;

use paper::{Document, Form, Paper, Press, ReportError};
use printable::Letters;
use typst_pdf::{PdfOptions, PdfStandard, PdfStandards};

/// The press of this product.
#[derive(Debug, Clone, Copy, Default)]
pub struct Typesetter;

/// Size of the text of a report, and of a certificate that fits on its page, pt.
const TEXT_PT: f64 = 9.5;
/// Sizes that a certificate is set in, the greatest that fits on one page; a report runs over as many pages as it needs.
const SMALLER_PT: [f64; 5] = [8.7, 8.0, 7.4, 6.8, 6.3];

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

impl Press for Typesetter {
    fn pdf(&self, document: &Document, sealed: Option<Vec<u8>>, paper: Paper, form: Form) -> Result<Vec<u8>, ReportError> {
        whatever_is_written(|letters| pdf_with(Layout { document, sealed: sealed.as_deref(), paper, form, letters }))
    }

    fn pages(&self, document: &Document, paper: Paper, form: Form) -> Result<Vec<String>, ReportError> {
        let pages = whatever_is_written(|letters| compiled(Layout { document, sealed: None, paper, form, letters }))?;
        Ok(pages.pages().iter().map(|p| typst_svg::svg(p, &typst_svg::SvgOptions::default())).collect())
    }
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
