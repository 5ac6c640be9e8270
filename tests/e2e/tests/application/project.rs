//! What the project lays down: it moves the figures that it touches, says so, needs a reason, and leaves released tests alone.

use anyhow::Result;
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

#[tokio::test]
async fn a_school_needs_a_reason_and_is_shown_on_what_it_touches() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    Browser::with(&site.installation.base(), async |browser| lay_down(browser, &site, &pack).await).await?;
    site.stop().await
}

async fn lay_down(browser: &Browser, site: &Site, pack: &str) -> Result<()> {
    browser.sign_in("engineer", site.password("engineer")).await?;
    browser.open(&format!("/tests/{pack}/derive")).await?;
    // 25.91 bar planned, 1.25 times for the manifold, rounded up
    browser.see("At 32.39").await?;
    browser.open("/specification").await?;
    browser.choose("How is the manifold proved?", "1.4").await?;
    browser.press("Save").await?;
    browser.see("has no reason: say why").await?;
    browser.fill("Reason: How is the manifold proved?", "hoses of unknown age").await?;
    browser.press("Save").await?;
    browser.see("1 answer differs from the default").await?;
    browser.open(&format!("/tests/{pack}/derive")).await?;
    browser.see("At 36.28").await?;
    browser.see("Because: hoses of unknown age.").await?;
    // the figure's own why names it too
    browser.press("manifold").await?;
    browser.see("the project's specification: hoses of unknown age").await?;
    browser.escape().await?;
    // a value of the library: a stronger certificate moves the limit of the pipe, and says where it comes from
    browser.open("/library").await?;
    browser.press_label("yield_ksi of a106_b: 35").await?;
    browser.fill("Value, in the unit of the column", "42").await?;
    browser.press_in_dialog("Put the project's value").await?;
    browser.see("needs a reason and a source").await?;
    browser.fill("Why it differs", "mill certificates of the whole lot").await?;
    browser.fill("Where it comes from", "MC-118").await?;
    browser.press_in_dialog("Put the project's value").await?;
    browser.see("The library, 1 value by the project").await?;
    browser.open(&format!("/tests/{pack}/derive")).await?;
    browser.see("yield_ksi of a106_b in the materials table is 42").await?;
    // and back
    browser.open("/library").await?;
    browser.press_label("yield_ksi of a106_b: 42, by the project").await?;
    browser.press_in_dialog("Back to the shipped value").await?;
    browser.see("The library as it ships").await?;
    Ok(())
}

#[tokio::test]
async fn only_the_engineer_lays_down_and_nobody_unseen() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    let path = format!("/projects/{}/specification", engineer.project().await?);
    let body = json!({ "schools": { "chloride": { "answer": "15", "reason": "the owner's standard" } } });
    let put = |person: &demo::client::Person, tag: &str| person.request(Method::PUT, &path).header("if-match", tag.to_owned()).json(&body);
    assert_eq!(put(&supervisor, "\"v1\"").send().await?.status(), StatusCode::FORBIDDEN);
    assert_eq!(put(&engineer, "\"v1\"").send().await?.status(), StatusCode::OK);
    // the same version twice: somebody was faster
    assert_eq!(put(&engineer, "\"v1\"").send().await?.status(), StatusCode::PRECONDITION_FAILED);
    let view = supervisor.get(&path).await?;
    assert_eq!((view["version"].as_u64(), view["may_change"].as_bool()), (Some(2), Some(false)));
    assert!(view["changed"].as_str().is_some_and(|c| c.contains("engineer")), "{}", view["changed"]);
    let bad = json!({ "schools": { "chloride": { "answer": "1000", "reason": "x" } } });
    let refused = engineer.request(Method::PUT, &path).header("if-match", "\"v2\"").json(&bad).send().await?;
    assert_eq!(refused.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.json::<Value>().await?["detail"].as_str().is_some_and(|d| d.contains("use one of 50, 30, 15")));
    site.stop().await
}

/// A hold of half an hour was enough when the test was released; that the project asks for a day afterwards does not undo it.
#[tokio::test]
async fn a_released_test_keeps_what_counted_at_its_release() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    let path = format!("/projects/{}/specification", engineer.project().await?);
    let body = json!({ "schools": { "hold": { "answer": "1440", "reason": "the owner's standard from today" } } });
    assert_eq!(engineer.request(Method::PUT, &path).header("if-match", "\"v1\"").json(&body).send().await?.status(), StatusCode::OK);
    fixtures::tight_hold(&supervisor, &attempt, start).await?;
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    assert_eq!(view["attempts"][0]["judgement"]["verdict"], "pass", "{}", view["attempts"][0]["judgement"]["sentence"]);
    // the next attempt holds for a day
    assert_eq!(view["hold_s"].as_f64(), Some(86_400.0));
    site.stop().await
}

/// A value of the library moves the window of a test that was released and not begun: the release is withdrawn with both windows, nothing is booked on it, and
/// it is released anew. Once begun, a run goes on under the window of its release.
#[tokio::test]
async fn a_release_is_withdrawn_when_its_window_moves() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let (waiting, begun) =
        (fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?, fixtures::pack(&engineer, "AA-002", &fixtures::piping()).await?);
    let (attempt, start) = fixtures::release(&supervisor, &waiting).await?;
    let (running, run_start) = fixtures::release(&supervisor, &begun).await?;
    fixtures::event(&supervisor, &running, run_start, 5, "filled").await?;
    // 2 · 7.11 · 32.4 MPa / 168.3, and the 17.3 m down to the gauge: 29.1 bar instead of the flange's 29.98
    let softer = json!({ "table": "materials", "row": "a106_b", "column": "yield_ksi", "value": "4.7", "reason": "a lot without certificates", "source": "the owner" });
    let path = format!("/projects/{}/specification", engineer.project().await?);
    let body = json!({ "library": [softer] });
    let put = engineer.request(Method::PUT, &path).header("if-match", "\"v1\"").json(&body).send().await?;
    assert_eq!(put.status(), StatusCode::OK, "{}", put.text().await?);

    let view = engineer.get(&format!("/packs/{waiting}")).await?;
    let sentence = view["attempts"][0]["withdrawn"].as_str().unwrap_or_default().to_owned();
    assert!(sentence.contains("The release is withdrawn") && sentence.contains("29.98") && sentence.contains("29.07"), "{sentence}");
    assert!(view["state"].as_str().is_some_and(|s| s.contains("withdrawn")), "{}", view["state"]);
    let refused = fixtures::event(&supervisor, &attempt, start, 5, "filled").await.unwrap_err();
    assert!(format!("{refused:#}").contains("withdrawn"), "{refused:#}");
    let ready = view["spine"].as_array().into_iter().flatten().find(|s| s["step"] == "ready").cloned().unwrap_or_default();
    assert!(ready["words"] == "ready to release" && ready["state"] != "done", "a release that was withdrawn is none: {ready}");
    // another one takes its place, under the window of today
    let (again, start) = fixtures::release(&supervisor, &waiting).await?;
    fixtures::event(&supervisor, &again, start, 5, "filled").await?;

    let view = engineer.get(&format!("/packs/{begun}")).await?;
    assert!(view["attempts"][0]["withdrawn"].is_null(), "{}", view["attempts"][0]["withdrawn"]);
    let warned = view["attempts"][0]["changed_since"].as_str().unwrap_or_default();
    // and every screen still shows the window that it was released for
    assert!(
        (view["derived"]["upper_shown_pa"].as_f64().unwrap_or_default() - 29.98e5).abs() < 1.0,
        "{}",
        view["derived"]["upper_shown_pa"]
    );
    assert!(warned.contains("Go no higher before the engineer") && warned.contains("29.07"), "{warned}");
    fixtures::event(&supervisor, &running, run_start, 10, "step_reached").await?;
    site.stop().await
}

#[tokio::test]
async fn an_alternative_is_answered_on_prove_before_its_gate_opens() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let mut plan = fixtures::piping();
    plan["basis"] = json!({ "id": "b31_3_initial_service", "working_pressure_pa": 9e5, "agreed_hold_s": 600.0 });
    let pack = fixtures::pack(&engineer, "AA-001", &plan).await?;
    Browser::with(&site.installation.base(), async |browser| answer(browser, &site, &pack).await).await?;
    site.stop().await
}

async fn answer(browser: &Browser, site: &Site, pack: &str) -> Result<()> {
    browser.sign_in("engineer", site.password("engineer")).await?;
    browser.open(&format!("/tests/{pack}/ready")).await?;
    browser.see("needs a reason against the plain liquid test").await?;
    browser.open(&format!("/tests/{pack}/prove")).await?;
    browser.see("How: initial service test").await?;
    for words in [
        "There is no way to dispose of the water or its additives.",
        "The fluid is of the lowest hazard only: Category D (B31.3 345.7).",
        "Every joint can be looked at in service.",
    ] {
        browser.find(&format!("//label[contains(., {words:?})]/input")).await?.click().await?;
    }
    browser.fill("Approved by the owner's or consultant's engineer", "owner's engineer, today").await?;
    browser.press("Save how it is tested").await?;
    browser.see("answered and approved").await?;
    browser.open(&format!("/tests/{pack}/ready")).await?;
    browser.see("The alternative has its reason and its approvals.").await
}

/// 22 bar need 33 at the top and the bottom flange bears 30: no reading suits both; without the flange one does. Nothing of it is stored.
#[tokio::test]
async fn what_if_derives_and_stores_nothing() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let before = engineer.get(&format!("/packs/{pack}")).await?;
    let flange = before["derived"]["upper_part"].clone();
    let ask = async |plan: &Value, without: Value| -> Result<Value> {
        let body = json!({ "plan": plan, "without": without });
        Ok(engineer.request(Method::POST, &format!("/packs/{pack}/what-if")).json(&body).send().await?.json().await?)
    };
    let mut plan = fixtures::piping();
    plan["basis"]["design_pressure_pa"] = json!(2.2e6);
    let higher = ask(&plan, json!([])).await?;
    assert!(higher["derived"]["conflict"]["sentence"].as_str().is_some_and(|s| s.contains("No gauge reading suits both")), "{higher}");
    let without = ask(&plan, json!([flange])).await?;
    assert!(without["derived"]["conflict"].is_null() && without["derived"]["day"].is_object(), "{without}");
    let nobody = ask(&plan, json!(["no such part"])).await?;
    assert!(nobody["detail"].as_str().is_some_and(|d| d.contains("name one of the list")), "{nobody}");
    plan["basis"]["id"] = json!("boiler_model");
    let missing = ask(&plan, json!([])).await?;
    assert_eq!(missing["against"][0]["field"], "working_pressure_pa", "{missing}");
    assert_eq!(engineer.get(&format!("/packs/{pack}")).await?, before);
    site.stop().await
}
