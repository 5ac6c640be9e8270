//! Records and reports of every format that a released version wrote: each record is genuine by its own bytes and is printed, an altered one is
//! found, only the rules that a record names compute it again, and each report hands its record out.

use judge::judgement::RULES_VERSION;
use paper::check::check;
use paper::{Document, Form, Paper, Press};
use record::sealed::SealedRecord;
use record::verify::{Verification, verify};
use report::Typesetter;
use std::path::{Path, PathBuf};

fn files(of: &str) -> Vec<PathBuf> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/old_files");
    let folders = std::fs::read_dir(root).unwrap().map(|e| e.unwrap().path()).filter(|p| p.is_dir());
    let all = folders.flat_map(|f| std::fs::read_dir(f).unwrap().map(|e| e.unwrap().path()));
    all.filter(|p| p.file_name().is_some_and(|n| n.to_string_lossy().starts_with(of))).collect()
}

#[test]
fn every_old_record_is_printed() {
    let all = files("sealed-record");
    assert!(all.len() >= 6, "{all:?}");
    for file in all {
        let bytes = std::fs::read(&file).unwrap();
        let r: SealedRecord = serde_json::from_slice(&bytes).unwrap();
        let document = Document { parts: &r.parts, signatures: &r.signatures, seal: Some(&r.seal), site: "Merrowick Works" };
        let made =
            Typesetter.pdf(&document, Some(bytes.clone()), Paper::A4, Form::Report).unwrap_or_else(|e| panic!("{}: {e}", file.display()));
        assert_eq!(check(&made, &Typesetter).unwrap().0, bytes, "{}", file.display());
    }
}

#[test]
fn every_old_report_hands_its_record_out() {
    let all: Vec<PathBuf> = files("report").into_iter().filter(|p| !p.display().to_string().contains("draft")).collect();
    assert!(all.len() >= 4, "{all:?}");
    for file in all {
        let (sealed, _) = check(&std::fs::read(&file).unwrap(), &Typesetter).unwrap_or_else(|e| panic!("{}: {e}", file.display()));
        assert!(matches!(verify(&sealed, None), Verification::Genuine { .. }), "{}", file.display());
    }
}

#[test]
fn every_sealed_record_of_every_format_is_genuine() {
    for path in files("sealed-record") {
        let (name, file) = (path.display().to_string(), std::fs::read(&path).unwrap());
        let v = verify(&file, None);
        if name.contains("no-signature") {
            assert!(matches!(v, Verification::Unsigned { .. }), "{name}: {v:?}");
            continue;
        }
        let Verification::Genuine { checked, .. } = &v else { panic!("{name}: {v:?}") };
        let record: SealedRecord = serde_json::from_slice(&file).unwrap();
        let again = checked.iter().any(|c| c.contains("follow from the inputs"));
        assert_eq!(again, record.parts.judgement.rules_version == RULES_VERSION, "{name}: {checked:?}");
    }
}

#[test]
fn a_changed_figure_of_an_old_record_is_found() {
    for path in files("sealed-record") {
        let (name, file) = (path.display().to_string(), std::fs::read(&path).unwrap());
        let text = String::from_utf8(file).unwrap();
        let altered = text.replacen("\"title\":\"", "\"title\":\"X", 1);
        assert_ne!(text, altered, "{name}");
        assert!(matches!(verify(altered.as_bytes(), None), Verification::Altered { .. }), "{name}");
    }
}
