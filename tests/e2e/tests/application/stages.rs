//! The day as it goes: a run that stops before its hold, and a leak that nobody can account for, each with the record that says it.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::browser::Browser;
use e2e::fixtures::{self, at};
use e2e::site::Site;
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

/// What a test is, of its last attempt.
async fn judged(engineer: &Person, pack: &str) -> Result<Value> {
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    let last = view["attempts"].as_array().and_then(|a| a.last().cloned()).context("no attempt")?;
    Ok(last["judgement"].clone())
}

/// A boiler weeps at fill: its owner books where, stops, and has a record of it; the next attempt follows.
#[tokio::test]
async fn a_boiler_that_weeps_at_fill_leaves_a_record() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let owner = site.person("boiler-owner").await?;
    let pack = id();
    let shell = fixtures::rows(&[["Shell", "boiler", "0.3", "152 mm", "3 mm", "", "c12200_annealed", "", "", "", "2.4 L"]]);
    let mut body = json!({ "title": "Boiler 3", "form": "quick", "plan": fixtures::boiler(), "cells": shell });
    body["number"] = json!("QT-101");
    owner.put(&format!("/packs/{pack}"), &body).await?;
    let (attempt, start) = fixtures::release(&owner, &pack).await?;
    Browser::with(&site.installation.base(), async |browser| {
        browser.sign_in("boiler-owner", site.password("boiler-owner")).await?;
        browser.open(&format!("/tests/{pack}/fill")).await?;
        browser.press("Book a leak").await?;
        browser.fill("What was seen", "two tubes weep at the firebox end").await?;
        browser.press_in_dialog("Book it").await?;
        browser.see("Say where it leaks").await?;
        browser.choose("Where", "tube_end").await?;
        browser.press_in_dialog("Book it").await?;
        browser.see("1 booked").await?;
        browser.press("Stop here").await?;
        browser.fill("PG-2 shows now, bar", "0").await?;
        browser.press_in_dialog("Released, zero proved").await?;
        browser.see("Not released for test.").await?;
        browser.open(&format!("/tests/{pack}/restore")).await?;
        for button in ["High vent is open", "Drained"] {
            browser.press(button).await?;
        }
        browser.see("Everything is put back.").await?;
        browser.open(&format!("/tests/{pack}/judge")).await?;
        browser.see("does not meet").await?;
        browser.see("Leak seen at: tube end.").await?;
        browser.see("The pressure was let out before a hold began.").await?;
        browser.open(&format!("/tests/{pack}/sign")).await?;
        browser.fill("Your password, again", site.password("boiler-owner")).await?;
        browser.press("Sign as performed").await?;
        browser.see("Signed and sealed.").await
    })
    .await?;
    let record = owner.get(&format!("/attempts/{attempt}/sealed")).await?;
    assert_eq!(record["parts"]["readings"]["stopped"], true);
    let pages = owner.get(&format!("/attempts/{attempt}/report/pages?form=certificate")).await?;
    assert_eq!(pages.as_array().map(Vec::len), Some(1), "its page is one page");
    let checked = owner.request(reqwest::Method::POST, "/verify").body(record.to_string()).send().await?;
    assert!(checked.status().is_success());
    // the next attempt follows the one that was stopped, once somebody has decided about the tubes
    let decided = json!({ "what": "two tubes weep at the firebox end", "attempt": 1, "way": "repair", "how": "expanded", "person": "boiler-owner",
        "due": fixtures::day(0), "done": true });
    owner.keep(&pack, "decision", &id(), &decided).await?;
    let next = id();
    owner
        .put(
            &format!("/packs/{pack}/attempts/{next}"),
            &json!({ "released_at": at(start + Duration::hours(1)), "supersedes_reason": "tubes expanded" }),
        )
        .await?;
    let view = owner.get(&format!("/packs/{pack}")).await?;
    assert_eq!(view["attempts"].as_array().and_then(|a| a.last()).map(|a| a["follows"].clone()), Some(json!(1)), "{}", view["attempts"]);
    site.stop().await
}

/// Typed readings of a hold that loses 0.2 bar in half an hour at a steady 15 °C and stays above what it needs.
async fn a_loss_that_nobody_asked_about(person: &Person, attempt: &str, start: OffsetDateTime) -> Result<()> {
    fixtures::event(person, attempt, start, 5, "filled").await?;
    for minute in [10, 20, 30, 35] {
        fixtures::event(person, attempt, start, minute, "step_reached").await?;
    }
    fixtures::event(person, attempt, start, 40, "pump_off").await?;
    let readings: Vec<Value> = (40..=72)
        .flat_map(|minute| {
            let when = at(start + Duration::minutes(minute));
            let flicker = f64::from(i32::try_from(minute * 7 % 3).unwrap_or(0) - 1);
            let pressure = format!("{:.2}", 26.3 - 0.006 * f64::from(i32::try_from(minute - 40).unwrap_or(0)) + 0.002 * flicker);
            [
                json!({ "id": id(), "at": when, "channel": "pressure", "text": pressure, "unit": "bar" }),
                json!({ "id": id(), "at": when, "channel": "temperature", "text": "15.00" }),
            ]
        })
        .collect();
    person.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": readings })).await?;
    for (minute, kind) in [(55, "look_done"), (72, "hold_ended"), (75, "released"), (80, "vent_opened"), (85, "drained")] {
        fixtures::event(person, attempt, start, minute, kind).await?;
    }
    Ok(())
}

#[tokio::test]
async fn a_leak_that_nobody_accounts_for_waits_for_a_named_decision() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    a_loss_that_nobody_asked_about(&supervisor, &attempt, start).await?;
    let lines = judged(&engineer, &pack).await?["lines"].clone();
    assert_eq!((&lines["by_basis"]["outcome"], &lines["leak"]["said"]), (&json!("meets"), &json!("leak_shown")), "{lines}");

    Browser::with(&site.installation.base(), async |browser| {
        // until somebody has decided nobody signs
        browser.sign_in("supervisor", site.password("supervisor")).await?;
        browser.open(&format!("/tests/{pack}/sign")).await?;
        browser.see("A leak is shown that nobody has accounted for.").await?;
        browser.open(&format!("/tests/{pack}/judge")).await?;
        browser.press("Decide about the leak").await?;
        browser.press_in_dialog("Book it").await?;
        browser.see("Say what you decide.").await?;
        browser.find("//*[@role='dialog']//input[@value='accept']").await?.click().await?;
        browser.fill("Why", "the pump's gland drips, outside the boundary").await?;
        browser.press_in_dialog("Book it").await?;
        browser.see("The leak shown is accepted by supervisor: the pump's gland drips, outside the boundary.").await?;
        browser.open(&format!("/tests/{pack}/sign")).await?;
        browser.fill("Your password, again", site.password("supervisor")).await?;
        browser.press("Sign as performed").await?;
        browser.find("//li[@data-act='performed' and @data-signed='true']").await?;
        // what is signed is not decided otherwise
        browser.open(&format!("/tests/{pack}/judge")).await?;
        browser.see("accepted by supervisor").await?;
        browser.gone("Decide otherwise").await
    })
    .await?;
    let body = json!({ "what": "decide", "choice": "refuse", "reason": "after all" });
    let path = format!("/attempts/{attempt}/corrections/{}", id());
    assert_eq!(supervisor.request(reqwest::Method::PUT, &path).json(&body).send().await?.status(), reqwest::StatusCode::CONFLICT);

    // a tight one has nothing to decide
    let other = fixtures::pack(&engineer, "AA-002", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &other).await?;
    fixtures::tight_hold(&supervisor, &attempt, start).await?;
    let path = format!("/attempts/{attempt}/corrections/{}", id());
    assert_eq!(supervisor.request(reqwest::Method::PUT, &path).json(&body).send().await?.status(), reqwest::StatusCode::CONFLICT);
    site.stop().await
}
