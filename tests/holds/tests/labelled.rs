//! The judge against 24 holds that another program made; source: `data/README.md`.

use hold::Outcome;
use serde_json::Value;
use std::path::PathBuf;
use terms::Term;

struct Labelled {
    truth: Value,
    judged: hold::Judged,
}

fn all() -> Vec<Labelled> {
    let root = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/data/labelled");
    let mut folders: Vec<PathBuf> = std::fs::read_dir(root).unwrap().map(|e| e.unwrap().path()).collect();
    folders.sort();
    folders
        .into_iter()
        .map(|folder| {
            let hold = holdfolder::read(&folder).unwrap();
            let truth = serde_json::from_str(&std::fs::read_to_string(folder.join("truth.json")).unwrap()).unwrap();
            let required = hold.case.required_sensitivity_l_per_h.map(|r| r / 3.6e6);
            Labelled { truth, judged: hold::judge(&hold.hold, &hold.record, required) }
        })
        .collect()
}

#[test]
fn verdicts_intervals_and_defects_agree_with_the_labels() {
    let all = all();
    assert_eq!(all.len(), 24);
    let mut inside = 0;
    for l in &all {
        let name = &l.truth["case"];
        let fitted = l.judged.fitted.as_ref().unwrap();
        let leak = l.truth["leak_l_per_h"].as_f64().unwrap() / 3.6e6;
        inside += usize::from(leak >= fitted.lo && leak <= fitted.hi);
        match l.truth["expected_verdict"].as_str().unwrap() {
            "fail" => assert_eq!(l.judged.outcome, Outcome::Fail, "{name}"),
            "pass" => assert_eq!(l.judged.outcome, Outcome::Pass, "{name}"),
            "not_shown" => assert_eq!(l.judged.outcome, Outcome::NotShown, "{name}"),
            _ => {}
        }
        assert!(leak <= fitted.upper_999, "{name}: a leak above the 99.9 % limit");
        let unbooked: Vec<&str> =
            l.truth["defects"].as_array().unwrap().iter().filter(|d| d["announced"] != true).map(|d| d["kind"].as_str().unwrap()).collect();
        let mut found: Vec<&str> = l.judged.read.defects.iter().map(|d| d.kind.key()).collect();
        for kind in &unbooked {
            assert!(found.contains(kind), "{name}: {kind} is not found");
        }
        found.retain(|k| !unbooked.contains(k));
        assert!(found.is_empty(), "{name}: {found:?} is not there");
    }
    // 95 % of 24 is 22.8; fewer than 21 would happen by chance once in forty times
    assert!(inside >= 21, "the truth lies inside {inside} of 24 intervals");
}
