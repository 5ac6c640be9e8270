//! What people type for lengths, temperatures and volumes, and what comes of it.

use proptest::prelude::*;
use quantity::bounds::{DIAMETER, HEIGHT, READING_TEMPERATURE, VOLUME, WALL};
use quantity::parse::{self, length, temperature, volume};
use quantity::{AbsolutePressure, GaugePressure, PressureUnit, STANDARD_ATMOSPHERE};

#[test]
fn lengths_in_the_units_of_the_trade() {
    // the inch and the foot are exact since 1959: 25.4 mm, 304.8 mm
    for (text, metres) in [("18.5", 18.5), ("18,5 m", 18.5), ("12 ft", 3.6576), ("-3", -3.0), ("−3", -3.0), ("  7 m ", 7.0)] {
        let read = length(&HEIGHT, text, "m").unwrap_or_else(|e| panic!("{text}: {e}"));
        assert!((read.m() - metres).abs() < 1e-12, "{text}: {}", read.m());
    }
    for (text, metres) in [("7.11", 0.007_11), ("7,11 mm", 0.007_11), ("0.28 in", 0.007_112), ("0.7 cm", 0.007)] {
        let read = length(&WALL, text, "mm").unwrap_or_else(|e| panic!("{text}: {e}"));
        assert!((read.m() - metres).abs() < 1e-12, "{text}: {}", read.m());
    }
}

#[test]
fn volumes_in_the_units_of_the_trade() {
    // the US gallon is 231 cubic inches
    for (text, m3) in [
        ("0.15", 0.15),
        ("0.15 m3", 0.15),
        ("0,15 m³", 0.15),
        ("2.4 L", 0.0024),
        ("500 mL", 0.0005),
        ("3 gal", 3.0 * 231.0 * 0.0254f64.powi(3)),
    ] {
        let read = volume(&VOLUME, text).unwrap_or_else(|e| panic!("{text}: {e}"));
        assert!((read.m3() / m3 - 1.0).abs() < 1e-9, "{text}: {}", read.m3());
    }
}

#[test]
fn temperatures_in_three_scales() {
    for (text, c) in [("15", 15.0), ("15,2 °C", 15.2), ("59 °F", 15.0), ("59F", 15.0), ("288.15 K", 15.0), ("-5", -5.0)] {
        let read = temperature(&READING_TEMPERATURE, text).unwrap_or_else(|e| panic!("{text}: {e}"));
        assert!((read.c() - c).abs() < 1e-9, "{text}: {}", read.c());
    }
}

#[test]
fn a_unit_of_another_kind_is_refused_with_the_units_that_would_do() {
    for (said, words) in [
        (length(&HEIGHT, "12 bar", "m").unwrap_err().to_string(), "m"),
        (temperature(&READING_TEMPERATURE, "12 bar").unwrap_err().to_string(), "°C"),
        (volume(&VOLUME, "12 psi").unwrap_err().to_string(), "L"),
    ] {
        assert!(said.contains(words) && (said.contains("bar") || said.contains("psi")), "{said}");
    }
}

#[test]
fn a_needle_between_two_marks_is_both_marks() {
    let both = |text: &str| parse::between_marks(text);
    let said = |low: &str, high: &str| Some((low.to_owned(), high.to_owned()));
    assert_eq!(both("4.2 to 4.4"), said("4.2", "4.4"));
    assert_eq!(both("between 60 and 62 psi"), said("60 psi", "62 psi"));
    assert_eq!(both("4,2–4,4 bar"), said("4,2 bar", "4,4 bar"));
    assert_eq!(both("4.2 bar to 4.4 bar"), said("4.2 bar", "4.4 bar"));
    for one in ["4.2", "-0.3", "4.2 bar", "to 4", "4.2–", ""] {
        assert_eq!(both(one), None, "{one}");
    }
}

#[test]
fn nothing_outside_its_bounds_is_taken() {
    for bad in ["-1", "0", "nan", "inf", "1e9"] {
        assert!(length(&WALL, bad, "mm").is_err(), "wall {bad}");
        assert!(length(&DIAMETER, bad, "mm").is_err(), "diameter {bad}");
        assert!(volume(&VOLUME, bad).is_err(), "volume {bad}");
    }
    assert!(temperature(&READING_TEMPERATURE, "-274").is_err());
}

proptest! {
    /// Gauge and absolute differ by the atmosphere, and by nothing else.
    #[test]
    fn gauge_and_absolute_round_trip(bar in -0.9f64..3000.0, atmosphere in 0.6f64..1.1) {
        let around = AbsolutePressure::from_bar(atmosphere);
        let there = GaugePressure::from_bar(bar).absolute(around);
        prop_assert!((there.bar() - bar - atmosphere).abs() < 1e-9);
        prop_assert!((there.gauge(around).bar() - bar).abs() < 1e-9);
    }

    #[test]
    fn a_decimal_comma_means_what_a_point_means(whole in 0u32..500, part in 0u32..1000) {
        let (point, comma) = (format!("{whole}.{part:03}"), format!("{whole},{part:03}"));
        prop_assert_eq!(length(&HEIGHT, &point, "m"), length(&HEIGHT, &comma, "m"));
    }

    #[test]
    fn every_unit_of_pressure_reads_its_own_symbol(i in 0usize..5) {
        let unit = PressureUnit::ALL[i];
        prop_assert_eq!(PressureUnit::from_text(unit.symbol()), Some(unit));
        prop_assert_eq!(PressureUnit::from_text(&unit.symbol().to_uppercase()), Some(unit));
    }
}

#[test]
fn the_standard_atmosphere_is_the_defined_one() {
    // CGPM 1954: 101 325 Pa
    assert!((STANDARD_ATMOSPHERE.pa() - 101_325.0).abs() < 1e-9);
}
