//! Sealed records of every format that a released version wrote: each is genuine by its own bytes, every altered one is found, and only the
//! rules that a record names compute it again.

use judge::judgement::RULES_VERSION;
use record::sealed::SealedRecord;
use record::verify::{Verification, verify};
use std::path::Path;

fn records() -> Vec<(String, Vec<u8>)> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/old_files");
    let mut all = Vec::new();
    for format in std::fs::read_dir(root).unwrap().map(|e| e.unwrap().path()).filter(|p| p.is_dir()) {
        for file in std::fs::read_dir(&format).unwrap().map(|e| e.unwrap().path()) {
            let name = file.display().to_string();
            if name.contains("sealed-record") {
                all.push((name, std::fs::read(&file).unwrap()));
            }
        }
    }
    assert!(all.len() >= 6, "none, one and four signatures of each format: {}", all.len());
    all
}

#[test]
fn every_sealed_record_of_every_format_is_genuine() {
    for (name, file) in records() {
        let v = verify(&file, None);
        let Verification::Genuine { checked, .. } = &v else { panic!("{name}: {v:?}") };
        let record: SealedRecord = serde_json::from_slice(&file).unwrap();
        let again = checked.iter().any(|c| c.contains("follow from the inputs"));
        assert_eq!(again, record.parts.judgement.rules_version == RULES_VERSION, "{name}: {checked:?}");
    }
}

#[test]
fn a_changed_figure_of_an_old_record_is_found() {
    for (name, file) in records() {
        let text = String::from_utf8(file).unwrap();
        let altered = text.replacen("\"title\":\"", "\"title\":\"X", 1);
        assert_ne!(text, altered, "{name}");
        assert!(matches!(verify(altered.as_bytes(), None), Verification::Altered { .. }), "{name}");
    }
}
