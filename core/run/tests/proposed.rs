//! What a logger's file shows of a run's course is proposed, and what it does not show is not.

mod common;

use common::{FILLED, event, frozen, released};
use moment::Zone;
use quantity::PressureUnit;
use rules::say::Say;
use run::proposed::Proposed;
use run::rows::{EventRow, LoggerRow, Recording, Row};
use run::situation::{Act, At};
use run::{Run, Tell};
use std::sync::Arc;
use terms::EventKind;

/// A file of a reading every ten seconds: up in the steps of the schedule with five minutes at each, held for `held` s, then down in two minutes.
fn run_with(held: f64, down: bool) -> Run {
    let mut run = Run::new(released(), Arc::new(frozen()));
    let targets: Vec<f64> = run.facts().schedule.iter().map(|s| s.target_pa.pa()).collect();
    let mut rows = Vec::new();
    let mut t = FILLED;
    let mut put = |pa: f64, t: &mut f64| {
        rows.push(LoggerRow { at_us: released().plus_s(*t).us(), pressure_pa: Some(pa), temperature_c: Some(15.0) });
        *t += 10.0;
    };
    let mut p = 6e4;
    put(p, &mut t);
    for target in &targets {
        for i in 1..=12 {
            put(p + (target - p) * f64::from(i) / 12.0, &mut t);
        }
        p = *target;
        for _ in 0..30 {
            put(p, &mut t);
        }
    }
    for i in 0..(held / 10.0) as u32 {
        put(p - 3.0 * f64::from(i), &mut t);
    }
    if down {
        for i in 1..=12 {
            put((p * (1.0 - f64::from(i) / 12.0)).max(0.0), &mut t);
        }
        for _ in 0..12 {
            put(0.0, &mut t);
        }
    }
    run.add(Row::Recording(Recording { id: "file".into(), stored_at: released().plus_s(t), rows }));
    run.add(Row::Event(event(1, EventKind::Filled, FILLED - 60.0)));
    run
}

fn tell() -> Tell {
    Tell { say: Say::from(PressureUnit::Bar), zone: Zone::utc(), at: released() }
}

fn kinds(all: &[Proposed]) -> Vec<EventKind> {
    all.iter().map(|p| p.kind).collect()
}

#[test]
fn the_whole_course_is_proposed_and_every_proposal_can_be_booked_in_its_order() {
    let mut run = run_with(1800.0, true);
    let all = run.proposed(&tell());
    let steps = run.facts().schedule.len();
    let mut expected = vec![EventKind::StepReached; steps];
    expected.extend([EventKind::PumpOff, EventKind::HoldEnded, EventKind::Released]);
    assert_eq!(kinds(&all), expected);
    assert!(all.windows(2).all(|w| w[0].at <= w[1].at));
    assert!(all[0].words.starts_with("step 1 reached, at "), "{}", all[0].words);
    let rows_before = run.proposed(&tell()).len();
    for (n, p) in all.iter().enumerate() {
        // nobody objects to what the file shows
        let (against, _) = At::new(&run, p.at, 1.0).objections(&Act { word: "zero by the logger", ..Act::of(p.kind) }, &tell());
        assert!(against.is_empty(), "{:?} at {}: {against:?}", p.kind, p.at);
        run.add(Row::Event(EventRow { at: p.at, ..event(10 + n as u32, p.kind, 0.0) }));
        // what is booked is not proposed again
        assert_eq!(run.proposed(&tell()).len(), if p.kind == EventKind::Released { 0 } else { rows_before - n - 1 }, "after {:?}", p.kind);
    }
    // the hold is the half hour at pressure
    let hold = run.hold().unwrap();
    assert!((hold.length().s() - 2100.0).abs() < 90.0, "{}", hold.length().s());
}

#[test]
fn what_the_file_does_not_show_is_not_proposed() {
    let still_up = run_with(600.0, false);
    assert_eq!(kinds(&still_up.proposed(&tell())).last(), Some(&EventKind::PumpOff), "it is not let out yet");
    let empty = Run::new(released(), Arc::new(frozen()));
    assert!(empty.proposed(&tell()).is_empty());
    // before somebody booked that it was filled and looked at
    let mut unfilled = Run::new(released(), Arc::new(frozen()));
    let file = run_with(600.0, true).rows().recordings[0].clone();
    unfilled.add(Row::Recording(file));
    assert!(unfilled.proposed(&tell()).is_empty());
}
