//! The pumping curve of a run whose crew overshot, let water out and pumped up again.

mod common;

use common::{frozen, released};
use run::rows::{Answer, Row, Sampled, Tick};
use run::{Now, Run};
use std::sync::Arc;

/// Strokes one after another, each with the pressure of the so-manieth stroke of a raise.
fn pumped(strokes: impl IntoIterator<Item = u32>) -> Run {
    let mut run = Run::new(released(), Arc::new(frozen()));
    let planned = run.window().unwrap().day.as_ref().unwrap().planned_pa.bar();
    let read = |channel, value: f64| Sampled { channel, answer: Answer::Read, value: Some(value) };
    let ticks = strokes.into_iter().enumerate().map(|(i, stroke)| {
        let at = released().plus_s(400.0 + 2.0 * i as f64).us();
        let bar = 0.6 + (planned - 0.6) * f64::from(stroke) / 160.0;
        let shake = 50.0 * ((i * 7919) % 21) as f64 - 500.0;
        Row::Tick(Tick {
            seq: i as u64 + 1,
            at_us: at,
            run_us: at,
            values: vec![read(0, bar * 1e5 + shake), read(1, 15.0), read(2, bar * 1e5 - 2.8 * 9806.65), read(3, i as f64)],
        })
    });
    run.add_all(ticks);
    run
}

fn view(run: &Run) -> run::curve::PumpingView {
    let now = Now::by_recorder(run, released().plus_s(1200.0), 1.0, 1.0, Some(0.5));
    run::curve::pumping(run, now.s).unwrap()
}

#[test]
fn water_that_was_let_out_counts_neither_as_air_nor_as_a_softer_wall() {
    let straight = view(&pumped(0..=160));
    let twice = view(&pumped((0..=160).chain(100..=160).chain(40..=160)));
    let (a, b) = (straight.air.unwrap(), twice.air.unwrap());
    assert!((a.stiffness_ratio / b.stiffness_ratio - 1.0).abs() < 0.02, "{} {}", a.stiffness_ratio, b.stiffness_ratio);
    assert_eq!((straight.let_down, twice.let_down), (0, 2));
    assert_eq!(straight.says, twice.says);
    assert!(
        twice.sentence.ends_with("fell 2 times between strokes, and what went out is not counted: if nobody let it out, look for a leak.")
    );
    // the strokes themselves are all told
    assert_eq!((straight.strokes, twice.strokes), (160.0, 342.0));
}
