//! Figures in Modbus registers, against bit patterns worked by hand.

use pack::instrument::{Instrument, InstrumentKind, IsoDate, RegisterForm};
use proptest::prelude::*;
use quantity::PressureUnit;

#[track_caller]
fn check(form: RegisterForm, words: &[u16], figure: Option<f64>) {
    assert_eq!(form.read(words), figure, "{form:?} {words:04x?}");
}

#[test]
fn published_bit_patterns_are_read() {
    // IEEE 754 single: 25.5 = 1.59375 · 2⁴ → 41CC 0000; −0.5 → BF00 0000; NaN → 7FC0 0000
    check(RegisterForm::F32, &[0x41cc, 0x0000], Some(25.5));
    check(RegisterForm::F32LowFirst, &[0x0000, 0x41cc], Some(25.5));
    check(RegisterForm::F32, &[0xbf00, 0x0000], Some(-0.5));
    check(RegisterForm::F32, &[0x7fc0, 0x0000], None);
    check(RegisterForm::I16, &[0xffff], Some(-1.0));
    check(RegisterForm::U16, &[0xffff], Some(65_535.0));
    check(RegisterForm::I32, &[0xffff, 0xfffe], Some(-2.0));
    check(RegisterForm::U32, &[0x0001, 0x0000], Some(65_536.0));
    check(RegisterForm::U32LowFirst, &[0x0000, 0x0001], Some(65_536.0));
}

#[test]
fn too_few_registers_are_no_figure() {
    for form in [RegisterForm::F32, RegisterForm::F32LowFirst, RegisterForm::I32, RegisterForm::U32, RegisterForm::U32LowFirst] {
        assert_eq!((form.registers(), form.read(&[0x41cc]), form.read(&[])), (2, None, None), "{form:?}");
    }
    assert_eq!((RegisterForm::I16.registers(), RegisterForm::U16.read(&[])), (1, None));
}

fn instrument(kind: InstrumentKind, unit: PressureUnit) -> Instrument {
    Instrument {
        tag: "X-1".to_owned(),
        kind,
        certificate: "C".to_owned(),
        calibrated_on: IsoDate("2026-01-01".to_owned()),
        valid_until: IsoDate("2027-01-01".to_owned()),
        full_scale_pa: None,
        division_pa: None,
        error_of_scale: None,
        unit,
        division_k: None,
        error_k: None,
        stroke_m3: None,
        stroke_unc_95_rel: None,
        connection: None,
        owner_s: false,
        quarantine: None,
    }
}

#[test]
fn a_gauges_figure_is_in_the_unit_that_it_shows() {
    // 1 psi = 6894.757 Pa by definition of the pound-force and the inch
    assert!((instrument(InstrumentKind::Gauge, PressureUnit::Psi).in_si(100.0) - 689_475.729).abs() < 1e-2);
    assert_eq!(instrument(InstrumentKind::Gauge, PressureUnit::Bar).in_si(25.0), 25e5);
    assert_eq!(instrument(InstrumentKind::Thermometer, PressureUnit::Psi).in_si(15.2), 15.2);
    assert_eq!(instrument(InstrumentKind::StrokeCounter, PressureUnit::Bar).in_si(12.0), 12.0);
}

#[test]
fn an_instrument_of_before_is_still_read() {
    // as stored before anything was recorded by itself
    let old = r#"{"tag":"PG-1","kind":"gauge","certificate":"MC-1","calibrated_on":"2026-01-01","valid_until":"2027-01-01","full_scale_pa":4000000.0,"division_pa":1000.0,"error_of_scale":0.0025,"unit":"bar"}"#;
    let read: Instrument = serde_json::from_str(old).unwrap();
    assert!(read.connection.is_none() && read.stroke_m3.is_none());
    assert_eq!(serde_json::to_string(&read).unwrap(), old, "it is written as it was, so old seals hold");
}

proptest! {
    #[test]
    fn low_word_first_is_high_word_first_turned_round(a in any::<u16>(), b in any::<u16>()) {
        prop_assert_eq!(RegisterForm::F32.read(&[a, b]), RegisterForm::F32LowFirst.read(&[b, a]));
        prop_assert_eq!(RegisterForm::U32.read(&[a, b]), RegisterForm::U32LowFirst.read(&[b, a]));
    }
}
