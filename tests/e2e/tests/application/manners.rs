//! What is typed is not lost, silence is said, and a page opens where the server cannot be reached.

use anyhow::{Context, Result};
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::Site;
use serde_json::json;
use std::time::{Duration, Instant};

/// Silence is said within this.
const SAID_WITHIN: Duration = Duration::from_secs(3);

#[tokio::test]
async fn what_is_typed_is_kept_and_silence_is_said() -> Result<()> {
    let mut site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let browser = Browser::start(&site.installation.base()).await?;
    let told = async {
        browser.sign_in("supervisor", site.password("supervisor")).await?;
        typing(&browser, &pack).await?;
        let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
        fixtures::event(&supervisor, &attempt, start, 1, "filled").await?;
        browser.open(&format!("/tests/{pack}/read")).await?;
        browser.see("Store").await?;
        anyhow::Ok(attempt)
    }
    .await;
    let result = match told {
        Ok(attempt) => silence(&browser, &mut site, &pack, &attempt).await,
        Err(e) => Err(e),
    };
    if result.is_err() {
        browser.picture(&e2e::site::root().join("target/failed.png")).await.ok();
    }
    browser.end().await?;
    site.stop().await?;
    result
}

/// Leaving asks; what was typed is there again after another step, and after the page was loaded anew; once saved, nobody asks.
async fn typing(browser: &Browser, pack: &str) -> Result<()> {
    browser.open(&format!("/tests/{pack}/ready")).await?;
    browser.fill("Permit number", "PTW-4711").await?;
    browser.see("kept on this device").await?;
    follow(browser, "derive").await?;
    browser.see("Leave without saving?").await?;
    browser.see("Not saved yet: the gauge, thermometer, permit and people.").await?;
    browser.press_in_dialog("Stay here").await?;
    assert!(browser.path().await?.ends_with("/ready"));
    assert_eq!(browser.value("Permit number").await?, "PTW-4711");
    follow(browser, "derive").await?;
    browser.press_in_dialog("Leave").await?;
    browser.find("//h1").await?;
    assert!(browser.path().await?.ends_with("/derive"));
    follow(browser, "ready").await?;
    browser.find("//label[.='Permit number']").await?;
    assert_eq!(browser.value("Permit number").await?, "PTW-4711", "it is here again");
    browser.open(&format!("/tests/{pack}/ready")).await?;
    browser.find("//label[.='Permit number']").await?;
    assert_eq!(browser.value("Permit number").await?, "PTW-4711", "and after the page was loaded anew");
    browser.press("Save").await?;
    browser.gone("kept on this device").await?;
    follow(browser, "derive").await?;
    browser.find("//main//*[@data-next]").await?;
    assert!(browser.path().await?.ends_with("/derive"), "nobody is asked about what is saved");
    // thrown away on purpose
    follow(browser, "ready").await?;
    browser.fill("Permit number", "PTW-9").await?;
    browser.press("Throw it away").await?;
    assert_eq!(browser.value("Permit number").await?, "PTW-4711");
    Ok(())
}

/// The server stops answering, then is gone, then comes back.
async fn silence(browser: &Browser, site: &mut Site, pack: &str, attempt: &str) -> Result<()> {
    let pid = site.installation.server_pid().context("no server runs")?.to_string();
    let signal = |name: &'static str| std::process::Command::new("kill").args([name, &pid]).status();
    assert!(browser.driver.execute("return !document.querySelector('[data-silence]')", Vec::new()).await?.convert::<bool>()?);
    signal("-STOP")?;
    let from = Instant::now();
    browser.find("//*[@data-silence]//p").await?;
    let said = from.elapsed();
    signal("-CONT")?;
    assert!(said <= SAID_WITHIN, "silence was said after {said:?}");
    browser.gone("No connection to the server since").await?;
    // a reading is sent to a server that is gone
    browser.fill("PG-1 shows, bar", "1.25").await?;
    site.installation.kill_server().await?;
    let from = Instant::now();
    browser.find("//*[@data-silence]//p").await?;
    assert!(from.elapsed() <= SAID_WITHIN, "a broken connection was said after {:?}", from.elapsed());
    browser.press("Store (r)").await?;
    browser.see("it is not known whether this was stored").await?;
    browser.see("sending it again is safe").await?;
    // the page is opened there: no error page of the browser, and what was typed is on the device
    browser.open(&format!("/tests/{pack}/read")).await?;
    browser.see("This page waits for the server.").await?;
    browser.open("/packs").await?;
    browser.see("This page waits for the server.").await?;
    browser.open(&format!("/tests/{pack}/read")).await?;
    site.installation.start_server().await?;
    browser.see("Store").await?;
    assert_eq!(browser.value("PG-1 shows, bar").await?, "1.25");
    browser.press("Store (r)").await?;
    browser.see("saved").await?;
    let supervisor = site.person("supervisor").await?;
    let readings = supervisor.get(&format!("/attempts/{attempt}/readings")).await?;
    assert_eq!(readings.as_array().map(Vec::len), Some(1), "stored once: {readings}");
    assert_eq!(readings[0]["as_typed"], json!("1.25"));
    Ok(())
}

/// Goes to another step by the spine.
async fn follow(browser: &Browser, step: &str) -> Result<()> {
    let script = "document.querySelector(`nav[aria-label='Steps of this test'] a[href$='/${arguments[0]}']`).click()";
    browser.driver.execute(script, vec![step.into()]).await?;
    Ok(())
}

/// Reader and inspector go through their day on a phone: what waits for them stands first, and nothing needs a wider screen.
#[tokio::test]
async fn the_day_of_reader_and_inspector_on_a_phone() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    fixtures::event(&supervisor, &attempt, start, 5, "filled").await?;
    let told = Browser::with(&site.installation.base(), async |browser| {
        browser.size(390, 844).await?;
        browser.sign_in("reader", site.password("reader")).await?;
        browser.find("//ul[@data-waiting]//a | //section[.//h2[.='Under test now']]//a").await?.click().await?;
        browser.fill("PG-1 shows, bar", "0.50").await?;
        browser.press("Store (r)").await?;
        browser.see("saved").await?;
        fixtures::tight_hold_after_filling(&supervisor, &attempt, start).await?;
        supervisor
            .put(
                &format!("/attempts/{attempt}/signatures/{}", demo::client::id()),
                &json!({ "act": "performed", "password": site.password("supervisor") }),
            )
            .await?;
        browser.sign_out().await?;
        browser.sign_in("inspector", site.password("inspector")).await?;
        browser.find("//ul[@data-waiting]//a[contains(., 'Sign that you inspected it.')]").await?.click().await?;
        // from the signature back to what is signed, by the one line of the steps
        browser.find("//button[@data-steps]").await?.click().await?;
        browser.find("//nav[@aria-label='Steps of this test']//li//a[contains(@href, '/judge')]").await?.click().await?;
        browser.see("Everything that is asked is in the record, and was held.").await?;
        browser.find("//footer[@data-next='sign']//a").await?.click().await?;
        browser.fill("Your password, again", site.password("inspector")).await?;
        browser.press("Sign as inspected").await?;
        browser.see("signed as performed, inspected").await?;
        let wide: bool = browser.driver.execute("return document.documentElement.scrollWidth > innerWidth", Vec::new()).await?.convert()?;
        anyhow::ensure!(!wide, "the page moves sideways");
        Ok(())
    })
    .await;
    site.stop().await?;
    told
}
