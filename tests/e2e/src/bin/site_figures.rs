//! Figures of a whole site: 10,000 packs in 20 projects with 400,000 rows of registers, 50 people who ask, 200 runs that are recorded. Each figure stands
//! beside a bare route of the same server in the same run. Started by `cargo xtask bench`; `--quick` makes a fifth of it.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures;
use e2e::site::Site;
use serde_json::{Value, json};
use sqlx::MySqlPool;
use std::sync::Arc;
use std::time::{Duration, Instant};

/// Requests a second.
const RATE: f64 = 25.0;
/// People who ask.
const PEOPLE: usize = 50;
const PROJECTS: usize = 20;

/// What is made.
#[derive(Clone, Copy)]
struct Size {
    packs: usize,
    /// Rows of registers of each pack.
    rows: usize,
    runs: u8,
    lasts: Duration,
}

const WHOLE: Size = Size { packs: 10_000, rows: 40, runs: 200, lasts: Duration::from_secs(60) };
const QUICK: Size = Size { packs: 2_000, rows: 40, runs: 40, lasts: Duration::from_secs(20) };
const SMALL: Size = Size { packs: 100, rows: 40, runs: 0, lasts: Duration::ZERO };

#[tokio::main]
async fn main() -> Result<()> {
    let size = if std::env::args().any(|a| a == "--quick") { QUICK } else { WHOLE };
    println!("| what | figure | reference of the same run | ratio | wanted |");
    println!("|---|---|---|---|---|");
    let small = quiet_page(SMALL).await?;
    whole(size, small).await
}

fn line(what: &str, figure: &str, reference: &str, ratio: f64, wanted: &str) {
    println!("| {what} | {figure} | {reference} | {ratio:.2} | {wanted} |");
}

fn quantile(values: &mut [f64], share: f64) -> f64 {
    values.sort_by(f64::total_cmp);
    let place = (share * (values.len() as f64 - 1.0)).round() as usize;
    values.get(place).copied().unwrap_or(f64::NAN)
}

/// Statements as the owner of the tables.
async fn sql(db: &MySqlPool, text: &str) -> Result<()> {
    sqlx::query(sqlx::AssertSqlSafe(text.to_owned())).execute(db).await.with_context(|| text.chars().take(80).collect::<String>())?;
    Ok(())
}

/// A site with its projects, people, packs and registers; gives back the owner's connection and the projects.
async fn made(size: Size) -> Result<(Site, MySqlPool)> {
    let folder = tempfile::tempdir()?;
    let scenario = folder.path().join("scenario.json");
    std::fs::write(&scenario, gauges(size.runs.max(1))?.to_string())?;
    let site = Site::for_bench(&scenario).await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let template = fixtures::pack(&engineer, "AA-0000", &fixtures::piping()).await?;
    let db = MySqlPool::connect(&(site.installation.database.owner_url() + "?ssl-mode=DISABLED")).await?;
    for p in 1..PROJECTS {
        sql(&db, &format!("INSERT INTO project (id, name) VALUES ('{}', 'Project {p:02}')", id())).await?;
    }
    sql(&db, "INSERT INTO project_specification (project_id, body) SELECT id, '{}' FROM project p WHERE NOT EXISTS (SELECT 1 FROM project_specification s WHERE s.project_id = p.id)").await?;
    sql(&db, "INSERT IGNORE INTO instrument_loan (tag, project_id) SELECT i.tag, p.id FROM instrument i, project p").await?;
    // an engineer of the whole site, and people of one to three projects each, who have the password of the engineer
    sql(&db, "INSERT IGNORE INTO member (project_id, person, role) SELECT p.id, 'engineer', 'engineer' FROM project p").await?;
    sql(&db, &format!("INSERT INTO person (id, sign_in, password_hash) SELECT UUID(), CONCAT('person-', q.seq), (SELECT password_hash FROM person WHERE sign_in = 'engineer') FROM seq_1_to_{PEOPLE} q")).await?;
    sql(&db, &format!("INSERT INTO member (project_id, person, role) SELECT p.id, CONCAT('person-', q.seq), ELT(1 + q.seq % 4, 'engineer', 'supervisor', 'reader', 'inspector')
                         FROM seq_1_to_{PEOPLE} q JOIN (SELECT id, ROW_NUMBER() OVER (ORDER BY id) - 1 AS n FROM project) p ON (p.n + q.seq) % 7 = 0")).await?;
    let packs = size.packs;
    sql(&db, &format!(
        "INSERT INTO pack (id, project_id, number, title, form, plan, cells, created_by, updated_by)
           SELECT UUID(), p.id, CONCAT(ELT(1 + q.seq % 5, 'CW', 'SW', 'FM', 'BF', 'IA'), '-', LPAD(q.seq, 5, '0')),
                  CONCAT(ELT(1 + q.seq % 6, 'Cooling water', 'Seawater', 'Fire main', 'Boiler feed', 'Instrument air', 'Product water'), ' ',
                         ELT(1 + q.seq DIV 6 % 5, 'header', 'branch', 'ring', 'riser', 'crossover'), ' ', q.seq DIV 30), 'pack',
                  JSON_SET(k.plan, '$.permit_number', IF(q.seq % 3 = 0, '', 'PTW-1'), '$.gauge_tag', IF(q.seq % 4 = 0, 'PG-9', 'PG-1'),
                           '$.people.witnesses', IF(q.seq % 5 = 0, '', 'witness'), '$.basis.design_pressure_pa', 8.0e5 + 1.0e4 * (q.seq % 70)),
                  k.cells, 'engineer', 'engineer'
             FROM pack k, seq_1_to_{packs} q JOIN (SELECT id, ROW_NUMBER() OVER (ORDER BY id) - 1 AS n FROM project) p ON p.n = q.seq % {PROJECTS}
            WHERE k.id = '{template}'")).await?;
    let half = size.rows / 2;
    sql(&db, &format!("INSERT INTO register_item (id, pack_id, register, tag, body, marks)
         SELECT UUID(), k.id, 'punch', q.seq,
                CONCAT('{{\"number\":\"', q.seq, '\",\"category\":\"', ELT(1 + q.seq % 3, 'A', 'B', 'C'), '\",\"text\":\"weld cap to be ground\",\"owner\":\"inspector\",\"cleared\":',
                       IF(q.seq % 3 = 0 AND k.number LIKE '%7', 'false', 'true'), '}}'),
                IF(q.seq % 3 = 0 AND k.number LIKE '%7', '{{}}', '{{\"cleared\":{{\"by\":\"engineer\",\"at_us\":1700000000000000}}}}') FROM pack k, seq_1_to_{half} q")).await?;
    sql(&db, &format!("INSERT INTO register_item (id, pack_id, register, tag, body, marks)
         SELECT UUID(), k.id, 'boundary', CONCAT('TB-', SUBSTRING(k.number, 4), '-', q.seq),
                CONCAT('{{\"tag\":\"TB-', SUBSTRING(k.number, 4), '-', q.seq, '\",\"kind\":\"blind\",\"place\":\"end of the line\",\"set_for_test\":',
                       IF(k.number LIKE '%3', 'true', 'false'), ',\"put_back\":false}}'),
                IF(k.number LIKE '%3', '{{\"set_for_test\":{{\"by\":\"engineer\",\"at_us\":1700000000000000}}}}', '{{}}') FROM pack k, seq_1_to_{half} q WHERE k.id <> '{template}'")).await?;
    let began = Instant::now();
    let mut last = 0.0;
    loop {
        let due: i64 = sqlx::query_scalar("SELECT COUNT(*) FROM pack_due").fetch_one(&db).await?;
        if due == 0 {
            break;
        }
        anyhow::ensure!(began.elapsed() < Duration::from_secs(1800), "{due} packs still wait for their line");
        if began.elapsed().as_secs_f64() - last > 30.0 {
            last = began.elapsed().as_secs_f64();
            eprintln!("{due} packs wait for their line");
        }
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    eprintln!("{packs} lines made in {:.0} s", began.elapsed().as_secs_f64());
    sql(&db, "ANALYZE TABLE pack_line, pack_owed, pack_word, pack_person, register_item").await?;
    Ok((site, db))
}

/// A scenario with so many gauges on one line.
fn gauges(many: u8) -> Result<Value> {
    let mut scenario: Value = serde_json::from_str(include_str!("../../../../docs/formats/examples/pump-house.rig.json"))?;
    let gauge = scenario["instruments"][0].clone();
    let all = (0..many).map(|i| {
        let mut g = gauge.clone();
        (g["tag"], g["unit"]) = (json!(format!("PT-{i}")), json!(10 + u16::from(i)));
        g
    });
    scenario["instruments"] = all.collect::<Vec<_>>().into();
    Ok(scenario)
}

/// The middle of the times of so many answers in a row, ms.
async fn median(person: &Person, paths: &[String]) -> Result<f64> {
    let mut times = Vec::new();
    for path in paths {
        let from = Instant::now();
        person.request(reqwest::Method::GET, path).send().await?.error_for_status()?.bytes().await?;
        times.push(1e3 * from.elapsed().as_secs_f64());
    }
    Ok(quantile(&mut times, 0.5))
}

fn pages() -> Vec<String> {
    let sorts = ["number", "title", "planned", "state", "moved"];
    (0..60).map(|i| format!("/packs?sort={}&down={}", sorts[i % 5], i % 2 == 0)).collect()
}

/// The median of a page of the list while nobody else asks, ms.
async fn quiet_page(size: Size) -> Result<f64> {
    let (site, _) = made(size).await?;
    let engineer = site.person("engineer").await?;
    median(&engineer, &pages()).await?;
    let took = median(&engineer, &pages()).await?;
    site.stop().await?;
    Ok(took)
}

/// Starts so many runs with a gauge each that the recorder reads once a second.
async fn runs(site: &Site, many: u8) -> Result<()> {
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    let port = site.installation.rig.as_ref().context("no rig")?.port;
    for i in 0..many {
        let tag = format!("PT-{i}");
        let mut body = fixtures::gauge(&tag, &fixtures::day(300));
        body["connection"] =
            json!({ "address": "127.0.0.1", "port": port, "unit": 10 + u16::from(i), "register": 0, "form": "f32", "scale": 1.0 });
        engineer.put(&format!("/instruments/{tag}"), &body).await?;
        let mut plan = fixtures::piping();
        plan["gauge_tag"] = json!(tag);
        let project = supervisor.project().await?;
        let pack = id();
        let new = json!({ "project": project, "number": format!("RE-{i:03}"), "title": "Recorded", "form": "pack", "plan": plan,
            "cells": fixtures::rows(&fixtures::DN150) });
        engineer.put(&format!("/packs/{pack}"), &new).await?;
        supervisor.put(&format!("/packs/{pack}/attempts/{}", id()), &json!({})).await?;
    }
    Ok(())
}

/// What is asked, by kind: a page of packs, the day board, a search, and the bare route.
fn question(kind: usize, n: usize) -> String {
    let words = ["cool wat", "fire", "TB-00", "boiler ring", "seawater 1", "instr"];
    match kind {
        0 => pages()[n % 60].clone() + ["", "&state=blocked", "&owes=GATE-PERMIT", "&state=ready"][n % 4],
        1 => "/today".to_owned(),
        2 => format!("/find?q={}", words[n % words.len()].replace(' ', "%20")),
        _ => "/bench/lines".to_owned(),
    }
}

async fn whole(size: Size, small: f64) -> Result<()> {
    let (site, db) = made(size).await?;
    let engineer = site.person("engineer").await?;
    median(&engineer, &pages()).await?;
    let quiet = median(&engineer, &pages()).await?;
    line(
        &format!("a page of *Packs* with {} packs, nobody else there: median", size.packs),
        &format!("{quiet:.1} ms"),
        &format!("with {}: {small:.1} ms", SMALL.packs),
        quiet / small,
        "2",
    );
    let some: Vec<String> = sqlx::query_scalar("SELECT id FROM pack ORDER BY id LIMIT 40").fetch_all(&db).await?;
    let of = |path: &str| some.iter().map(|p| format!("{path}/{p}")).collect::<Vec<_>>();
    median(&engineer, &of("/packs")).await?;
    let (opened, derived) = (median(&engineer, &of("/packs")).await?, median(&engineer, &of("/bench/derived")).await?);
    line("opening one pack: median of 40", &format!("{opened:.1} ms"), &format!("deriving it: {derived:.1} ms"), opened / derived, "2");

    runs(&site, size.runs).await?;
    let mut people = Vec::new();
    for i in 1..=PEOPLE {
        people.push(Person::sign_in(&site.installation.base(), &format!("person-{i}"), site.password("engineer")).await?);
    }
    tokio::time::sleep(Duration::from_secs(3)).await;
    let mut times = asked(&Arc::new(people), size.lasts).await?;
    let mut bare = std::mem::take(&mut times[3]);
    let reference = quantile(&mut bare, 0.5);
    let said = format!("a bare route: {reference:.1} ms");
    for (kind, what) in ["a page of *Packs*", "*Today*", "a search"].iter().enumerate() {
        let (p50, p95) = (quantile(&mut times[kind], 0.5), quantile(&mut times[kind], 0.95));
        line(
            &format!("{what}, {RATE:.0} requests a second of {PEOPLE} people, {} runs recorded: median", size.runs),
            &format!("{p50:.1} ms; 95 % within {p95:.0} ms of {}", times[kind].len()),
            &said,
            p50 / reference,
            "3",
        );
    }
    let ticks: i64 = sqlx::query_scalar("SELECT COUNT(*) FROM tick").fetch_one(&db).await?;
    anyhow::ensure!(size.runs == 0 || ticks > i64::from(size.runs) * 10, "{ticks} instants were recorded");
    let pid = site.installation.server_pid().context("no server")?;
    let status = std::fs::read_to_string(format!("/proc/{pid}/status"))?;
    let kb = status.lines().find_map(|l| l.strip_prefix("VmHWM:")?.trim().split(' ').next()?.parse::<f64>().ok()).context("VmHWM")?;
    line(&format!("most memory of the server, {ticks} instants recorded"), &format!("{:.0} MB", kb / 1e3), "300 MB", kb / 300e3, "1");
    site.stop().await
}

/// Asks at the rate whatever comes back, each kind in turn; the times from when each was due, ms, by kind.
async fn asked(people: &Arc<Vec<Person>>, lasts: Duration) -> Result<Vec<Vec<f64>>> {
    let began = tokio::time::Instant::now();
    let many = (RATE * lasts.as_secs_f64()) as usize;
    let mut all = tokio::task::JoinSet::new();
    for n in 0..many {
        let due = began + Duration::from_secs_f64(n as f64 / RATE);
        tokio::time::sleep_until(due).await;
        let people = Arc::clone(people);
        all.spawn(async move {
            let kind = n % 4;
            let person = &people[n * 7 % people.len()];
            let answer = person.request(reqwest::Method::GET, &question(kind, n / 4)).send().await?.error_for_status()?;
            answer.bytes().await?;
            anyhow::Ok((kind, 1e3 * due.elapsed().as_secs_f64()))
        });
    }
    let mut times = vec![Vec::new(); 4];
    while let Some(done) = all.join_next().await {
        let (kind, took) = done??;
        times[kind].push(took);
    }
    Ok(times)
}
