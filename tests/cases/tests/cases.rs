//! Every plain-text case holds.

use cases::{read, standing};
use std::collections::BTreeMap;
use std::path::Path;

fn all() -> Vec<read::Case> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR"));
    let mut files: Vec<_> =
        std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).filter(|p| p.extension().is_some_and(|e| e == "txt")).collect();
    files.sort();
    assert!(files.len() >= 5, "the texts are not there: {files:?}");
    let read = |p: &std::path::PathBuf| {
        let name = p.file_name().unwrap().to_string_lossy().into_owned();
        read::cases(&name, &std::fs::read_to_string(p).unwrap()).unwrap_or_else(|e| panic!("{e}"))
    };
    files.iter().flat_map(read).collect()
}

#[test]
fn every_case_holds() {
    let all = all();
    assert!(all.len() >= 150, "only {} cases were read", all.len());
    let mut missed = Vec::new();
    for case in &all {
        assert!(!case.expected.is_empty(), "{} expects nothing", case.place);
        assert!(!case.hand.is_empty(), "{} does not say how its figures were worked out", case.place);
        let s = standing(&case.system);
        for e in &case.expected {
            if let Some(why) = e.missed(&s) {
                missed.push(format!("{} {}: {e:?}: {why}", case.place, case.title));
            }
        }
    }
    assert!(missed.is_empty(), "{} expectations of {} cases do not hold:\n{}", missed.len(), all.len(), missed.join("\n"));
}

/// Each basis of the book stands on both sides: three cases at least, one that is released and one that stops.
#[test]
fn every_basis_has_cases_on_both_sides() {
    let mut seen: BTreeMap<String, (usize, usize)> = BTreeMap::new();
    for case in all() {
        let place = seen.entry(case.system.basis.id.clone()).or_default();
        if standing(&case.system).releasable() { place.0 += 1 } else { place.1 += 1 }
    }
    for (entry, _) in rules::basis::book::shipped().all() {
        let (released, stopped) = seen.get(&entry.id).copied().unwrap_or_default();
        assert!(released + stopped >= 3 && released >= 1 && stopped >= 1, "{}: {released} released, {stopped} stopped", entry.id);
    }
}
