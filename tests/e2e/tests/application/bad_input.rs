//! Files and figures from the real world: read what can be read, refuse the rest at its row and column, store nothing by halves.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures::{self, at};
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::fmt::Write as _;
use time::{Duration, OffsetDateTime};

/// Latin-1, semicolons, decimal commas, a pressure in psi.
const PARTS: &[u8] = b"Teil;Art;H\xf6he [m];Size;Wall;Length;Material;Class;Limit [psi]\r\nRohr;pipe;18,5;DN150;sch 40;120;A106-B;;\r\nFlansch \xd6l;flange;1,0;;;;A106-B;150;\r\nBeh\xe4lter;vessel;3,2;;;;;;1200\r\n";

async fn preview(person: &Person, pack: &str, file: &[u8]) -> Result<(StatusCode, Value)> {
    let path = format!("/packs/{pack}/parts/preview");
    let answer = person.request(Method::POST, &path).header("content-type", "application/octet-stream").body(file.to_vec()).send().await?;
    Ok((answer.status(), answer.json().await?))
}

/// Sends a logger's file and returns the last line of the answer and how many lines of progress came before it.
async fn import(person: &Person, attempt: &str, mapping: &Value, file: String) -> Result<(Value, usize)> {
    let request = person.request(Method::PUT, &format!("/attempts/{attempt}/recordings/{}", id()));
    let answer = request.query(&[("file_name", "logger.csv"), ("mapping", &mapping.to_string())]).body(file).send().await?.text().await?;
    let lines: Vec<Value> = answer.lines().map(serde_json::from_str).collect::<Result<_, _>>()?;
    let last = lines.last().cloned().context("no answer")?;
    Ok((last, lines.len() - 1))
}

fn mapping() -> Value {
    json!({ "time_column": "time", "time_form": { "kind": "year_first" }, "zone": "UTC", "pressure_column": "p [psi]", "pressure_unit": "psi",
        "temperature_column": "T", "decimal_comma": true })
}

#[tokio::test]
async fn a_parts_file_from_elsewhere_is_read_and_what_is_wrong_is_named() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let before = engineer.get(&format!("/packs/{pack}")).await?;
    let (status, fate) = preview(&engineer, &pack, PARTS).await?;
    assert_eq!(status, StatusCode::OK, "{fate}");
    let rows = fate["rows"].as_array().context("rows")?;
    assert_eq!(rows.len(), 3);
    assert!(rows.iter().all(|r| r["problems"].as_array().is_some_and(Vec::is_empty)), "{fate:#}");
    assert_eq!(rows[1]["part"]["tag"], "Flansch Öl");
    // 1200 psi, by the exact definition of the unit
    let limit = rows[2]["part"]["test_limit_pa"].as_f64().context("limit")?;
    assert!((limit - 1200.0 * 6_894.757_293_168_361).abs() < 1.0, "{limit}");

    for (column, index, value) in
        [("height", 2, ""), ("height", 2, "high"), ("wall", 4, "-7.11 mm"), ("height", 2, "123456"), ("size", 3, "DN151")]
    {
        let mut cells = fixtures::rows(&fixtures::DN150);
        value.clone_into(&mut cells[0][index]);
        let version = before["version"].as_u64().unwrap_or(0);
        let answer = engineer
            .request(Method::PUT, &format!("/packs/{pack}/parts"))
            .header("if-match", format!("\"v{version}\""))
            .json(&json!({ "cells": cells }))
            .send()
            .await?;
        assert_eq!(answer.status(), StatusCode::UNPROCESSABLE_ENTITY, "{value:?}");
        let problem: Value = answer.json().await?;
        assert!(problem["field"].as_str().is_some_and(|f| f == format!("rows[0].{column}")), "{problem}");
        assert!(problem["detail"].as_str().is_some_and(|d| d.contains("row 1") || d.contains("Row 1")), "{problem}");
    }
    let after = engineer.get(&format!("/packs/{pack}")).await?;
    assert_eq!((&before["rows"], &before["version"]), (&after["rows"], &after["version"]), "nothing was stored by halves");

    for garbage in [&b""[..], b"\0\0\0\0", b"\xff\xfe", b"one line only"] {
        let (status, answer) = preview(&engineer, &pack, garbage).await?;
        assert!(
            status == StatusCode::UNPROCESSABLE_ENTITY || answer["rows"].as_array().is_some_and(|r| r.is_empty()),
            "{garbage:?}: {answer}"
        );
    }
    site.stop().await
}

#[tokio::test]
async fn a_plan_with_an_impossible_figure_names_its_field() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    for (pointer, value, field) in [
        ("/basis/design_pressure_pa", json!(0.0), "design_pressure_pa"),
        ("/basis/design_pressure_pa", json!(-1.6e6), "design_pressure_pa"),
        ("/basis/design_pressure_pa", json!(1e12), "design_pressure_pa"),
        ("/basis/design_temperature_c", json!(-300.0), "design_temperature_c"),
        ("/water_temperature_c", json!(130.0), "water_temperature_c"),
        ("/gauge_elevation_m", json!(1e9), "gauge_elevation_m"),
        ("/hold_s", json!(60.0), "hold_s"),
        ("/next_test", json!({ "on": "31.03.2027", "by": "the rule" }), "next_test.on"),
        ("/next_test", json!({ "on": "2027-03-31", "by": " " }), "next_test.by"),
    ] {
        let mut plan = fixtures::piping();
        match plan.pointer_mut(pointer) {
            Some(there) => *there = value.clone(),
            None => plan[pointer.trim_start_matches('/')] = value.clone(),
        }
        let body = json!({ "title": "t", "form": "pack", "plan": plan, "cells": [] });
        let answer = engineer.request(Method::PUT, &format!("/packs/{}", id())).json(&body).send().await?;
        assert_eq!(answer.status(), StatusCode::UNPROCESSABLE_ENTITY, "{pointer} {value}");
        let problem: Value = answer.json().await?;
        assert_eq!(problem["field"], field, "{problem}");
        assert_eq!(problem["type"], "/problems/invalid");
    }
    // text where a number belongs does not even parse; the answer says where
    let mut plan = fixtures::piping();
    plan["basis"]["design_pressure_pa"] = json!("sixteen");
    let body = json!({ "title": "t", "form": "pack", "plan": plan, "cells": [] });
    let answer = engineer.request(Method::PUT, &format!("/packs/{}", id())).json(&body).send().await?;
    assert_eq!(answer.status(), StatusCode::BAD_REQUEST);
    assert_eq!(engineer.packs().await?, Vec::<Value>::new(), "nothing was stored");
    site.stop().await
}

#[tokio::test]
async fn a_logger_file_is_read_whole_or_not_at_all() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    let reader = site.person("reader").await?;
    let row = |second: i64, p: &str, t: &str| format!("{};{p};{t}\n", &at(start + Duration::seconds(second))[..19]);
    let head = "time;p [psi];T\n";

    let bad = [
        ([row(10, "377,0", "15,0"), row(5, "377,0", "15,0")].concat(), "line 3", "time"),
        ([row(10, "377,0", "15,0"), row(20, "steady", "15,0")].concat(), "line 3", "p [psi]"),
        ([row(10, "377,0", "15,0"), row(20, "377,0", "950")].concat(), "line 3", "T"),
        (row(10, "377,0", "15,0") + "yesterday;377;15\n", "line 3", "time"),
        (row(10, "99999999,0", "15,0"), "line 2", "p [psi]"),
    ];
    for (rows, line, column) in bad {
        let (last, _) = import(&reader, &attempt, &mapping(), format!("{head}{rows}")).await?;
        let sentence = last["sentence"].as_str().unwrap_or_default();
        assert_eq!(last["state"], "refused", "{last}");
        assert!(sentence.to_lowercase().contains(line) && sentence.contains(column), "{sentence}");
    }
    let future = format!("{head}{};377,0;15,0\n", &at(OffsetDateTime::now_utc() + Duration::days(2))[..19]);
    assert_eq!(import(&reader, &attempt, &mapping(), future).await?.0["state"], "refused");
    let chart = engineer.get(&format!("/attempts/{attempt}/hold")).await?;
    assert_eq!(chart["readings"], 0, "a refused file left something behind");

    // a million rows, with progress; the same file again stores nothing more
    let mut million = String::from(head);
    let hundredths = (OffsetDateTime::now_utc() - start).whole_seconds() * 100;
    anyhow::ensure!(hundredths > 1_000_000, "the run is too short for a million rows");
    for second in 0..10_000_i64 {
        let stamp = at(start.replace_nanosecond(0)? + Duration::seconds(second + 1));
        for hundredth in 0..100 {
            writeln!(million, "{}.{hundredth:02};376,{};15,0", &stamp[..19], 9 - second / 2_000)?;
        }
    }
    for _ in 0..2 {
        let (last, progress) = import(&reader, &attempt, &mapping(), million.clone()).await?;
        assert_eq!(last, json!({ "state": "stored", "rows": 1_000_000 }));
        assert!(progress >= 10, "only {progress} lines of progress");
    }
    let chart = engineer.get(&format!("/attempts/{attempt}/hold")).await?;
    assert_eq!(chart["readings"], 1_000_000);

    // the mapping is remembered for the next file with these columns
    let path = format!("/attempts/{attempt}/recordings/preview");
    let request = reader.request(Method::POST, &path).header("content-type", "application/octet-stream");
    let seen: Value = request.body(format!("{head}{}", row(10, "377,0", "15,0"))).send().await?.json().await?;
    assert_eq!(seen["remembered"], true);
    assert_eq!(seen["mapping"]["pressure_unit"], "psi");
    site.stop().await
}

#[tokio::test]
async fn a_typed_reading_is_refused_with_a_sentence_and_the_batch_with_it() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    let path = format!("/attempts/{attempt}/readings");
    let one = |channel: &str, text: &str, when: OffsetDateTime| json!({ "id": id(), "at": at(when), "channel": channel, "text": text, "unit": "bar" });
    let now = OffsetDateTime::now_utc();
    for bad in [
        one("pressure", "", now),
        one("pressure", "about 26", now),
        one("pressure", "26 furlongs", now),
        one("pressure", "1e99", now),
        one("pressure", "NaN", now),
        one("temperature", "-400", now),
        one("temperature", "26 bar", now),
        one("pressure", "26", now + Duration::days(1)),
        one("pressure", "26", start - Duration::days(1)),
    ] {
        let body = json!({ "readings": [one("pressure", "26,0", now), bad] });
        let answer = reader_put(&supervisor, &path, &body).await?;
        assert_eq!(answer.0, StatusCode::UNPROCESSABLE_ENTITY, "{body}");
        assert!(answer.1["field"].as_str().is_some_and(|f| f.starts_with("readings[1].")), "{}", answer.1);
    }
    assert_eq!(engineer.get(&path).await?, json!([]), "the good half of a bad batch was stored");
    site.stop().await
}

async fn reader_put(person: &Person, path: &str, body: &Value) -> Result<(StatusCode, Value)> {
    let answer = person.request(Method::PUT, path).json(body).send().await?;
    Ok((answer.status(), answer.json().await.unwrap_or_default()))
}

#[tokio::test]
async fn an_empty_window_names_both_parts_and_stops_the_release() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = id();
    let mut cells = fixtures::rows(&fixtures::DN150);
    cells.push(fixtures::rows(&[["Brine vessel", "vessel", "0.5", "", "", "", "", "", "", "25", ""]]).remove(0));
    let body = json!({ "number": "AA-001", "title": "t", "form": "pack", "plan": fixtures::piping(), "cells": cells });
    let view = engineer.put(&format!("/packs/{pack}"), &body).await?;
    let sentence = view["derived"]["conflict"]["sentence"].as_str().context("no conflict")?;
    assert!(sentence.contains("Top run") && sentence.contains("Brine vessel"), "{sentence}");
    let (status, problem) = reader_put(&supervisor, &format!("/packs/{pack}/attempts/{}", id()), &json!({})).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    let detail = problem["detail"].as_str().unwrap_or_default();
    assert!(detail.contains("Top run") && detail.contains("Brine vessel"), "{detail}");
    assert_eq!(engineer.get(&format!("/packs/{pack}")).await?["attempts"], json!([]));
    site.stop().await
}

#[tokio::test]
async fn a_shut_gate_says_what_is_missing_and_who_clears_it() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    engineer.put("/instruments/PG-9", &fixtures::gauge("PG-9", &fixtures::day(-2))).await?;
    let mut plan = fixtures::piping();
    plan["permit_number"] = json!("");
    plan["gauge_tag"] = json!("PG-9");
    let pack = fixtures::pack(&engineer, "AA-001", &plan).await?;
    let weld = json!({ "number": "07", "category": "A", "text": "weld 12 not examined", "owner": "inspector", "cleared": false });
    engineer.keep(&pack, "punch", &id(), &weld).await?;
    let (status, problem) = reader_put(&supervisor, &format!("/packs/{pack}/attempts/{}", id()), &json!({})).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    let detail = problem["detail"].as_str().unwrap_or_default();
    for words in ["PG-9", "weld 12", "inspector clears it", "permit", "supervisor clears it"] {
        assert!(detail.contains(words), "{words:?} is not in: {detail}");
    }
    site.stop().await
}

#[tokio::test]
async fn a_file_that_is_too_large_is_refused_with_a_sentence() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let large = vec![b'1'; 97 * 1024 * 1024];
    let (status, problem) = preview(&engineer, &pack, &large).await?;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("8 MB")), "{problem}");
    site.stop().await
}

/// What anybody may send costs no more than its budget: a file of millions of short rows, a PDF that unpacks to gigabytes, a body of the wrong size.
#[tokio::test]
async fn a_request_costs_no_more_than_its_budget() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let begun = std::time::Instant::now();
    let (status, said) = preview(&engineer, &pack, "a;b\n".repeat(5_000_000).as_bytes()).await?;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE, "{said}");
    let (status, said) = preview(&engineer, &pack, "a;b\n".repeat(1_500_000).as_bytes()).await?;
    assert!(
        status == StatusCode::UNPROCESSABLE_ENTITY && said["detail"].as_str().is_some_and(|d| d.contains("split it")),
        "{status} {said}"
    );
    let large = json!({ "number": "1", "category": "C", "text": "x".repeat(3 << 20), "owner": "o", "cleared": false });
    let answer = engineer.request(Method::PUT, &format!("/packs/{pack}/registers/punch/{}", id())).json(&large).send().await?;
    assert_eq!(answer.status(), StatusCode::PAYLOAD_TOO_LARGE);
    // a stream of objects, and a sealed file that would unpack without end
    let http = reqwest::Client::new();
    let check = async |file: Vec<u8>| {
        let answer = http.post(format!("{}/api/v1/verify", site.installation.base())).body(file).send().await?;
        Ok::<(StatusCode, Value), anyhow::Error>((answer.status(), answer.json().await?))
    };
    let (status, said) =
        check(b"%PDF-1.7\n1 0 obj\n<</Type/ObjStm/N 1/First 4/Length 3>>\nstream\nabc\nendstream\nendobj\n".to_vec()).await?;
    assert!(status == StatusCode::OK && said["verification"]["result"] == "unreadable", "{status} {said}");
    let deep = "[".repeat(200_000);
    let (status, said) = check(deep.into_bytes()).await?;
    assert!(status == StatusCode::OK && said["verification"]["result"] == "unreadable", "{status} {said}");
    assert!(begun.elapsed() < std::time::Duration::from_secs(30), "{:?}", begun.elapsed());
    site.stop().await
}
