//! Signed pages: every byte counts, and no other key passes.

use paper::check::{Pages, check};
use paper::paper_key::PaperKey;
use paper::signed::{PagesSignature, look};
use paper::{Document, Form, Paper, signed_pdf};
use record::key::SealingKey;
use record::sealed::SealedRecord;
use report::Typesetter;
use std::sync::LazyLock;

const EXAMPLE: &[u8] = include_bytes!("../../../docs/formats/sealed-record.example.json");

/// The record of the example, sealed and printed by a key of the test.
fn printed(secret: u8) -> Vec<u8> {
    let sealing = SealingKey::from_bytes([secret; 32]);
    let mut r: SealedRecord = serde_json::from_slice(EXAMPLE).unwrap();
    let content = record::sealed::Content::new(&r.parts).unwrap();
    let own = r.signatures.remove(0).sign(None, &sealing).unwrap();
    let (seal, file) = content.seal(std::slice::from_ref(&own), &sealing).unwrap();
    let document = Document { parts: &r.parts, signatures: &[own], seal: Some(&seal), site: "Merrowick Works" };
    signed_pdf(&Typesetter, &document, file, (Paper::A4, Form::Certificate), &PaperKey::of(&sealing).unwrap()).unwrap()
}

static PDF: LazyLock<Vec<u8>> = LazyLock::new(|| printed(7));

#[test]
fn signed_pages_prove_themselves_and_are_the_same_each_time() {
    let sealing = SealingKey::from_bytes([7; 32]);
    assert_eq!(look(&PDF), PagesSignature::By(sealing.public()));
    assert_eq!(check(&PDF, &Typesetter).unwrap().1, Pages::Signed);
    assert_eq!(*PDF, printed(7));
    let (one, other) = (PaperKey::of(&sealing).unwrap(), PaperKey::of(&SealingKey::from_bytes([8; 32])).unwrap());
    assert_ne!(one.certificate_der().unwrap(), other.certificate_der().unwrap());
    lopdf::Document::load_mem(&PDF).unwrap();
}

#[test]
fn any_byte_that_is_changed_added_or_taken_away_is_found() {
    // every byte of what is not deflated is as good as every other; the whole file in steps, and each of the last ones
    let places = (0..PDF.len()).step_by(977).chain(PDF.len() - 14_000..PDF.len());
    let mut tried = 0;
    for at in places {
        let mut altered = PDF.clone();
        altered[at] ^= 1;
        assert!(
            !matches!(look(&altered), PagesSignature::By(_)),
            "byte {at} of {}: {:?}",
            PDF.len(),
            String::from_utf8_lossy(&PDF[at - 60..at + 30])
        );
        tried += 1;
    }
    assert!(tried > 14_000);
    for end in [&b"\n"[..], b"%painted over\n", b"\0"] {
        assert!(matches!(look(&[&PDF[..], end].concat()), PagesSignature::Broken(_)));
    }
    assert!(!matches!(look(&PDF[..PDF.len() - 1]), PagesSignature::By(_)));
}

#[test]
fn pages_painted_over_by_an_update_are_not_those_that_were_printed() {
    let mut update = lopdf::Document::load_mem(&PDF).unwrap();
    let page = *update.get_pages().get(&1).unwrap();
    update.add_page_contents(page, b"1 0 0 rg 100 700 300 40 re f".to_vec()).unwrap();
    let mut painted = Vec::new();
    update.save_to(&mut painted).unwrap();
    assert!(!matches!(look(&painted), PagesSignature::By(_)));
    assert_eq!(check(&painted, &Typesetter).unwrap().1, Pages::Altered);
}

#[test]
fn somebody_elses_signature_over_a_genuine_record_does_not_pass() {
    // the sealed file of one installation, pages signed by another
    let sealing = SealingKey::from_bytes([7; 32]);
    let file = paper::attached::sealed_file(&PDF).unwrap();
    let r: SealedRecord = serde_json::from_slice(&file).unwrap();
    let document = Document { parts: &r.parts, signatures: &r.signatures, seal: Some(&r.seal), site: "Merrowick Works" };
    let other = PaperKey::of(&SealingKey::from_bytes([9; 32])).unwrap();
    let forged = signed_pdf(&Typesetter, &document, file, (Paper::A4, Form::Certificate), &other).unwrap();
    assert!(matches!(look(&forged), PagesSignature::By(key) if key != sealing.public()));
    assert_eq!(check(&forged, &Typesetter).unwrap().1, Pages::Altered);
}
