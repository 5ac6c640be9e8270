//! The first start of an empty installation, and its people: everything in the browser, by whoever was never told how.

use anyhow::{Context, Result, ensure};
use demo::client::{Person, id};
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use totp_rs::{Algorithm, TOTP};

/// The code at the end of the line that the terminal printed.
fn code(site: &Site) -> Result<String> {
    let line = &site.installation.setup_line;
    let at = line.find("type the code ").with_context(|| format!("no code in \"{line}\""))?;
    Ok(line[at + 14..].split(' ').next().unwrap_or_default().to_owned())
}

#[tokio::test]
async fn an_empty_installation_comes_to_its_first_signed_quick_test_in_the_browser() -> Result<()> {
    let site = Site::empty().await?;
    let code = code(&site)?;
    Browser::with(&site.installation.base(), async |browser| alone(browser, &site, &code).await).await?;
    site.stop().await
}

async fn alone(browser: &Browser, site: &Site, code: &str) -> Result<()> {
    browser.open("/").await?;
    browser.see("This installation is empty. Set it up here, once.").await?;
    browser.fill("Code", "AAAA-AAAA").await?;
    browser.fill("Name of the site", "The shed").await?;
    browser.choose("Zone", "Europe/Lisbon").await?;
    browser.fill("Administrator's password", "four plain words here").await?;
    browser.fill("The name with which you test", "administrator").await?;
    browser.fill("Its password", "other plain words here").await?;
    browser.press("Set it up").await?;
    browser.see("not the code that the terminal printed").await?;
    browser.fill("Code", &code.to_lowercase()).await?;
    browser.press("Set it up").await?;
    browser.see("take another name for the account with which you test").await?;
    browser.fill("The name with which you test", "boiler-owner").await?;
    browser.press("Set it up").await?;
    // signed in at once; the way to the first test goes away as it is walked
    browser.see("First steps").await?;
    // nobody sets it up a second time
    let again = reqwest::Client::new()
        .post(format!("{}/api/v1/setup", site.installation.base()))
        .json(&json!({ "code": code, "administrator": { "sign_in": "intruder", "password": "ten letters" }, "site": "x", "zone": "UTC",
            "units": { "pressure": "bar" }, "project": "x" }))
        .send()
        .await?;
    assert_eq!(again.status(), StatusCode::CONFLICT);
    instruments(browser).await?;
    quick_test(browser, site).await
}

/// The gauge and the thermometer with their certificates, typed from their faces.
async fn instruments(browser: &Browser) -> Result<()> {
    browser.press("Add an instrument").await?;
    browser.see("A test is released only with instruments").await?;
    let gauge = [("Tag", "PG-1"), ("Full scale, bar", "25"), ("Readable division, bar", "0.05"), ("Error, % of full scale", "0.5")];
    let thermometer = [("Tag", "TT-1"), ("Readable division, K", "0.1"), ("Error, K", "0.3")];
    for (kind, face) in [("gauge", &gauge[..]), ("thermometer", &thermometer[..])] {
        browser.press("Add an instrument").await?;
        browser.choose("What it measures", kind).await?;
        let (from, until) = (fixtures::day(-30), fixtures::day(300));
        for (label, text) in face.iter().chain(&[("Certificate", "MC-1"), ("Calibrated on", &from), ("Valid until", &until)]) {
            browser.fill(label, text).await?;
        }
        browser.press_in_dialog("Add it").await?;
        browser.gone("Readable division").await?;
    }
    browser.see("Every instrument is in date.").await?;
    browser.press("Today").await?;
    browser.see("Make a quick test").await?;
    browser.gone("Add an instrument").await
}

/// The five answers, the thermometer and the release by hand; the readings of the half hour come as if from a recorder, for nobody waits for them here.
async fn quick_test(browser: &Browser, site: &Site) -> Result<()> {
    let owner = Person::sign_in(&site.installation.base(), "boiler-owner", "other plain words here").await?;
    let me = owner.get("/session").await?;
    assert_eq!((&me["site"], &me["zone"], &me["projects"][0]["name"]), (&json!("The shed"), &json!("Europe/Lisbon"), &json!("The shed")));
    browser.press("Make a quick test").await?;
    for (label, text) in [
        ("What people call it", "Boiler 3"),
        ("Working pressure, bar", "5"),
        ("Barrel, outside diameter", "152 mm"),
        ("Water it holds", "2.4 L"),
        ("Barrel, thinnest wall", "3 mm"),
    ] {
        browser.fill(label, text).await?;
    }
    browser.choose("Barrel of", "c12200_annealed").await?;
    // the gauge that suits stands first, once the answers say at which pressure
    browser.see("a dial that ends between").await?;
    browser.choose("Gauge", "PG-1").await?;
    browser.choose("Thermometer", "TT-1").await?;
    browser.tick("I pump by hand").await?;
    browser.press("Derive the test").await?;
    browser.see("Ready to begin.").await?;
    let pack = browser.path().await?.split('/').nth(2).context("no test in the address")?.to_owned();
    // every step by itself is a link away, and what is next stands at its foot
    browser.press("Every step by itself").await?;
    browser.find("//footer[@data-next]//a").await?.click().await?;
    browser.see("Nothing stops this test.").await?;
    browser.press("Today").await?;
    browser.see("Nothing stops it: release it for test.").await?;
    browser.gone("First steps").await?;
    let (attempt, start) = fixtures::release(&owner, &pack).await?;
    fixtures::event(&owner, &attempt, start, 5, "filled").await?;
    fixtures::event(&owner, &attempt, start, 10, "step_reached").await?;
    let view = owner.get(&format!("/packs/{pack}")).await?;
    let planned = view["schedule"].as_array().and_then(|s| s.last()).and_then(|s| s["target_pa"].as_f64()).context("no schedule")?;
    hold(&owner, &attempt, start, planned).await?;
    browser.open(&format!("/tests/{pack}/sign")).await?;
    browser.fill("Your password, again", "other plain words here").await?;
    browser.press("Sign as performed").await?;
    browser.see("signed: ").await?;
    let view = owner.get(&format!("/packs/{pack}")).await?;
    assert_eq!(view["attempts"][0]["signatures"][0]["person"], "boiler-owner");
    Ok(())
}

async fn hold(owner: &Person, attempt: &str, start: time::OffsetDateTime, pa: f64) -> Result<()> {
    fixtures::event(owner, attempt, start, 40, "pump_off").await?;
    let mut readings = Vec::new();
    for minute in 40..=72 {
        let when = fixtures::at(start + time::Duration::minutes(minute));
        let wobble = 0.002 * f64::from(i32::try_from(minute * 7 % 3).unwrap_or(0) - 1);
        readings.push(json!({ "id": id(), "at": when, "channel": "pressure", "text": format!("{:.3}", pa / 1e5 + wobble), "unit": "bar" }));
        readings.push(json!({ "id": id(), "at": when, "channel": "temperature", "text": "16.00" }));
    }
    owner.put(&format!("/attempts/{attempt}/readings"), &json!({ "readings": readings })).await?;
    let looked = json!({ "at": fixtures::at(start + time::Duration::minutes(55)), "except": [], "note": "" });
    owner.put(&format!("/attempts/{attempt}/looks/{}", id()), &looked).await?;
    for (minute, kind) in [(72, "hold_ended"), (75, "released"), (80, "vent_opened"), (85, "drained")] {
        fixtures::event(owner, attempt, start, minute, kind).await?;
    }
    Ok(())
}

/// A second project with people of its own: made by hand, and nothing of the first is seen from it.
#[tokio::test]
async fn a_second_project_has_its_own_people_and_sees_nothing_of_the_first() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let first = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, _) = fixtures::release(&site.person("supervisor").await?, &first).await?;
    Browser::with(&site.installation.base(), async |browser| second(browser, &site, &first, &attempt).await).await?;
    site.stop().await
}

async fn second(browser: &Browser, site: &Site, first: &str, attempt: &str) -> Result<()> {
    browser.sign_in("administrator", site.password("administrator")).await?;
    browser.see("8 people sign in here.").await?;
    browser.press("Add a project").await?;
    browser.fill("Name", "Reservoir").await?;
    browser.fill("Zone", "Nowhere/Atall").await?;
    browser.press_in_dialog("Add it").await?;
    browser.see("There is no zone Nowhere/Atall").await?;
    browser.fill("Zone", "Europe/Lisbon").await?;
    browser.fill("Packs begin with", "RV").await?;
    browser.press_in_dialog("Add it").await?;
    browser.see("RV-001").await?;
    browser.press("Invite a person").await?;
    browser.fill("Name with which they sign in", "hydro").await?;
    browser.press_in_dialog("Make the link").await?;
    browser.see("Name at least one project").await?;
    browser.choose("Reservoir", "engineer").await?;
    browser.press_in_dialog("Make the link").await?;
    browser.see("For hydro, at Merrowick Works").await?;
    let link = browser.find("//*[@data-link]").await?.text().await?;
    let path = link.trim_start_matches(&site.installation.base()).to_owned();
    ensure!(path.starts_with("/join#"), "{link}");
    browser.sign_out().await?;
    // the link is good once
    browser.open(&path).await?;
    browser.see("You sign in as hydro").await?;
    browser.fill("Password", "water runs downhill").await?;
    browser.fill("The same again", "water runs uphill").await?;
    browser.press("Choose this password").await?;
    browser.see("not the same").await?;
    browser.fill("The same again", "water runs downhill").await?;
    browser.press("Choose this password").await?;
    browser.see("This link is used up.").await?;
    let join = reqwest::Client::new().post(format!("{}/api/v1/join", site.installation.base()));
    let token = path.trim_start_matches("/join#");
    assert_eq!(join.json(&json!({ "token": token, "password": "another password" })).send().await?.status(), StatusCode::CONFLICT);
    browser.sign_in("hydro", "water runs downhill").await?;
    browser.see("No test is under way").await?;
    outside(site, first, attempt).await
}

/// Everything of a project in which somebody has no part is not there for them, whatever they ask.
async fn outside(site: &Site, first: &str, attempt: &str) -> Result<()> {
    let hydro = Person::sign_in(&site.installation.base(), "hydro", "water runs downhill").await?;
    let engineer = site.person("engineer").await?;
    let other = engineer.project().await?;
    let status = async |method: Method, path: String, body: Value| -> Result<StatusCode> {
        Ok(hydro.request(method, &path).header("if-match", "\"v1\"").json(&body).send().await?.status())
    };
    for path in [
        format!("/packs/{first}"),
        format!("/packs/{first}/history"),
        format!("/packs/{first}/why/planned"),
        format!("/packs/{first}/promise"),
        format!("/attempts/{attempt}/hold"),
        format!("/attempts/{attempt}/series"),
        format!("/attempts/{attempt}/live"),
        format!("/attempts/{attempt}/readings"),
        format!("/attempts/{attempt}/sealed"),
        format!("/attempts/{attempt}/report"),
        format!("/projects/{other}"),
        format!("/projects/{other}/specification"),
    ] {
        assert_eq!(status(Method::GET, path.clone(), json!(null)).await?, StatusCode::NOT_FOUND, "{path}");
    }
    let plan = json!({ "title": "t", "plan": fixtures::piping() });
    for (path, body) in [
        (format!("/packs/{first}/plan"), plan),
        (format!("/packs/{first}/parts"), json!({ "cells": [] })),
        (format!("/packs/{first}/away"), json!({ "away": true, "reason": "mine" })),
        (format!("/packs/{first}/attempts/{}", id()), json!({})),
        (format!("/attempts/{attempt}/readings"), json!({ "readings": [] })),
        (format!("/projects/{other}/specification"), json!({ "schools": {} })),
    ] {
        assert_eq!(status(Method::PUT, path.clone(), body).await?, StatusCode::NOT_FOUND, "{path}");
    }
    // lists, search and the stream of news hold nothing of it either
    assert_eq!(hydro.packs().await?, Vec::<Value>::new());
    assert_eq!(hydro.get("/find?q=AA-001").await?, json!([]));
    assert_eq!(hydro.request(Method::GET, &format!("/today?project={other}")).send().await?.status(), StatusCode::NOT_FOUND);
    let page: Value = hydro.get(&format!("/packs?project={other}")).await?;
    assert_eq!((&page["lines"], &page["total"]), (&json!([]), &json!(0)));
    // its own number begins as its project says, and the same number may be there twice
    let own = hydro.project().await?;
    let pack = id();
    let new = json!({ "title": "Outlet", "form": "pack", "plan": fixtures::piping(), "cells": fixtures::rows(&fixtures::DN150) });
    assert_eq!(hydro.put(&format!("/packs/{pack}"), &new).await?["number"], "RV-001");
    let same = json!({ "number": "AA-001", "title": "Outlet", "form": "pack", "plan": fixtures::piping(), "cells": fixtures::rows(&fixtures::DN150) });
    assert_eq!(hydro.put(&format!("/packs/{}", id()), &same).await?["number"], "AA-001");
    // instruments of the site that nobody lent are not there to be chosen
    let view = hydro.get(&format!("/packs/{pack}")).await?;
    ensure!(view["gates"].to_string().contains("PG-1 is not a gauge of the store"), "{}", view["gates"]);
    moves_and_goes(site, &hydro, &pack, &own, &other).await
}

/// A pack is moved with what changes shown first, and put away; one that holds a reading is kept.
async fn moves_and_goes(site: &Site, hydro: &Person, pack: &str, own: &str, other: &str) -> Result<()> {
    let admin = site.person("administrator").await?;
    // only into a project in which whoever moves it may make one
    let to = |project: &str| format!("/packs/{pack}/project/{project}");
    assert_eq!(hydro.request(Method::PUT, &to(other)).send().await?.status(), StatusCode::NOT_FOUND);
    let roles = json!({ "roles": { own: "engineer", other: "engineer" } });
    admin.put("/people/hydro/roles", &roles).await?;
    let look = hydro.get(&to(other)).await?;
    let said = look["changes"].to_string();
    ensure!(look["refused"].is_null() && look["number"] == "RV-001", "{look}");
    ensure!(said.contains("Its times are those of Asia/Kathmandu instead of Europe/Lisbon."), "{said}");
    ensure!(said.contains("No longer stopped: PG-1 is not a gauge of the store"), "{said}");
    let moved = hydro.put(&to(other), &Value::Null).await?;
    assert_eq!(moved["project"]["id"], other);
    ensure!(hydro.packs().await?.iter().any(|l| l["number"] == "RV-001" && l["project"] == other), "it is not in the list of its project");

    let away = |away: bool, reason: &str| json!({ "away": away, "reason": reason });
    let path = format!("/packs/{pack}/away");
    assert_eq!(hydro.request(Method::PUT, &path).json(&away(true, " ")).send().await?.status(), StatusCode::UNPROCESSABLE_ENTITY);
    hydro.put(&path, &away(true, "made twice")).await?;
    ensure!(!hydro.packs().await?.iter().any(|l| l["number"] == "RV-001"), "it is still in the list");
    assert_eq!(hydro.get("/find?q=RV-001").await?, json!([]));
    let view = hydro.get(&format!("/packs/{pack}")).await?;
    ensure!(view["away"].as_str().is_some_and(|a| a.contains("Put away by hydro") && a.contains("made twice")), "{}", view["away"]);
    let refused =
        site.person("supervisor").await?.request(Method::PUT, &format!("/packs/{pack}/attempts/{}", id())).json(&json!({})).send().await?;
    assert_eq!(refused.status(), StatusCode::CONFLICT);
    hydro.put(&path, &away(false, "")).await?;
    ensure!(hydro.packs().await?.iter().any(|l| l["number"] == "RV-001"), "it is not back in the list");
    let (attempt, start) = fixtures::release(&site.person("supervisor").await?, pack).await?;
    let under_way = hydro.request(Method::PUT, &path).json(&away(true, "made twice")).send().await?;
    ensure!(
        under_way.status() == StatusCode::CONFLICT && under_way.text().await?.contains("released for test"),
        "it was put away while released"
    );
    fixtures::zero(&site.person("supervisor").await?, &attempt, start + time::Duration::minutes(1)).await?;
    let kept = hydro.request(Method::PUT, &path).json(&away(true, "made twice")).send().await?;
    ensure!(kept.status() == StatusCode::CONFLICT && kept.text().await?.contains("holds readings"), "it was put away with its readings");
    let (same, said) = {
        hydro.today().await?;
        site.installation.check_lines().await?
    };
    ensure!(same, "{said}");
    Ok(())
}

/// Accounts: a password is reset, a second factor asked, sessions ended; the last administrator stays, and is recovered on the server.
#[tokio::test]
async fn accounts_are_looked_after_and_the_last_administrator_stays() -> Result<()> {
    let site = Site::start().await?;
    let base = site.installation.base();
    let admin = site.person("administrator").await?;
    let reader = site.person("reader").await?;
    for (method, path) in [(Method::GET, "/people"), (Method::PUT, "/people/somebody"), (Method::DELETE, "/people/reader")] {
        let body = json!({ "administrator": true, "roles": {} });
        assert_eq!(reader.request(method, path).json(&body).send().await?.status(), StatusCode::FORBIDDEN, "{path}");
    }
    // a reset ends password and sessions at once; the link gives another
    let link: Value = admin.request(Method::POST, "/people/reader/link").send().await?.json().await?;
    assert_eq!(reader.request(Method::GET, "/today").send().await?.status(), StatusCode::UNAUTHORIZED);
    assert!(Person::sign_in(&base, "reader", site.password("reader")).await.is_err());
    let token = link["path"].as_str().unwrap_or_default().trim_start_matches("/join#").to_owned();
    let join = async |password: &str| -> Result<StatusCode> {
        Ok(reqwest::Client::new()
            .post(format!("{base}/api/v1/join"))
            .json(&json!({ "token": token, "password": password }))
            .send()
            .await?
            .status())
    };
    assert_eq!(join("short").await?, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(join("a gauge is read aloud").await?, StatusCode::OK);
    let reader = Person::sign_in(&base, "reader", "a gauge is read aloud").await?;
    // two sessions; a new password ends the other
    let elsewhere = Person::sign_in(&base, "reader", "a gauge is read aloud").await?;
    assert_eq!(reader.get("/session/all").await?.as_array().map(Vec::len), Some(2));
    reader.put("/session/password", &json!({ "now": "a gauge is read aloud", "new": "a dial is read aloud" })).await?;
    assert_eq!(elsewhere.request(Method::GET, "/today").send().await?.status(), StatusCode::UNAUTHORIZED);
    assert_eq!(reader.request(Method::GET, "/today").send().await?.status(), StatusCode::OK);
    second_factor(&site, &admin, &reader).await?;

    // roles count at once; the last administrator stays
    let project = reader.project().await?;
    admin.put("/people/reader/roles", &json!({ "roles": {} })).await?;
    assert_eq!(reader.packs().await.map(|p| p.len()).unwrap_or(0), 0);
    admin.put("/people/reader/roles", &json!({ "roles": { project: "inspector" } })).await?;
    assert_eq!(reader.get("/session").await?["role_words"], "inspector");
    let refused = admin.request(Method::DELETE, "/people/administrator").send().await?;
    ensure!(
        refused.status() == StatusCode::CONFLICT && refused.text().await?.contains("last administrator"),
        "the last administrator ended"
    );
    recovered(&site).await?;
    site.stop().await
}

/// Six figures as a telephone shows them.
fn figures(letters: &str, steps: i64) -> Result<String> {
    let secret = totp_rs::Secret::Encoded(letters.to_owned()).to_bytes().map_err(|e| anyhow::anyhow!("{e:?}"))?;
    let totp = TOTP::new(Algorithm::SHA1, 6, 0, 30, secret, None, String::new()).map_err(|e| anyhow::anyhow!("{e}"))?;
    let now = time::OffsetDateTime::now_utc().unix_timestamp() + 30 * steps;
    Ok(totp.generate(u64::try_from(now)?))
}

async fn second_factor(site: &Site, admin: &Person, reader: &Person) -> Result<()> {
    let base = site.installation.base();
    let password = "a dial is read aloud";
    let begun: Value = reader.request(Method::POST, "/session/second-factor").send().await?.json().await?;
    let letters = begun["letters"].as_str().context("no letters")?.to_owned();
    ensure!(begun["svg"].as_str().is_some_and(|s| s.contains("<svg")), "no picture");
    // not asked before a code of it was typed
    Person::sign_in(&base, "reader", password).await?;
    let code = figures(&letters, 0)?;
    let wrong =
        reader.request(Method::PUT, "/session/second-factor").json(&json!({ "code": "000000", "password": password })).send().await?;
    assert_eq!(wrong.status(), StatusCode::UNAUTHORIZED);
    reader.put("/session/second-factor", &json!({ "code": code, "password": password })).await?;
    let sign_in = async |code: &str| -> Result<(StatusCode, String)> {
        let body = json!({ "sign_in": "reader", "password": password, "code": code });
        let answer = reqwest::Client::new().post(format!("{base}/api/v1/session")).json(&body).send().await?;
        Ok((answer.status(), answer.text().await?))
    };
    ensure!(sign_in("").await?.1.contains("code-needed"), "no code was asked");
    // a code that was used is not taken again; the next one is
    assert_eq!(sign_in(&code).await?.0, StatusCode::UNAUTHORIZED);
    assert_eq!(sign_in(&figures(&letters, 1)?).await?.0, StatusCode::OK);
    // asked of everybody: whoever owes one sets it up before anything else opens
    admin.put("/site/second-factor", &json!({ "second_factor": "everybody" })).await?;
    let engineer = site.person("engineer").await?;
    assert_eq!(engineer.request(Method::GET, "/today").send().await?.status(), StatusCode::FORBIDDEN);
    assert_eq!(engineer.get("/session").await?["owes_factor"], true);
    assert_eq!(admin.request(Method::GET, "/people").send().await?.status(), StatusCode::FORBIDDEN, "of whoever asked for it, too");
    let begun: Value = admin.request(Method::POST, "/session/second-factor").send().await?.json().await?;
    let of_admin = begun["letters"].as_str().context("no letters")?.to_owned();
    let body = json!({ "code": figures(&of_admin, 0)?, "password": site.password("administrator") });
    admin.put("/session/second-factor", &body).await?;
    admin.put("/site/second-factor", &json!({ "second_factor": "offered" })).await?;
    assert_eq!(engineer.request(Method::GET, "/today").send().await?.status(), StatusCode::OK);
    Ok(())
}

/// The last administrator is lost: whoever owns the database makes a link.
async fn recovered(site: &Site) -> Result<()> {
    let out = tokio::process::Command::new(site.installation.binary())
        .args(["person", "--recover", "keeper"])
        .env("ZERO_LEAK_OWNER_URL", site.installation.database.owner_url())
        .output()
        .await?;
    let said = String::from_utf8_lossy(&out.stdout).into_owned();
    let token = said.lines().find_map(|l| l.strip_prefix("/join#")).with_context(|| said.clone())?.to_owned();
    let base = site.installation.base();
    let body = json!({ "token": token, "password": "keys hang by the door" });
    let joined = reqwest::Client::new().post(format!("{base}/api/v1/join")).json(&body).send().await?;
    assert_eq!(joined.status(), StatusCode::OK);
    let keeper = Person::sign_in(&base, "keeper", "keys hang by the door").await?;
    ensure!(keeper.get("/people").await?["people"].as_array().is_some_and(|p| p.len() == 9), "nine people");
    // somebody with a part in tests does not become one
    let out = tokio::process::Command::new(site.installation.binary())
        .args(["person", "--recover", "engineer"])
        .env("ZERO_LEAK_OWNER_URL", site.installation.database.owner_url())
        .output()
        .await?;
    ensure!(
        !out.status.success() && String::from_utf8_lossy(&out.stderr).contains("has a part in tests"),
        "an engineer became an administrator"
    );
    Ok(())
}
