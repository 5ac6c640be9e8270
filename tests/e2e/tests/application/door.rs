//! The door and what stands behind it: a database that is away, tables of another version, more than can be answered, a proxy in front, the security
//! log, and rows that nobody can read.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures;
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::process::Stdio;
use std::time::{Duration, Instant};
use tokio::io::{AsyncBufReadExt, BufReader, Lines};
use tokio::process::{Child, ChildStdout, Command};

/// What an answer may take in this build, where a second is meant.
const SECOND: Duration = Duration::from_secs(if cfg!(debug_assertions) { 4 } else { 1 });

/// One more server on a site's database, with options of its own.
struct Beside {
    child: Child,
    lines: Lines<BufReader<ChildStdout>>,
    base: String,
}

impl Beside {
    async fn spawn(site: &Site, options: &[&str]) -> Result<Self> {
        let port = host::ports::free()?;
        let mut child = Command::new(site.installation.binary())
            .args(["serve", "--port", &port.to_string(), "--key-file", &site.installation.folder.key_file().display().to_string()])
            .args(options)
            .env("ZERO_LEAK_DATABASE_URL", site.installation.database.server_url())
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .kill_on_drop(true)
            .spawn()?;
        let lines = BufReader::new(child.stdout.take().context("no output")?).lines();
        Ok(Self { child, lines, base: format!("http://127.0.0.1:{port}") })
    }

    /// The first line that begins so; what the program said instead when it ended before.
    async fn line(&mut self, begin: &str) -> Result<String> {
        let until = tokio::time::Instant::now() + Duration::from_secs(30);
        loop {
            match tokio::time::timeout_at(until, self.lines.next_line()).await.with_context(|| format!("no line {begin:?}"))?? {
                Some(line) if line.starts_with(begin) => return Ok(line),
                Some(_) => {}
                None => anyhow::bail!("it ended"),
            }
        }
    }

    /// Its last words and its exit code.
    async fn ended(self) -> Result<(i32, String)> {
        let out = tokio::time::timeout(Duration::from_secs(30), self.child.wait_with_output()).await??;
        Ok((out.status.code().unwrap_or(-1), String::from_utf8_lossy(&out.stderr).into_owned()))
    }

    async fn kill(mut self) -> Result<()> {
        self.child.kill().await?;
        Ok(())
    }
}

async fn owner(site: &Site) -> Result<sqlx::MySqlPool> {
    Ok(sqlx::MySqlPool::connect(&site.installation.database.owner_url()).await?)
}

async fn sql(db: &sqlx::MySqlPool, statement: &str) -> Result<u64, sqlx::Error> {
    Ok(sqlx::query(sqlx::AssertSqlSafe(statement.to_owned())).execute(db).await?.rows_affected())
}

/// A database that goes away is said within a second, in a sentence and with a time to try again; nothing has to be done when it is back. A server
/// that begins without it serves its page, says what it waits for, and goes on by itself.
#[tokio::test]
async fn a_database_that_is_away_is_said_at_once_and_waited_for() -> Result<()> {
    let mut site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    engineer.get("/packs").await?;
    site.installation.kill_database().await?;
    for (method, path) in [(Method::GET, "/packs"), (Method::GET, "/session"), (Method::GET, "/today"), (Method::GET, "/instruments")] {
        let asked = Instant::now();
        let answer = engineer.request(method, path).json(&json!({ "schools": {} })).send().await?;
        assert_eq!(answer.status(), StatusCode::SERVICE_UNAVAILABLE, "{path}");
        assert!(answer.headers().contains_key("retry-after"), "{path}");
        assert!(asked.elapsed() < SECOND, "{path} took {:?}", asked.elapsed());
        let told: Value = answer.json().await?;
        assert!(told["detail"].as_str().is_some_and(|d| d.contains("database does not answer")), "{told}");
    }
    // one that begins now
    let mut late = Beside::spawn(&site, &[]).await?;
    let waits = late.line("Waiting for the database at 127.0.0.1:").await?;
    assert!(waits.contains("goes on by itself"), "{waits}");
    let http = reqwest::Client::new();
    let page = http.get(&late.base).send().await?;
    assert!(page.status().is_success() && page.text().await?.contains("<div id=\"root\">"));
    let answer = http.get(format!("{}/api/v1/session", late.base)).send().await?;
    assert_eq!(answer.status(), StatusCode::SERVICE_UNAVAILABLE);
    // a person who comes now is not asked to sign in
    let browser = e2e::browser::Browser::start(&late.base).await?;
    browser.open("/").await?;
    browser.see("This page waits for the server.").await?;
    site.installation.start_database().await?;
    late.line("Serving on ").await?;
    assert_eq!(http.get(format!("{}/api/v1/session", late.base)).send().await?.status(), StatusCode::UNAUTHORIZED);
    browser.see("Sign in").await?;
    browser.end().await?;
    let back = Instant::now();
    while engineer.get("/packs").await.is_err() {
        anyhow::ensure!(back.elapsed() < Duration::from_secs(10), "it does not recover");
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    late.kill().await?;
    site.stop().await
}

/// Tables of an earlier or a later version are refused at the start, in words.
#[tokio::test]
async fn tables_of_another_version_are_refused_at_the_start() -> Result<()> {
    let site = Site::start().await?;
    let db = owner(&site).await?;
    sql(&db, "INSERT INTO _sqlx_migrations (version, description, success, checksum, execution_time) VALUES (9999, 'later', 1, '', 0)")
        .await?;
    let (code, said) = Beside::spawn(&site, &[]).await?.ended().await?;
    assert!(code == 2 && said.contains("a later version than this program") && said.contains("9999"), "{code}: {said}");
    sql(&db, "DELETE FROM _sqlx_migrations WHERE version IN (9999, 9)").await?;
    let (code, said) = Beside::spawn(&site, &[]).await?.ended().await?;
    assert!(code == 2 && said.contains("an earlier version (1 changes behind)") && said.contains("zero-leak migrate"), "{code}: {said}");
    site.stop().await
}

/// More is asked than can be answered: the surplus is turned away within a second or two, while a run is recorded, followed and booked.
#[tokio::test]
async fn recording_and_booking_go_on_while_more_is_asked_than_can_be_answered() -> Result<()> {
    let site = Site::with_rig(None).await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::rig_instruments(&engineer, site.installation.rig.as_ref().context("no rig")?.port).await?;
    for n in 0..12 {
        fixtures::pack(&engineer, &format!("AA-{n:03}"), &fixtures::piping()).await?;
    }
    let pack = fixtures::rig_pack(&engineer, "CW-007", "both").await?;
    let attempt = id();
    supervisor.put(&format!("/packs/{pack}/attempts/{attempt}"), &json!({})).await?;
    tokio::time::sleep(Duration::from_secs(3)).await;

    let flood: Vec<_> = (0..300)
        .map(|i| {
            let request = engineer.request(Method::GET, if i % 2 == 0 { "/packs" } else { "/today" });
            tokio::spawn(async move {
                let asked = Instant::now();
                let answer = request.send().await?;
                let (status, told) = (answer.status(), answer.headers().contains_key("retry-after"));
                answer.bytes().await?;
                anyhow::Ok((status, told, asked.elapsed()))
            })
        })
        .collect();
    // meanwhile: booked, and read in by hand
    let mut slowest = Duration::ZERO;
    for _ in 0..6 {
        let asked = Instant::now();
        let note = json!({ "kind": "noted", "at": fixtures::at(time::OffsetDateTime::now_utc()), "note": "wind from the north" });
        supervisor.put(&format!("/attempts/{attempt}/events/{}", id()), &note).await.context("a booking during the flood")?;
        slowest = slowest.max(asked.elapsed());
        tokio::time::sleep(Duration::from_millis(300)).await;
    }
    let mut answered = 0;
    let mut refused = Vec::new();
    for one in flood {
        let (status, told, took) = one.await??;
        match status {
            StatusCode::OK => answered += 1,
            StatusCode::SERVICE_UNAVAILABLE if told => refused.push(took),
            other => anyhow::bail!("{other} in the flood"),
        }
    }
    refused.sort();
    let worst = refused.last().copied().unwrap_or_default();
    eprintln!("{answered} of 300 answered, {} turned away within {worst:?}; slowest booking {slowest:?}", refused.len());
    assert!(answered > 0 && !refused.is_empty());
    assert!(worst < 3 * SECOND, "turned away after {worst:?}");
    assert!(slowest < SECOND, "a booking took {slowest:?}");
    let db = owner(&site).await?;
    let times: Vec<i64> =
        sqlx::query_scalar("SELECT run_us FROM tick WHERE attempt_id = ? ORDER BY seq").bind(&attempt).fetch_all(&db).await?;
    let gap = times.windows(2).map(|w| w[1] - w[0]).max().unwrap_or(i64::MAX);
    assert!(times.len() > 3 && gap < 2_500_000, "{} instants, the longest gap {gap} µs", times.len());
    site.stop().await
}

/// With a proxy in front: cookies for TLS alone, the public origin counts, the address is the one that the proxy names.
#[tokio::test]
async fn behind_a_proxy_the_public_address_counts() -> Result<()> {
    let site = Site::start().await?;
    let mut behind =
        Beside::spawn(&site, &["--public-url", "https://tests.example", "--trusted-proxy", "127.0.0.1", "--sign-in-burst", "2"]).await?;
    behind.line("Serving on ").await?;
    let http = reqwest::Client::new();
    let sign_in = async |origin: &str, from: &str| {
        let body = json!({ "sign_in": "engineer", "password": site.password("engineer") });
        let request = http.post(format!("{}/api/v1/session", behind.base)).header("origin", origin).header("x-forwarded-for", from);
        anyhow::Ok(request.json(&body).send().await?)
    };
    let answer = sign_in("https://tests.example", "203.0.113.7").await?;
    assert_eq!(answer.status(), StatusCode::OK);
    let said = |name: &str| answer.headers().get(name).and_then(|v| v.to_str().ok()).unwrap_or_default().to_owned();
    let cookie = said("set-cookie");
    for part in ["__Host-zero_leak=", "Secure", "HttpOnly", "SameSite=Strict", "Path=/"] {
        assert!(cookie.contains(part), "{cookie}");
    }
    assert!(!cookie.contains("Domain"), "{cookie}");
    assert!(said("strict-transport-security").contains("max-age="));
    assert_eq!((said("cross-origin-opener-policy").as_str(), said("x-content-type-options").as_str()), ("same-origin", "nosniff"));
    assert!(said("permissions-policy").contains("camera=()"));
    for foreign in ["http://tests.example", "https://elsewhere.example", "null"] {
        assert_eq!(sign_in(foreign, "203.0.113.7").await?.status(), StatusCode::FORBIDDEN, "{foreign}");
    }
    // one address is slowed down, another behind the same proxy is not
    let mut last = StatusCode::OK;
    for n in 0..4 {
        let body = json!({ "sign_in": format!("nobody-{n}"), "password": "guess" });
        let request = http.post(format!("{}/api/v1/session", behind.base)).header("origin", "https://tests.example");
        last = request.header("x-forwarded-for", "203.0.113.7").json(&body).send().await?.status();
    }
    assert_eq!(last, StatusCode::TOO_MANY_REQUESTS);
    assert_eq!(sign_in("https://tests.example", "203.0.113.8").await?.status(), StatusCode::OK);
    let log = site.person("administrator").await?.get("/security").await?;
    assert!(log["entries"].as_array().into_iter().flatten().any(|e| e["address"] == "203.0.113.8" && e["what"] == "signed_in"), "{log}");
    behind.kill().await?;
    for wrong in ["http://tests.example", "tests.example"] {
        let (code, said) = Beside::spawn(&site, &["--public-url", wrong]).await?.ended().await?;
        assert!(code == 2 && said.contains("--public-url"), "{code}: {said}");
    }
    site.stop().await
}

/// An account is ended and keeps its history; its sessions and streams end at once. What happens is noted, cannot be rewritten, and is taken out whole.
#[tokio::test]
async fn an_account_ends_and_the_security_log_tells_it() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor, admin) =
        (site.person("engineer").await?, site.person("supervisor").await?, site.person("administrator").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    fixtures::event(&supervisor, &attempt, start, 5, "filled").await?;
    assert!(Person::sign_in(&site.installation.base(), "reader", "guessed").await.is_err());
    assert_eq!(
        site.person("reader")
            .await?
            .request(Method::PUT, &format!("/projects/{}/specification", engineer.project().await?))
            .json(&json!({}))
            .send()
            .await?
            .status(),
        StatusCode::FORBIDDEN
    );
    let mut stream = supervisor.request(Method::GET, &format!("/attempts/{attempt}/live")).send().await?;
    stream.chunk().await?;

    let url = site.installation.database.owner_url();
    let run = async |args: &[&str]| {
        let out = Command::new(site.installation.binary()).args(args).env("ZERO_LEAK_OWNER_URL", &url).output().await?;
        anyhow::Ok((
            out.status.code().unwrap_or(-1),
            String::from_utf8_lossy(&out.stdout).into_owned() + String::from_utf8_lossy(&out.stderr).as_ref(),
        ))
    };
    let (code, said) = run(&["end-person", "supervisor"]).await?;
    assert!(code == 0 && said.contains("stays under their name"), "{said}");
    assert_eq!(run(&["end-person", "nobody"]).await?.0, 2);
    assert!(site.person("supervisor").await.is_err());
    assert_eq!(supervisor.request(Method::GET, "/packs").send().await?.status(), StatusCode::UNAUTHORIZED);
    let ends = Instant::now();
    while let Some(_more) = tokio::time::timeout(Duration::from_secs(10), stream.chunk()).await.context("the stream goes on")?? {
        anyhow::ensure!(ends.elapsed() < Duration::from_secs(10), "the stream goes on");
    }
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    assert!(view.to_string().contains("\"supervisor\""), "what they did stays under their name");

    // where a session of before accounts stood beside it says whose it is: the migration takes it from there
    let db = owner(&site).await?;
    let told: Vec<(Option<String>, Option<String>)> =
        sqlx::query_as("SELECT person, JSON_VALUE(record, '$.data.who.sign_in') FROM session").fetch_all(&db).await?;
    assert!(told.len() > 2 && told.iter().all(|(person, record)| person.is_some() && person == record), "{told:?}");

    // nothing is stored in the name of somebody who is not signed in, whoever writes it
    let server = sqlx::MySqlPool::connect(&site.installation.database.server_url()).await?;
    let reading = |who: &str| {
        format!(
            "INSERT INTO reading (id, attempt_id, at, channel, value, as_typed, person) VALUES (UUID(), '{attempt}', NOW(6), 'pressure', 0, '0 bar', '{who}')"
        )
    };
    for who in ["supervisor", "witness", "administrator"] {
        let refused = sql(&server, &reading(who)).await.expect_err(who).to_string();
        assert!(refused.contains("in the name of somebody who is not signed in"), "{who}: {refused}");
    }
    assert_eq!(sql(&server, &reading("reader")).await?, 1, "somebody who is signed in");
    for forbidden in
        ["UPDATE security_log SET account = 'owner'", "DELETE FROM security_log", "DELETE FROM person", "UPDATE person SET ended_at = NULL"]
    {
        assert!(sql(&server, forbidden).await.is_err(), "{forbidden}");
    }

    // a new role counts at once, and is told
    site.installation.person("reader", "inspector", site.password("reader")).await?;
    let page = admin.get("/security").await?;
    assert_eq!((&page["whole"], &page["more"]), (&json!(true), &json!(false)), "{}", page["sentence"]);
    let told: Vec<String> =
        page["entries"].as_array().into_iter().flatten().map(|e| format!("{} {} {}", e["account"], e["what"], e["detail"])).collect();
    for wanted in [
        "\"reader\" \"sign_in_refused\"",
        "\"reader\" \"refused\" \"PUT /api/v1/projects/",
        "\"supervisor\" \"account_ended\"",
        "\"reader\" \"role_changed\" \"from reader to inspector",
        "\"engineer\" \"instrument_changed\" \"PG-1, certificate",
        "\"administrator\" \"signed_in\"",
        "\"\" \"started\"",
    ] {
        assert!(told.iter().any(|t| t.contains(wanted)), "{wanted} is not among {told:#?}");
    }
    let file = site.installation.folder.path().join("log.jsonl");
    let text = admin.request(Method::GET, "/security/log").send().await?.text().await?;
    std::fs::write(&file, &text)?;
    let path = file.display().to_string();
    let (code, said) = run(&["check-log", &path]).await?;
    assert!(code == 0 && said.contains("follow one another"), "{code}: {said}");
    std::fs::write(&file, text.replace("account_ended", "account_made"))?;
    let (code, said) = run(&["check-log", &path]).await?;
    assert!(code == 1 && said.contains("not as it was written"), "{code}: {said}");
    // an altered row shows on the page: the owner of the database can do it, unseen never
    sql(&db, "DROP TRIGGER security_log_keeps").await?;
    sql(&db, "UPDATE security_log SET account = 'owner' WHERE what = 'sign_in_refused'").await?;
    assert_eq!(admin.get("/security").await?["whole"], json!(false));
    site.stop().await
}

/// An open screen keeps its person signed in.
#[tokio::test]
async fn who_watches_a_run_stays_signed_in() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, _) = fixtures::release(&supervisor, &pack).await?;
    let db = owner(&site).await?;
    sql(&db, "UPDATE session SET expires_at = CURRENT_TIMESTAMP + INTERVAL 60 SECOND").await?;
    let left = async |who: &str| -> Result<i64> {
        Ok(sqlx::query_scalar("SELECT TIMESTAMPDIFF(SECOND, CURRENT_TIMESTAMP, expires_at) FROM session WHERE person = ?")
            .bind(who)
            .fetch_one(&db)
            .await?)
    };
    let mut stream = supervisor.request(Method::GET, &format!("/attempts/{attempt}/live")).send().await?;
    let begun = Instant::now();
    while left("supervisor").await? < 3600 {
        anyhow::ensure!(begun.elapsed() < Duration::from_secs(20), "{} s are left", left("supervisor").await?);
        stream.chunk().await?;
    }
    assert!(left("engineer").await? <= 60, "whoever does nothing is not kept signed in");
    site.stop().await
}

/// A row that cannot be read is shown as that, and takes no list down.
#[tokio::test]
async fn one_row_that_cannot_be_read_takes_no_list_down() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    fixtures::pack(&engineer, "AA-002", &fixtures::piping()).await?;
    let db = owner(&site).await?;
    sql(&db, &format!("UPDATE pack SET plan = '{{\"rubbish\": 1}}' WHERE id = '{pack}'")).await?;
    sql(&db, "INSERT INTO instrument (tag, body) VALUES ('PG-X', '[]')").await?;
    let packs = engineer.packs().await?;
    let line = packs.iter().find(|p| p["number"] == "AA-001").context("the line is missing")?;
    assert_eq!(line["state"], "cannot be read");
    assert!(line["blockers"][0]["sentence"].as_str().is_some_and(|s| s.contains("restores it from the backup")), "{line}");
    assert_eq!(packs.len(), 2);
    assert_eq!(engineer.today().await?["blocked"], 1);
    let instruments = engineer.get("/instruments").await?;
    let bad = instruments.as_array().into_iter().flatten().find(|i| i["instrument"]["tag"] == "PG-X").context("PG-X is missing")?;
    assert!(bad["objection"].as_str().is_some_and(|o| o.contains("cannot be read")) && bad["may"] == json!(false), "{bad}");
    assert!(instruments.as_array().is_some_and(|all| all.len() > 1));
    site.stop().await
}

/// An instrument answers only where an administrator allowed it: no other machine is spoken to, whatever is typed.
#[tokio::test]
async fn instruments_answer_only_where_an_administrator_allowed_it() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    let mut body = fixtures::gauge("PG-9", &fixtures::day(200));
    let mut put = async |address: &str| -> Result<(StatusCode, String)> {
        body["connection"] = json!({ "address": address, "port": 502, "unit": 1, "register": 0, "form": "f32", "holding": false });
        let answer = engineer.request(Method::PUT, "/instruments/PG-9").json(&body).send().await?;
        Ok((answer.status(), answer.text().await?))
    };
    for address in ["169.254.169.254", "192.168.1.20", "10.0.0.1", "8.8.8.8", "::1", "localhost", ""] {
        let (status, said) = put(address).await?;
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && said.contains("--instruments"), "{address}: {status} {said}");
    }
    // the simulated ones of this machine are allowed
    let (status, said) = put("127.0.0.1").await?;
    assert!(status.is_success(), "{said}");
    site.stop().await
}

/// What the most memory of the process was since it was last asked, MB; asking begins anew.
fn most_memory(pid: u32) -> Result<f64> {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status"))?;
    let line = status.lines().find(|l| l.starts_with("VmHWM:")).context("no high water mark")?;
    let kb: f64 = line.split_whitespace().nth(1).context("no figure")?.parse()?;
    std::fs::write(format!("/proc/{pid}/clear_refs"), "5")?;
    Ok(kb / 1024.0)
}

/// Whatever anybody sends to be checked or previewed is answered in time, and within the memory of its kind: 512 MB to check a file, 100 MB and the
/// file itself for all else.
#[tokio::test]
async fn what_anybody_sends_costs_no_more_than_its_budget() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let pid = site.installation.server_pid().context("no server")?;
    let full = |begin: &str, piece: &str, mb: usize| format!("{begin}{}", piece.repeat(mb * 1024 * 1024 / piece.len() - begin.len() - 1));
    let report = std::fs::read(e2e::site::root().join("tests/old_files/4/report.four-signatures.pdf"))?;
    let sealed = std::fs::read_to_string(e2e::site::root().join("tests/old_files/4/sealed-record.four-signatures.json"))?;
    // a record that anybody could seal, with as many readings as fit
    let many = sealed.replacen("\"readings\":[", &format!("\"readings\":[{}", "[0,null,null],".repeat(300_000)), 1);
    let checks: Vec<(&str, Vec<u8>)> = vec![
        ("brackets", full("", "[", 31).into_bytes()),
        ("an endless list", full("{\"parts\":[", "0,", 31).into_bytes()),
        ("empty words", full("{\"cautions\":[", "\"\",", 31).into_bytes()),
        ("a PDF of nothing", full("%PDF-1.7\n", "1 0 obj<<>>endobj\n", 31).into_bytes()),
        ("a PDF of streams of objects", full("%PDF-1.7\n", "1 0 obj<</Type/Obj#53tm>>stream\nendstream endobj\n", 31).into_bytes()),
        ("a report with a tail", report.iter().copied().chain(std::iter::repeat_n(b' ', 30 << 20)).collect()),
        ("a record with many readings", many.into_bytes()),
    ];
    let http = reqwest::Client::new();
    for (what, body) in checks {
        let before = {
            most_memory(pid)?;
            most_memory(pid)?
        };
        let asked = Instant::now();
        let answer = http.post(format!("{}/api/v1/verify", site.installation.base())).body(body).send().await?;
        let (status, took, held) = (answer.status(), asked.elapsed(), most_memory(pid)? - before);
        eprintln!("check of {what}: {status} in {took:.2?}, {held:.0} MB");
        assert!(status.is_success(), "{what}: {status}");
        assert!(took < Duration::from_secs(30) && held < 512.0, "{what}: {took:?}, {held} MB");
    }
    let rows: Vec<(&str, String)> = vec![
        ("short rows", full("tag;kind\n", "A;pipe\n", 7)),
        ("separators", full("tag;kind\n", ";", 7)),
        ("quotes", full("tag;kind\n", "\"", 7)),
        ("columns", full("", "a;", 7)),
    ];
    for (what, body) in rows {
        let before = {
            most_memory(pid)?;
            most_memory(pid)?
        };
        let asked = Instant::now();
        let request =
            engineer.request(Method::POST, &format!("/packs/{pack}/parts/preview")).header("content-type", "application/octet-stream");
        let answer = request.body(body).send().await?;
        let (status, took, held) = (answer.status(), asked.elapsed(), most_memory(pid)? - before);
        eprintln!("preview of {what}: {status} in {took:.2?}, {held:.0} MB");
        assert!(status.is_success() || status.is_client_error(), "{what}: {status}");
        assert!(took < Duration::from_secs(20) && held < 108.0, "{what}: {took:?}, {held} MB");
    }
    site.stop().await
}
