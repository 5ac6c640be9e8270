//! The law of the fold: what a run says depends on which rows there are, and on nothing else.

mod common;

use common::{LET_OUT, OFF, all, file, frozen, released, rows};
use moment::Zone;
use proptest::prelude::*;
use quantity::PressureUnit;
use rules::say::Say;
use run::rows::{Row, Rows};
use run::{Now, Run, Tell};
use std::sync::Arc;

/// All that a run says at some hours, in one text.
fn said(run: &Run) -> String {
    let zone = Zone::named("Asia/Kathmandu").unwrap();
    let mut out = serde_json::to_string(&(run.case(&zone), run.hold(), run.stretches(), run.recorded_rows().packed())).unwrap();
    for s in [0.0, 700.0, OFF + 30.0, OFF + 1200.0, LET_OUT + 30.0, LET_OUT + 3600.0] {
        let at = released().plus_s(s);
        let now = Now::by_recorder(run, at, 1.0, 1.0, Some(0.5));
        let tell = Tell { say: Say::from(PressureUnit::Psi), zone: zone.clone(), at };
        out.push_str(&serde_json::to_string(&run.live(&now, &tell, false)).unwrap());
        out.push_str(&run.story(&now, &tell).join("\n"));
        out.push_str(&format!("{:?}", run::situation::At::new(run, at, 1.0).gauges()));
    }
    out
}

fn of(all: impl IntoIterator<Item = Row>) -> Run {
    let mut run = Run::new(released(), Arc::new(frozen()));
    run.add_all(all);
    run
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// In any order, in any portions, any of them twice.
    #[test]
    fn any_split_and_any_row_booked_late_gives_what_computing_from_nothing_gives(
        order in Just((0..all(rows(15.0)).len()).collect::<Vec<_>>()).prop_shuffle(),
        portions in proptest::collection::vec(1usize..40, 1..200),
        twice in 0usize..50,
    ) {
        let all = all(rows(15.0));
        let whole = said(&of(all.clone()));
        let mut run = Run::new(released(), Arc::new(frozen()));
        let mut rest = order.iter().chain(order.iter().take(twice)).map(|i| all[*i].clone());
        let mut portions = portions.into_iter().cycle();
        loop {
            let next: Vec<Row> = rest.by_ref().take(portions.next().unwrap()).collect();
            match next.len() {
                0 => break,
                1 => next.into_iter().for_each(|r| run.add(r)),
                _ => run.add_all(next),
            }
        }
        prop_assert_eq!(said(&run), whole);
    }

    /// As it came, tick by tick, whatever is booked hours late: at every moment the same as from nothing.
    #[test]
    fn as_it_comes_it_says_at_every_moment_what_it_would_say_from_nothing(late in 0usize..8, until in 40usize..240) {
        let Rows { events, typed, ticks, clock_sets, .. } = rows(15.0);
        let booked: Vec<Row> = events.into_iter().map(Row::Event).chain(typed.into_iter().map(Row::Reading)).collect();
        let mut run = Run::new(released(), Arc::new(frozen()));
        let mut kept: Vec<Row> = clock_sets.into_iter().map(Row::ClockSet).collect();
        run.add_all(kept.clone());
        let mut booked = booked.into_iter();
        for (i, tick) in ticks.into_iter().take(until).enumerate() {
            run.add(Row::Tick(tick.clone()));
            kept.push(Row::Tick(tick));
            if i % 20 == 7 + late && let Some(row) = booked.next() {
                run.add(row.clone());
                kept.push(row);
            }
        }
        prop_assert_eq!(said(&run), said(&of(kept)));
    }
}

#[test]
fn a_reading_that_is_struck_out_counts_no_more_and_one_that_comes_again_changes_nothing() {
    let mut run = of(all(rows(60.0)));
    let (before, count) = (said(&run), run.readings().len());
    for row in all(rows(60.0)) {
        run.add(row);
    }
    assert_eq!(said(&run), before);
    let reading = run.typed()[1].clone();
    let struck = Some(run::rows::Struck { by: "supervisor".into(), reason: "another gauge".into() });
    run.add(Row::Reading(run::rows::ReadingRow { struck, ..reading }));
    assert_eq!(run.readings().len(), count - 1);
}

#[test]
fn rows_are_packed_and_unpacked_to_the_last_bit() {
    let rows = rows(7.0);
    let packed = rows.packed();
    assert!(packed.ticks.len() < rows.ticks.len() / 500 + 2);
    assert_eq!(packed.unpacked().unwrap(), rows);
    let mut damaged = packed.clone();
    damaged.ticks[0].truncate(44);
    assert!(damaged.unpacked().is_err());
    damaged.ticks[0] = "no base64 at all".into();
    assert!(damaged.unpacked().is_err());
}

/// The example that `zero-leak run` is shown with; `WRITE=1` writes it anew.
#[test]
#[allow(clippy::disallowed_methods, reason = "a test may write its own example")]
fn the_example_is_this_day() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats/run.example.json");
    let text = serde_json::to_string_pretty(&file(rows(30.0))).unwrap() + "\n";
    if std::env::var_os("WRITE").is_some() {
        std::fs::write(path, &text).unwrap();
    }
    assert_eq!(std::fs::read_to_string(path).unwrap(), text, "docs/formats/run.example.json is stale: run this test with WRITE=1");
    let (run, now, tell) = serde_json::from_str::<run::file::RunFile>(&text).unwrap().open().unwrap();
    insta::assert_snapshot!("story", run.story(&now, &tell).join("\n"));
}

#[test]
fn a_file_of_a_later_format_or_without_its_zone_is_refused_in_words() {
    let later = run::file::RunFile { format: 9, ..file(Rows::default()) };
    assert!(later.open().unwrap_err().to_string().contains("format 9"));
    let lost = run::file::RunFile { zone: "Mars/Olympus".into(), ..file(Rows::default()) };
    assert!(lost.open().unwrap_err().to_string().contains("no zone \"Mars/Olympus\""));
}
