//! BLIND-SPADE and BLIND-TEST: how thick a blind between flanges must be.

use crate::derivation::{Amount, Derivation, Dimension};
use crate::rule::{Rule, Standing};
use quantity::{GaugePressure, Length, Stress};

/// A blind that stays, or is used in service.
pub const SPADE: Rule = Rule {
    id: "BLIND-SPADE",
    sentence: "A blind between flanges is at least d_g·√(3P/(16·S·E·W)) thick, plus what corrosion and grooves take.",
    clause: "304.5.3",
    edition: "ASME B31.3, editions from 2016",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_blind_spade_blind_test",
};

/// A blank for the test alone.
pub const TEST_BLANK: Rule = Rule {
    id: "BLIND-TEST",
    sentence: "A blank for the test alone is computed at the test pressure with 95 % of yield for the allowable stress, with gas 90 %.",
    clause: "104.5.3",
    edition: "ASME B31.1, recent editions",
    standing: Standing::NotChecked,
    file: file!(),
    test: "worked_blind_spade_blind_test",
};

/// Share of yield for a blank that is used in the test alone.
pub(crate) const fn test_share(gas: bool) -> f64 {
    if gas { 0.90 } else { 0.95 }
}

/// Thickness of a blind.
///
/// Formula: t = d_g·√(3P/(16·S·E·W)) + c, d_g the gasket's inside diameter for raised and flat faces (the pitch diameter for ring joints), E the
/// quality factor, W the weld strength factor (1 below the creep range). Range: flat plate, elastic. Source: B31.3 304.5.3 (from memory).
/// Example: 146.3 mm (DN150 bore at the gasket), 24 bar, S·E·W 137.9 MPa, c 0 → 8.4 mm.
pub fn spade(gasket_diameter: Length, pressure: GaugePressure, allowable: Stress, corrosion: Length) -> (Length, Derivation) {
    thickness(&SPADE, gasket_diameter, pressure, allowable, corrosion, "allowable stress times E and W")
}

/// Thickness of a blank that is used in the test alone.
///
/// As [`spade`] with S·E·W = 0.95·Sy for liquid, 0.90·Sy for gas. Source: B31.1 104.5.3 (from memory).
pub fn test_blank(gasket_diameter: Length, pressure: GaugePressure, yield_strength: Stress, gas: bool) -> (Length, Derivation) {
    let share = test_share(gas);
    let source = format!("{share} of the specified minimum yield, for the test alone");
    thickness(&TEST_BLANK, gasket_diameter, pressure, yield_strength * share, Length::from_m(0.0), &source)
}

fn thickness(rule: &Rule, d: Length, p: GaugePressure, stress: Stress, c: Length, source: &str) -> (Length, Derivation) {
    let t = d * (3.0 * p.pa().max(0.0) / (16.0 * stress.pa())).sqrt() + c;
    let m = |l: Length| Amount::new(l.m(), Dimension::LengthM);
    let why = Derivation::new("thickness of the blind", rule, m(t), "t = d_g · √(3 · P / (16 · S·E·W)) + c")
        .with("d_g", "inside diameter of the gasket", m(d), "as entered")
        .with("P", "pressure on the blind", Amount::gauge(p), "test pressure at its height")
        .with("S·E·W", "allowable stress with its factors", Amount::new(stress.pa(), Dimension::StressPa), source)
        .with("c", "corrosion, erosion, grooves", m(c), "as entered")
        .would_change("A smaller gasket, a stronger plate or another pressure.");
    (t, why)
}
