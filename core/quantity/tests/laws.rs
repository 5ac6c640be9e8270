//! Laws of units: what is printed can be read back, what is converted comes back.

use proptest::prelude::*;
use quantity::bounds::{self, DESIGN_PRESSURE, HEIGHT, READING_PRESSURE};
use quantity::format::{decimals_of, round_down, round_up};
use quantity::parse::{gauge_pressure, length, number, temperature};
use quantity::{GaugePressure, PressureUnit, Temperature};

proptest! {
    #[test]
    fn every_pressure_unit_round_trips(bar in 0.01f64..2900.0, unit in 0usize..5) {
        let unit = PressureUnit::ALL[unit];
        let text = format!("{} {}", bar * 1e5 / unit.pa(), unit.symbol());
        let (read, found) = gauge_pressure(&READING_PRESSURE, &text, PressureUnit::Bar).unwrap();
        prop_assert_eq!(found, unit);
        prop_assert!((read.bar() - bar).abs() <= 1e-12 * bar);
    }

    #[test]
    fn printed_to_a_division_and_read_back_is_the_same_multiple(k in 1u32..2_400, division in prop::sample::select(vec![0.01, 0.02, 0.05, 0.1, 0.5, 1.0, 2.0])) {
        let p = GaugePressure::from_bar(f64::from(k) * division);
        let text = quantity::format::gauge_pressure(p, PressureUnit::Bar, decimals_of(division));
        let (read, _) = gauge_pressure(&bounds::LIMIT_PRESSURE, &text, PressureUnit::Psi).unwrap();
        prop_assert!((read.bar() - p.bar()).abs() < 1e-9);
    }

    #[test]
    fn rounding_never_goes_the_wrong_way_by_more_than_its_tolerance(v in 0.0f64..5000.0, division in prop::sample::select(vec![0.01, 0.05, 0.1, 1.0])) {
        let (up, down) = (round_up(v, division), round_down(v, division));
        prop_assert!(up >= v - 1.1e-6 * division && up < v + division);
        prop_assert!(down <= v + 1.1e-6 * division && down > v - division);
    }

    #[test]
    fn fahrenheit_round_trips(c in -60.0f64..150.0) {
        prop_assert!((Temperature::from_f(Temperature::from_c(c).f()).c() - c).abs() < 1e-10);
    }

    #[test]
    fn no_text_makes_the_parser_panic(text in "\\PC{0,24}") {
        let _ = gauge_pressure(&READING_PRESSURE, &text, PressureUnit::Bar);
        let _ = length(&HEIGHT, &text, "m");
        let _ = temperature(&bounds::READING_TEMPERATURE, &text);
    }
}

/// NIST SP 811 (2008), appendix B.8: 1 psi = 6.894 757 E+03 Pa; 1 kgf/cm² = 9.806 65 E+04 Pa.
#[test]
fn published_pressure_units() {
    assert!((PressureUnit::Psi.pa() - 6894.757).abs() < 5e-4);
    assert!((PressureUnit::KgCm2.pa() - 98_066.5).abs() < 1e-9);
}

#[test]
fn what_people_type() {
    let read = |t: &str| gauge_pressure(&READING_PRESSURE, t, PressureUnit::Bar).map(|(p, _)| (p.bar() * 1e4).round() / 1e4);
    assert_eq!(read("25.7"), Ok(25.7));
    assert_eq!(read(" 25,7 "), Ok(25.7));
    assert_eq!(read("2.57 MPa"), Ok(25.7));
    assert_eq!(read("210psi"), Ok(14.479));
    assert_eq!(read("210 PSIG"), Ok(14.479));
    assert_eq!(read("26 kg/cm²"), Ok(25.4973));
    assert_eq!(read("2.57e1 bar"), Ok(25.7));
    assert_eq!(read("−0.2"), Ok(-0.2));
}

#[test]
fn what_is_refused_is_refused_in_a_sentence() {
    let say = |t: &str| gauge_pressure(&DESIGN_PRESSURE, t, PressureUnit::Bar).unwrap_err().to_string();
    insta::assert_snapshot!(
        ["", "abc", "1,234.5", "12 atm", "0", "-3", "nan", "inf", "1e9"].map(|t| format!("{t:8} → {}", say(t))).join("\n")
    );
    assert!(number("height", "1.2.3", "4").is_err());
    assert!(DESIGN_PRESSURE.check(f64::NAN).is_err());
}

#[test]
fn every_bound_has_room_and_a_reason() {
    assert!(!bounds::ALL.is_empty());
    for b in bounds::ALL {
        assert!(b.least < b.most && !b.origin.is_empty(), "{b:?}");
    }
}
