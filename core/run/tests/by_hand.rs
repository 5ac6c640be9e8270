//! What is booked by hand in a run: strokes without a counter, temperatures before the raise, a gauge driven past its scale.

mod common;

use common::{FILLED, OFF, event, frozen, released, rows, typed};
use moment::Zone;
use pack::acts::Known;
use proptest::prelude::*;
use quantity::{PressureUnit, Volume};
use rules::say::Say;
use run::rows::{Channel, EventRow, Row, Rows};
use run::situation::{Act, At};
use run::{Frozen, Now, Run, Tell};
use std::sync::Arc;
use terms::EventKind;

/// The same line with nothing recorded: gauge and thermometer are read by eye, the pump is worked by hand.
fn by_eye() -> Frozen {
    let mut f = frozen();
    f.instruments.retain(|i| i.tag != "SC-1");
    f.plan.also.retain(|a| a.tag != "SC-1");
    f.instruments.iter_mut().for_each(|i| i.connection = None);
    f.plan.site.stroke_m3 = Some(Volume::from_m3(2e-4));
    f
}

/// Strokes booked ten at a time, each with what the gauge showed.
fn pumped_by_hand(kind: EventKind, each: f64) -> Vec<Row> {
    let planned = Run::new(released(), Arc::new(by_eye())).window().unwrap().day.as_ref().unwrap().planned_pa.pa();
    let mut out = vec![Row::Event(event(1, EventKind::Filled, FILLED)), Row::Reading(typed(1, FILLED + 10.0, Channel::Pressure, 6e4))];
    for n in 1..=16u32 {
        let at = FILLED + 60.0 * f64::from(n);
        out.push(Row::Event(EventRow { figure: Some(each), ..event(n + 1, kind, at) }));
        out.push(Row::Reading(typed(n + 1, at, Channel::Pressure, 6e4 + (planned - 6e4) * f64::from(n) / 16.0)));
    }
    out
}

fn of(all: impl IntoIterator<Item = Row>) -> Run {
    let mut run = Run::new(released(), Arc::new(by_eye()));
    all.into_iter().for_each(|r| run.add(r));
    run
}

fn curve(run: &Run) -> Option<run::curve::PumpingView> {
    run::curve::pumping(run, FILLED + 1100.0)
}

#[test]
fn strokes_and_litres_that_a_person_counts_make_the_same_curve() {
    let strokes = curve(&of(pumped_by_hand(EventKind::Stroked, 10.0))).unwrap();
    let litres = curve(&of(pumped_by_hand(EventKind::Pumped, 10.0 * 2e-4))).unwrap();
    assert_eq!(strokes.points.len(), 17, "what stood on the gauge before the first stroke, and sixteen bookings");
    assert_eq!(strokes.points, litres.points);
    assert!((strokes.points.last().unwrap().volume_m3.m3() - 160.0 * 2e-4).abs() < 1e-12);
    // the same as from a counter: something is said of the air
    assert!(strokes.air.is_some_and(|a| a.hi_95 > a.lo_95) && strokes.says.is_some(), "{}", strokes.sentence);
    assert!(
        curve(&of(pumped_by_hand(EventKind::Stroked, 10.0).into_iter().take(2))).is_none(),
        "before a stroke is booked there is no curve"
    );
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// In whatever order strokes and readings reach the server, the curve is the same.
    #[test]
    fn bookings_in_any_order_make_one_curve(order in Just((0..34usize).collect::<Vec<_>>()).prop_shuffle()) {
        let all = pumped_by_hand(EventKind::Stroked, 10.0);
        let shuffled = of(order.iter().map(|i| all[*i].clone()));
        prop_assert_eq!(serde_json::to_string(&curve(&shuffled)).unwrap(), serde_json::to_string(&curve(&of(all))).unwrap());
    }
}

#[test]
fn hours_to_soak_are_said_of_temperatures_that_somebody_read() {
    let at = |kind, at_s, c| Row::Event(EventRow { figure: Some(c), ..event(at_s as u32, kind, at_s) });
    let filled = || Row::Event(event(1, EventKind::Filled, FILLED));
    let (water, air) = (EventKind::WaterWas, EventKind::AirWas);
    assert!(of([filled()]).soak().is_none(), "nobody read anything");
    assert!(of([filled(), at(water, 320.0, 8.0)]).soak().is_none(), "one of two is not a difference");
    assert!(of([at(water, 200.0, 8.0), at(air, 210.0, 18.0)]).soak().is_none(), "it is not full yet");
    let run = of([filled(), at(water, 320.0, 8.0), at(air, 330.0, 18.0)]);
    let soak = run.soak().unwrap();
    // ten kelvin to one: ln 10 time constants
    let tau = run.window().unwrap().time_constant_s.unwrap().s();
    assert!((soak.takes.s() - tau * 10f64.ln()).abs() < 1.0 && (soak.until_s - 320.0 - soak.takes.s()).abs() < 1e-3, "{soak:?}");
    let tell = Tell { say: Say::from(PressureUnit::Bar), zone: Zone::utc(), at: released() };
    let countdown = run.countdown(&Now::by_clock(&run, released().plus_s(400.0)), &tell).unwrap();
    assert_eq!(countdown.words, "let it soak");
    assert!(of([filled(), at(water, 320.0, 17.4), at(air, 330.0, 18.0)]).soak().unwrap().takes.s() == 0.0);
    // read again later, the later counts
    assert!(of([filled(), at(water, 320.0, 8.0), at(air, 330.0, 18.0), at(water, 9000.0, 17.5)]).soak().unwrap().takes.s() == 0.0);
}

#[test]
fn a_gauge_past_its_scale_and_a_tightened_fitting_reach_the_judgement() {
    let whole = |more: Option<EventRow>| {
        let mut rows: Rows = rows(15.0);
        rows.corrections.clear();
        rows.events.extend(more);
        Run::of(released(), Arc::new(frozen()), rows)
    };
    let zone = Zone::utc();
    let plain = whole(None);
    assert!(plain.case(&zone).unwrap().acceptance.instrument_objections.is_empty());
    let past = EventRow { of: Some("PG-1".into()), ..event(90, EventKind::BeyondScale, OFF - 200.0) };
    let objections = whole(Some(past)).case(&zone).unwrap().acceptance.instrument_objections;
    assert!(objections.len() == 1 && objections[0].starts_with("PG-1 was driven past its scale"), "{objections:?}");
    let nipped = EventRow { of: Some("flange".into()), ..event(91, EventKind::NippedUp, OFF + 700.0) };
    let (before, after) = (plain.hold().unwrap(), whole(Some(nipped)).hold().unwrap());
    assert!(before.start.s() < OFF + 60.0 && (after.start.s() - (OFF + 700.0)).abs() < 20.0, "{before:?} {after:?}");
}

#[test]
fn a_long_hold_is_watched_by_somebody_and_read() {
    let tell = Tell { say: Say::from(PressureUnit::Bar), zone: Zone::utc(), at: released() };
    let long = |more: &[Row]| {
        let mut f = by_eye();
        f.plan.hold_s = Some(quantity::Span::from_h(24.0));
        let mut run = Run::new(released(), Arc::new(f));
        run.add_all(pumped_by_hand(EventKind::Stroked, 10.0));
        run.add(Row::Event(event(60, EventKind::PumpOff, OFF)));
        let planned = run.window().unwrap().day.as_ref().unwrap().planned_pa.pa();
        run.add(Row::Reading(typed(60, OFF + 60.0, Channel::Pressure, planned)));
        run.add_all(more.to_vec());
        run
    };
    let warned = |run: &Run, at_s: f64| run.live(&Now::by_clock(run, released().plus_s(at_s)), &tell, false).warnings.join(" ");
    let alone = long(&[]);
    assert!(warned(&alone, OFF + 600.0).contains("book who watches it"), "{}", warned(&alone, OFF + 600.0));
    let handed = EventRow { of: Some("the night watch".into()), ..event(61, EventKind::HandedOver, OFF + 300.0) };
    let watched = long(&[Row::Event(handed.clone())]);
    assert_eq!(warned(&watched, OFF + 600.0), "");
    assert!(
        watched
            .instruction(&Now::by_clock(&watched, released().plus_s(OFF + 600.0)), &tell)
            .contains("the night watch has the watch since")
    );
    // an hour is the round of a night; twice that without a reading is nobody's watch
    assert_eq!(warned(&watched, OFF + 6000.0), "");
    assert!(warned(&watched, OFF + 7500.0).contains("Nobody has read the gauge since"), "{}", warned(&watched, OFF + 7500.0));
    // once its time is over and was read, nothing more is asked for but its end
    let end = OFF + 60.0 + 86_400.0;
    let read_to_the_end =
        long(&[Row::Reading(typed(63, end + 60.0, Channel::Pressure, 2.4e6)), Row::Event(event(64, EventKind::LookDone, end))]);
    let at = Now::by_clock(&read_to_the_end, released().plus_s(end + 9000.0));
    assert!(read_to_the_end.instruction(&at, &tell).ends_with(". End the hold."), "{}", read_to_the_end.instruction(&at, &tell));
    assert!(warned(&read_to_the_end, end + 9000.0).contains("end the hold, or read on"));
    assert!(watched.instruction(&at, &tell).contains("once more, look at every joint and book it; then end the hold."));
    // handed on, the later has it
    let second = EventRow { of: Some("the morning reader".into()), ..event(62, EventKind::HandedOver, OFF + 7200.0) };
    assert_eq!(long(&[Row::Event(second), Row::Event(handed)]).watcher().map(|w| w.0), Some("the morning reader"));
}

#[test]
fn a_dome_that_stays_full_is_reckoned_with_as_a_volume() {
    let fraction = |trapped: Option<f64>| {
        let mut f = by_eye();
        f.plan.site.trapped_air_m3 = trapped.map(Volume::from_m3);
        let mut day: Rows = rows(15.0);
        day.corrections.clear();
        let run = Run::of(released(), Arc::new(f), day);
        let whole = run.window().unwrap().volume_m3.unwrap().m3();
        let case = run.case(&Zone::utc()).unwrap();
        (case.air_fraction * whole, case.air_fraction_unc_95 * whole, case.air_fraction_unc_95)
    };
    let (none, _, careful) = fraction(None);
    assert_eq!(none, 0.0);
    let (dome, doubt, _) = fraction(Some(0.05));
    assert!((dome - 0.05).abs() < 1e-9 && (doubt - 0.015).abs() < 1e-9, "{dome} {doubt}");
    // a thimbleful is known no better than a careful venting
    assert!((fraction(Some(1e-5)).2 - careful).abs() < 1e-12);
}

#[test]
fn a_first_reading_that_was_written_by_the_minute_does_not_shorten_the_hold() {
    let off = OFF + 20.0;
    let held = |first_s: f64, every: f64| {
        let mut run = Run::new(released(), Arc::new(by_eye()));
        let planned = run.window().unwrap().day.as_ref().unwrap().planned_pa.pa();
        run.add(Row::Event(event(1, EventKind::Filled, FILLED)));
        run.add(Row::Event(event(2, EventKind::PumpOff, off)));
        run.add_all((0..6u32).map(|n| Row::Reading(typed(n + 1, first_s + every * f64::from(n), Channel::Pressure, planned))));
        run.hold().unwrap().start.s()
    };
    // pump off at :20, read then, written as :00
    assert!((held(OFF, 900.0) - off).abs() < 1e-6);
    // where the gauge is read all the time the first reading after it begins the hold, as before
    assert!((held(OFF, 30.0) - (OFF + 30.0)).abs() < 1e-6);
    // an earlier reading is none of the hold's
    assert!((held(OFF - 120.0, 900.0) - (OFF + 780.0)).abs() < 1e-6);
}

/// What a reader typed of the second gauge is that gauge's: the needle, the bounds and the first gauge's readings know nothing of it.
#[test]
fn a_further_gauge_that_is_typed_stands_beside_the_first_and_never_in_its_place() {
    let of_second =
        |n: u32, at: f64, p: f64| Row::Reading(run::rows::ReadingRow { of: Some("PG-2".into()), ..typed(n, at, Channel::Pressure, p) });
    let first = |n: u32, at: f64, p: f64| Row::Reading(typed(n, at, Channel::Pressure, p));
    let run =
        of([first(1, OFF, 2.4e6), of_second(2, OFF + 120.0, 2.37e6), first(3, OFF + 900.0, 2.4e6), of_second(4, OFF + 1000.0, 9.9e6)]);
    let (tell, at) = (Tell { say: Say::from(PressureUnit::Bar), zone: Zone::utc(), at: released() }, released().plus_s(OFF + 1010.0));
    assert_eq!(run.pressures().iter().map(|r| r.p.pa()).collect::<Vec<_>>(), [2.4e6, 2.4e6]);
    assert_eq!(run.readings().iter().filter_map(|r| r.also.first().copied().flatten()).collect::<Vec<_>>(), [2.37e6, 9.9e6]);
    let now = Now::by_clock(&run, at);
    assert_eq!(run.needle(&now).readings.last().map(|r| r.1.pa()), Some(2.4e6));
    let gauges = At::new(&run, at, 1.0).gauges().to_vec();
    let known: Vec<(&str, Option<f64>)> = gauges.iter().map(|g| (g.tag.as_str(), typed_of(&g.known))).collect();
    assert_eq!(known, [("PG-1", Some(2.4e6)), ("PG-2", Some(9.9e6))]);
    // a tag that the plan does not know is no reading
    let stray = run::rows::ReadingRow { of: Some("PG-99".into()), ..typed(9, OFF, Channel::Pressure, 1e6) };
    assert!(of([Row::Reading(stray)]).readings().is_empty());
    // its zero is asked for as well: with the second gauge under pressure nothing is opened
    let mut run = run;
    for (n, kind, t) in [(20, EventKind::PumpOff, OFF), (21, EventKind::HoldEnded, OFF + 900.0), (22, EventKind::Released, OFF + 950.0)] {
        run.add(Row::Event(event(n, kind, t)));
    }
    run.add(first(5, OFF + 1005.0, 0.0));
    let acts = At::new(&run, at, 1.0).objections(&Act::of(EventKind::VentOpened), &tell).0;
    assert!(acts.iter().any(|o| o.contains("PG-2")), "{acts:?}");
}

fn typed_of(known: &Known) -> Option<f64> {
    match known {
        Known::Typed { pressure, .. } => Some(pressure.pa()),
        _ => None,
    }
}
