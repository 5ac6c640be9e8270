//! Plans and parts that several stories start from, each put in through the API.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use serde_json::{Value, json};
use time::format_description::well_known::Rfc3339;
use time::{Duration, OffsetDateTime};

/// The DN150 line: 16 bar design, top run at 18.5 m, class 150 flange at 1.0 m, gauge at 1.2 m.
pub const DN150: [[&str; 11]; 2] = [
    ["Top run", "pipe", "18.5", "DN150", "sch 40", "120", "A106-B", "", "", "", ""],
    ["Bottom flange", "flange", "1.0", "", "", "", "A106-B", "150", "", "", ""],
];

/// Rows as the API takes them.
pub fn rows<const N: usize>(of: &[[&str; N]]) -> Vec<Vec<String>> {
    of.iter().map(|r| r.iter().map(|c| (*c).to_owned()).collect()).collect()
}

/// An instant as the API takes it.
pub fn at(instant: OffsetDateTime) -> String {
    instant.format(&Rfc3339).unwrap_or_default()
}

/// The zone of the stories' project: neither UTC nor a whole number of hours from it.
pub const ZONE: &str = "Asia/Kathmandu";

/// A moment as that zone has it, the whole year through (tz database: +05:45, no summer time).
pub fn local(instant: OffsetDateTime) -> OffsetDateTime {
    instant.to_offset(time::macros::offset!(+5:45))
}

/// A day so many days from the project's today.
pub fn day(from_today: i64) -> String {
    at(local(OffsetDateTime::now_utc()) + Duration::days(from_today)).chars().take(10).collect()
}

/// A plan for process piping at 16 bar and 38 °C; four people sign.
pub fn piping() -> Value {
    json!({
        "object": "process_piping", "claim": "both", "why_now": "new", "relied_on_by": "integrity authority", "run": "record",
        "basis": { "id": "b31_3", "design_pressure_pa": 1.6e6, "design_temperature_c": 38.0 },
        "water_temperature_c": 15.0, "restraint": "free", "gauge_tag": "PG-1", "gauge_elevation_m": 1.2,
        "thermometer_tag": "TT-1", "thermometer_place": "water", "hold_s": 1800.0, "schedule": "quarters", "permit_number": "PTW-1",
        "people": { "performs": "supervisor", "inspects": "inspector", "witnesses": "witness", "accepts": "owner" },
    })
}

/// A quick test of a miniature boiler that its owner does alone.
pub fn boiler() -> Value {
    json!({
        "object": "miniature_boiler", "claim": "both", "why_now": "due", "relied_on_by": "the club", "run": "record",
        "basis": { "id": "boiler_model", "working_pressure_pa": 5e5, "choices": { "occasion": "later" } },
        "water_temperature_c": 16.0, "gauge_tag": "PG-2", "gauge_elevation_m": 0.3, "thermometer_tag": "TT-1", "thermometer_place": "water",
        "hold_s": 1800.0, "schedule": "small_boiler", "relief_alternative": "hand pump with attended bleed",
        "people": { "performs": "boiler-owner" },
    })
}

/// A gauge in the store, valid or not.
pub fn gauge(tag: &str, valid_until: &str) -> Value {
    json!({ "tag": tag, "kind": "gauge", "certificate": "MC-1", "calibrated_on": day(-400), "valid_until": valid_until,
        "full_scale_pa": 4e6, "division_pa": 1e3, "error_of_scale": 0.0025, "unit": "bar" })
}

/// Two gauges and a thermometer that suit the plans above.
///
/// # Errors
/// When the server refuses them.
pub async fn instruments(engineer: &Person) -> Result<()> {
    engineer.put("/instruments/PG-1", &gauge("PG-1", &day(300))).await?;
    let mut small = gauge("PG-2", &day(300));
    small["full_scale_pa"] = json!(1.6e6);
    engineer.put("/instruments/PG-2", &small).await?;
    let thermometer = json!({ "tag": "TT-1", "kind": "thermometer", "certificate": "MT-1", "calibrated_on": day(-60),
        "valid_until": day(300), "division_k": 0.01, "error_k": 0.1 });
    engineer.put("/instruments/TT-1", &thermometer).await.map(|_| ())
}

/// A pack of the DN150 line.
///
/// # Errors
/// When the server refuses it.
pub async fn pack(engineer: &Person, number: &str, plan: &Value) -> Result<String> {
    let pack = id();
    let body = json!({ "number": number, "title": format!("Line {number}"), "form": "pack", "plan": plan, "cells": rows(&DN150) });
    engineer.put(&format!("/packs/{pack}"), &body).await?;
    Ok(pack)
}

/// Releases a pack as of three hours ago.
///
/// # Errors
/// When a gate is shut.
pub async fn release(supervisor: &Person, pack: &str) -> Result<(String, OffsetDateTime)> {
    let (attempt, start) = (id(), OffsetDateTime::now_utc() - Duration::hours(3));
    supervisor.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({ "released_at": at(start) })).await?;
    Ok((attempt, start))
}

/// Books an event so many minutes after `start`; a release with the reading that proves zero.
///
/// # Errors
/// When the server refuses it.
pub async fn event(person: &Person, attempt: &str, start: OffsetDateTime, minute: i64, kind: &str) -> Result<()> {
    if kind == "released" {
        zero(person, attempt, start + Duration::minutes(minute)).await?;
    }
    let body = json!({ "kind": kind, "at": at(start + Duration::minutes(minute)), "note": "" });
    person.put(&format!("/attempts/{attempt}/events/{}", id()), &body).await.with_context(|| kind.to_owned()).map(|_| ())
}

/// Types that the gauge reads zero.
///
/// # Errors
/// When the server refuses it.
pub async fn zero(person: &Person, attempt: &str, when: OffsetDateTime) -> Result<()> {
    let reading = json!({ "id": id(), "at": at(when), "channel": "pressure", "text": "0", "unit": "bar" });
    person.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": [reading] })).await.map(|_| ())
}

/// A tight hold of half an hour from minute 40 on, read once a minute; then released, vented, drained.
///
/// # Errors
/// When the server refuses something.
pub async fn tight_hold(person: &Person, attempt: &str, start: OffsetDateTime) -> Result<()> {
    event(person, attempt, start, 5, "filled").await?;
    tight_hold_after_filling(person, attempt, start).await
}

/// The same of a test that was filled before.
///
/// # Errors
/// When the server refuses something.
pub async fn tight_hold_after_filling(person: &Person, attempt: &str, start: OffsetDateTime) -> Result<()> {
    for minute in [10, 20, 30, 35] {
        event(person, attempt, start, minute, "step_reached").await?;
    }
    event(person, attempt, start, 40, "pump_off").await?;
    let mut readings = Vec::new();
    for minute in 40..=72 {
        let when = at(start + Duration::minutes(minute));
        // the gauge's last digit is never quite still
        let pressure = format!("{:.2}", 26.0 + 0.01 * f64::from(i32::try_from(minute * 7 % 3).unwrap_or(0) - 1));
        readings.push(json!({ "id": id(), "at": when, "channel": "pressure", "text": pressure, "unit": "bar" }));
        readings.push(json!({ "id": id(), "at": when, "channel": "temperature", "text": "15.00" }));
    }
    person.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": readings })).await?;
    for (minute, kind) in [(55, "look_done"), (72, "hold_ended"), (75, "released"), (80, "vent_opened"), (85, "drained")] {
        event(person, attempt, start, minute, kind).await?;
    }
    Ok(())
}

/// The rig's instruments in the store, where the rig of the installation answers.
///
/// # Errors
/// When the server refuses them.
pub async fn rig_instruments(engineer: &Person, port: u16) -> Result<()> {
    let base = |tag: &str, kind: &str, unit: u8, register: u16, form: &str, scale: f64| {
        json!({ "tag": tag, "kind": kind, "certificate": "RC-1", "calibrated_on": day(-60), "valid_until": day(300),
            "connection": { "address": "127.0.0.1", "port": port, "unit": unit, "register": register, "form": form, "scale": scale } })
    };
    let mut all = [
        base("PT-71", "gauge", 10, 0, "f32", 1.0),
        base("PT-72", "gauge", 11, 4, "i16", 0.01),
        base("TT-71", "thermometer", 20, 0, "f32_low_first", 1.0),
        base("SC-71", "stroke_counter", 30, 0, "u32", 1.0),
    ];
    for gauge in &mut all[..2] {
        (gauge["full_scale_pa"], gauge["division_pa"], gauge["error_of_scale"]) = (json!(40e5), json!(1e3), json!(0.0025));
    }
    (all[2]["division_k"], all[2]["error_k"]) = (json!(0.01), json!(0.1));
    (all[3]["stroke_m3"], all[3]["stroke_unc_95_rel"]) = (json!(25e-6), json!(0.02));
    for body in &all {
        engineer.put(&format!("/instruments/{}", body["tag"].as_str().unwrap_or_default()), body).await?;
    }
    Ok(())
}

/// The line that the rig simulates: DN200, 45 m, high point at 14 m, a class 150 flange at 1 m.
pub const PUMP_HOUSE: [[&str; 11]; 2] = [
    ["Supply header", "pipe", "14.0", "DN200", "sch 40", "45", "A106-B", "", "", "", ""],
    ["Pump flange", "flange", "1.0", "", "", "", "A106-B", "150", "", "", ""],
];

/// A pack of that line, recorded by the rig's instruments.
///
/// # Errors
/// When the server refuses it.
pub async fn rig_pack(engineer: &Person, number: &str, claim: &str) -> Result<String> {
    let mut plan = piping();
    (plan["gauge_tag"], plan["thermometer_tag"], plan["claim"], plan["hold_s"]) =
        (json!("PT-71"), json!("TT-71"), json!(claim), json!(900.0));
    plan["also"] = json!([{ "tag": "PT-72", "elevation_m": 14.0 }, { "tag": "SC-71" }]);
    let pack = id();
    let body = json!({ "number": number, "title": "Cooling water supply", "form": "pack", "plan": plan, "cells": rows(&PUMP_HOUSE) });
    engineer.put(&format!("/packs/{pack}"), &body).await?;
    Ok(pack)
}
