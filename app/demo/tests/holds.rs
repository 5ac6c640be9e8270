//! The demo's made-up holds are what they say.

use demo::holds::{MadeHold, rfc3339};
use serde_json::Value;
use time::macros::datetime;

const HOLD: MadeHold = MadeHold {
    start_bar: 26.0,
    bar_per_k: 2.0,
    start_c: 15.0,
    cooling_k: 0.1,
    leak_bar: 0.0,
    creeps: (0.0, 1),
    minutes: 60,
    every: 1,
    decimals: 2,
    noise_bar: 0.0,
    with_temperature: true,
    careless: false,
    seed: 7,
};

fn figures(readings: &[Value], channel: &str) -> Vec<f64> {
    readings.iter().filter(|r| r["channel"] == channel).map(|r| r["text"].as_str().unwrap_or("").parse().unwrap_or(f64::NAN)).collect()
}

#[test]
fn cooling_and_leak_add_up_at_the_end() {
    let start = datetime!(2026-06-01 08:00 UTC);
    let tight = figures(&HOLD.typed(start), "pressure");
    assert_eq!(tight.len(), 61);
    assert!((tight[0] - 26.0).abs() < 0.006 && (tight[60] - 25.8).abs() < 0.006, "{} to {}", tight[0], tight[60]);
    let leaking = figures(&MadeHold { leak_bar: 0.5, ..HOLD }.typed(start), "pressure");
    assert!((leaking[60] - 25.3).abs() < 0.006, "{}", leaking[60]);
    let water = figures(&HOLD.typed(start), "temperature");
    assert!((water[0] - water[60] - 0.1).abs() < 0.05);
}

#[test]
fn the_same_seed_gives_the_same_readings_and_another_gives_others() {
    let start = datetime!(2026-06-01 08:00 UTC);
    let noisy = MadeHold { noise_bar: 0.01, ..HOLD };
    assert_eq!(figures(&noisy.typed(start), "pressure"), figures(&noisy.typed(start), "pressure"));
    assert_ne!(figures(&noisy.typed(start), "pressure"), figures(&MadeHold { seed: 8, ..noisy }.typed(start), "pressure"));
}

#[test]
fn without_a_thermometer_no_temperature_is_made() {
    let typed = MadeHold { with_temperature: false, ..HOLD }.typed(datetime!(2026-06-01 08:00 UTC));
    assert!(figures(&typed, "temperature").is_empty());
}

#[test]
fn a_loggers_file_is_what_such_loggers_write() {
    let start = datetime!(2026-06-01 08:00 UTC);
    let file = HOLD.logger_file(start);
    assert!(std::str::from_utf8(&file).is_err(), "the degree sign is Latin-1");
    let text: String = file.iter().map(|b| char::from(*b)).collect();
    let mut lines = text.lines();
    assert_eq!(lines.next(), Some("Zeit;Druck [psi];Temperatur °C"));
    assert!(lines.next().is_some_and(|l| l.starts_with("01.06.2026 08:00:00;377,1;15,0")), "{text:.120}");
    assert_eq!(rfc3339(start), "2026-06-01T08:00:00Z");
}

#[test]
fn a_careless_reader_types_one_wrong_and_leaves_some_out() {
    let start = datetime!(2026-06-01 08:00 UTC);
    let hold = MadeHold { minutes: 130, ..HOLD };
    let (careful, careless) =
        (figures(&hold.typed(start), "pressure"), figures(&MadeHold { careless: true, ..hold }.typed(start), "pressure"));
    assert_eq!(careful.len() - careless.len(), 16);
    assert!((careless[44] - careful[44] - 1.0).abs() < 0.006);
}
