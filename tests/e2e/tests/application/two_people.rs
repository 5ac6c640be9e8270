//! Two people at one pack: nobody's work is overwritten unseen.

use anyhow::Result;
use demo::client::Person;
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

#[tokio::test]
async fn the_second_to_save_gets_a_sentence_and_changes_nothing() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let path = format!("/packs/{pack}/plan");
    let tag = engineer.request(Method::GET, &format!("/packs/{pack}")).send().await?.headers()["etag"].clone();
    let body = |permit: &str| {
        let mut plan = fixtures::piping();
        plan["permit_number"] = json!(permit);
        json!({ "title": "t", "plan": plan })
    };
    assert_eq!(engineer.request(Method::PUT, &path).json(&body("X")).send().await?.status(), StatusCode::PRECONDITION_REQUIRED);
    let first = engineer.request(Method::PUT, &path).header("if-match", &tag).json(&body("PTW-100")).send().await?;
    assert_eq!(first.status(), StatusCode::OK);
    assert_ne!(first.headers()["etag"], tag);
    let second = supervisor.request(Method::PUT, &path).header("if-match", &tag).json(&body("PTW-200")).send().await?;
    assert_eq!(second.status(), StatusCode::PRECONDITION_FAILED);
    let problem: Value = second.json().await?;
    assert!(problem["detail"].as_str().is_some_and(|d| d.contains("engineer")), "who was faster is named: {problem}");
    assert_eq!(engineer.get(&format!("/packs/{pack}")).await?["plan"]["permit_number"], "PTW-100");
    site.stop().await
}

#[tokio::test]
async fn in_the_browser_what_the_second_typed_stays_on_the_page() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    Browser::with(&site.installation.base(), async |browser| save_second(browser, &site, &engineer, &pack).await).await?;
    site.stop().await
}

async fn save_second(browser: &Browser, site: &Site, engineer: &Person, pack: &str) -> Result<()> {
    browser.sign_in("supervisor", site.password("supervisor")).await?;
    browser.open(&format!("/tests/{pack}/ready")).await?;
    browser.fill("Permit number", "PTW-777").await?;
    // meanwhile the engineer saves another title
    let tag = engineer.request(Method::GET, &format!("/packs/{pack}")).send().await?.headers()["etag"].clone();
    let body = json!({ "title": "Line of the engineer", "plan": fixtures::piping() });
    let saved = engineer.request(Method::PUT, &format!("/packs/{pack}/plan")).header("if-match", &tag).json(&body).send().await?;
    assert_eq!(saved.status(), StatusCode::OK);
    browser.press("Save").await?;
    browser.see("engineer changed this pack").await?;
    assert_eq!(browser.value("Permit number").await?, "PTW-777", "what was typed stays");
    assert_eq!(engineer.get(&format!("/packs/{pack}")).await?["plan"]["permit_number"], "PTW-1", "and nothing was overwritten");
    // saving again, now knowingly, is taken
    browser.press("Save").await?;
    browser.gone("not saved yet").await?;
    let now = engineer.get(&format!("/packs/{pack}")).await?;
    assert_eq!((&now["plan"]["permit_number"], &now["title"]), (&json!("PTW-777"), &json!("Line of the engineer")));
    Ok(())
}

#[tokio::test]
async fn a_session_that_ended_does_not_take_what_was_typed() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    Browser::with(&site.installation.base(), async |browser| sign_in_elsewhere(browser, &site, &engineer, &pack).await).await?;
    site.stop().await
}

async fn sign_in_elsewhere(browser: &Browser, site: &Site, engineer: &Person, pack: &str) -> Result<()> {
    browser.sign_in("supervisor", site.password("supervisor")).await?;
    browser.open(&format!("/tests/{pack}/ready")).await?;
    browser.fill("Permit number", "PTW-777").await?;
    browser.sign_out().await?;
    browser.press("Save").await?;
    browser.see("What you typed stays on this page").await?;
    let here = browser.driver.window().await?;
    let there = browser.driver.new_tab().await?;
    browser.driver.switch_to_window(there.clone()).await?;
    browser.sign_in("supervisor", site.password("supervisor")).await?;
    browser.driver.switch_to_window(here).await?;
    // what coming back to a tab does in a browser with a screen
    browser.driver.execute("window.dispatchEvent(new Event('focus'))", Vec::new()).await?;
    assert_eq!(browser.value("Permit number").await?, "PTW-777");
    browser.press_until("Save", "not saved yet").await?;
    assert_eq!(engineer.get(&format!("/packs/{pack}")).await?["plan"]["permit_number"], "PTW-777");
    Ok(())
}

/// A certificate is changed by the instrument's keeper alone until it is passed on; every change keeps who, from what, to what; and so do blinds and
/// punch items. The server's own account in the database makes nobody and rewrites nothing.
#[tokio::test]
async fn an_instrument_has_a_keeper_and_changes_are_kept() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor, owner) =
        (site.person("engineer").await?, site.person("supervisor").await?, site.person("boiler-owner").await?);
    fixtures::instruments(&engineer).await?;
    let gauge = |until: &str| fixtures::gauge("PG-1", until);
    let list = engineer.get("/instruments").await?;
    let row = list.as_array().into_iter().flatten().find(|i| i["instrument"]["tag"] == "PG-1").cloned().unwrap_or_default();
    assert_eq!((&row["keeper"], &row["may"]), (&json!("engineer"), &json!(true)));
    let version = format!("\"v{}\"", row["version"]);
    let put = async |who: &Person, version: &str, until: &str| {
        Ok::<_, anyhow::Error>(who.request(Method::PUT, "/instruments/PG-1").header("if-match", version).json(&gauge(until)).send().await?)
    };
    for who in [&owner, &supervisor] {
        let answer = put(who, &version, "2099-01-01").await?;
        assert_eq!(answer.status(), StatusCode::FORBIDDEN);
        let body: Value = answer.json().await?;
        assert!(body["detail"].as_str().is_some_and(|d| d.contains("PG-1 is kept by engineer")), "{body}");
    }
    assert!(put(&engineer, &version, "2098-01-01").await?.status().is_success());
    let pass = async |who: &Person, to: &str| {
        Ok::<_, anyhow::Error>(who.request(Method::PUT, "/instruments/PG-1/keeper").json(&json!({ "keeper": to })).send().await?.status())
    };
    assert_eq!(pass(&supervisor, "supervisor").await?, StatusCode::FORBIDDEN);
    assert_eq!(pass(&engineer, "nobody").await?, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(pass(&engineer, "supervisor").await?, StatusCode::NO_CONTENT);
    assert_eq!(put(&engineer, "\"v2\"", "2097-01-01").await?.status(), StatusCode::FORBIDDEN);
    assert!(put(&supervisor, "\"v2\"", "2097-01-01").await?.status().is_success());
    let changes = owner.get("/instruments/PG-1/history").await?;
    let told: Vec<(String, String)> = changes
        .as_array()
        .into_iter()
        .flatten()
        .map(|c| (c["person"].as_str().unwrap_or_default().to_owned(), format!("{} {}", c["before"], c["after"])))
        .collect();
    assert_eq!(told.iter().map(|t| t.0.as_str()).collect::<Vec<_>>(), ["supervisor", "engineer", "engineer", "engineer"]);
    assert!(told[0].1.contains("2098-01-01") && told[0].1.contains("2097-01-01") && told[3].1.starts_with("null "), "{told:?}");
    // blinds and punch items
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let item = demo::client::id();
    let blind = |set: bool| json!({ "tag": "SS-4", "kind": "blind", "place": "north", "set_for_test": set, "put_back": false });
    for set in [true, true, false] {
        engineer.keep(&pack, "boundary", &item, &blind(set)).await?;
    }
    let changes = engineer.get(&format!("/packs/{pack}/history")).await?;
    assert_eq!(changes.as_array().map(Vec::len), Some(2), "what changes nothing is not noted: {changes}");
    assert_eq!((&changes[0]["before"]["set_for_test"], &changes[0]["after"]["set_for_test"]), (&Value::Bool(true), &Value::Bool(false)));
    // two who look at the same item: the second is told, and nothing of theirs is stored
    let path = format!("/packs/{pack}/registers/boundary/{item}");
    let send = async |body: Value, version: Option<u32>| -> Result<(u16, String)> {
        let mut request = engineer.request(Method::PUT, &path).json(&body);
        if let Some(v) = version {
            request = request.header("if-match", format!("\"v{v}\""));
        }
        let answer = request.send().await?;
        Ok((answer.status().as_u16(), answer.text().await?))
    };
    let (status, told) = send(blind(true), Some(1)).await?;
    assert!(status == 412 && told.contains("Somebody changed item at the boundary SS-4"), "{status} {told}");
    assert_eq!(send(blind(true), None).await?.0, 428);
    assert_eq!(send(blind(false), None).await?.0, 204, "what is so already needs no version");
    // taken off with a reason: it asks for nothing any more, its name is free, and it stays readable
    let removal = engineer.request(Method::PUT, &format!("{path}/removal")).header("if-match", "\"v2\"");
    assert_eq!(removal.json(&json!({ "why": "on the wrong line" })).send().await?.status(), 204);
    assert_eq!(engineer.get(&format!("/packs/{pack}")).await?["boundary"], json!([]));
    let register = engineer.get(&format!("/packs/{pack}/registers/boundary")).await?;
    assert_eq!(
        (&register["items"][0]["removed"]["why"], &register["items"][0]["removed"]["by"]),
        (&Value::from("on the wrong line"), &Value::from("engineer"))
    );
    assert_eq!(send(blind(true), Some(3)).await?.0, 409, "what is removed stays so");
    engineer.keep(&pack, "boundary", &demo::client::id(), &blind(true)).await?;
    let table = engineer.request(Method::GET, &format!("/packs/{pack}/registers/boundary/csv")).send().await?.text().await?;
    assert_eq!(table.lines().count(), 3, "{table}");
    assert!(table.contains("SS-4,blind,north,no,,,no,,,engineer,") && table.contains("on the wrong line"), "{table}");
    let changes = engineer.get(&format!("/packs/{pack}/history")).await?;
    assert_eq!((&changes[1]["after"], &changes[1]["why"]), (&Value::Null, &Value::from("on the wrong line")));
    // the server's account
    let server = sqlx::MySqlPool::connect(&site.installation.database.server_url()).await?;
    for forbidden in ["UPDATE history SET person = 'owner'", "DELETE FROM history", "DELETE FROM person", "DELETE FROM reading"] {
        let refused = sqlx::query(sqlx::AssertSqlSafe(forbidden)).execute(&server).await.expect_err(forbidden).to_string();
        assert!(refused.contains("denied"), "{forbidden}: {refused}");
    }
    site.stop().await
}
