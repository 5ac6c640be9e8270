//! How a record is read, through the API: a defect let stand, a boundary moved, and what a plan promises.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures::{self, at};
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

/// What the gauge showed before the pump was off, bar: water in the line, raised to half, a stop, raised on, settling.
fn raised(minute: i64) -> String {
    let bar = match minute {
        ..20 => 0.3,
        20..25 => 0.3 + 2.6 * (minute - 20) as f64,
        25..30 => 13.3,
        30..36 => 13.3 + 2.12 * (minute - 30) as f64,
        _ => 26.01,
    };
    format!("{bar:.2}")
}

/// Two hours of a steady gauge with one reading that somebody typed a bar too high.
async fn mistyped(supervisor: &Person, attempt: &str, start: OffsetDateTime) -> Result<()> {
    let event = async |minute: i64, kind: &str| {
        let body = json!({ "kind": kind, "at": at(start + Duration::minutes(minute)), "place": null, "note": "" });
        supervisor.put(&format!("/attempts/{attempt}/events/{}", id()), &body).await
    };
    event(5, "filled").await?;
    event(40, "pump_off").await?;
    let readings: Vec<Value> = (10..=130)
        .flat_map(|m| {
            let held = if m == 77 { "27.00" } else if m % 3 == 0 { "26.01" } else { "26.00" };
            let pressure = if m < 40 { &raised(m) } else { held };
            let read = |channel: &str, text: &str| json!({ "id": id(), "at": at(start + Duration::minutes(m)), "channel": channel, "text": text, "unit": "bar" });
            [read("pressure", pressure), read("temperature", if m % 2 == 0 { "15.00" } else { "15.01" })]
        })
        .collect();
    supervisor.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": readings })).await?;
    event(100, "look_done").await?;
    event(131, "hold_ended").await.map(|_| ())
}

async fn answer(person: &Person, attempt: &str, correction: &str, body: &Value) -> Result<(StatusCode, String)> {
    let sent = person.request(Method::PUT, &format!("/attempts/{attempt}/corrections/{correction}")).json(body).send().await?;
    let status = sent.status();
    let said: Value = sent.json().await.unwrap_or_default();
    Ok((status, said["detail"].as_str().unwrap_or_default().to_owned()))
}

#[tokio::test]
async fn a_defect_is_let_stand_and_a_boundary_moved_with_a_reason_until_it_is_signed() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    mistyped(&supervisor, &attempt, start).await?;
    let view = async || -> Result<Value> {
        let pack = engineer.get(&format!("/packs/{pack}")).await?;
        pack["attempts"].as_array().and_then(|a| a.last().cloned()).context("no attempt")
    };
    let spike =
        |view: &Value| view["judgement"]["found"]["defects"].as_array().and_then(|d| d.iter().find(|d| d["kind"] == "spike").cloned());
    let before = view().await?;
    let found = spike(&before).context("the mistyped reading is not found")?;
    assert_eq!(found["start_s"].as_f64(), Some(77.0 * 60.0));

    // a reason is asked for
    let overrule = |reason: &str| json!({ "what": "overrule", "kind": "spike", "channel": found["channel"], "start_s": found["start_s"], "reason": reason });
    let (status, said) = answer(&engineer, &attempt, &id(), &overrule(" ")).await?;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{said}");
    assert!(said.contains("reason is missing"), "{said}");
    let twice = id();
    for _ in 0..2 {
        assert_eq!(answer(&engineer, &attempt, &twice, &overrule("read twice, it was so")).await?.0, StatusCode::NO_CONTENT);
    }
    let stands = view().await?;
    assert!(
        spike(&stands).is_some_and(|d| d["overruled"] == "read twice, it was so (engineer)"),
        "{}",
        stands["judgement"]["found"]["defects"]
    );
    assert_ne!(stands["judgement"]["found"]["leak"], before["judgement"]["found"]["leak"], "the reading counts again");

    // the end is moved; what was found is kept beside it
    let end = before["hold_end_s"].as_f64().context("no end")?;
    let moved = json!({ "what": "move", "boundary": "end", "found_s": end, "moved_s": end - 600.0, "reason": "the look began, people leaned on the line" });
    assert_eq!(answer(&supervisor, &attempt, &id(), &moved).await?.0, StatusCode::NO_CONTENT);
    assert_eq!(view().await?["hold_end_s"].as_f64(), Some(end - 600.0));
    let hold = engineer.get(&format!("/attempts/{attempt}/hold")).await?;
    assert_eq!(hold["moved"][0]["found_s"].as_f64(), Some(end));
    assert!(hold["stretches"].as_array().is_some_and(|s| s.iter().any(|s| s["kind"] == "hold")), "{}", hold["stretches"]);

    // so is any boundary between two stretches of the run, but not past its neighbours
    let stretches = hold["stretches"].as_array().context("no stretches")?;
    let kinds: Vec<&str> = stretches.iter().filter_map(|s| s["kind"].as_str()).collect();
    assert_eq!(&kinds[..6], ["fill", "ramp", "intermediate_hold", "ramp", "stabilise", "hold"], "{kinds:?}");
    let reached = stretches[4]["start_s"].as_f64().context("no start")?;
    let between =
        |to: f64| json!({ "what": "move", "boundary": "between", "found_s": reached, "moved_s": to, "reason": "by the pump's log" });
    let (status, said) = answer(&supervisor, &attempt, &id(), &between(reached + 7200.0)).await?;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{said}");
    assert!(said.contains("between its neighbours"), "{said}");
    assert_eq!(answer(&supervisor, &attempt, &id(), &between(reached + 30.0)).await?.0, StatusCode::NO_CONTENT);
    let told = engineer.get(&format!("/attempts/{attempt}/hold")).await?["stretches"].clone();
    assert_eq!((told[3]["end_s"].as_f64(), told[4]["start_s"].as_f64()), (Some(reached + 30.0), Some(reached + 30.0)), "{told}");
    assert_eq!(told[4]["found_start_s"].as_f64(), Some(reached), "what was found is kept");
    let (status, said) = answer(
        &supervisor,
        &attempt,
        &id(),
        &json!({ "what": "move", "boundary": "between", "found_s": 3.0, "moved_s": 4.0, "reason": "no" }),
    )
    .await?;
    assert_eq!(status, StatusCode::CONFLICT, "{said}");

    // once it is signed nothing of it changes
    for (minute, kind) in [(140, "released"), (145, "vent_opened"), (150, "drained")] {
        fixtures::event(&supervisor, &attempt, start, minute, kind).await?;
    }
    let signature = json!({ "act": "performed", "password": site.password("supervisor") });
    supervisor.put(&format!("/attempts/{attempt}/signatures/{}", id()), &signature).await?;
    let (status, said) = answer(&engineer, &attempt, &id(), &moved).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(said.contains("signed"), "{said}");
    site.stop().await
}

#[tokio::test]
async fn a_plan_promises_what_its_hold_will_show_and_says_what_would_show_more() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    let mut plan = fixtures::piping();
    let pack = fixtures::pack(&engineer, "AA-001", &plan).await?;
    let nothing = engineer.get(&format!("/packs/{pack}/promise")).await?;
    assert!(nothing["promise"].is_null() && nothing["missing"].as_str().is_some_and(|s| s.contains("gauge")), "{nothing}");
    fixtures::instruments(&engineer).await?;
    plan["required_sensitivity_m3_per_s"] = json!(0.001 / 3.6e6);
    let pack = fixtures::pack(&engineer, "AA-002", &plan).await?;
    let promise = engineer.get(&format!("/packs/{pack}/promise")).await?["promise"].clone();
    let limit = promise["limit_m3_per_s"].as_f64().context("no limit")?;
    let ways = promise["ways"].as_array().context("no ways")?;
    assert!(limit > 0.001 / 3.6e6 && ways.len() == 4, "{promise}");
    // better instruments never need longer
    let hold = |i: usize| ways[i]["hold_s"].as_f64().unwrap_or(f64::INFINITY);
    assert!(hold(1) <= hold(0) && hold(2) <= hold(0) && hold(3) <= hold(1).min(hold(2)), "{promise}");
    site.stop().await
}
