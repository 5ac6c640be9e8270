//! A whole day on the rig in the real interface, at twenty times its speed: raise, a leak, a repump, the server killed once, and a PDF that
//! proves itself without the database.

use anyhow::{Context, Result};
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::{self, Site};
use std::process::Command;
use std::time::{Duration, Instant};

/// How many times faster than the real one the day's clock runs.
const RATE: f64 = 20.0;

#[tokio::test]
async fn a_day_on_the_rig_ends_in_a_pdf_that_proves_itself() -> Result<()> {
    let mut site = Site::with_rig(Some(RATE)).await?;
    let engineer = site.person("engineer").await?;
    let port = site.installation.rig.as_ref().context("no rig")?.port;
    fixtures::rig_instruments(&engineer, port).await?;
    // strength is claimed: a drip at a test fitting is noted and tolerated while the pressure can be kept up
    let pack = fixtures::rig_pack(&engineer, "CW-007", "strength").await?;
    let base = site.installation.base();
    Browser::with(&base, async |browser| day(browser, &mut site, &pack).await).await?;
    site.stop().await
}

/// A figure that the screen keeps in a data attribute.
async fn figure(browser: &Browser, attribute: &str) -> Result<f64> {
    let element = browser.find(&format!("//*[@{attribute}]")).await?;
    let text = element.attr(attribute).await?.unwrap_or_default();
    text.parse().with_context(|| format!("{attribute} is \"{text}\""))
}

/// Waits until a figure of the screen is as it should be.
async fn until(browser: &Browser, attribute: &str, right: impl Fn(f64) -> bool) -> Result<f64> {
    let patience = Instant::now() + Duration::from_secs(60);
    loop {
        if let Ok(now) = figure(browser, attribute).await
            && right(now)
        {
            return Ok(now);
        }
        anyhow::ensure!(
            Instant::now() < patience,
            "{attribute} does not become what it should; last {:?}",
            figure(browser, attribute).await
        );
        tokio::time::sleep(Duration::from_millis(30)).await;
    }
}

/// Pumps to the step; where a busy machine let the pump run on for longer than was meant, bleeds down to it, as a crew would.
async fn pump_to_the_step(browser: &Browser) -> Result<()> {
    let target = figure(browser, "data-needle").await? + figure(browser, "data-to-go").await?;
    let patience = Instant::now() + Duration::from_secs(90);
    loop {
        let now = figure(browser, "data-needle").await?;
        if now < 0.985 * target {
            browser.press("Run the rig's pump").await?;
            until(browser, "data-to-go", |pa| pa < 40_000.0).await?;
            browser.press("Stop the rig's pump").await?;
        } else if now > 1.06 * target {
            browser.press("Open the rig's bleed").await?;
            browser.press("Shut the rig's bleed").await?;
            // it falls for as long as the valve is open: it is shut once the server has said so
            browser.find("//button[contains(., 'bleed') and @aria-pressed='false']").await?;
        } else {
            return Ok(());
        }
        browser.find("//*[@data-rig='resting']").await?;
        // the next reading, a twentieth of a second later on this clock
        tokio::time::sleep(Duration::from_millis(300)).await;
        anyhow::ensure!(Instant::now() < patience, "the pump and the bleed do not find {target} Pa; last {now} Pa");
    }
}

async fn day(browser: &Browser, site: &mut Site, pack: &str) -> Result<()> {
    browser.sign_in("supervisor", site.password("supervisor")).await?;
    browser.see("Training installation: its clock runs 20 times as fast").await?;
    browser.open(&format!("/tests/{pack}/ready")).await?;
    browser.press("Release for test").await?;
    browser.see("Attempt 1 is released.").await?;

    // Raise: the needle lives, each step is one tap
    browser.open(&format!("/tests/{pack}/raise")).await?;
    browser.see("PT-72 agrees").await?;
    browser.press("Filled, vents closed, looked").await?;
    browser.see("Raise to").await?;
    // nothing is pumped yet: the needle shows the static head of 12.8 m
    let head = until(browser, "data-needle", |pa| pa > 1e5).await?;
    assert!((head / 1e5 - 1.25).abs() < 0.1, "static head {head} Pa");
    // slowly: what is read is a few seconds old on a busy machine, which is a minute or two on this clock
    browser.choose("strokes a minute", "12").await?;
    let steps = 4;
    for step in 1..=steps {
        pump_to_the_step(browser).await?;
        browser.press("Pump stopped at").await?;
        browser.find(&format!("//tr[@data-step='reached'][{step}]")).await?;
    }
    browser.find("//*[@data-air='as_computed']").await?;
    browser.press("Something happened").await?;
    browser.press_in_dialog("sun came out").await?;
    browser.press("Pump off, valved off, disconnected").await?;
    browser.press("Go to the hold").await?;

    // Hold: a drip at the test hose is noted, the pressure falls, it is pumped up again
    browser.press("Note a leak (l)").await?;
    browser.choose("Where", "test_fitting").await?;
    browser.fill("What was seen", "hose coupling drips").await?;
    browser.press_in_dialog("Book it").await?;
    browser.see("hose coupling drips").await?;
    browser.press("Run the rig's pump").await?;
    let peak = until_pressure(site, pack, 25.9e5).await?;
    browser.press("Stop the rig's pump").await?;
    browser.find("//*[@data-rig='resting']").await?;
    browser.press("Repumped").await?;
    browser.press_in_dialog("Repumped").await?;
    browser.see("repumped").await?;
    assert!(peak < 29.9e5, "pumped to {peak} Pa, over the limit");

    // the power fails: the server is gone without warning, comes back, and the test goes on with the gap shown
    let before = ticks(site, pack).await?;
    site.installation.kill_server().await?;
    tokio::time::sleep(Duration::from_secs(2)).await;
    site.installation.start_server().await?;
    let patience = Instant::now() + Duration::from_secs(20);
    while ticks(site, pack).await? <= before + 3 {
        anyhow::ensure!(Instant::now() < patience, "nothing is recorded after the server came back");
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    browser.open(&format!("/tests/{pack}/hold")).await?;
    browser.press("Looked at").await?;
    browser.choose("Class of places", "weld").await?;
    browser.fill("How many were looked at", "18").await?;
    browser.press_in_dialog("Book this class").await?;
    browser.see("18 of 18 dry").await?;
    browser.press("Looked at").await?;
    browser.press_in_dialog("Every joint in the claim was looked at").await?;
    browser.see("Every joint in the claim is booked as looked at.").await?;

    // the clock runs for the hold of the plan since the repump, on the day's clock; then nothing is left of it
    let patience = Instant::now() + Duration::from_secs(90);
    while browser.text().await?.lines().any(|l| l.trim_end().ends_with(" left")) {
        anyhow::ensure!(Instant::now() < patience, "the hold's clock does not run out: {}", browser.text().await?);
        tokio::time::sleep(Duration::from_millis(250)).await;
    }
    browser.press("End the hold").await?;
    browser.press_in_dialog("End the hold").await?;
    browser.open(&format!("/tests/{pack}/judge")).await?;
    browser.see("Strength: meets").await?;

    // Restore and sign, each by whose part it is
    browser.open(&format!("/tests/{pack}/restore")).await?;
    let supervisor = site.person("supervisor").await?;
    let attempt = attempt(site, pack).await?;
    let now = async || Ok::<_, anyhow::Error>(supervisor.get("/session").await?["now"].clone());
    // under pressure nobody books it as released, whatever they say
    let body = serde_json::json!({ "kind": "released", "at": now().await?, "note": "all vents open, I looked myself" });
    let path = format!("/attempts/{attempt}/events/{}", demo::client::id());
    let answer = supervisor.request(reqwest::Method::PUT, &path).json(&body).send().await?;
    assert_eq!(answer.status(), reqwest::StatusCode::CONFLICT);
    let said = answer.text().await?;
    assert!(said.contains("PT-71 reads ") && said.contains("Let it out by the bleed valve"), "{said}");
    supervisor
        .put(&format!("/attempts/{attempt}/rig"), &serde_json::json!({ "pump": false, "strokes_per_min": 60.0, "bleed": 1.0 }))
        .await?;
    for kind in ["released", "vent_opened", "drained"] {
        // until the gauges have read zero for long enough
        let patience = Instant::now() + Duration::from_secs(60);
        loop {
            let body = serde_json::json!({ "kind": kind, "at": now().await?, "note": "" });
            let path = format!("/attempts/{attempt}/events/{}", demo::client::id());
            match supervisor.put(&path, &body).await {
                Ok(_) => break,
                Err(e) => anyhow::ensure!(Instant::now() < patience, "{kind}: {e:#}"),
            }
            tokio::time::sleep(Duration::from_millis(250)).await;
        }
    }
    // the verdict on the hold is not moved by what the gauge showed while the pressure was let out
    let view = supervisor.get(&format!("/packs/{pack}")).await?;
    let judged = &view["attempts"][0]["judgement"];
    assert_eq!(judged["verdict"], "pass", "{} {}", judged["sentence"], judged["verdicts"]);
    for (who, act) in [("supervisor", "performed"), ("inspector", "inspected"), ("witness", "witnessed"), ("owner", "accepted")] {
        browser.sign_out().await?;
        browser.sign_in(who, site.password(who)).await?;
        browser.open(&format!("/tests/{pack}/sign")).await?;
        browser.fill("Your password, again", site.password(who)).await?;
        browser.press(&format!("Sign as {act}")).await?;
        browser.find(&format!("//li[@data-act='{act}'][@data-signed='true']")).await?;
    }
    browser.see("Signed and sealed.").await?;
    browser.press("show the pages").await?;
    browser.find("//*[@data-pages][@data-pages!='0']//img").await?;

    // the paper, from the file alone: no database, no server, an empty environment
    let folder = tempfile::tempdir()?;
    let pdf = browser.download("Download the PDF", folder.path()).await?;
    let public = public_key(&site.installation.key_line)?;
    let out =
        Command::new(site::binary()?).env_clear().current_dir(folder.path()).arg("verify").arg(&pdf).args(["--key", &public]).output()?;
    let said = String::from_utf8_lossy(&out.stdout).into_owned();
    assert_eq!(out.status.code(), Some(0), "{said}{}", String::from_utf8_lossy(&out.stderr));
    assert!(said.contains("signed every byte of this file"), "{said}");
    assert!(said.contains("Genuine: nothing was altered"), "{said}");
    // one byte of the paper changed: said, and not taken for the record
    let mut bytes = std::fs::read(&pdf)?;
    let middle = bytes.len() / 2;
    bytes[middle] ^= 1;
    let altered = folder.path().join("altered.pdf");
    std::fs::write(&altered, bytes)?;
    let out = Command::new(site::binary()?).arg("verify").arg(&altered).args(["--key", &public]).output()?;
    let said = String::from_utf8_lossy(&out.stdout).into_owned() + String::from_utf8_lossy(&out.stderr).as_ref();
    assert!(out.status.code() == Some(1) || out.status.code() == Some(2), "{said}");
    assert!(!said.contains("signed every byte"), "{said}");

    // anyone may have it checked
    browser.sign_out().await?;
    browser.open("/verify").await?;
    browser.upload("Sealed file", &pdf).await?;
    browser.see("Genuine").await?;
    browser.find("//*[@data-pages='signed']").await?;
    Ok(())
}

/// The public key from the line in which the server told it.
fn public_key(line: &str) -> Result<String> {
    Ok(line.split("public key ").nth(1).context("the server told no key")?.trim_end_matches(')').to_owned())
}

async fn view(site: &Site, pack: &str) -> Result<serde_json::Value> {
    site.person("supervisor").await?.get(&format!("/packs/{pack}")).await
}

async fn attempt(site: &Site, pack: &str) -> Result<String> {
    let view = view(site, pack).await?;
    Ok(view["attempts"].as_array().and_then(|a| a.last()).and_then(|a| a["id"].as_str()).context("no attempt")?.to_owned())
}

/// Last number of the recorder's sequence.
async fn ticks(site: &Site, pack: &str) -> Result<u64> {
    let hold = site.person("supervisor").await?.get(&format!("/attempts/{}/hold", attempt(site, pack).await?)).await?;
    hold["last_seq"].as_u64().context("no sequence")
}

async fn until_pressure(site: &Site, pack: &str, least: f64) -> Result<f64> {
    let supervisor = site.person("supervisor").await?;
    let id = attempt(site, pack).await?;
    let patience = Instant::now() + Duration::from_secs(40);
    loop {
        let hold = supervisor.get(&format!("/attempts/{id}/hold")).await?;
        let last = hold["pressure"].as_array().and_then(|p| p.last()).and_then(|p| p["value"].as_f64()).unwrap_or(0.0);
        if last >= least {
            return Ok(last);
        }
        anyhow::ensure!(Instant::now() < patience, "the rig stays at {last} Pa");
        tokio::time::sleep(Duration::from_millis(30)).await;
    }
}
