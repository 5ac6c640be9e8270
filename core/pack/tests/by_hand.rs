//! What is booked by hand: its place, its figure, the mains, and the low gas test.

use pack::acts::{GaugeRead, Known, Situation, Stage, objections, out_of_order};
use pack::by_hand::incomplete;
use pack::low_gas::{self, Planned};
use proptest::prelude::*;
use quantity::{GaugePressure, PressureDifference, PressureUnit};
use rules::say::Say;
use terms::EventKind as K;
use terms::{Term, VariantArray};

const SAY: fn() -> Say = || Say::from(PressureUnit::Kpa);

fn planned() -> Planned {
    Planned { pressure: GaugePressure::from_pa(150e3), cap: GaugePressure::from_pa(170e3) }
}

/// All that stands against an act at a time, with a gauge that reads nothing lately.
fn said(kind: K, stage: Stage, booked: &[(K, f64)], figure: Option<f64>, low_gas: Option<Planned>) -> Vec<String> {
    let clock = |s: f64| format!("{s}");
    let gauge = GaugeRead {
        tag: "PG-4".into(),
        column: PressureDifference::from_pa(0.0),
        error: PressureDifference::from_pa(5e3),
        known: Known::Nothing,
        after: None,
    };
    let now = Situation {
        stage,
        gauges: vec![gauge],
        step: None,
        pump_off: None,
        upper: None,
        booked: booked.to_vec(),
        at_s: 5000.0,
        word: "vent open, nothing comes",
        figure,
        low_gas,
        say: SAY(),
        clock: &clock,
    };
    objections(kind, &now)
}

#[test]
fn hand_place_what_is_booked_by_hand_has_its_place() {
    for kind in K::VARIANTS.iter().copied().filter(|k| k.by_hand()) {
        assert!(out_of_order(kind, Stage::Closed).is_some(), "{kind:?} without a run");
        assert!(!kind.more().is_empty(), "{kind:?} has no label");
        assert!(Stage::ALL.into_iter().any(|s| out_of_order(kind, s).is_none()), "{kind:?} is never booked");
    }
    // what went wrong is booked whenever it did
    for kind in [K::BeyondScale, K::NippedUp] {
        assert!(Stage::ALL[1..].iter().all(|s| out_of_order(kind, *s).is_none()), "{kind:?}");
    }
    assert!(out_of_order(K::DripCured, Stage::Holding).is_some_and(|w| w.contains("nothing is touched")));
}

#[test]
fn hand_figure_every_booking_has_its_figure_and_what_it_is_about() {
    for kind in K::VARIANTS.iter().copied() {
        let empty = incomplete(kind, None, None);
        let fields: Vec<&str> = empty.iter().map(|e| e.0).collect();
        let asked: Vec<&str> = [kind.figure().map(|_| "figure"), kind.of().map(|_| "of")].into_iter().flatten().collect();
        assert_eq!(fields, asked, "{kind:?}: {empty:?}");
        let figure = kind.figure().map(|d| if d == "temperature_c" { 12.0 } else { 0.5 });
        assert!(incomplete(kind, figure, kind.of().map(|_| "the north end")).is_empty(), "{kind:?}");
        // nothing has a figure or a name that it is not asked for
        assert_eq!(incomplete(kind, Some(0.5), Some("x")).len(), usize::from(kind.figure().is_none()) + usize::from(kind.of().is_none()));
        assert!(kind.figure().is_none() || !incomplete(kind, Some(f64::NAN), kind.of().map(|_| "x")).is_empty(), "{kind:?}");
        assert!(kind.figure().is_none() || !incomplete(kind, Some(1e9), kind.of().map(|_| "x")).is_empty(), "{kind:?}");
    }
    assert!(incomplete(K::WaterWas, Some(-2.0), None).is_empty(), "brine may be cold");
    assert!(!incomplete(K::Stroked, Some(0.0), None).is_empty());
    assert!(!incomplete(K::BeyondScale, None, Some("   ")).is_empty());
}

#[test]
fn hand_mains_nothing_is_pumped_while_the_mains_are_on() {
    let on = [(K::Filled, 10.0), (K::MainsOn, 100.0)];
    let off = [(K::Filled, 10.0), (K::MainsOn, 100.0), (K::MainsOff, 400.0)];
    for kind in [K::Stroked, K::Pumped, K::PumpOff] {
        let against = said(kind, Stage::Raising, &on, Some(1.0), None);
        assert!(against.len() == 1 && against[0].contains("shut and disconnect"), "{kind:?}: {against:?}");
        assert!(said(kind, Stage::Raising, &off, Some(1.0), None).is_empty(), "{kind:?}");
    }
    // a step that the mains bring is a step
    assert!(said(K::StepReached, Stage::Raising, &on, None, None).is_empty());
    assert!(!said(K::MainsOff, Stage::Raising, &off, None, None).is_empty());
}

#[test]
fn low_gas_a_planned_low_gas_test_is_passed_before_filling() {
    let fill = |booked: &[(K, f64)]| said(K::Filled, Stage::Dry, booked, None, Some(planned()));
    let (on, soaped, off) = (|t| (K::GasOn, t), |t| (K::Soaped, t), |t| (K::GasOff, t));
    assert!(fill(&[])[0].contains("none is booked"));
    assert!(fill(&[on(0.0), soaped(100.0)])[0].contains("Gas is in it"));
    assert!(fill(&[on(0.0), off(700.0)])[0].contains("before every joint"));
    assert!(fill(&[on(0.0), soaped(100.0), off(500.0)])[0].contains("ten minutes"));
    assert!(fill(&[on(0.0), soaped(100.0), (K::LeakSeen, 200.0), off(700.0)])[0].contains("repair it dry"));
    assert!(fill(&[on(0.0), soaped(100.0), off(700.0)]).is_empty());
    // after the repair it is made again, and what leaked before counts no more
    let again = [on(0.0), (K::LeakSeen, 200.0), off(300.0), on(1000.0), soaped(1100.0), off(1700.0)];
    assert!(fill(&again).is_empty());
    // without one on the plan nobody asks, and no gas goes in
    assert!(said(K::Filled, Stage::Dry, &[], None, None).is_empty());
    assert!(said(K::GasOn, Stage::Dry, &[], Some(150e3), None)[0].contains("no gas goes in"));
    let gas = |kpa: f64| said(K::GasOn, Stage::Dry, &[], Some(kpa * 1e3), Some(planned()));
    assert!(gas(150.0).is_empty() && gas(170.0).is_empty());
    assert!(gas(171.0)[0].contains("above the cap of 170"), "{:?}", gas(171.0));
    assert!(gas(100.0)[0].contains("150"));
    // each state says what to do next
    let stage = |booked: &[(K, f64)]| low_gas::Stage::of(Some(planned()), booked);
    let tell = |booked: &[(K, f64)], s: f64| stage(booked).instruction(s, SAY()).unwrap_or_default();
    assert!(tell(&[], 0.0).contains("raise it slowly to 150"));
    assert!(tell(&[on(0.0)], 10.0).starts_with("Soap every joint"));
    assert!(tell(&[on(0.0), soaped(9.0)], 10.0).contains("ten minutes"));
    assert!(tell(&[on(0.0), soaped(9.0)], 601.0).starts_with("It held"));
    assert!(tell(&[on(0.0), (K::LeakSeen, 5.0)], 10.0).starts_with("It leaks"));
    assert!(stage(&[on(0.0), soaped(9.0), off(700.0)]).instruction(800.0, SAY()).is_none());
}

proptest! {
    /// Whatever was booked in whatever order: water goes in only after a test that was looked at for ten minutes without a leak, and the gas is out.
    #[test]
    fn no_water_without_a_passed_low_gas_test(booked in prop::collection::vec((0usize..4, 0u32..3000), 0..12)) {
        let kinds = [K::GasOn, K::Soaped, K::GasOff, K::LeakSeen];
        let booked: Vec<(K, f64)> = booked.iter().map(|(k, t)| (kinds[*k], f64::from(*t))).collect();
        let free = low_gas::Stage::of(Some(planned()), &booked).before_water().is_none();
        let last = |kind| booked.iter().filter(|b| b.0 == kind).map(|b| b.1).reduce(f64::max);
        let within = |kind, from: f64, to: f64| booked.iter().any(|b| b.0 == kind && b.1 >= from && b.1 <= to);
        let passed = match (last(K::GasOn), last(K::GasOff)) {
            (Some(on), Some(off)) => off - on >= 600.0 && within(K::Soaped, on, off) && !within(K::LeakSeen, on, off),
            _ => false,
        };
        prop_assert_eq!(free, passed);
    }
}
