//! Holds that somebody else's generator made, with its own physics; see `data/README.md`.

use judge::case::Reading;
use judge::finding::Finding;
use judge::{HoldCase, judge};
use quantity::{GaugePressure, Temperature};
use serde_json::Value;

struct Simulated {
    case: HoldCase,
    leak_l_per_h: f64,
    expected: String,
}

fn all() -> Vec<Simulated> {
    let entries: Vec<Value> = serde_json::from_str(include_str!("data/simulated-holds.json")).unwrap();
    entries
        .into_iter()
        .map(|mut entry| {
            let rows = entry["case"]["readings"].take();
            entry["case"]["readings"] = Value::Array(Vec::new());
            let mut case: HoldCase = serde_json::from_value(entry["case"].take()).unwrap();
            case.readings = rows
                .as_array()
                .unwrap()
                .iter()
                .map(|r| Reading {
                    t_s: r[0].as_f64().unwrap(),
                    pressure_pa: r[1].as_f64().map(GaugePressure::from_pa),
                    temperature_c: r[2].as_f64().map(Temperature::from_c),
                })
                .collect();
            Simulated {
                case,
                leak_l_per_h: entry["truth"]["leak_l_per_h"].as_f64().unwrap(),
                expected: entry["truth"]["expected_verdict"].as_str().unwrap().to_owned(),
            }
        })
        .collect()
}

#[test]
fn no_leak_is_called_tight_that_is_larger_than_the_limit_stated() {
    for s in all() {
        let found = judge(&s.case).found;
        if found.finding == Finding::TightTo {
            let limit = found.leak.unwrap().upper_999_m3_per_s * 3.6e6;
            assert!(s.leak_l_per_h <= limit, "{}: a leak of {} is called tight to {limit}", s.case.title, s.leak_l_per_h);
        }
    }
}

#[test]
fn a_leak_that_must_be_found_is_found_and_a_tight_system_never_fails() {
    for s in all() {
        let finding = judge(&s.case).found.finding;
        match s.expected.as_str() {
            "fail" => assert_eq!(finding, Finding::LeakShown, "{}", s.case.title),
            "pass" | "not_shown" => assert_ne!(finding, Finding::LeakShown, "{}", s.case.title),
            _ => {}
        }
    }
}

/// The model of this crate knows one temperature of the water and starts it at the thermometer's. On two of the nine the
/// water was still off its wall when the hold began, and the 95 % interval misses the truth; it may not miss on more.
#[test]
fn the_interval_holds_the_truth_but_where_heat_was_not_settled() {
    let missed: Vec<String> = all()
        .into_iter()
        .filter(|s| {
            judge(&s.case)
                .found
                .leak
                .is_some_and(|l| s.leak_l_per_h < l.lo_m3_per_s * 3.6e6 - 1e-9 || s.leak_l_per_h > l.hi_m3_per_s * 3.6e6 + 1e-9)
        })
        .map(|s| s.case.title)
        .collect();
    assert!(missed.iter().all(|t| ["simulated hold s0007", "simulated hold s0012"].contains(&t.as_str())), "{missed:?}");
}
