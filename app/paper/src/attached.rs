//! The sealed file inside a report.

use crate::{Form, Paper};
use lopdf::{Document, Object};
use std::io::Read;

/// Name under which the sealed file is attached.
pub const NAME: &str = "record.sealed.json";

/// Why no sealed file is found.
#[derive(Debug, PartialEq, Eq, thiserror::Error)]
pub enum NoSealedFile {
    /// Not a PDF, or a broken one.
    #[error("this is no PDF that can be read: {0}")]
    Unreadable(String),
    /// A PDF without it.
    #[error("this PDF carries no sealed record: it was not made here, or it was printed anew. Ask for the file as it was sent")]
    None,
}

/// True for bytes that begin as a PDF does.
pub fn is_pdf(bytes: &[u8]) -> bool {
    bytes.starts_with(b"%PDF-")
}

/// A line of the document's own information.
fn information(document: &Document, name: &[u8]) -> Option<String> {
    let info = document.trailer.get(b"Info").ok()?;
    let info = document.dereference(info).ok()?.1.as_dict().ok()?;
    lopdf::decode_text_string(info.get(name).ok()?).ok()
}

/// Author that the document names: the site that printed it.
pub fn author(pdf: &[u8]) -> Option<String> {
    information(&loaded(pdf).ok()?, b"Author")
}

/// Paper and form in which the document says that it was printed: the width of its first page, and its title.
pub fn printed_as(pdf: &[u8]) -> Option<(Paper, Form)> {
    let document = loaded(pdf).ok()?;
    let page = document.get_dictionary(*document.get_pages().get(&1)?).ok()?;
    let width = page.get(b"MediaBox").ok()?.as_array().ok()?.get(2)?.as_float().ok()?;
    let paper = if width > 600.0 { Paper::Letter } else { Paper::A4 };
    let form = if information(&document, b"Title")?.starts_with(crate::REPORT_TITLE) { Form::Report } else { Form::Certificate };
    Some((paper, form))
}

/// Takes the sealed file out of a report.
///
/// Every file specification of the document is looked at; the one that is called [`NAME`] is taken, byte for byte.
///
/// # Errors
/// When it is no PDF, or carries none.
pub fn sealed_file(pdf: &[u8]) -> Result<Vec<u8>, NoSealedFile> {
    let document = loaded(pdf)?;
    let named = |object: &Object| {
        let dictionary = object.as_dict().ok()?;
        let name = dictionary.get(b"UF").or_else(|_| dictionary.get(b"F")).ok()?;
        let name = lopdf::decode_text_string(name).ok()?;
        let embedded = (name == NAME).then(|| dictionary.get(b"EF").ok())??;
        let embedded = document.dereference(embedded).ok()?.1.as_dict().ok()?;
        let stream = embedded.get(b"F").or_else(|_| embedded.get(b"UF")).ok()?;
        document.dereference(stream).ok()?.1.as_stream().ok().cloned()
    };
    let stream = document.objects.values().find_map(named).ok_or(NoSealedFile::None)?;
    match stream.dict.get(b"Filter").map(|f| f.as_name().map(<[u8]>::to_vec)) {
        Err(_) => Ok(stream.content),
        Ok(Ok(filter)) if filter == b"FlateDecode" => inflated(&stream.content),
        Ok(_) => Err(NoSealedFile::Unreadable("its sealed file is packed in a way in which it is never packed here".to_owned())),
    }
}

/// A PDF as the typesetter writes it: without streams of objects, which could unpack to any size.
fn loaded(pdf: &[u8]) -> Result<Document, NoSealedFile> {
    if names(pdf, &[b"ObjStm", b"XRef"]) {
        return Err(NoSealedFile::Unreadable("it was rewritten by another program. Ask for the file as it was sent".to_owned()));
    }
    Document::load_mem(pdf).map_err(|e| NoSealedFile::Unreadable(e.to_string()))
}

/// True when one of the names stands anywhere, in whichever of the ways it can be written: `/ObjStm` is `/Obj#53tm` too.
fn names(pdf: &[u8], wanted: &[&[u8]]) -> bool {
    let starts = |rest: &[u8], name: &[u8]| {
        let mut at = 0;
        name.iter().all(|byte| {
            let escaped = rest.get(at) == Some(&b'#');
            let (one, taken) = if escaped {
                let hex = rest.get(at + 1..at + 3).and_then(|h| std::str::from_utf8(h).ok());
                (hex.and_then(|h| u8::from_str_radix(h, 16).ok()), 3)
            } else {
                (rest.get(at).copied(), 1)
            };
            at += taken;
            one == Some(*byte)
        })
    };
    let after = |i: usize| pdf.get(i + 1..).unwrap_or_default();
    pdf.iter().enumerate().filter(|(_, b)| **b == b'/').any(|(i, _)| wanted.iter().any(|name| starts(after(i), name)))
}

/// Largest sealed file that is unpacked, bytes: two days at one reading a second.
const MOST_UNPACKED: u64 = 64 << 20;

fn inflated(packed: &[u8]) -> Result<Vec<u8>, NoSealedFile> {
    let mut out = Vec::new();
    let read = flate2::read::ZlibDecoder::new(packed).take(MOST_UNPACKED + 1).read_to_end(&mut out);
    read.map_err(|e| NoSealedFile::Unreadable(e.to_string()))?;
    if out.len() as u64 > MOST_UNPACKED {
        return Err(NoSealedFile::Unreadable("its sealed file unpacks to more than any record has".to_owned()));
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_found_however_it_is_written() {
        for written in ["/ObjStm", "/Obj#53tm", "/#4f#62#6a#53#74#6d", "<</Type/ObjStm/N 1>>", "xx/XRef#20", "/X#52ef"] {
            assert!(names(written.as_bytes(), &[b"ObjStm", b"XRef"]), "{written}");
        }
        for other in ["/Obj", "ObjStm", "/Obj#5", "/Obj#zztm", "/xref", "/Ob#6", "/"] {
            assert!(!names(other.as_bytes(), &[b"ObjStm", b"XRef"]), "{other}");
        }
    }
}
