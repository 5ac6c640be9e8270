//! What the needle shows is now: whatever becomes of the clock, of what somebody types, of server and rig. And nobody books what it contradicts.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures;
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::path::Path;
use std::time::{Duration, Instant};

/// The next moment that the stream tells for which something holds.
async fn view(person: &Person, attempt: &str, right: impl Fn(&Value) -> bool) -> Result<Value> {
    let mut response = person.request(Method::GET, &format!("/attempts/{attempt}/live?after=999999999")).send().await?;
    anyhow::ensure!(response.status().is_success(), "{}", response.status());
    let (mut text, mut last) = (String::new(), Value::Null);
    let patience = Instant::now() + Duration::from_secs(60);
    loop {
        let left = patience.saturating_duration_since(Instant::now());
        let chunk = tokio::time::timeout(left, response.chunk()).await.with_context(|| format!("not told; last {last}"))??;
        text += &String::from_utf8_lossy(&chunk.context("the stream ended")?);
        while let Some(end) = text.find("\n\n") {
            let event: String = text.drain(..end + 2).collect();
            if event.lines().any(|l| l == "event: view") {
                last = serde_json::from_str(event.lines().find_map(|l| l.strip_prefix("data: ")).context("a view without data")?)?;
                if right(&last) {
                    return Ok(last);
                }
            }
        }
    }
}

fn pa(view: &Value) -> f64 {
    view["pressure_pa"].as_f64().unwrap_or(f64::NAN)
}

/// Sends a body and tells status and sentence.
async fn put(person: &Person, path: &str, body: &Value) -> Result<(StatusCode, String)> {
    said(person.request(Method::PUT, path).json(body)).await
}

/// Keeps an item at the boundary.
async fn keep(person: &Person, pack: &str, item: &str, body: &Value) -> Result<(StatusCode, String)> {
    said(person.keeping(pack, "boundary", item, body).await?).await
}

async fn said(request: reqwest::RequestBuilder) -> Result<(StatusCode, String)> {
    let answer = request.send().await?;
    let status = answer.status();
    let body: Value = answer.json().await.unwrap_or_default();
    Ok((status, body["detail"].as_str().unwrap_or_default().to_owned()))
}

async fn rig(person: &Person, attempt: &str, pump: bool, bleed: f64) -> Result<()> {
    let hand = json!({ "pump": pump, "strokes_per_min": 120.0, "bleed": bleed });
    person.put(&format!("/attempts/{attempt}/rig"), &hand).await.map(|_| ())
}

/// The servers' clock as a person would set it.
struct ByHand<'a>(&'a Path);

impl ByHand<'_> {
    fn set(&self, seconds: i64) -> Result<()> {
        Ok(std::fs::write(self.0, seconds.to_string())?)
    }
}

async fn now(person: &Person) -> Result<Value> {
    Ok(person.get("/session").await?["now"].clone())
}

async fn released(site: &Site) -> Result<(Person, Person, String, String)> {
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::rig_instruments(&engineer, site.installation.rig.as_ref().context("no rig")?.port).await?;
    let pack = fixtures::rig_pack(&engineer, "CW-007", "both").await?;
    let attempt = id();
    supervisor.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({})).await?;
    Ok((engineer, supervisor, pack, attempt))
}

/// The clock is set back while the pump runs, forward, and back again with the server killed in between, and a reader types the time of a reading
/// five minutes ahead: the needle shows the gauge throughout, its age is true, and a step's rest is as long as it was.
#[tokio::test]
async fn a_clock_that_is_set_and_a_time_that_is_typed_wrong_never_freeze_the_needle() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let by_hand = ByHand(&folder.path().join("clock"));
    by_hand.set(0)?;
    let mut site = Site::with_clock_set_by(by_hand.0).await?;
    let (_, supervisor, pack, attempt) = released(&site).await?;
    let event = |kind: &str, at: Value| json!({ "kind": kind, "at": at, "note": "" });
    view(&supervisor, &attempt, |v| pa(v) > 1e5).await?;
    supervisor.put(&format!("/attempts/{attempt}/events/{}", id()), &event("filled", now(&supervisor).await?)).await?;
    rig(&supervisor, &attempt, true, 0.0).await?;
    let before = view(&supervisor, &attempt, |v| pa(v) > 2.5e5).await?;

    by_hand.set(-600)?;
    let after = view(&supervisor, &attempt, |v| pa(v) > pa(&before) + 1e5 && v["warnings"].to_string().contains("set back by 10")).await?;
    assert!(after["age_s"].as_f64().is_some_and(|a| a < 3.0) && after["silent"] == false, "{after}");

    // typed ahead of time: it never displaces what the recorder reads, nor the forecast that rests on it
    let ahead = time::OffsetDateTime::now_utc() - time::Duration::minutes(10) + time::Duration::seconds(280);
    let reading = json!({ "id": id(), "at": fixtures::at(ahead), "channel": "pressure", "text": "1.00", "unit": "bar" });
    supervisor.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": [reading] })).await?;
    let shown = view(&supervisor, &attempt, |v| pa(v) > pa(&after)).await?;
    assert!(shown["typed_by"].is_null() && shown["forecast"]["rate_pa_per_s"].as_f64().is_some_and(|r| r > 1e3), "{shown}");
    let pack_view = supervisor.get(&format!("/packs/{pack}")).await?;
    let last = pack_view["attempts"][0]["last_pressure_pa"].as_f64().context("nothing read")?;
    assert!(last >= pa(&after), "the list shows what the gauge reads, not what was typed ahead: {last}");

    // forward while the server is killed: the next one goes on by the same count
    site.installation.kill_server().await?;
    by_hand.set(300)?;
    let killed = Instant::now();
    site.installation.start_server().await?;
    let supervisor = site.person("supervisor").await?;
    let forward = view(&supervisor, &attempt, |v| v["warnings"].to_string().contains("set forward by 15") && v["silent"] == false).await?;
    assert!(killed.elapsed() < Duration::from_secs(20) && forward["age_s"].as_f64().is_some_and(|a| a < 3.0), "{forward}");
    rig(&supervisor, &attempt, false, 0.0).await?;

    // every reading has its place in time, and no two stand at the same
    let series = supervisor.get(&format!("/attempts/{attempt}/hold")).await?;
    let times: Vec<f64> = series["pressure"].as_array().into_iter().flatten().filter_map(|p| p["t_s"].as_f64()).collect();
    let recorded: Vec<f64> = times.iter().copied().filter(|t| *t < 250.0).collect();
    assert!(recorded.len() > 8 && recorded.windows(2).all(|w| w[1] > w[0] && w[1] - w[0] < 20.0), "{recorded:?}");
    assert!(recorded.last().is_some_and(|t| *t < 120.0), "a minute is a minute: {recorded:?}");

    // an event that is booked now stands after all that was read, though the clock was set twice
    supervisor
        .put(
            &format!("/attempts/{attempt}/events/{}", id()),
            &json!({ "kind": "noted", "at": now(&supervisor).await?, "note": "clock set" }),
        )
        .await?;
    let told = supervisor.get(&format!("/attempts/{attempt}/hold")).await?["events"].clone();
    let noted =
        told.as_array().into_iter().flatten().find(|e| e["event"]["kind"] == "noted").and_then(|e| e["t_s"].as_f64()).context("noted")?;
    assert!((recorded.last().copied().unwrap_or(0.0) - 2.0..200.0).contains(&noted), "{noted} after {recorded:?}");
    site.stop().await
}

/// Practice pumps on a rig of its own: the original's gauge stands where it stood.
#[tokio::test]
async fn what_is_pumped_in_practice_stays_in_practice() -> Result<()> {
    let site = Site::with_rig(None).await?;
    let (_, supervisor, pack, attempt) = released(&site).await?;
    let still = view(&supervisor, &attempt, |v| pa(v) > 1e5).await?;
    let (copy, practised) = (id(), id());
    supervisor.put(&format!("/packs/{pack}/practice/{copy}"), &json!(null)).await?;
    supervisor.put(&format!("/packs/{copy}/attempts/{practised}"), &json!({})).await?;
    view(&supervisor, &practised, |v| pa(v) > 1e5).await?;
    rig(&supervisor, &practised, true, 0.0).await?;
    let pumped = view(&supervisor, &practised, |v| pa(v) > 4e5).await?;
    assert_eq!(pumped["on_the_rig"], true);
    let original = view(&supervisor, &attempt, |_| true).await?;
    assert!((pa(&original) - pa(&still)).abs() < 5e3, "the original reads {} Pa, and read {}", pa(&original), pa(&still));
    // and what is pumped on the original is not seen in practice
    rig(&supervisor, &practised, false, 0.0).await?;
    rig(&supervisor, &attempt, true, 0.0).await?;
    view(&supervisor, &attempt, |v| pa(v) > 8e5).await?;
    let there = view(&supervisor, &practised, |_| true).await?;
    assert!(pa(&there) < 8e5, "practice reads {}", pa(&there));
    site.stop().await
}

/// Two hours of trying, in a table: what an API can send while the gauge reads pressure.
#[tokio::test]
async fn nobody_books_against_the_gauge() -> Result<()> {
    let site = Site::with_rig(Some(8.0)).await?;
    let (engineer, supervisor, pack, attempt) = released(&site).await?;
    let item = |tag: &str, kind: &str, set: bool, back: bool| json!({ "tag": tag, "kind": kind, "place": "north", "set_for_test": set, "put_back": back });
    let blind = id();
    supervisor.keep(&pack, "boundary", &blind, &item("SS-4", "blind", true, false)).await?;
    let event = |kind: &str, at: Value, note: &str| json!({ "kind": kind, "at": at, "note": note });
    let book = async |kind: &str, note: &str| {
        let at = now(&supervisor).await?;
        put(&supervisor, &format!("/attempts/{attempt}/events/{}", id()), &event(kind, at, note)).await
    };
    view(&supervisor, &attempt, |v| pa(v) > 1e5).await?;
    // pumped before anything is booked: the release counts as begun, and the system is not "filled and looked at"
    rig(&supervisor, &attempt, true, 0.0).await?;
    view(&supervisor, &attempt, |v| pa(v) > 4e5).await?;
    rig(&supervisor, &attempt, false, 0.0).await?;
    for (kind, note, says) in [
        ("filled", "", "PT-71 reads"),
        ("step_reached", "", "Filling is not booked"),
        ("pump_off", "", "Filling is not booked"),
        ("hold_ended", "", "No hold has begun"),
        ("released", "", "PT-71 reads"),
        ("released", "I looked, it is zero, the gauge is wrong", "PT-71 reads"),
        ("vent_opened", "", "not booked as released"),
        ("drained", "", "not booked as released"),
        ("repump", "", "not booked as filled"),
        ("bleed", "", "not booked as filled"),
    ] {
        let (status, said) = book(kind, note).await?;
        assert!(status == StatusCode::CONFLICT && said.contains(says), "{kind}: {status} {said}");
    }
    // both gauges are named, each with what it reads
    let said = book("released", "").await?.1;
    assert!(said.contains("PT-71 reads") && said.contains("PT-72 reads"), "{said}");
    // backdated to before it was pumped, or to before the release
    let view_now = supervisor.get(&format!("/packs/{pack}")).await?;
    let released_at = view_now["attempts"][0]["released_at"].clone();
    let (status, said) =
        put(&supervisor, &format!("/attempts/{attempt}/events/{}", id()), &event("released", released_at, "vent open")).await?;
    assert!(status == StatusCode::CONFLICT && said.contains("PT-71"), "{status} {said}");
    let (status, _) =
        put(&supervisor, &format!("/attempts/{attempt}/events/{}", id()), &event("released", json!("0001-01-01T00:00:00Z"), "vent open"))
            .await?;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    // the boundary: unset, renamed, retyped, moved, put back, and one more
    for body in [
        item("SS-4", "blind", false, false),
        item("SS-9", "blind", true, false),
        item("SS-4", "removed_item", true, false),
        item("SS-4", "blind", true, true),
    ] {
        let (status, said) = keep(&engineer, &pack, &blind, &body).await?;
        assert!(
            status == StatusCode::CONFLICT && said.contains("SS-4 stays as it is") && said.contains("PT-71 reads"),
            "{body}: {status} {said}"
        );
    }
    assert_eq!(keep(&engineer, &pack, &id(), &item("SS-5", "blind", true, false)).await?.0, StatusCode::CONFLICT);
    // a second release under the first
    let (status, said) = put(&supervisor, &format!("/packs/{pack}/attempts/{}", id()), &json!({})).await?;
    assert!(status == StatusCode::CONFLICT && said.contains("under way"), "{status} {said}");
    // bad news are booked all the same
    assert_eq!(book("noted", "a support moved").await?.0, StatusCode::NO_CONTENT);

    // let out, watched for half a minute, and then it goes, and Restore still owes the blind
    rig(&supervisor, &attempt, false, 1.0).await?;
    view(&supervisor, &attempt, |v| pa(v) < 1.3e5).await?;
    let (status, said) = book("released", "").await?;
    assert!(status == StatusCode::CONFLICT && said.contains("has read zero for"), "{status} {said}");
    let patience = Instant::now() + Duration::from_secs(60);
    while book("released", "").await?.0 != StatusCode::NO_CONTENT {
        anyhow::ensure!(Instant::now() < patience, "zero is not proved");
        tokio::time::sleep(Duration::from_secs(1)).await;
    }
    let (status, said) = keep(&engineer, &pack, &blind, &item("SS-4", "blind", false, false)).await?;
    assert!(status == StatusCode::CONFLICT && said.contains("Restore still owes it"), "{status} {said}");
    // watched on: it fills again behind a valve, and nobody opens the vent on it
    rig(&supervisor, &attempt, true, 0.0).await?;
    view(&supervisor, &attempt, |v| pa(v) > 3e5).await?;
    let (status, said) = book("vent_opened", "").await?;
    assert!(status == StatusCode::CONFLICT && said.contains("PT-71 reads"), "{status} {said}");
    let (status, said) = keep(&engineer, &pack, &blind, &item("SS-4", "blind", true, true)).await?;
    assert!(status == StatusCode::CONFLICT && said.contains("PT-71 reads"), "{status} {said}");
    site.stop().await
}

/// What a test was released with stays in: between release and filling no blind is booked out or renamed, and its history says so.
#[tokio::test]
async fn a_blind_with_which_a_test_was_released_is_not_booked_out_before_it_is_filled() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let item = id();
    let blind = |tag: &str, set: bool| json!({ "tag": tag, "kind": "blind", "place": "north", "set_for_test": set, "put_back": false });
    keep(&supervisor, &pack, &item, &blind("SS-4", true)).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    for changed in [blind("SS-4", false), blind("SS-5", true)] {
        let (status, said) = keep(&supervisor, &pack, &item, &changed).await?;
        assert!(
            status == StatusCode::CONFLICT && said.contains("SS-4 stays as it is: the system is released for test with it in"),
            "{status} {said}"
        );
    }
    // the same again changes nothing, and one more may be set
    assert_eq!(keep(&supervisor, &pack, &item, &blind("SS-4", true)).await?.0, StatusCode::NO_CONTENT);
    assert_eq!(keep(&supervisor, &pack, &id(), &blind("SS-6", true)).await?.0, StatusCode::NO_CONTENT);
    fixtures::event(&supervisor, &attempt, start, 5, "filled").await?;
    let (status, _) = keep(&supervisor, &pack, &item, &blind("SS-4", false)).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    let changes = engineer.get(&format!("/packs/{pack}/history")).await?;
    assert_eq!(changes.as_array().map(Vec::len), Some(2), "{changes}");
    site.stop().await
}
