//! One person alone: what is done without an answer is kept and sent, who signs without an account is told apart, and the look list walks along.

use anyhow::{Context, Result, ensure};
use demo::client::{Person, id};
use e2e::browser::Browser;
use e2e::fixtures::{self, at};
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

/// A miniature boiler's quick test, by its owner's answers.
async fn quick(owner: &Person, signers: &str, gauge: &Value) -> Result<String> {
    let pack = id();
    let mut body = json!({ "object": "miniature_boiler", "at_test": "15 °C", "hand_pump": true, "signers": signers,
        "answers": { "pressure": "5 bar", "size": "152 mm", "volume": "2.4 L", "wall": "3 mm", "material": "c12200_annealed" } });
    for (key, value) in gauge.as_object().into_iter().flatten() {
        body[key] = value.clone();
    }
    owner.put(&format!("/quick/{pack}"), &body).await?;
    Ok(pack)
}

/// Done an hour ago and tight, but for the signatures. Gives back the attempt.
async fn done(owner: &Person, pack: &str) -> Result<String> {
    let view = owner.get(&format!("/packs/{pack}")).await?;
    let (attempt, start) = (id(), OffsetDateTime::now_utc() - Duration::hours(1));
    owner.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({ "released_at": at(start) })).await?;
    let read = async |minute: i64, pa: f64| {
        let reading = json!({ "id": id(), "at": at(start + Duration::minutes(minute)), "channel": "pressure", "text": format!("{:.2}", pa / 1e5),
            "unit": "bar", "sure": true });
        owner.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": [reading] })).await.map(|_| ())
    };
    fixtures::event(owner, &attempt, start, 2, "filled").await?;
    let targets: Vec<f64> = view["schedule"].as_array().into_iter().flatten().filter_map(|s| s["target_pa"].as_f64()).collect();
    for (i, pa) in targets.iter().enumerate() {
        let minute = 3 + 2 * i64::try_from(i)?;
        read(minute, *pa).await?;
        fixtures::event(owner, &attempt, start, minute, "step_reached").await?;
    }
    let top = targets.last().copied().unwrap_or_default();
    fixtures::event(owner, &attempt, start, 10, "pump_off").await?;
    for minute in 10..=26 {
        read(minute, top).await?;
    }
    owner
        .put(&format!("/attempts/{attempt}/looks/{}", id()), &json!({ "at": at(start + Duration::minutes(15)), "except": [], "note": "" }))
        .await?;
    for (minute, kind) in [(26, "hold_ended"), (28, "released"), (29, "vent_opened"), (30, "drained")] {
        fixtures::event(owner, &attempt, start, minute, kind).await?;
    }
    Ok(attempt)
}

async fn refused(owner: &Person, path: String, body: Value) -> Result<(StatusCode, String)> {
    let method = if path.ends_with("/links") || path == "/signing" { Method::POST } else { Method::PUT };
    let answer = owner.request(method, &path).json(&body).send().await?;
    Ok((answer.status(), answer.text().await?))
}

/// Strokes that are a signature.
const DRAWN: &str = "M10 20L40 60L70 20L100 60L130 20L160 60L190 20L220 60L250 20";

#[tokio::test]
async fn a_second_person_signs_over_a_link_that_is_good_once_or_by_a_drawing_that_proves_nothing() -> Result<()> {
    let site = Site::start().await?;
    fixtures::instruments(&site.person("engineer").await?).await?;
    let owner = site.person("boiler-owner").await?;
    let pack = quick(&owner, "contractor_and_witness", &json!({ "gauge": "PG-2" })).await?;
    let attempt = done(&owner, &pack).await?;
    let link = async |name: &str| {
        owner.request(Method::POST, &format!("/attempts/{attempt}/links")).json(&json!({ "act": "witnessed", "name": name })).send().await
    };
    // nobody signs before whoever tested, and nobody for them
    assert_eq!(link("Inspector of waterworks").await?.status(), StatusCode::CONFLICT);
    let mine = json!({ "act": "performed", "password": site.password("boiler-owner") });
    owner.put(&format!("/attempts/{attempt}/signatures/{}", id()), &mine).await?;
    let hand = json!({ "name": "Inspector of waterworks", "body": "the water authority", "number": "W-117", "drawing": DRAWN });
    let (status, why) = refused(&owner, format!("/attempts/{attempt}/drawn/{}", id()), json!({ "act": "performed", "hand": hand })).await?;
    assert!(status == StatusCode::CONFLICT && why.contains("own account"), "{why}");
    // the tester cannot sign as the witness either
    let (status, why) = refused(
        &owner,
        format!("/attempts/{attempt}/signatures/{}", id()),
        json!({ "act": "witnessed", "password": site.password("boiler-owner") }),
    )
    .await?;
    assert!(status == StatusCode::CONFLICT && why.contains("another person's signature"), "{why}");
    let first: Value = link("Inspector of waterworks").await?.json().await?;
    let second: Value = link("Inspector of waterworks").await?.json().await?;
    let token = |link: &Value| link["path"].as_str().unwrap_or_default().trim_start_matches("/sign#").to_owned();
    let (status, why) = refused(&owner, "/signing".into(), json!({ "token": token(&first) })).await?;
    assert!(status == StatusCode::CONFLICT && why.contains("replaced by a newer one"), "{why}");
    Browser::with(&site.installation.base(), async |browser| {
        // nobody is signed in on this device
        browser.open(second["path"].as_str().unwrap_or_default()).await?;
        browser.see("Inspector of waterworks").await?;
        browser.see("I saw this test hold. I state nothing else.").await?;
        browser.press("Sign").await?;
        browser.see("Write for whom they sign").await?;
        browser.fill("For whom", "the water authority").await?;
        browser.fill("Number of their appointment, badge or stamp", "W-117").await?;
        draw(browser).await?;
        browser.press("Sign").await?;
        browser.see("You have signed. This link is used up").await
    })
    .await?;
    let (status, _) = refused(&owner, "/signing".into(), json!({ "token": token(&second), "hand": hand })).await?;
    assert_eq!(status, StatusCode::CONFLICT, "a link is good once");
    let record = owner.get(&format!("/attempts/{attempt}/sealed")).await?;
    let signed = &record["signatures"][1];
    assert_eq!(
        (&signed["by_hand"]["way"], &signed["by_hand"]["authenticated"], &signed["by_hand"]["number"]),
        (&json!("link"), &json!(true), &json!("W-117"))
    );
    ensure!(signed["by_hand"]["drawing"].as_str().is_some_and(|d| d.starts_with('M') && d.len() > 40), "{signed}");
    genuine(&owner, &attempt).await?;
    // drawn on the owner's device: the seal says that it proves nobody
    let pack = quick(&owner, "owner_and_tester", &json!({ "gauge": "PG-2" })).await?;
    let attempt = done(&owner, &pack).await?;
    owner.put(&format!("/attempts/{attempt}/signatures/{}", id()), &mine).await?;
    let twice = id();
    for _ in 0..2 {
        owner.put(&format!("/attempts/{attempt}/drawn/{twice}"), &json!({ "act": "accepted", "hand": hand })).await?;
    }
    let record = owner.get(&format!("/attempts/{attempt}/sealed")).await?;
    let signed = record["signatures"].as_array().context("signatures")?;
    assert_eq!((signed.len(), &signed[1]["by_hand"]["authenticated"]), (2, &json!(false)));
    ensure!(signed[1]["statement"].as_str().is_some_and(|s| s.contains("no authority accepts anything by it")), "{}", signed[1]);
    genuine(&owner, &attempt).await?;
    let pages = owner.get(&format!("/attempts/{attempt}/report/pages?form=certificate")).await?;
    assert_eq!(pages.as_array().map(Vec::len), Some(1));
    site.stop().await
}

async fn genuine(owner: &Person, attempt: &str) -> Result<()> {
    // byte for byte as it was handed out
    let file = owner.request(Method::GET, &format!("/attempts/{attempt}/sealed")).send().await?.bytes().await?;
    let checked: Value = owner.request(Method::POST, "/verify").body(file).send().await?.json().await?;
    ensure!(checked["verification"]["result"] == "genuine", "{}", checked["verification"]);
    Ok(())
}

/// A zigzag across the field.
async fn draw(browser: &Browser) -> Result<()> {
    let field = browser.find("//*[@data-draw]").await?;
    field.scroll_into_view().await?;
    let chain = browser.driver.action_chain().move_to_element_center(&field).click_and_hold();
    (0..12).fold(chain, |c, i| c.move_by_offset(6, if i % 2 == 0 { 12 } else { -12 })).release().perform().await?;
    browser.find("//*[@data-draw='drawn']").await.map(|_| ())
}

/// More than the rule asks is somebody's figure, with who and why; of less nothing follows.
async fn higher(owner: &Person) -> Result<()> {
    let body = |agreed: &str, by: &str| {
        json!({ "object": "miniature_boiler", "at_test": "15 °C", "gauge": "PG-2", "hand_pump": true, "agreed": agreed, "agreed_by": by,
            "answers": { "pressure": "5 bar", "size": "152 mm", "volume": "2.4 L", "wall": "3 mm", "material": "c12200_annealed" } })
    };
    let (status, why) = refused(owner, format!("/quick/{}", id()), body("12 bar", " ")).await?;
    ensure!(status == StatusCode::UNPROCESSABLE_ENTITY && why.contains("agreed_by"), "{why}");
    // what is tested is twice 5 bar, or the 12 that somebody asks; of 6 bar nothing follows, and nothing begins
    for (agreed, bar) in [("", Some(10.0)), ("12 bar", Some(12.0)), ("6 bar", None)] {
        let pack = id();
        owner.put(&format!("/quick/{pack}"), &body(agreed, "the club's inspector, as at its first test")).await?;
        let view = owner.get(&format!("/packs/{pack}")).await?;
        let asked = view["derived"]["lower_pa"].as_f64().map(|pa| (pa / 1e3).round() / 100.0);
        assert_eq!(asked, bar, "{agreed}: {view}");
        if bar.is_none() {
            let (status, why) =
                refused(owner, format!("/packs/{pack}/attempts/{}", id()), json!({ "released_at": at(OffsetDateTime::now_utc()) })).await?;
            ensure!(status.is_client_error() && why.contains("10"), "{status} {why}");
        }
    }
    Ok(())
}

#[tokio::test]
async fn without_an_answer_acts_are_kept_on_the_device_and_a_refused_one_stays_with_its_sentence() -> Result<()> {
    let mut site = Site::start().await?;
    fixtures::instruments(&site.person("engineer").await?).await?;
    let owner = site.person("boiler-owner").await?;
    // an own gauge that is not calibrated, and no thermometer
    let own = json!({ "own_gauge": { "reads_to": "25 bar", "mark": "0.5 bar", "not_calibrated": true } });
    let pack = quick(&owner, "one", &own).await?;
    let (status, why) = refused(
        &owner,
        format!("/quick/{}", id()),
        json!({ "object": "miniature_boiler", "at_test": "15 °C",
        "own_gauge": { "reads_to": "far", "mark": "", "until": "soon" }, "answers": {} }),
    )
    .await?;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    for field in ["own_gauge.reads_to", "own_gauge.mark", "own_gauge.until", "answers.pressure"] {
        assert!(why.contains(field), "{field}: {why}");
    }
    higher(&owner).await?;
    let base = site.installation.base();
    let browser = Browser::start(&base).await?;
    browser.size(390, 844).await?;
    browser.sign_in("boiler-owner", site.password("boiler-owner")).await?;
    browser.open(&format!("/tests/{pack}/page")).await?;
    browser.see("not calibrated, and the record says so").await?;
    browser.press("Begin the test now").await?;
    browser.see("It is full, vents shut, nothing drips").await?;
    site.installation.kill_server().await?;
    browser.press("It is full, vents shut, nothing drips").await?;
    browser.see("Kept on this device, not yet sent").await?;
    // the page goes on; what the gauge shows is far from the step that is booked with it
    browser.fill("own gauge shows, bar", "1").await?;
    browser.press("Pump stopped at").await?;
    browser.see("1 bar").await?;
    site.installation.start_server().await?;
    browser.see("Not taken").await?;
    browser.see("step reached").await?;
    let view = owner.get(&format!("/packs/{pack}")).await?;
    let events = view["attempts"][0]["events"].as_array().context("events")?;
    assert_eq!(events.iter().map(|e| e["kind"].as_str().unwrap_or_default()).collect::<Vec<_>>(), ["filled"], "{events:?}");
    browser.press("It was not so: take it off").await?;
    browser.gone("Not taken").await?;
    browser.fill("own gauge shows, bar", "5").await?;
    browser.press("Pump stopped at").await?;
    browser.see("pump stopped and shut off").await?;
    browser.end().await?;
    site.stop().await
}
