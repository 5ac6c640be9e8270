//! Acts against the state of the run and the recorded pressure: every act in every state, at every pressure.

use pack::acts::{BoundaryAct, GaugeRead, Known, Situation, Stage, Target, boundary_objections, objections, out_of_order};
use quantity::{GaugePressure, PressureDifference, PressureUnit};
use rules::say::Say;
use terms::EventKind as K;
use terms::VariantArray;

fn bar(b: f64) -> GaugePressure {
    GaugePressure::from_bar(b)
}

/// A gauge 4 m below the vent: 0.4 bar of column, read to 0.2 bar.
fn gauge(known: Known) -> GaugeRead {
    GaugeRead {
        tag: "PT-71".into(),
        column: PressureDifference::from_bar(0.4),
        error: PressureDifference::from_bar(0.2),
        known,
        after: None,
    }
}

fn live(b: f64) -> Known {
    Known::Live { pressure: bar(b), zero_for_s: if b <= 0.6 { 60.0 } else { 0.0 } }
}

/// Next step 12.75 bar, pumping ends at 25.26, never above 27.2.
fn at<'a>(stage: Stage, gauges: Vec<GaugeRead>, word: &'a str, clock: &'a dyn Fn(f64) -> String) -> Situation<'a> {
    Situation {
        stage,
        gauges,
        step: Some(Target::step(bar(12.75), Some(bar(19.1)), PressureDifference::from_bar(0.2))),
        pump_off: Some(Target::least(bar(25.26), PressureDifference::from_bar(0.0))),
        upper: Some(bar(27.2)),
        booked: vec![],
        at_s: 1000.0,
        word,
        figure: None,
        low_gas: None,
        say: Say::from(PressureUnit::Bar),
        clock,
    }
}

#[track_caller]
fn said(kind: K, stage: Stage, known: Known) -> Vec<String> {
    objections(kind, &at(stage, vec![gauge(known)], "", &|s| format!("{s}")))
}

/// y where an act has its place, in the order of `Stage::ALL`: closed, dry, filled, raising, holding, held, let out, vented, drained.
const PLACES: [(K, &str); 34] = [
    (K::AirProved, "-------y-"),
    (K::ValveProved, "--yy-----"),
    (K::Filled, "-yy------"),
    (K::StepReached, "--yy-----"),
    (K::PumpOff, "--yy-----"),
    (K::LookDone, "--yyyy---"),
    (K::LeakSeen, "yyyyyyyyy"),
    (K::Repump, "----y----"),
    (K::Bleed, "--yyyy---"),
    (K::HoldEnded, "----y----"),
    (K::Released, "-yyyyy---"),
    (K::VentOpened, "------y--"),
    (K::Drained, "-------y-"),
    (K::Noted, "yyyyyyyyy"),
    (K::GasOn, "-y-------"),
    (K::Soaped, "-y-------"),
    (K::GasOff, "-y-------"),
    (K::FillBegun, "-y-------"),
    (K::VentRan, "-yy------"),
    (K::WaterWas, "-yyyyy---"),
    (K::MetalWas, "-yyyyy---"),
    (K::AirWas, "-yyyyy---"),
    (K::MainsOn, "--yy-----"),
    (K::MainsOff, "--yy-----"),
    (K::Stroked, "--yy-----"),
    (K::Pumped, "--yy-----"),
    (K::BeyondScale, "-yyyyyyyy"),
    (K::NippedUp, "-yyyyyyyy"),
    (K::DripCured, "-yy---yyy"),
    (K::Hammered, "---yyy---"),
    (K::LampLooked, "------yyy"),
    (K::Swelled, "---yyyyyy"),
    (K::Deflected, "-yyyyy---"),
    (K::HandedOver, "-yyyyy---"),
];

#[test]
fn act_order_every_act_in_every_state() {
    for kind in K::VARIANTS.iter().copied() {
        let row = PLACES.iter().find(|p| p.0 == kind).unwrap_or_else(|| panic!("no row for {kind:?}")).1;
        assert_eq!(row.len(), Stage::ALL.len());
        for (stage, may) in Stage::ALL.into_iter().zip(row.chars()) {
            assert_eq!(out_of_order(kind, stage).is_none(), may == 'y', "{kind:?} while {stage:?}: {:?}", out_of_order(kind, stage));
        }
    }
}

/// y where the gauge does not speak against an act, each in the state that it belongs to. Pressures: 0, the column, 6.4, 12.8 (the step),
/// 14.5 (beyond it), 25.3 (the hold), 28 (above the limit), and unread.
const PRESSURES: [(K, Stage, &str); 34] = [
    (K::AirProved, Stage::Vented, "yy-----y"),
    (K::ValveProved, Stage::Raising, "yyyyyyyy"),
    (K::Filled, Stage::Dry, "yy-----y"),
    (K::StepReached, Stage::Raising, "---y---y"),
    (K::PumpOff, Stage::Raising, "-----y-y"),
    (K::LookDone, Stage::Holding, "--yyyyyy"),
    (K::LeakSeen, Stage::Holding, "yyyyyyyy"),
    (K::Repump, Stage::Holding, "---yyyyy"),
    (K::Bleed, Stage::Holding, "--yyyyyy"),
    (K::HoldEnded, Stage::Holding, "yyyyyyyy"),
    (K::Released, Stage::Held, "yy------"),
    (K::VentOpened, Stage::LetOut, "yy-----y"),
    (K::Drained, Stage::Vented, "yy-----y"),
    (K::Noted, Stage::Raising, "yyyyyyyy"),
    (K::GasOn, Stage::Dry, "--------"),
    (K::Soaped, Stage::Dry, "--------"),
    (K::GasOff, Stage::Dry, "--------"),
    (K::FillBegun, Stage::Dry, "yyyyyyyy"),
    (K::VentRan, Stage::Dry, "yyyyyyyy"),
    (K::WaterWas, Stage::Filled, "yyyyyyyy"),
    (K::MetalWas, Stage::Filled, "yyyyyyyy"),
    (K::AirWas, Stage::Filled, "yyyyyyyy"),
    (K::MainsOn, Stage::Filled, "yyyyyyyy"),
    (K::MainsOff, Stage::Filled, "--------"),
    (K::Stroked, Stage::Raising, "yyyyyyyy"),
    (K::Pumped, Stage::Raising, "yyyyyyyy"),
    (K::BeyondScale, Stage::Raising, "yyyyyyyy"),
    (K::NippedUp, Stage::Holding, "yyyyyyyy"),
    (K::DripCured, Stage::Filled, "yy-----y"),
    (K::Hammered, Stage::Holding, "--yyyyyy"),
    (K::LampLooked, Stage::LetOut, "yyyyyyyy"),
    (K::Swelled, Stage::Holding, "yyyyyyyy"),
    (K::Deflected, Stage::Filled, "yyyyyyyy"),
    (K::HandedOver, Stage::Holding, "yyyyyyyy"),
];

#[test]
fn act_pressure_every_act_at_every_pressure() {
    let pressures = [live(0.0), live(0.4), live(6.4), live(12.8), live(14.5), live(25.3), live(28.0), Known::Nothing];
    for kind in K::VARIANTS.iter().copied() {
        let (_, stage, row) = PRESSURES.into_iter().find(|p| p.0 == kind).unwrap_or_else(|| panic!("no row for {kind:?}"));
        assert_eq!(row.len(), pressures.len());
        for (known, may) in pressures.into_iter().zip(row.chars()) {
            let against = said(kind, stage, known);
            assert_eq!(against.is_empty(), may == 'y', "{kind:?} at {known:?}: {against:?}");
            // whatever speaks against it from a reading names the reading
            let by_reading = !matches!(kind, K::GasOn | K::Soaped | K::GasOff | K::MainsOff);
            if let (Known::Live { pressure, .. }, Some(first), true) = (known, against.first(), by_reading) {
                assert!(first.contains(&Say::from(PressureUnit::Bar).p(pressure)), "{first}");
            }
        }
    }
}

#[test]
fn a_refusal_says_what_the_gauge_reads_and_what_to_do() {
    assert_eq!(
        said(K::Released, Stage::Held, live(24.46)),
        [
            "PT-71 reads 24.46\u{a0}bar; zero is no more than 0.60\u{a0}bar there (the water above it and its own error). Let it out by the bleed valve \
             through the vent pipe, nobody in line."
        ]
    );
    let beyond = said(K::StepReached, Stage::Raising, live(19.3));
    assert!(beyond[0].starts_with("PT-71 reads 19.30\u{a0}bar, well beyond the step at 12.75\u{a0}bar"), "{beyond:?}");
    let filled = said(K::Filled, Stage::Dry, live(12.89));
    assert!(filled[0].contains("12.89\u{a0}bar") && filled[0].contains("no more than 0.60\u{a0}bar"), "{filled:?}");
}

#[test]
fn act_zero_zero_is_proved_by_every_gauge_or_by_word() {
    let clock = |s: f64| format!("{s}");
    let go = |gauges: Vec<GaugeRead>, word: &str| objections(K::Released, &at(Stage::Held, gauges, word, &clock));
    let live_for = |b: f64, zero_for_s: f64| Known::Live { pressure: bar(b), zero_for_s };
    assert!(go(vec![gauge(live_for(0.3, 31.0))], "").is_empty());
    assert!(go(vec![gauge(live_for(0.3, 12.0))], "")[0].contains("for 12\u{a0}s only"));
    // each section: the second gauge still holds
    let both = go(vec![gauge(live_for(0.3, 31.0)), GaugeRead { tag: "PT-72".into(), ..gauge(live_for(7.0, 0.0)) }], "");
    assert!(both.len() == 1 && both[0].starts_with("PT-72 reads 7.00"), "{both:?}");
    // typed
    let typed = |b, ago_s| vec![gauge(Known::Typed { pressure: bar(b), ago_s })];
    assert!(go(typed(0.0, 120.0), "").is_empty());
    assert!(go(typed(25.0, 120.0), "vent open, no water runs")[0].contains("last read at 25.00"), "a word does not outweigh what was read");
    assert!(go(typed(0.0, 900.0), "")[0].contains("Nobody has read PT-71 in the last ten minutes"), "old readings prove nothing");
    assert!(go(typed(25.0, 900.0), "vent open, no water runs").is_empty());
    // a further gauge that was typed under pressure long ago: its section is asked about, until it is read again or somebody gives their word
    let second = |b, ago_s| {
        vec![
            gauge(Known::Typed { pressure: bar(0.0), ago_s: 60.0 }),
            GaugeRead { tag: "PG-2".into(), ..gauge(Known::Typed { pressure: bar(b), ago_s }) },
        ]
    };
    assert!(go(second(24.0, 900.0), "")[0].starts_with("PG-2 was last read at 24.00\u{a0}bar, and not since"));
    assert!(go(second(24.0, 900.0), "vent of the branch open, dry").is_empty() && go(second(0.1, 900.0), "").is_empty());
    assert!(!go(second(24.0, 300.0), "vent of the branch open, dry").is_empty(), "a word does not outweigh what was read");
    // unread
    assert!(go(vec![gauge(Known::Nothing)], " . ")[0].contains("Nobody has read"));
    assert!(go(vec![gauge(Known::Nothing)], "top vent open and dry, fitter").is_empty());
    // the first gauge is unread: another at zero does not prove it, and another under pressure is named, at the vent and the drain too
    let unread =
        |second: f64, seconds: f64| vec![gauge(Known::Nothing), GaugeRead { tag: "PT-72".into(), ..gauge(live_for(second, seconds)) }];
    assert!(go(unread(0.0, 60.0), "")[0].contains("Nobody has read PT-71"));
    for (kind, stage) in [(K::VentOpened, Stage::LetOut), (K::Drained, Stage::Vented)] {
        let said = objections(kind, &at(stage, unread(7.0, 0.0), "", &clock));
        assert!(said.len() == 1 && said[0].starts_with("PT-72 reads 7.00"), "{kind:?}: {said:?}");
    }
    // booked for a time after which the gauge rose again
    let after = go(vec![GaugeRead { after: Some(bar(24.46)), ..gauge(live_for(0.0, 60.0)) }], "");
    assert!(after[0].contains("read 24.46\u{a0}bar after that time"), "{after:?}");
}

#[test]
fn act_time_no_act_is_before_what_it_presupposes() {
    let clock = |s: f64| format!("10:{s:02.0}");
    let go = |kind, stage, booked: Vec<(K, f64)>, at_s| {
        objections(kind, &Situation { booked, at_s, ..at(stage, vec![gauge(Known::Nothing)], "word of the fitter", &clock) })
    };
    let booked = vec![(K::Filled, 5.0), (K::StepReached, 12.0), (K::PumpOff, 20.0), (K::HoldEnded, 50.0)];
    let early = go(K::Released, Stage::Held, booked.clone(), 44.0);
    assert_eq!(early, ["\"hold ended\" is booked at 10:50: this cannot have been before it. Check the time."]);
    assert!(go(K::Released, Stage::Held, booked.clone(), 51.0).is_empty());
    assert!(!go(K::PumpOff, Stage::Raising, booked[..2].to_vec(), 11.0).is_empty());
    // bad news may be of any time
    assert!(go(K::LeakSeen, Stage::Held, booked, 1.0).is_empty());
}

#[test]
fn act_boundary_nothing_at_the_boundary_changes_under_pressure() {
    let clock = |s: f64| format!("{s}");
    let go = |act, stage, known| boundary_objections(act, "SS-4", &at(stage, vec![gauge(known)], "", &clock));
    // may it, with no pressure recorded: closed, dry, filled, raising, holding, held, let out, vented, drained
    let table = [
        (BoundaryAct::Set, "yy----yyy"),
        (BoundaryAct::Change, "yy----yyy"),
        (BoundaryAct::ChangeOwed, "---------"),
        (BoundaryAct::PutBack, "y-----yyy"),
    ];
    for act in BoundaryAct::ALL {
        let row = table.iter().find(|t| t.0 == act).unwrap_or_else(|| panic!("no row for {act:?}")).1;
        for (stage, may) in Stage::ALL.into_iter().zip(row.chars()) {
            for known in [live(0.3), Known::Nothing] {
                assert_eq!(go(act, stage, known).is_empty(), may == 'y', "{act:?} while {stage:?}");
            }
            if (act, stage) == (BoundaryAct::ChangeOwed, Stage::Dry) {
                assert!(go(act, stage, Known::Nothing)[0].contains("released for test with it in"));
            }
            if stage != Stage::Closed {
                let under = go(act, stage, live(12.89));
                assert!(under.len() == 1 && under[0].contains("PT-71 reads 12.89\u{a0}bar"), "{act:?} while {stage:?}: {under:?}");
            }
        }
    }
}
