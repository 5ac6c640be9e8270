//! The next instant of the recorder and the view of the run after it, late in a run beside early in it.
#![allow(clippy::disallowed_methods, reason = "a bench measures time")]

#[path = "../tests/common/mod.rs"]
mod common;

use common::{OFF, frozen, released, rows, tick};
use moment::Zone;
use quantity::PressureUnit;
use rules::say::Say;
use run::rows::{Row, Rows};
use run::{Now, Run, Tell};
use std::hint::black_box;
use std::sync::Arc;
use std::time::{Duration, Instant};
use terms::EventKind;

/// A second's work at the last tick of a day is not to cost more than this many times that at the hundredth.
const AT_MOST: f64 = 1.5;
/// Seconds that each trial goes on for.
const GOES_ON: u64 = 200;

/// A run in its hold with so many ticks, one a second after the pump was off.
fn with_ticks(count: u64, planned: f64) -> Run {
    let Rows { events, ticks, .. } = rows(15.0);
    let mut run = Run::new(released(), Arc::new(frozen()));
    run.add_all(ticks.into_iter().filter(|t| t.run_us < released().plus_s(OFF).us()).map(Row::Tick));
    run.add_all(events.into_iter().filter(|e| e.at <= released().plus_s(OFF) && e.kind != EventKind::Released).map(Row::Event));
    let have = run.last_seq();
    run.add_all((have + 1..=count).map(|seq| Row::Tick(in_hold(seq, have, planned))));
    assert_eq!(run.ticks().len() as u64, count.max(have));
    run
}

fn in_hold(seq: u64, before: u64, planned: f64) -> run::rows::Tick {
    let at = released().plus_s(OFF + (seq - before) as f64).us();
    run::rows::Tick { at_us: at, run_us: at, ..tick(seq, OFF + 1.0, planned) }
}

/// A few minutes of a run from where it stands.
fn goes_on(began: &Run, before: u64, planned: f64, zone: &Zone) -> Duration {
    let mut run = began.clone();
    let last = run.last_seq();
    let next: Vec<_> = (1..=GOES_ON).map(|i| in_hold(last + i, before, planned)).collect();
    let start = Instant::now();
    for tick in next {
        let now = Now::by_recorder(&run, moment::Instant::from_us(tick.at_us), 1.0, 1.0, Some(0.1));
        run.add(Row::Tick(tick));
        let tell = Tell { say: Say::from(PressureUnit::Psi), zone: zone.clone(), at: now.at };
        black_box(run.live(&now, &tell, false));
    }
    start.elapsed()
}

fn main() {
    let zone = Zone::named("Asia/Kathmandu").expect("a zone");
    let raised = with_ticks(0, 0.0);
    let planned = raised.window().and_then(|d| d.day.as_ref()).expect("a planned pressure").planned_pa.bar();
    let before = raised.last_seq();
    let both = [120, 86_400].map(|count| with_ticks(count, planned));
    // in turn, so that a machine that is busy for a while is so for both
    let mut best = [Duration::MAX; 2];
    for _ in 0..9 {
        for (best, run) in best.iter_mut().zip(&both) {
            *best = (*best).min(goes_on(run, before, planned, &zone));
        }
    }
    let ratio = best[1].as_secs_f64() / best[0].as_secs_f64();
    println!(
        "{:<44} {ratio:>9.2} × that at the 120th tick ({:.0} µs a second's work)",
        "view of a run at its 86,400th tick",
        1e6 * best[1].as_secs_f64() / GOES_ON as f64
    );
    assert!(ratio <= AT_MOST, "a view late in a run costs {ratio:.2} times one early in it: at most {AT_MOST}");
}
