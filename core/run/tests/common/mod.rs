//! A day of an invented line, minute by minute and second by second.

#![allow(dead_code, reason = "each test file uses its own part of it")]

use moment::Instant;
use quantity::RunTime;
use run::file::RunFile;
use run::rows::{
    Answer, Channel, ClockSet, Correction, CorrectionRow, EventRow, LoggerRow, ReadingRow, Recording, Row, Rows, Sampled, Struck, Tick,
};
use run::{Frozen, Run};
use serde_json::json;
use std::sync::Arc;
use terms::EventKind;

pub const RELEASED: &str = "2026-06-01T06:00:00Z";

pub fn released() -> Instant {
    Instant::parse(RELEASED).unwrap()
}

fn connection(register: u16) -> serde_json::Value {
    json!({ "address": "127.0.0.1", "port": 5020, "unit": 1, "register": register, "form": "f32" })
}

/// What the release froze: eight inch pipe with a flange, a gauge, a thermometer, a second gauge and a stroke counter, all recorded.
pub fn frozen() -> Frozen {
    let certificate =
        |tag: &str| json!({ "tag": tag, "certificate": format!("C-{tag}"), "calibrated_on": "2026-01-05", "valid_until": "2027-01-04" });
    let with = |tag: &str, more: serde_json::Value| {
        let mut all = certificate(tag);
        all.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        all
    };
    let gauge = |tag: &str, register: u16| {
        with(
            tag,
            json!({ "kind": "gauge", "full_scale_pa": 4e6, "division_pa": 5e3, "error_of_scale": 0.0025, "unit": "bar", "connection": connection(register) }),
        )
    };
    serde_json::from_value(json!({
        "title": "Condensate return, lower run",
        "plan": {
            "object": "process_piping", "claim": "both", "why_now": "new", "relied_on_by": "the owner",
            "basis": { "id": "b31_3", "design_pressure_pa": 1.6e6, "design_temperature_c": 38.0 },
            "water_temperature_c": 15.0, "gauge_tag": "PG-1", "gauge_elevation_m": 1.2, "thermometer_tag": "TT-1", "thermometer_place": "water",
            "also": [{ "tag": "PG-2", "elevation_m": 4.0 }, { "tag": "SC-1" }],
            "people": { "performs": "supervisor", "inspects": "inspector", "witnesses": "witness", "accepts": "owner" }
        },
        "parts": [
            { "tag": "run", "kind": "pipe", "elevation_m": 6.0, "outside_diameter_m": 0.2191, "wall_m": 0.00818, "length_m": 120.0, "material": "a106_b" },
            { "tag": "flange", "kind": "flange", "elevation_m": 1.0, "flange_class": 150, "material": "a106_b" }
        ],
        "instruments": [
            gauge("PG-1", 0),
            with("TT-1", json!({ "kind": "thermometer", "division_k": 0.1, "error_k": 0.3, "connection": connection(2) })),
            gauge("PG-2", 4),
            with("SC-1", json!({ "kind": "stroke_counter", "stroke_m3": 2e-4, "stroke_unc_95_rel": 0.02, "connection": connection(6) }))
        ]
    }))
    .unwrap()
}

pub fn event(n: u32, kind: EventKind, at_s: f64) -> EventRow {
    EventRow {
        id: format!("event-{n:02}"),
        kind,
        at: released().plus_s(at_s),
        place: None,
        looked: None,
        volume_m3: None,
        figure: None,
        of: None,
        note: String::new(),
        person: "supervisor".into(),
        stored_at: released().plus_s(at_s + 2.0),
        lead_us: 0,
    }
}

pub fn typed(n: u32, at_s: f64, channel: Channel, value: f64) -> ReadingRow {
    ReadingRow {
        id: format!("reading-{n:02}"),
        at: released().plus_s(at_s),
        channel,
        of: None,
        value,
        as_typed: format!("{value}"),
        person: "reader".into(),
        stored_at: released().plus_s(at_s + 5.0),
        struck: None,
        lead_us: 0,
    }
}

/// When what happens, s from the release.
pub const FILLED: f64 = 300.0;
pub const OFF: f64 = 1500.0;
pub const ENDED: f64 = OFF + 1800.0;
pub const LET_OUT: f64 = ENDED + 300.0;

/// The pressure and the strokes of a second, in bar.
fn plan_of(t: f64, planned: f64) -> (f64, f64) {
    let (steps, between) = (4.0, 240.0);
    let raise = ((t - FILLED) / between).max(0.0);
    let step = raise.floor().min(steps);
    let share = if step < steps { (step + (2.0 * (raise - step)).min(1.0)) / steps } else { 1.0 };
    let strokes = (share * 160.0).floor();
    let p = if t < FILLED { 0.6 } else { 0.6 + (planned - 0.6) * strokes / 160.0 };
    let p = if t > OFF { planned - 2e-5 * (t - OFF).min(1800.0) } else { p };
    (if t > LET_OUT - 60.0 { 0.0 } else { p }, strokes)
}

/// One instant of the recorder.
pub fn tick(seq: u64, t: f64, planned: f64) -> Tick {
    let (p, strokes) = plan_of(t, planned);
    let at = released().plus_s(t).us();
    let read = |channel, value: f64| Sampled { channel, answer: Answer::Read, value: Some(value) };
    // a needle that trembles by a tenth of a division
    let shake = 50.0 * ((seq * 7919) % 21) as f64 - 500.0;
    let second = if seq.is_multiple_of(97) {
        Sampled { channel: 2, answer: Answer::None, value: None }
    } else {
        read(2, p * 1e5 - 2.8 * 9806.65 - shake)
    };
    let values = vec![read(0, p * 1e5 + shake), read(1, 15.0 + 1e-4 * t), second, read(3, strokes)];
    Tick { seq, at_us: at, run_us: at, values }
}

/// The rows of the whole day, one every `every` seconds from the recorder.
pub fn rows(every: f64) -> Rows {
    let run = Run::new(released(), Arc::new(frozen()));
    let planned = run.window().unwrap().day.as_ref().unwrap().planned_pa.bar();
    let mut n = 0;
    let mut book = |kind, at_s| {
        n += 1;
        event(n, kind, at_s)
    };
    let steps = run.facts().schedule.len();
    let mut events = vec![book(EventKind::Filled, FILLED - 30.0)];
    events.extend((0..steps).map(|i| book(EventKind::StepReached, FILLED + 240.0 * (i + 1) as f64 - 30.0)));
    events.push(book(EventKind::PumpOff, OFF));
    events.push(book(EventKind::LookDone, OFF + 900.0));
    events.push(EventRow { note: "a gust moved the needle".into(), ..book(EventKind::Noted, OFF + 1000.0) });
    events.push(book(EventKind::HoldEnded, ENDED));
    events.push(book(EventKind::Released, LET_OUT));
    events.push(book(EventKind::VentOpened, LET_OUT + 60.0));
    events.push(book(EventKind::Drained, LET_OUT + 400.0));
    let struck = Struck { by: "supervisor".into(), reason: "read off the wrong gauge".into() };
    let logged = |k: u32| LoggerRow {
        at_us: released().plus_s(OFF + 60.0 * f64::from(k)).us(),
        pressure_pa: Some(planned * 1e5),
        temperature_c: None,
    };
    Rows {
        events,
        typed: vec![
            typed(1, FILLED, Channel::Temperature, 15.0),
            typed(2, OFF + 600.0, Channel::Pressure, planned * 1e5),
            ReadingRow { struck: Some(struck), ..typed(3, OFF + 650.0, Channel::Pressure, 1e5) },
        ],
        recordings: vec![Recording { id: "file-1".into(), stored_at: released().plus_s(ENDED), rows: (0..20).map(logged).collect() }],
        ticks: (0..=((LET_OUT + 500.0) / every) as u64).map(|i| tick(i + 1, every * i as f64, planned)).collect(),
        clock_sets: vec![ClockSet { at_us: released().plus_s(700.0).us(), run_us: released().plus_s(640.0).us(), lead_us: 60_000_000 }],
        corrections: vec![CorrectionRow {
            id: "correction-1".into(),
            at: released().plus_s(LET_OUT + 900.0),
            correction: Correction::Move {
                boundary: judge::case::Boundary::End,
                found_s: RunTime::from_s(ENDED),
                moved_s: RunTime::from_s(ENDED - 60.0),
                reason: "the last minute was read by somebody else".into(),
            },
            person: "inspector".into(),
        }],
        let_out_before: Some(released().plus_s(-86_400.0)),
    }
}

pub fn file(rows: Rows) -> RunFile {
    RunFile { format: 1, zone: "Asia/Kathmandu".into(), unit: None, released_at: released(), release: frozen(), rows, now: None }
}

/// Every row by itself, in the order in which each kind came.
pub fn all(rows: Rows) -> Vec<Row> {
    rows.into_rows().collect()
}
