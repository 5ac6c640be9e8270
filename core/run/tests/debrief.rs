//! What a practice run teaches, against runs of which everything is known.

mod common;

use common::{OFF, event, frozen, released, rows};
use moment::Zone;
use quantity::{PressureUnit, TemperatureDifference};
use rules::say::Say;
use run::debrief::{Debrief, Hidden};
use run::rows::{EventRow, Rows};
use run::{Run, Tell};
use std::sync::Arc;
use terms::{EventKind, LeakPlace};

fn of(rows: Rows, hidden: &Hidden) -> Debrief {
    let tell = Tell { say: Say::from(PressureUnit::Bar), zone: Zone::utc(), at: released() };
    Run::of(released(), Arc::new(frozen()), rows).debrief(hidden, &tell)
}

fn day() -> Rows {
    let mut all = rows(15.0);
    all.corrections.clear();
    all.clock_sets.clear();
    all
}

fn nothing() -> Hidden {
    Hidden { air_fraction: 0.0, leaks: vec![], warming: TemperatureDifference::from_k(0.0), faults: vec![] }
}

fn all_hidden() -> Hidden {
    Hidden {
        air_fraction: 0.02,
        leaks: vec!["the flange at the north end".into()],
        warming: TemperatureDifference::from_k(6.0),
        faults: vec![("PG-2".into(), "stood still for a while".into())],
    }
}

#[test]
fn what_was_hidden_is_told_with_whether_it_was_found() {
    let blind = of(day(), &all_hidden()).hidden;
    assert_eq!(blind.len(), 4);
    let missed: Vec<&str> = blind.iter().filter(|t| !t.found).map(|t| t.was.as_str()).collect();
    assert!(missed.iter().any(|w| w.starts_with("A leak at the flange")) && missed.iter().any(|w| w.starts_with("PG-2")), "{missed:?}");
    // the thermometer was read all day
    assert!(blind.iter().any(|t| t.found && t.was.starts_with("The surroundings were")));
    let mut seen = day();
    seen.events.push(EventRow { place: Some(LeakPlace::MechanicalJoint), ..event(70, EventKind::LeakSeen, OFF + 200.0) });
    seen.events.push(EventRow { note: "pg-2 does not move".into(), ..event(71, EventKind::Noted, OFF + 210.0) });
    let told = of(seen, &all_hidden()).hidden;
    let leak = told.iter().find(|t| t.was.starts_with("A leak")).unwrap();
    assert!(leak.found && leak.how.starts_with("You booked: mechanical joint at "), "{}", leak.how);
    assert!(told.iter().find(|t| t.was.starts_with("PG-2")).unwrap().found);
    assert!(of(day(), &nothing()).hidden.is_empty(), "a sound system hides nothing");
}

#[test]
fn a_stop_that_was_cut_short_and_a_look_that_was_too_early_are_told() {
    let sound = of(day(), &nothing());
    assert_eq!(sound.dangerous, Vec::<String>::new());
    let mut hasty = day();
    // the second step half a minute after the first
    let first = hasty.events.iter().position(|e| e.kind == EventKind::StepReached).unwrap();
    let at = hasty.events[first].at;
    hasty.events[first + 1].at = at.plus_s(30.0);
    let look = hasty.events.iter().position(|e| e.kind == EventKind::LookDone).unwrap();
    hasty.events[look].at = released().plus_s(OFF + 120.0);
    hasty.events.push(EventRow { of: Some("Plug 4".into()), ..event(80, EventKind::NippedUp, OFF + 300.0) });
    let told = of(hasty, &nothing());
    assert!(
        told.skipped.iter().any(|s| s.starts_with("The stop at step 1 was to last") && s.contains("you went on after")),
        "{:?}",
        told.skipped
    );
    assert!(told.dangerous.iter().any(|s| s.contains("looked at joints")), "{:?}", told.dangerous);
    assert!(told.dangerous.iter().any(|s| s.starts_with("Plug 4 was tightened at")), "{:?}", told.dangerous);
    let mut unlooked = day();
    unlooked.events.retain(|e| e.kind != EventKind::LookDone);
    assert!(of(unlooked, &nothing()).skipped.iter().any(|s| s.starts_with("Nobody looked at every joint")));
}

#[test]
fn a_pressure_past_the_limit_is_told_as_dangerous() {
    let mut over = day();
    let upper = Run::new(released(), Arc::new(frozen())).window().unwrap().upper_pa.pa();
    over.typed.push(common::typed(99, OFF - 30.0, run::rows::Channel::Pressure, upper + 1e5));
    let told = of(over, &nothing()).dangerous;
    assert!(told.len() == 1 && told[0].contains("is the most that its weakest part"), "{told:?}");
}
