//! Figures of the whole application, each beside a reference of the same run: how fast readings are stored, how smoothly a long hold pans,
//! how long its report takes. Started by `cargo xtask bench`; `--quick` records for half a minute instead of five, `recorder` or `hold` runs only that.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::browser::Browser;
use e2e::fixtures;
use e2e::site::Site;
use serde_json::{Value, json};
use sqlx::Connection;
use std::fmt::Write as _;
use std::time::{Duration, Instant};

#[tokio::main]
async fn main() -> Result<()> {
    let asked: Vec<String> = std::env::args().collect();
    let quick = asked.iter().any(|a| a == "--quick");
    let (recorder_only, hold_only) = (asked.iter().any(|a| a == "recorder"), asked.iter().any(|a| a == "hold"));
    println!("| what | figure | reference of the same run | ratio | wanted |");
    println!("|---|---|---|---|---|");
    if !hold_only {
        recorder(Duration::from_secs(if quick { 35 } else { 300 })).await?;
    }
    if !recorder_only {
        long_hold().await?;
    }
    Ok(())
}

fn line(what: &str, figure: &str, reference: &str, ratio: f64, wanted: &str) {
    println!("| {what} | {figure} | {reference} | {ratio:.2} | {wanted} |");
}

/// The value below which a share of all lie.
fn quantile(values: &mut [f64], share: f64) -> f64 {
    values.sort_by(f64::total_cmp);
    let place = (share * (values.len() as f64 - 1.0)).round() as usize;
    values.get(place).copied().unwrap_or(f64::NAN)
}

/// A scenario with so many gauges on one line.
fn gauges(many: u8) -> Result<Value> {
    let mut scenario: Value = serde_json::from_str(include_str!("../../../../docs/formats/examples/pump-house.rig.json"))?;
    let gauge = scenario["instruments"][0].clone();
    let all = (0..many).map(|i| {
        let mut g = gauge.clone();
        (g["tag"], g["unit"]) = (json!(format!("PT-{i}")), json!(10 + i));
        g
    });
    scenario["instruments"] = all.collect::<Vec<_>>().into();
    Ok(scenario)
}

/// Times to store an instant of so many channels, ms, and how many instants there are.
async fn stored(many: u8, lasts: Duration) -> Result<(Vec<f64>, i64)> {
    let folder = tempfile::tempdir()?;
    let scenario = folder.path().join("scenario.json");
    std::fs::write(&scenario, gauges(many)?.to_string())?;
    let site = Site::with_scenario(&scenario).await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    let port = site.installation.rig.as_ref().context("no rig")?.port;
    fixtures::instruments(&engineer).await?;
    for i in 0..many {
        let mut body = fixtures::gauge(&format!("PT-{i}"), &fixtures::day(300));
        body["connection"] = json!({ "address": "127.0.0.1", "port": port, "unit": 10 + i, "register": 0, "form": "f32", "scale": 1.0 });
        engineer.put(&format!("/instruments/PT-{i}"), &body).await?;
    }
    let mut plan = fixtures::piping();
    plan["gauge_tag"] = json!("PT-0");
    plan["also"] = (1..many).map(|i| json!({ "tag": format!("PT-{i}"), "elevation_m": 1.2 })).collect::<Vec<_>>().into();
    let pack = fixtures::pack(&engineer, "RE-050", &plan).await?;
    supervisor.put(&format!("/packs/{pack}/attempts/{}", id()), &json!({})).await?;
    tokio::time::sleep(lasts).await;
    let mut db = sqlx::MySqlConnection::connect(&(site.installation.database.owner_url() + "?ssl-mode=DISABLED")).await?;
    let (count, last): (i64, i64) = sqlx::query_as("SELECT COUNT(*), CAST(MAX(seq) AS SIGNED) FROM tick").fetch_one(&mut db).await?;
    let whole: i64 =
        sqlx::query_scalar("SELECT COUNT(*) FROM tick WHERE LENGTH(body) = ?").bind(i32::from(many) * 10).fetch_one(&mut db).await?;
    anyhow::ensure!(count == last && whole == count, "{count} instants, the last is number {last}, {whole} are whole");
    let log = std::fs::read_to_string(site.installation.folder.path().join("server.log"))?;
    let took: Vec<f64> = log
        .lines()
        .filter_map(|l| l.split("stored_ms=\"").nth(1).or_else(|| l.split("stored_ms=").nth(1)))
        .flat_map(|l| {
            l.split(['"', '\u{1b}']).next().unwrap_or_default().split(' ').filter_map(|w| w.parse::<f64>().ok()).collect::<Vec<_>>()
        })
        .collect();
    site.stop().await?;
    Ok((took, count))
}

async fn recorder(lasts: Duration) -> Result<()> {
    let (mut one, _) = stored(1, Duration::from_secs(35)).await?;
    let (mut fifty, count) = stored(50, lasts).await?;
    anyhow::ensure!(!one.is_empty() && !fifty.is_empty(), "the server's log names no times");
    let expected = lasts.as_secs_f64() - 4.0;
    anyhow::ensure!(count as f64 >= expected, "{count} instants in {lasts:?}: some seconds were left out");
    let within = fifty.iter().filter(|t| **t <= 50.0).count() as f64 / fifty.len() as f64;
    let (a, b) = (quantile(&mut fifty, 0.99), quantile(&mut one, 0.99));
    line(
        &format!("50 channels at 1 reading/s, {} instants stored, none missing; 99th percentile to store one", count),
        &format!("{a:.1} ms, {:.1} % within 50 ms", 100.0 * within),
        &format!("1 channel: {b:.1} ms"),
        a / b,
        "99 % within 50 ms",
    );
    Ok(())
}

/// A logger's file with a reading a second.
fn file(readings: u32, start: time::OffsetDateTime) -> Vec<u8> {
    let mut out = String::from("time,bar,c\n");
    for i in 0..readings {
        let t = start + time::Duration::seconds(i64::from(i));
        let wobble = f64::from(i * 7919 % 11) - 5.0;
        let _ = writeln!(out, "{},{:.3},{:.2}", fixtures::at(t), 25.95 + 0.002 * wobble, 15.0 + 0.001 * wobble);
    }
    out.into_bytes()
}

/// A hold of so many readings, from the pump's stop on.
async fn hold(site: &Site, number: &str, readings: u32) -> Result<(String, String)> {
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    let pack = fixtures::pack(&engineer, number, &fixtures::piping()).await?;
    let start = time::OffsetDateTime::now_utc() - time::Duration::seconds(i64::from(readings) + 7200);
    let attempt = id();
    supervisor.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({ "released_at": fixtures::at(start) })).await?;
    fixtures::event(&supervisor, &attempt, start, 5, "filled").await?;
    for minute in [10, 20, 30, 35] {
        fixtures::event(&supervisor, &attempt, start, minute, "step_reached").await?;
    }
    fixtures::event(&supervisor, &attempt, start, 40, "pump_off").await?;
    let mapping = json!({ "time_column": "time", "time_form": { "kind": "year_first" }, "zone": "UTC", "pressure_column": "bar", "pressure_unit": "bar",
        "temperature_column": "c", "temperature_unit": "celsius", "decimal_comma": false });
    let answer = supervisor
        .request(reqwest::Method::PUT, &format!("/attempts/{attempt}/recordings/{}", id()))
        .query(&[("file_name", "long.csv"), ("mapping", &mapping.to_string())])
        .body(file(readings, start + time::Duration::minutes(40)))
        .send()
        .await?
        .text()
        .await?;
    anyhow::ensure!(answer.contains("\"stored\""), "{answer}");
    let end = 40 + i64::from(readings) / 60;
    for (minute, kind) in [(55, "look_done"), (end, "hold_ended"), (end + 1, "released"), (end + 2, "vent_opened"), (end + 3, "drained")] {
        fixtures::event(&supervisor, &attempt, start, minute, kind).await?;
    }
    Ok((pack, attempt))
}

/// Seconds and bytes of a report.
async fn report(supervisor: &Person, attempt: &str) -> Result<(f64, usize)> {
    let from = Instant::now();
    let pdf =
        supervisor.request(reqwest::Method::GET, &format!("/attempts/{attempt}/report")).send().await?.error_for_status()?.bytes().await?;
    Ok((from.elapsed().as_secs_f64(), pdf.len()))
}

/// The middle of so many times that an answer takes, ms, and its bytes; once more before, for what is kept.
async fn answers(supervisor: &Person, path: &str) -> Result<(f64, usize)> {
    const TIMES: usize = 21;
    let (mut times, mut bytes) = (Vec::new(), 0);
    for _ in 0..=TIMES {
        let from = Instant::now();
        bytes = supervisor.request(reqwest::Method::GET, path).send().await?.error_for_status()?.bytes().await?.len();
        times.push(1e3 * from.elapsed().as_secs_f64());
    }
    Ok((quantile(&mut times[1..], 0.5), bytes))
}

/// Bytes that a live stream says until the first view is whole.
async fn first_said(supervisor: &Person, attempt: &str) -> Result<usize> {
    let mut stream = supervisor.request(reqwest::Method::GET, &format!("/attempts/{attempt}/live")).send().await?.error_for_status()?;
    let mut said = String::new();
    while let Some(chunk) = tokio::time::timeout(Duration::from_secs(20), stream.chunk()).await?? {
        said.push_str(&String::from_utf8_lossy(&chunk));
        if said.split("event: view").nth(1).is_some_and(|view| view.contains("\n\n")) {
            return Ok(said.len());
        }
    }
    anyhow::bail!("the stream ended without a view: {said}")
}

/// What a person's screen asks of a run, early in it and a day later.
async fn views(site: &Site, supervisor: &Person) -> Result<()> {
    let (few, early) = hold(site, "LH-100", 100).await?;
    let (many, late) = hold(site, "LH-864", 86_400).await?;
    // a hold's chart has up to some thousand points: what it costs grows until then, and no more
    for (what, of, wanted) in [("the view of a pack", "packs", "1.5"), ("the points of its chart", "hold", "as information")] {
        let path = |pack: &str, attempt: &str| if of == "packs" { format!("/packs/{pack}") } else { format!("/attempts/{attempt}/hold") };
        let (reference, small) = answers(supervisor, &path(&few, &early)).await?;
        let (took, large) = answers(supervisor, &path(&many, &late)).await?;
        line(
            &format!("{what} with 86,400 readings, its judgement kept: median of 21"),
            &format!("{took:.1} ms, {:.0} kB", large as f64 / 1e3),
            &format!("with 100: {reference:.1} ms, {:.0} kB", small as f64 / 1e3),
            took / reference,
            wanted,
        );
    }
    let (small, large) = (first_said(supervisor, &early).await?, first_said(supervisor, &late).await?);
    line(
        "what the live stream says first, with 86,400 readings",
        &format!("{:.0} kB", large as f64 / 1e3),
        &format!("with 100: {:.0} kB", small as f64 / 1e3),
        large as f64 / small as f64,
        "1.5",
    );
    Ok(())
}

async fn long_hold() -> Result<()> {
    let site = Site::start().await?;
    fixtures::instruments(&site.person("engineer").await?).await?;
    let supervisor = site.person("supervisor").await?;
    views(&site, &supervisor).await?;
    let (pack, _) = hold(&site, "LH-999", 100_000).await?;
    let frames = Browser::with(&site.installation.base(), async |browser| pan(browser, &site, &pack).await).await?;
    let (mut panned, mut still) = frames;
    let (a, b) = (quantile(&mut panned, 0.95), quantile(&mut still, 0.95));
    let within = panned.iter().filter(|t| **t <= 33.4).count() as f64 / panned.len() as f64;
    line(
        &format!("panning through 100,000 points, {} frames: 95th percentile", panned.len()),
        &format!("{a:.1} ms, {:.1} % within 33 ms", 100.0 * within),
        &format!("the same page at rest: {b:.1} ms"),
        a / b,
        "95 % within 33 ms",
    );
    let (_, short) = hold(&site, "LH-002", 1800).await?;
    let (_, long) = hold(&site, "LH-086", 86_400).await?;
    for attempt in [&short, &long] {
        let body = json!({ "act": "performed", "password": site.password("supervisor") });
        supervisor.put(&format!("/attempts/{attempt}/signatures/{}", id()), &body).await?;
    }
    // the first report of a server also reads the fonts
    report(&supervisor, &short).await?;
    let (reference, _) = report(&supervisor, &short).await?;
    let (seconds, bytes) = report(&supervisor, &long).await?;
    line(
        "report of a hold of 86,400 readings, its sealed file inside",
        &format!("{seconds:.2} s, {:.2} MB", bytes as f64 / 1e6),
        &format!("of 1,800 readings: {reference:.2} s"),
        seconds / reference,
        "2 s, 3 MB",
    );
    site.stop().await
}

/// Times between frames while the chart is dragged to and fro, and while it rests, ms.
async fn pan(browser: &Browser, site: &Site, pack: &str) -> Result<(Vec<f64>, Vec<f64>)> {
    browser.sign_in("supervisor", site.password("supervisor")).await?;
    browser.open(&format!("/tests/{pack}/hold")).await?;
    // and the zero that was read when it was let out
    browser.find("//*[@data-points='100001']").await?;
    let script = r"
        const [drag, done] = arguments;
        const svg = document.querySelector('[data-points] svg');
        const box = svg.getBoundingClientRect();
        const at = (type, x) => svg.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x, clientY: box.top + 100, pointerId: 1 }));
        const middle = box.left + box.width / 2;
        const times = [];
        let last = null, n = 0;
        if (drag) at('pointerdown', middle);
        const frame = (now) => {
          if (last !== null) times.push(now - last);
          last = now;
          if (drag) at('pointermove', middle + 200 * Math.sin(n / 15));
          if (++n < 240) requestAnimationFrame(frame);
          else { if (drag) at('pointerup', middle); done(times); }
        };
        requestAnimationFrame(frame);";
    let times = async |drag: bool| -> Result<Vec<f64>> { Ok(browser.driver.execute_async(script, vec![json!(drag)]).await?.convert()?) };
    let still = times(false).await?;
    let before = browser.find("//*[@data-from]").await?.attr("data-from").await?;
    let panned = times(true).await?;
    anyhow::ensure!(browser.find("//*[@data-from]").await?.attr("data-from").await? != before, "the chart did not move");
    Ok((panned, still))
}
