//! The paper from the example record: what it says, that it carries the sealed file, that it is vector, that it is quick and small.

use record::sealed::SealedRecord;
use record::verify::{Verification, verify};
use report::attached::{NoSealedFile, sealed_file};
use report::check::{Pages, check};
use report::{Document, Form, Paper, pages, pdf};

const EXAMPLE: &[u8] = include_bytes!("../../../docs/formats/sealed-record.example.json");

fn record() -> SealedRecord {
    serde_json::from_slice(EXAMPLE).unwrap()
}

fn document(r: &SealedRecord) -> Document<'_> {
    Document { parts: &r.parts, signatures: &r.signatures, seal: Some(&r.seal), site: "Merrowick Works" }
}

#[test]
fn a_report_carries_its_sealed_file_byte_for_byte() {
    let r = record();
    for (paper, form) in [(Paper::A4, Form::Report), (Paper::Letter, Form::Report), (Paper::A4, Form::Certificate)] {
        let made = pdf(&document(&r), Some(EXAMPLE.to_vec()), paper, form).unwrap();
        assert!(made.starts_with(b"%PDF-1."));
        let inside = sealed_file(&made).unwrap();
        assert_eq!(inside, EXAMPLE);
        assert!(matches!(verify(&inside, None), Verification::Genuine { .. }));
    }
}

#[test]
fn what_carries_none_is_said_in_a_sentence() {
    let r = record();
    let bare = pdf(&document(&r), None, Paper::A4, Form::Report).unwrap();
    assert_eq!(sealed_file(&bare), Err(NoSealedFile::None));
    assert!(sealed_file(&bare).unwrap_err().to_string().contains("carries no sealed record"));
    assert!(matches!(sealed_file(b"%PDF-1.7 and then nothing"), Err(NoSealedFile::Unreadable(_))));
}

#[test]
fn pages_that_were_touched_are_told_from_those_that_were_printed() {
    let r = record();
    let made = pdf(&document(&r), Some(EXAMPLE.to_vec()), Paper::Letter, Form::Certificate).unwrap();
    let (sealed, pages) = check(&made).unwrap();
    assert_eq!((sealed.as_slice(), pages), (EXAMPLE, Pages::AsPrinted));
    // another site's name on the same record: the sealed file is whole, the pages are not those that were printed
    let mut other = made.clone();
    let at = other.windows(9).position(|w| w == b"Merrowick").unwrap();
    other[at] = b'N';
    let (sealed, pages) = check(&other).unwrap();
    assert_eq!((sealed.as_slice(), pages), (EXAMPLE, Pages::NotAsPrinted));
}

#[test]
fn the_same_record_gives_the_same_bytes() {
    let r = record();
    let made = || pdf(&document(&r), Some(EXAMPLE.to_vec()), Paper::A4, Form::Report).unwrap();
    assert!(made() == made(), "a report depends on something else than its record");
}

#[test]
fn a_certificate_is_one_page_and_a_report_says_draft_until_it_is_signed() {
    let r = record();
    assert_eq!(pages(&document(&r), Paper::A4, Form::Certificate).unwrap().len(), 1);
    assert_eq!(pages(&document(&r), Paper::Letter, Form::Certificate).unwrap().len(), 1);
    let draft = Document { signatures: &[], seal: None, ..document(&r) };
    let all = pages(&draft, Paper::A4, Form::Report).unwrap();
    assert!(all.len() >= 3, "{} pages", all.len());
    assert!(all.iter().all(|p| p.starts_with("<svg") && !p.contains("<image")), "a page is a picture made of points");
}
