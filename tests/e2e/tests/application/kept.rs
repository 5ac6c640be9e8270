//! What is acknowledged is kept, once; what is signed or logged is never changed.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures::{self, at};
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use sqlx::mysql::{MySqlConnectOptions, MySqlPoolOptions, MySqlSslMode};
use sqlx::{AssertSqlSafe, MySqlPool};
use std::collections::BTreeMap;
use std::str::FromStr;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::Duration;

async fn connect(url: &str) -> Result<MySqlPool> {
    let options = MySqlConnectOptions::from_str(url)?.ssl_mode(MySqlSslMode::Disabled);
    Ok(MySqlPoolOptions::new().max_connections(1).connect_with(options).await?)
}

/// A pack whose first attempt is signed by all four.
async fn signed(site: &Site) -> Result<(String, String)> {
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    fixtures::tight_hold(&supervisor, &attempt, start).await?;
    let reader = site.person("reader").await?;
    let file = format!("time;p [bar]\n{};26,00\n", &at(start + time::Duration::minutes(50))[..19]);
    let mapping = json!({ "time_column": "time", "time_form": { "kind": "year_first" }, "zone": "UTC", "pressure_column": "p [bar]", "pressure_unit": "bar", "decimal_comma": true });
    let answer = reader
        .request(Method::PUT, &format!("/attempts/{attempt}/recordings/{}", id()))
        .query(&[("file_name", "a.csv"), ("mapping", &mapping.to_string())])
        .body(file)
        .send()
        .await?
        .text()
        .await?;
    anyhow::ensure!(answer.contains("stored"), "{answer}");
    for (act, name) in [("performed", "supervisor"), ("inspected", "inspector"), ("witnessed", "witness"), ("accepted", "owner")] {
        let person = site.person(name).await?;
        let body = json!({ "act": act, "password": site.password(name) });
        person.put(&format!("/attempts/{attempt}/signatures/{}", id()), &body).await.with_context(|| act.to_owned())?;
    }
    Ok((pack, attempt))
}

#[tokio::test]
async fn the_database_itself_refuses_to_change_what_is_signed_or_logged() -> Result<()> {
    let site = Site::start().await?;
    let (_, attempt) = signed(&site).await?;
    let owner = connect(&site.installation.database.owner_url()).await?;
    let server = connect(&site.installation.database.server_url()).await?;
    for table in ["attempt", "content", "signature", "reading", "recording", "event"] {
        let id_column = if table == "content" { "attempt_id" } else { "id" };
        let there: i64 = sqlx::query_scalar(AssertSqlSafe(format!("SELECT COUNT(*) FROM {table}"))).fetch_one(&owner).await?;
        assert!(there > 0, "{table} is empty, so this test would show nothing");
        for statement in [format!("UPDATE {table} SET {id_column} = {id_column}"), format!("DELETE FROM {table}")] {
            let by_owner = sqlx::raw_sql(AssertSqlSafe(statement.clone())).execute(&owner).await.expect_err(&statement).to_string();
            assert!(by_owner.contains("never"), "{statement}: {by_owner}");
            let by_server = sqlx::raw_sql(AssertSqlSafe(statement.clone())).execute(&server).await.expect_err(&statement).to_string();
            assert!(by_server.contains("denied"), "{statement}: {by_server}");
        }
        let truncate = format!("TRUNCATE {table}");
        assert!(sqlx::raw_sql(AssertSqlSafe(truncate)).execute(&server).await.is_err());
        let after: i64 = sqlx::query_scalar(AssertSqlSafe(format!("SELECT COUNT(*) FROM {table}"))).fetch_one(&owner).await?;
        assert_eq!(there, after, "{table}");
    }
    for (statement, says) in [
        (
            format!(
                "INSERT INTO reading (id, attempt_id, at, channel, value, as_typed, person) VALUES ('{}', '{attempt}', NOW(6), 'pressure', 1, '1', 'reader')",
                id()
            ),
            "no reading is added",
        ),
        (
            format!(
                "INSERT INTO event (id, attempt_id, kind, at, note, person) VALUES ('{}', '{attempt}', 'look_done', NOW(6), '', 'reader')",
                id()
            ),
            "no event is added",
        ),
    ] {
        let refused = sqlx::raw_sql(AssertSqlSafe(statement)).execute(&owner).await.expect_err(says).to_string();
        assert!(refused.contains(says), "{refused}");
    }
    // the same through the API is a sentence
    let reader = site.person("reader").await?;
    let body = json!({ "readings": [{ "id": id(), "at": at(time::OffsetDateTime::now_utc()), "channel": "pressure", "text": "26", "unit": "bar" }] });
    let answer = reader.request(Method::PUT, &format!("/attempts/{attempt}/readings")).json(&body).send().await?;
    assert_eq!(answer.status(), StatusCode::CONFLICT);
    let problem: Value = answer.json().await?;
    assert!(problem["detail"].as_str().unwrap_or("").contains("signed"), "{problem}");
    site.stop().await
}

#[tokio::test]
async fn a_signed_record_is_superseded_with_a_reason_and_never_edited() -> Result<()> {
    let site = Site::start().await?;
    let (pack, attempt) = signed(&site).await?;
    let supervisor = site.person("supervisor").await?;
    let again = id();
    let bare = supervisor.request(Method::PUT, &format!("/packs/{pack}/attempts/{again}")).json(&json!({})).send().await?;
    assert_eq!(bare.status(), StatusCode::UNPROCESSABLE_ENTITY);
    let problem: Value = bare.json().await?;
    assert_eq!(problem["field"], "supersedes_reason");
    // the blinds must be in again, since they were put back: here there are none
    let start = time::OffsetDateTime::now_utc() - time::Duration::minutes(90);
    let reason = json!({ "supersedes_reason": "gauge was found 1 % low", "released_at": at(start) });
    let view = supervisor.put(&format!("/packs/{pack}/attempts/{again}"), &reason).await?;
    let attempts = view["attempts"].as_array().context("attempts")?;
    assert_eq!(attempts.len(), 2);
    assert_eq!(attempts[0]["id"], json!(attempt));
    assert_eq!(attempts[0]["signatures"].as_array().map(Vec::len), Some(4));
    assert_eq!(attempts[1]["supersedes_reason"], json!("gauge was found 1 % low"));
    // the old record is still there, byte for byte, and still verifies
    let file = supervisor.request(Method::GET, &format!("/attempts/{attempt}/sealed")).send().await?.bytes().await?;
    let folder = tempfile::tempdir()?;
    std::fs::write(folder.path().join("old.json"), &file)?;
    let status = std::process::Command::new(e2e::site::binary()?).arg("verify").arg(folder.path().join("old.json")).status()?;
    assert_eq!(status.code(), Some(3), "whole; without the key nobody says whose");
    // whoever checks the old one where it was sealed is told that it was superseded, once the new one is signed
    fixtures::tight_hold(&supervisor, &again, start).await?;
    let body = json!({ "act": "performed", "password": site.password("supervisor") });
    supervisor.put(&format!("/attempts/{again}/signatures/{}", id()), &body).await?;
    let checked: Value =
        reqwest::Client::new().post(format!("{}/api/v1/verify", site.installation.base())).body(file.to_vec()).send().await?.json().await?;
    assert!(checked["superseded"].as_str().is_some_and(|s| s.contains("attempt 2 of AA-001")), "{checked}");
    site.stop().await
}

#[tokio::test]
async fn the_same_request_twice_stores_once() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let (pack, attempt) = (id(), id());
    let body =
        json!({ "number": "AA-001", "title": "t", "form": "pack", "plan": fixtures::piping(), "cells": fixtures::rows(&fixtures::DN150) });
    let now = at(time::OffsetDateTime::now_utc());
    for _ in 0..2 {
        engineer.put(&format!("/packs/{pack}"), &body).await?;
        supervisor.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({})).await?;
    }
    let event = id();
    let reading = json!({ "readings": [{ "id": id(), "at": now, "channel": "pressure", "text": "376 psi", "unit": "bar" }] });
    let filled = json!({ "kind": "noted", "at": now, "note": "wind rises" });
    for _ in 0..3 {
        supervisor.put(&format!("/attempts/{attempt}/readings"), &reading).await?;
        supervisor.put(&format!("/attempts/{attempt}/events/{event}"), &filled).await?;
    }
    let readings = engineer.get(&format!("/attempts/{attempt}/readings")).await?;
    assert_eq!(readings.as_array().map(Vec::len), Some(1));
    // 376 psi by the exact definition of the pound and the inch, 6894.757 293 168 361 Pa each
    let value = readings[0]["value"].as_f64().context("value")?;
    assert!((value - 376.0 * 6_894.757_293_168_361).abs() < 1e-3, "{value}");
    assert_eq!(readings[0]["as_typed"], "376 psi");
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    assert_eq!(view["attempts"].as_array().map(Vec::len), Some(1));
    assert_eq!(view["attempts"][0]["events"].as_array().map(Vec::len), Some(1));
    // another event under that id is refused: an event is never changed
    let other = json!({ "kind": "pump_off", "at": now, "note": "" });
    let status = supervisor.request(Method::PUT, &format!("/attempts/{attempt}/events/{event}")).json(&other).send().await?.status();
    assert_eq!(status, StatusCode::CONFLICT);
    site.stop().await
}

/// Sends readings one after another until told to stop; what the server acknowledged is noted.
async fn keep_sending(
    person: Person,
    path: String,
    stop: Arc<AtomicBool>,
    acknowledged: Arc<Mutex<BTreeMap<String, String>>>,
    client: usize,
) {
    let mut n = 0;
    while !stop.load(Ordering::Relaxed) {
        let (reading, text) = (id(), format!("{}.{n:06}", client + 1));
        let now = at(time::OffsetDateTime::now_utc());
        let body = json!({ "readings": [{ "id": reading, "at": now, "channel": "pressure", "text": text, "unit": "bar" }] });
        if person.put(&path, &body).await.is_ok() {
            if let Ok(mut all) = acknowledged.lock() {
                all.insert(reading, text);
            }
            n += 1;
        } else {
            tokio::task::yield_now().await;
        }
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn readings_survive_a_server_killed_ten_times() -> Result<()> {
    let mut site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, _) = fixtures::release(&supervisor, &pack).await?;
    let path = format!("/attempts/{attempt}/readings");
    let acknowledged = Arc::new(Mutex::new(BTreeMap::new()));
    let stop = Arc::new(AtomicBool::new(false));
    let mut clients = Vec::new();
    for client in 0..3 {
        let reader = site.person("reader").await?;
        clients.push(tokio::spawn(keep_sending(reader, path.clone(), stop.clone(), acknowledged.clone(), client)));
    }
    let count = || acknowledged.lock().map_or(0, |a| a.len());
    let mut before = Vec::new();
    for _ in 0..10 {
        // some readings first, then a moment that nobody chose
        let from = count();
        let deadline = std::time::Instant::now() + Duration::from_secs(60);
        while count() < from + 5 {
            anyhow::ensure!(std::time::Instant::now() < deadline, "no reading is acknowledged any more");
            tokio::task::yield_now().await;
        }
        let moment = std::time::Instant::now() + Duration::from_micros(u64::from(uuid::Uuid::new_v4().as_bytes()[0]) * 700);
        while std::time::Instant::now() < moment {
            tokio::task::yield_now().await;
        }
        site.installation.kill_server().await?;
        before.push(count());
        site.installation.start_server().await?;
    }
    stop.store(true, Ordering::Relaxed);
    for client in clients {
        client.await?;
    }
    let stored = engineer.get(&path).await?;
    let mut seen: BTreeMap<String, (usize, String)> = BTreeMap::new();
    for r in stored.as_array().context("readings")? {
        let entry = seen.entry(r["id"].as_str().unwrap_or_default().to_owned()).or_default();
        entry.0 += 1;
        entry.1 = r["as_typed"].as_str().unwrap_or_default().to_owned();
    }
    let acknowledged = acknowledged.lock().map_err(|_| anyhow::anyhow!("a client panicked"))?.clone();
    assert!(before.windows(2).all(|w| w[1] > w[0]), "readings went on between the kills: {before:?}");
    assert!(acknowledged.len() > 50, "only {} readings were acknowledged", acknowledged.len());
    for (reading, text) in &acknowledged {
        assert_eq!(seen.get(reading), Some(&(1, text.clone())), "an acknowledged reading is missing, doubled or changed");
    }
    site.stop().await
}

#[tokio::test]
async fn nothing_is_added_while_a_signature_freezes_what_is_there() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    fixtures::tight_hold(&supervisor, &attempt, start).await?;
    let path = format!("/attempts/{attempt}/readings");
    let stop = Arc::new(AtomicBool::new(false));
    let acknowledged = Arc::new(Mutex::new(BTreeMap::new()));
    let before = engineer.get(&path).await?.as_array().map_or(0, Vec::len);
    let client = tokio::spawn(keep_sending(site.person("reader").await?, path.clone(), stop.clone(), acknowledged.clone(), 0));
    let body = json!({ "act": "performed", "password": site.password("supervisor") });
    supervisor.put(&format!("/attempts/{attempt}/signatures/{}", id()), &body).await?;
    stop.store(true, Ordering::Relaxed);
    client.await?;
    let stored = engineer.get(&path).await?.as_array().map_or(0, Vec::len);
    assert!(stored > before, "no reading came in while it was signed, so this test would show nothing");
    let sealed: Value = supervisor.get(&format!("/attempts/{attempt}/sealed")).await?;
    let frozen = sealed["parts"]["sources"]["typed"].as_array().context("typed readings of the sealed file")?.len();
    assert_eq!(stored, frozen, "a reading was stored that the signed record does not hold");
    site.stop().await
}

/// A content that somebody put beside the program into the database, rightly hashed, is neither signed nor handed out: it is not what the rows say.
#[tokio::test]
async fn a_content_that_was_planted_is_neither_signed_nor_handed_out() -> Result<()> {
    let site = Site::start().await?;
    let (_, genuine) = signed(&site).await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    let pack = fixtures::pack(&engineer, "AA-002", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    fixtures::tight_hold(&supervisor, &attempt, start).await?;
    let server = sqlx::MySqlPool::connect(&site.installation.database.server_url()).await?;
    sqlx::query("INSERT INTO content (attempt_id, sha256, parts) SELECT ?, sha256, parts FROM content WHERE attempt_id = ?")
        .bind(&attempt)
        .bind(&genuine)
        .execute(&server)
        .await?;
    for what in ["sealed", "report"] {
        let answer = supervisor.request(Method::GET, &format!("/attempts/{attempt}/{what}")).send().await?;
        assert_eq!(answer.status(), StatusCode::CONFLICT, "{what}");
        assert!(answer.text().await?.contains("nobody signed it"), "{what}");
    }
    let body = json!({ "act": "performed", "password": site.password("supervisor") });
    let answer = supervisor.request(Method::PUT, &format!("/attempts/{attempt}/signatures/{}", id())).json(&body).send().await?;
    let (status, said) = (answer.status(), answer.text().await?);
    assert!(status == StatusCode::CONFLICT && said.contains("is not what its rows say"), "{status} {said}");
    // the genuine one is still handed out
    assert_eq!(supervisor.request(Method::GET, &format!("/attempts/{genuine}/sealed")).send().await?.status(), StatusCode::OK);
    site.stop().await
}
