//! Counts on the 24 holds that another program made and labelled (`tests/data/README.md`): how many of each question come out as labelled.

use serde_json::Value;
use std::path::Path;

fn read(path: &Path) -> Value {
    let text = std::fs::read_to_string(path).unwrap_or_else(|e| panic!("{} cannot be read: {e}", path.display()));
    serde_json::from_str(&text).unwrap_or_else(|e| panic!("{} is no JSON: {e}", path.display()))
}

fn main() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/data/labelled");
    let mut folders: Vec<_> = std::fs::read_dir(root).expect("the labelled holds").map(|e| e.expect("a folder").path()).collect();
    folders.sort();
    let (mut expected, mut as_expected, mut inside, mut limit, mut planned, mut widths) = (0, 0, 0, 0, 0, Vec::new());
    for folder in &folders {
        let truth = read(&folder.join("truth.json"));
        let of = |name: &str| truth[name].as_f64().expect("a number");
        let hold = holdfolder::read(folder).expect("a hold");
        let line = serde_json::to_value(holdfolder::judge(&hold)).expect("a line");
        let says = |name: &str| line[name].as_f64().expect("a number");
        if truth["expected_verdict"] != "either" {
            expected += 1;
            as_expected += i32::from(line["verdict"] == truth["expected_verdict"]);
        }
        let within = |name: &str, factor: f64| (says(name) / of(name)).ln().abs() < factor.ln();
        inside += i32::from((says("lo")..=says("hi")).contains(&of("leak_l_per_h")));
        limit += i32::from(within("detection_limit_l_per_h", 2.0));
        planned += i32::from(within("planned_detection_limit_l_per_h", 3.0));
        widths.push((says("hi") - says("lo")) / 3.92 / of("bound_sd_l_per_h"));
    }
    widths.sort_by(f64::total_cmp);
    let n = folders.len();
    println!("{n} holds of another program: verdict as expected {as_expected} of {expected}; true leak inside {inside} of {n};");
    println!("  limit within a factor of two {limit}, planned within three {planned} of {n};");
    println!("  width over their bound {:.2} in the middle, {:.2} of nine in ten", widths[n / 2], widths[n * 9 / 10]);
}
