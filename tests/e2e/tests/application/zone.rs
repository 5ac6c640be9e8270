//! The project's zone: neither UTC nor a whole number of hours from it, over the end of its summer time, before a browser in a third zone.

use anyhow::{Context, Result};
use demo::client::Person;
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::Site;
use reqwest::Method;
use serde_json::{Value, json};
use time::{Date, Duration, Month, OffsetDateTime, Time};

/// Half an hour of summer time, which ends at 02:00 on the first Sunday of April: 10:30 and 11 hours ahead of UTC (tz database).
const ZONE: &str = "Australia/Lord_Howe";

/// When it next ends: 15:00 UTC on the day before that Sunday.
fn end_of_summer_time() -> Result<OffsetDateTime> {
    let now = OffsetDateTime::now_utc();
    for year in [now.year(), now.year() + 1] {
        let april = Date::from_calendar_date(year, Month::April, 1)?;
        let sunday = april + Duration::days((7 - i64::from(april.weekday().number_days_from_sunday())) % 7);
        let end = (sunday - Duration::days(1)).with_time(Time::from_hms(15, 0, 0)?).assume_utc();
        if end > now + Duration::days(1) {
            return Ok(end);
        }
    }
    anyhow::bail!("no first Sunday of April")
}

async fn release(supervisor: &Person, pack: &str, when: OffsetDateTime) -> Result<String> {
    let attempt = demo::client::id();
    supervisor.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({ "released_at": fixtures::at(when) })).await?;
    Ok(attempt)
}

#[tokio::test]
async fn a_hold_over_the_end_of_summer_time_is_booked_told_and_sealed_in_the_projects_zone() -> Result<()> {
    let change = end_of_summer_time()?;
    let folder = tempfile::tempdir()?;
    let ahead = folder.path().join("ahead");
    // the hold has begun a quarter of an hour before the change
    let now = change + Duration::minutes(50);
    std::fs::write(&ahead, (now - OffsetDateTime::now_utc()).whole_seconds().to_string())?;
    let site = Site::in_zone(ZONE, &ahead).await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    let days = (now - OffsetDateTime::now_utc()).whole_days();
    let valid = fixtures::day(days + 200);
    engineer.put("/instruments/PG-1", &fixtures::gauge("PG-1", &valid)).await?;
    let thermometer = json!({ "tag": "TT-1", "kind": "thermometer", "certificate": "MT-1", "calibrated_on": fixtures::day(days - 60),
        "valid_until": valid, "division_k": 0.01, "error_k": 0.1 });
    engineer.put("/instruments/TT-1", &thermometer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let start = change - Duration::minutes(55);
    let attempt = release(&supervisor, &pack, start).await?;
    fixtures::event(&supervisor, &attempt, start, 5, "filled").await?;
    for minute in [10, 20, 30, 35] {
        fixtures::event(&supervisor, &attempt, start, minute, "step_reached").await?;
    }
    fixtures::event(&supervisor, &attempt, start, 40, "pump_off").await?;
    // another, whose hold is over and went through the change
    let whole = fixtures::pack(&engineer, "AA-002", &fixtures::piping()).await?;
    let over = release(&supervisor, &whole, start).await?;
    fixtures::tight_hold(&supervisor, &over, start).await?;
    Browser::with(&site.installation.base(), async |browser| {
        browser.open("/").await?;
        browser.sign_in("supervisor", site.password("supervisor")).await?;
        browser.open(&format!("/tests/{pack}/hold")).await?;
        browser.see(ZONE).await?;
        browser.see("put back").await?;
        let time = format!("Time ({ZONE})");
        browser.fill("PG-1 shows, bar", "26.00").await?;
        for (typed, says) in [("01:45", "twice"), ("2027-02-31 01:45", "no day"), ("01:20 second", "only once")] {
            browser.fill(&time, typed).await?;
            browser.press("Store (r)").await?;
            browser.see(says).await?;
        }
        browser.fill(&time, "01:45 second").await?;
        browser.press("Store (r)").await?;
        browser.see("saved ").await?;
        browser.open(&format!("/tests/{whole}/hold")).await?;
        browser.see(&format!("times in {ZONE}")).await?;
        browser.find("//*[@data-clocks='-1800' and contains(., 'clock put back by 30 min')]").await?;
        Ok(())
    })
    .await?;
    let typed = engineer.get(&format!("/attempts/{attempt}/readings")).await?.to_string();
    let at = &fixtures::at(change + Duration::minutes(15))[..16];
    anyhow::ensure!(typed.contains(at), "{at} is not in {typed}");
    let answer = supervisor
        .put(
            &format!("/attempts/{over}/signatures/{}", demo::client::id()),
            &json!({ "act": "performed", "password": site.password("supervisor") }),
        )
        .await;
    answer.context("signed")?;
    let sealed: Value = engineer.request(Method::GET, &format!("/attempts/{over}/sealed")).send().await?.json().await?;
    assert_eq!(sealed["parts"]["subject"]["zone"], ZONE);
    let (from, to) = (start + Duration::minutes(40), start + Duration::minutes(72));
    assert!(from < change && change < to, "the hold is over the change");
    site.stop().await
}
