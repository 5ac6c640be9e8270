//! What must be looked at is a list: it closes place by place, says what leaked, and what was promised for afterwards is owed until it is done.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::browser::Browser;
use e2e::fixtures::{self, at};
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

async fn refused(request: reqwest::RequestBuilder) -> Result<(StatusCode, String)> {
    let answer = request.send().await?;
    let status = answer.status();
    let body: Value = answer.json().await.unwrap_or_default();
    Ok((status, body["detail"].as_str().unwrap_or_default().to_owned()))
}

/// Raised, and read once a minute from minute 40 to 72; still under pressure.
async fn held(person: &Person, attempt: &str, start: OffsetDateTime) -> Result<()> {
    fixtures::event(person, attempt, start, 5, "filled").await?;
    for minute in [10, 20, 30, 35] {
        fixtures::event(person, attempt, start, minute, "step_reached").await?;
    }
    fixtures::event(person, attempt, start, 40, "pump_off").await?;
    let readings: Vec<Value> = (40..=72)
        .flat_map(|minute| {
            let when = at(start + Duration::minutes(minute));
            let pressure = format!("{:.2}", 26.0 + 0.01 * f64::from(i32::try_from(minute * 7 % 3).unwrap_or(0) - 1));
            [
                json!({ "id": id(), "at": when, "channel": "pressure", "text": pressure, "unit": "bar" }),
                json!({ "id": id(), "at": when, "channel": "temperature", "text": "15.00" }),
            ]
        })
        .collect();
    person.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": readings })).await.map(|_| ())
}

async fn let_out(person: &Person, attempt: &str, start: OffsetDateTime, from: i64) -> Result<()> {
    for (after, kind) in [(0, "hold_ended"), (1, "released"), (2, "vent_opened"), (3, "drained")] {
        fixtures::event(person, attempt, start, from + after, kind).await?;
    }
    Ok(())
}

async fn places(person: &Person, pack: &str) -> Result<Vec<Value>> {
    let view = person.get(&format!("/packs/{pack}")).await?;
    Ok(view["looks"].as_array().cloned().unwrap_or_default())
}

#[tokio::test]
async fn a_leak_is_decided_about_and_what_is_promised_is_owed_until_it_is_done() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-040", &fixtures::piping()).await?;
    let first = id();
    let start = OffsetDateTime::now_utc() - Duration::minutes(80);
    supervisor.put(&format!("/packs/{pack}/attempts/{first}"), &json!({ "released_at": at(start) })).await?;
    held(&supervisor, &first, start).await?;
    Browser::with(&site.installation.base(), async |browser| {
        browser.sign_in("supervisor", site.password("supervisor")).await?;
        browser.open(&format!("/tests/{pack}/hold")).await?;
        // a line from the reader's sheet of paper: its time is never taken to be now
        browser.press("Type in a sheet of paper").await?;
        browser.fill("Pressure, line 1", "26,01").await?;
        browser.press_in_dialog("Store 1 line").await?;
        browser.see("When was it read?").await?;
        let read = fixtures::local(start + Duration::minutes(74));
        browser.fill("Time, line 1", &format!("{} {:02}:{:02}", read.date(), read.hour(), read.minute())).await?;
        browser.press_in_dialog("Store 1 line").await?;
        browser.gone("A sheet of readings").await?;
        browser.press("Make the list").await?;
        browser.see("not yet looked at in this attempt").await?;
        browser.press("All dry, except…").await?;
        browser.choose("Found: welds", "leaks").await?;
        browser.press_in_dialog("not: book it").await?;
        browser.see("Say where, for each that is named: welds.").await?;
        browser.fill("Where it leaks: welds", "W-12 weeps below").await?;
        browser.choose("What kind of place: welds", "weld").await?;
        browser.press_in_dialog("not: book it").await?;
        browser.see("leaks: W-12 weeps below").await?;
        browser.see("every place is closed").await
    })
    .await?;
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    let attempt = view["attempts"].as_array().and_then(|a| a.last()).context("no attempt")?;
    assert_eq!(attempt["judgement"]["lines"]["by_basis"]["outcome"], "does_not_meet", "{}", attempt["judgement"]["sentence"]);
    let now = 80;
    let_out(&supervisor, &first, start, now).await?;
    let again = |attempt: &str| {
        let released = OffsetDateTime::now_utc() - Duration::minutes(1);
        supervisor
            .request(Method::PUT, &format!("/packs/{pack}/attempts/{attempt}"))
            .json(&json!({ "released_at": at(released), "supersedes_reason": "repaired" }))
    };
    // what leaked stays on the list, and nothing is raised again before somebody has decided
    let weld = places(&engineer, &pack).await?.into_iter().find(|p| p["what"] == "welds").context("no welds on the list")?;
    let off = supervisor
        .request(Method::PUT, &format!("/packs/{pack}/registers/look/{}/removal", weld["id"].as_str().unwrap_or_default()))
        .header("if-match", format!("\"v{}\"", weld["version"]))
        .json(&json!({ "why": "repaired" }));
    let (status, said) = refused(off).await?;
    assert_eq!((status, said.contains("stays on the list")), (StatusCode::CONFLICT, true), "{said}");
    // nor does it become a place that nobody looked at, that was not seen, or that is called otherwise
    let item = weld["id"].as_str().unwrap_or_default();
    for (what, found, place, attempt) in
        [("welds", "open", "", 0), ("welds", "not_seen", "lagged", 1), ("other welds", "leaks", "W-12 weeps below", 1)]
    {
        let body = json!({ "what": what, "kind": "original", "found": found, "where": place, "attempt": attempt, "looked": attempt > 0 });
        let (status, said) = refused(supervisor.keeping(&pack, "look", item, &body).await?).await?;
        assert_eq!((status, said.contains("stays on the list")), (StatusCode::CONFLICT, true), "{found}: {said}");
    }
    let (status, said) = refused(again(&id())).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(said.contains("Leak in attempt 1: welds (W-12 weeps below). Write what is decided about it"), "{said}");

    Browser::with(&site.installation.base(), async |browser| {
        browser.sign_in("engineer", site.password("engineer")).await?;
        browser.open(&format!("/tests/{pack}/judge")).await?;
        browser.see("To decide about: welds (W-12 weeps below).").await?;
        browser.fill("About what", "welds").await?;
        browser.choose("What is done about it", "repair").await?;
        browser.fill("How, and why", "W-12 gouged out and welded again, radiographed").await?;
        browser.fill("Who does it", "welder").await?;
        browser.fill("Until when", &fixtures::day(7)).await?;
        browser.press("Write it down").await?;
        browser.see("repair it, W-12 gouged out").await
    })
    .await?;
    let (_, said) = refused(again(&id())).await?;
    assert!(said.contains("welds is not repaired yet: welder"), "{said}");
    let decision = engineer.get(&format!("/packs/{pack}")).await?["decisions"][0].clone();
    let done = json!({ "what": "welds", "attempt": 1, "way": "repair", "how": decision["how"], "person": "welder", "due": decision["due"], "done": true });
    engineer.keep(&pack, "decision", decision["id"].as_str().unwrap_or_default(), &done).await?;

    let second = id();
    let start = OffsetDateTime::now_utc() - Duration::minutes(120);
    let body = json!({ "released_at": at(start), "supersedes_reason": "repaired" });
    supervisor.put(&format!("/packs/{pack}/attempts/{second}"), &body).await?;
    held(&supervisor, &second, start).await?;
    // what was dry in the attempt before is looked at again
    let early = supervisor
        .request(Method::PUT, &format!("/attempts/{second}/events/{}", id()))
        .json(&json!({ "kind": "look_done", "at": at(start + Duration::minutes(55)), "note": "" }));
    let (status, said) = refused(early).await?;
    assert_eq!((status, said.contains("Not looked at in this attempt")), (StatusCode::CONFLICT, true), "{said}");
    let hidden =
        places(&engineer, &pack).await?.into_iter().find(|p| p["what"] == "supports and springs").context("no supports on the list")?;
    let look = json!({ "at": at(start + Duration::minutes(55)), "except": [
        { "item": hidden["id"], "found": "not_seen", "place": "under lagging; the line did not move" } ] });
    supervisor.put(&format!("/attempts/{second}/looks/{}", id()), &look).await?;
    assert!(places(&engineer, &pack).await?.iter().all(|p| p["attempt"] == 2), "each is closed in the second attempt");

    // a look inside is promised for afterwards: done, or carried over by name
    let owed = |carried: bool, done: bool, figure: &str| json!({ "what": "the header", "kind": "inside_look", "person": "inspector", "due": fixtures::day(30), "figure": figure, "carried": carried, "done": done });
    let promise = id();
    engineer.keep(&pack, "promise", &promise, &owed(false, false, "")).await?;
    let_out(&supervisor, &second, start, 73).await?;
    Browser::with(&site.installation.base(), async |browser| {
        browser.sign_in("supervisor", site.password("supervisor")).await?;
        browser.open(&format!("/tests/{pack}/sign")).await?;
        browser.see("Restore is not closed.").await?;
        browser.open(&format!("/tests/{pack}/restore")).await?;
        browser.press("Carry it over").await?;
        browser.see("carried over").await?;
        browser.open(&format!("/tests/{pack}/sign")).await?;
        browser.fill("Your password, again", site.password("supervisor")).await?;
        browser.press("Sign as performed").await?;
        browser.find("//li[@data-act='performed' and @data-signed='true']").await.map(|_| ())
    })
    .await?;
    for (name, act) in [("inspector", "inspected"), ("witness", "witnessed"), ("owner", "accepted")] {
        let body = json!({ "act": act, "password": site.password(name) });
        site.person(name).await?.put(&format!("/attempts/{second}/signatures/{}", id()), &body).await?;
    }
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    assert_eq!(view["state"], "signed: meets, 1 still owed");
    let waiting = supervisor.today().await?["waiting"].to_string();
    assert!(waiting.contains("1 thing that was carried over must still be done"), "{waiting}");
    let record = engineer.get(&format!("/attempts/{second}/sealed")).await?;
    let found: Vec<&str> = record["parts"]["looks"].as_array().into_iter().flatten().filter_map(|l| l["found"].as_str()).collect();
    assert_eq!((found.iter().filter(|f| **f == "not_seen").count(), found.iter().filter(|f| **f == "dry").count()), (1, found.len() - 1));
    assert_eq!(record["parts"]["promises"][0]["carried"], true);

    // nothing of the look is changed any more, and what was carried over is done, not taken off
    let (status, _) = refused(supervisor.keeping(&pack, "promise", &promise, &owed(false, false, "")).await?).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    let (status, said) = refused(supervisor.keeping(&pack, "promise", &promise, &owed(true, true, "")).await?).await?;
    assert_eq!((status, said.contains("rite what was found")), (StatusCode::UNPROCESSABLE_ENTITY, true), "{said}");
    supervisor.keep(&pack, "promise", &promise, &owed(true, true, "clean, no pitting")).await?;
    assert_eq!(engineer.get(&format!("/packs/{pack}")).await?["state"], "signed: meets");
    site.stop().await
}
