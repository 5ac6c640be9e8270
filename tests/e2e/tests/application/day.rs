//! A test day through the API: what may be booked when, who may sign what, and what a verdict allows.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures::{self, at};
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

/// A site with a released test.
struct Day {
    site: Site,
    engineer: Person,
    supervisor: Person,
    pack: String,
    attempt: String,
    start: OffsetDateTime,
}

impl Day {
    async fn with_plan(plan: &Value) -> Result<Self> {
        let site = Site::start().await?;
        let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
        fixtures::instruments(&engineer).await?;
        let pack = fixtures::pack(&engineer, "AA-001", plan).await?;
        let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
        Ok(Self { site, engineer, supervisor, pack, attempt, start })
    }

    async fn start() -> Result<Self> {
        Self::with_plan(&fixtures::piping()).await
    }

    async fn view(&self) -> Result<Value> {
        let pack = self.engineer.get(&format!("/packs/{}", self.pack)).await?;
        pack["attempts"].as_array().and_then(|a| a.last().cloned()).context("no attempt")
    }

    /// Books an event and tells status and sentence.
    async fn book(&self, minute: i64, kind: &str, place: Option<&str>) -> Result<(StatusCode, String)> {
        if kind == "released" {
            fixtures::zero(&self.supervisor, &self.attempt, self.start + Duration::minutes(minute)).await?;
        }
        let body = json!({ "kind": kind, "at": at(self.start + Duration::minutes(minute)), "place": place, "note": "" });
        let path = format!("/attempts/{}/events/{}", self.attempt, id());
        sentence(self.supervisor.request(Method::PUT, &path).json(&body)).await
    }

    async fn sign(&self, act: &str, name: &str) -> Result<(StatusCode, String)> {
        let person = self.site.person(name).await?;
        let path = format!("/attempts/{}/signatures/{}", self.attempt, id());
        sentence(person.request(Method::PUT, &path).json(&json!({ "act": act, "password": self.site.password(name) }))).await
    }

    async fn read(&self, readings: &[(i64, &str, &str)]) -> Result<()> {
        let readings: Vec<Value> = readings
            .iter()
            .map(|(minute, channel, text)| {
                json!({ "id": id(), "at": at(self.start + Duration::minutes(*minute)), "channel": channel, "text": text, "unit": "bar" })
            })
            .collect();
        self.supervisor.put(&format!("/attempts/{}/readings", self.attempt), &json!({ "readings": readings })).await.map(|_| ())
    }
}

async fn sentence(request: reqwest::RequestBuilder) -> Result<(StatusCode, String)> {
    let answer = request.send().await?;
    let status = answer.status();
    let body: Value = answer.json().await.unwrap_or_default();
    Ok((status, body["detail"].as_str().unwrap_or_default().to_owned()))
}

#[tokio::test]
async fn pressure_is_released_and_vented_before_anything_is_drained() -> Result<()> {
    let day = Day::start().await?;
    for (kind, says) in [("vent_opened", "elease"), ("drained", "elease")] {
        let (status, said) = day.book(50, kind, None).await?;
        assert_eq!(status, StatusCode::CONFLICT, "{kind}");
        assert!(said.contains(says), "{said}");
    }
    assert_eq!(day.book(51, "released", None).await?.0, StatusCode::NO_CONTENT);
    let (status, said) = day.book(52, "drained", None).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(said.contains("vent"), "{said}");
    assert_eq!(day.book(53, "vent_opened", None).await?.0, StatusCode::NO_CONTENT);
    assert_eq!(day.book(54, "drained", None).await?.0, StatusCode::NO_CONTENT);
    day.site.stop().await
}

#[tokio::test]
async fn a_blind_stays_in_until_the_pressure_is_released() -> Result<()> {
    let day = Day::start().await?;
    let item = id();
    let blind = |set: bool, back: bool| json!({ "tag": "TB-1", "kind": "blind", "place": "north", "set_for_test": set, "put_back": back });
    let (status, said) = sentence(day.supervisor.keeping(&day.pack, "boundary", &item, &blind(false, true)).await?).await?;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{said}");
    day.supervisor.keep(&day.pack, "boundary", &item, &blind(true, false)).await?;
    let (status, said) = sentence(day.supervisor.keeping(&day.pack, "boundary", &item, &blind(true, true)).await?).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(said.contains("TB-1 stays where it is"), "{said}");
    assert!(day.engineer.today().await?["blinds"].to_string().contains("TB-1"), "it shows on the day board");
    day.book(50, "released", None).await?;
    day.supervisor.keep(&day.pack, "boundary", &item, &blind(true, true)).await?;
    assert!(!day.engineer.today().await?["blinds"].to_string().contains("TB-1"));
    day.site.stop().await
}

#[tokio::test]
async fn a_leak_needs_its_place_and_the_place_decides_the_verdict() -> Result<()> {
    let day = Day::start().await?;
    assert_eq!(day.book(45, "leak_seen", None).await?.0, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(day.book(45, "look_done", Some("weld")).await?.0, StatusCode::UNPROCESSABLE_ENTITY);
    fixtures::tight_hold(&day.supervisor, &day.attempt, day.start).await?;
    assert_eq!(day.view().await?["judgement"]["verdict"], "pass");
    day.book(50, "leak_seen", Some("test_fitting")).await?;
    assert_eq!(day.view().await?["judgement"]["verdict"], "pass", "a drip at a test fitting is noted, no more");
    day.book(52, "leak_seen", Some("weld")).await?;
    let judgement = day.view().await?["judgement"].clone();
    assert_eq!(judgement["verdict"], "fail");
    assert_eq!(judgement["found"]["finding"], "tight_to", "the finding is the statistics' alone");
    day.site.stop().await
}

#[tokio::test]
async fn a_repump_starts_the_clock_again_within_the_hold() -> Result<()> {
    let day = Day::start().await?;
    day.book(5, "filled", None).await?;
    day.book(40, "pump_off", None).await?;
    let minutes = 40..=75;
    let steady: Vec<(i64, &str, &str)> =
        minutes.flat_map(|m| [(m, "pressure", if m % 2 == 0 { "26.00" } else { "26.01" }), (m, "temperature", "15.00")]).collect();
    day.read(&steady).await?;
    day.book(55, "look_done", None).await?;
    let start = |view: &Value| view["hold_start_s"].as_f64().unwrap_or(f64::NAN) / 60.0;
    assert!((start(&day.view().await?) - 40.0).abs() < 0.01);
    assert_eq!(day.book(60, "repump", None).await?.0, StatusCode::NO_CONTENT);
    day.book(75, "hold_ended", None).await?;
    let view = day.view().await?;
    // one start for every rule: the hold began anew at the repump, and fifteen minutes are left of the half hour that the plan asks for
    assert!((start(&view) - 60.0).abs() < 0.01);
    let clock = view["judgement"]["verdicts"][0]["rules"].as_array().into_iter().flatten().find(|r| r["rule"] == "HOLD-TIME").cloned();
    assert!(clock.is_some_and(|r| r["result"] == "not_shown" && r["sentence"].as_str().is_some_and(|s| s.contains("go on for 15"))));
    assert_ne!(view["judgement"]["verdict"], "pass", "{}", view["judgement"]);
    // once the pressure is released nobody pumps
    day.book(76, "released", None).await?;
    assert_eq!(day.book(77, "repump", None).await?.0, StatusCode::CONFLICT);
    day.site.stop().await
}

#[tokio::test]
async fn signatures_come_in_order_from_those_named_and_only_a_pass_is_accepted() -> Result<()> {
    let day = Day::start().await?;
    let (status, said) = day.sign("performed", "supervisor").await?;
    assert_eq!(status, StatusCode::CONFLICT, "{said}");
    fixtures::tight_hold(&day.supervisor, &day.attempt, day.start).await?;
    day.book(50, "leak_seen", Some("weld")).await?;
    for (act, name) in [("inspected", "inspector"), ("accepted", "owner"), ("performed", "inspector")] {
        let (status, said) = day.sign(act, name).await?;
        assert_eq!(status, StatusCode::CONFLICT, "{act} by {name}: {said}");
    }
    assert_eq!(day.sign("performed", "supervisor").await?.0, StatusCode::OK);
    assert_eq!(day.sign("inspected", "inspector").await?.0, StatusCode::OK);
    assert_eq!(day.sign("witnessed", "witness").await?.0, StatusCode::OK);
    let (status, said) = day.sign("accepted", "owner").await?;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(said.contains("Only a test that meets what is asked of it"), "{said}");
    day.site.stop().await
}

#[tokio::test]
async fn a_rehearsal_is_judged_and_never_signed() -> Result<()> {
    let mut plan = fixtures::piping();
    plan["run"] = json!("rehearsal");
    let day = Day::with_plan(&plan).await?;
    fixtures::tight_hold(&day.supervisor, &day.attempt, day.start).await?;
    assert_eq!(day.view().await?["judgement"]["verdict"], "pass");
    let (status, said) = day.sign("performed", "supervisor").await?;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(said.contains("rehearsal"), "{said}");
    day.site.stop().await
}

#[tokio::test]
async fn without_temperatures_the_basis_may_be_met_and_nothing_is_said_of_a_leak() -> Result<()> {
    let day = Day::start().await?;
    day.book(5, "filled", None).await?;
    day.book(40, "pump_off", None).await?;
    let steady: Vec<(i64, &str, &str)> = (40..75).map(|m| (m, "pressure", "26.00")).collect();
    day.read(&steady).await?;
    day.book(55, "look_done", None).await?;
    day.book(75, "hold_ended", None).await?;
    let judgement = day.view().await?["judgement"].clone();
    let lines = &judgement["lines"];
    assert_eq!((&lines["by_basis"]["outcome"], &lines["leak"]["said"]), (&json!("meets"), &json!("cannot_tell")), "{lines}");
    assert!(judgement["sentence"].as_str().is_some_and(|s| s.contains("temperature")), "{}", judgement["sentence"]);
    // temperatures that come later, booked from paper, are judged with the rest
    let water: Vec<(i64, &str, &str)> = (40..75).map(|m| (m, "temperature", "15.00")).collect();
    day.read(&water).await?;
    assert_eq!(day.view().await?["judgement"]["found"]["finding"], "tight_to");
    day.site.stop().await
}

#[tokio::test]
async fn what_is_tested_is_frozen_while_it_is_tested() -> Result<()> {
    let day = Day::start().await?;
    let view = day.engineer.get(&format!("/packs/{}", day.pack)).await?;
    assert!(view["locked"].as_str().is_some_and(|s| s.contains("ttempt 1")), "{}", view["locked"]);
    let body = json!({ "title": "other", "plan": fixtures::piping() });
    let request = day.engineer.request(Method::PUT, &format!("/packs/{}/plan", day.pack)).header("if-match", "\"v1\"").json(&body);
    assert_eq!(sentence(request).await?.0, StatusCode::CONFLICT);
    // a certificate that changes meanwhile does not change the test
    let before = day.view().await?;
    let mut gauge = fixtures::gauge("PG-1", &fixtures::day(300));
    gauge["division_pa"] = json!(1e5);
    let request = day.engineer.request(Method::PUT, "/instruments/PG-1").header("if-match", "\"v1\"").json(&gauge);
    assert_eq!(request.send().await?.status(), StatusCode::NO_CONTENT);
    assert_eq!(day.view().await?["next_step"], before["next_step"]);
    // two cannot be under way at once
    let path = format!("/packs/{}/attempts/{}", day.pack, id());
    let (status, said) = sentence(day.supervisor.request(Method::PUT, &path).json(&json!({}))).await?;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(said.contains("under way"), "{said}");
    day.site.stop().await
}

#[tokio::test]
async fn every_figure_of_the_day_answers_why_with_a_source() -> Result<()> {
    let day = Day::start().await?;
    for figure in ["required", "lower", "upper", "planned", "look", "stop-line", "relief", "alarm", "gauge-range", "hold"] {
        let why = day.engineer.get(&format!("/packs/{}/why/{figure}", day.pack)).await.with_context(|| figure.to_owned())?;
        assert!(why["formula"].as_str().is_some_and(|f| !f.is_empty()), "{figure}: {why}");
        assert!(why["sentence"].as_str().is_some_and(|s| s.len() > 20), "{figure}: {why}");
        let standing = why["standing"].as_str().unwrap_or_default();
        assert!(["not_checked", "common_practice", "arithmetic"].contains(&standing), "{figure}: {standing}");
        assert_eq!(standing == "not_checked", !why["clause"].as_str().unwrap_or_default().is_empty(), "{figure} names a clause or none");
    }
    let unknown = day.engineer.request(Method::GET, &format!("/packs/{}/why/luck", day.pack)).send().await?;
    assert_eq!(unknown.status(), StatusCode::NOT_FOUND);
    day.site.stop().await
}

#[tokio::test]
async fn two_who_renew_a_certificate_do_not_overwrite_each_other() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, in_another_tab) = (site.person("engineer").await?, site.person("engineer").await?);
    fixtures::instruments(&engineer).await?;
    let put = async |person: &Person, version: Option<&str>, until: &str| -> Result<StatusCode> {
        let request = person.request(Method::PUT, "/instruments/PG-1").json(&fixtures::gauge("PG-1", until));
        Ok(match version {
            Some(v) => request.header("if-match", v),
            None => request,
        }
        .send()
        .await?
        .status())
    };
    assert_eq!(put(&engineer, None, &fixtures::day(500)).await?, StatusCode::UNPROCESSABLE_ENTITY, "added a second time");
    assert_eq!(put(&engineer, Some("\"v1\""), &fixtures::day(500)).await?, StatusCode::NO_CONTENT);
    assert_eq!(put(&in_another_tab, Some("\"v1\""), &fixtures::day(600)).await?, StatusCode::PRECONDITION_FAILED);
    assert_eq!(put(&in_another_tab, Some("\"v2\""), &fixtures::day(600)).await?, StatusCode::NO_CONTENT);
    for (field, value) in [
        ("full_scale_pa", json!(0.0)),
        ("division_pa", json!(-1.0)),
        ("division_pa", json!(3e6)),
        ("error_of_scale", json!(0.5)),
        ("valid_until", json!("2020-02-30")),
        ("certificate", json!(" ")),
    ] {
        let mut gauge = fixtures::gauge("PG-7", &fixtures::day(30));
        gauge[field] = value.clone();
        let answer = engineer.request(Method::PUT, "/instruments/PG-7").json(&gauge).send().await?;
        assert_eq!(answer.status(), StatusCode::UNPROCESSABLE_ENTITY, "{field} {value}");
        assert_eq!(answer.json::<Value>().await?["field"], field);
    }
    assert!(!engineer.get("/instruments").await?.to_string().contains("PG-7"));
    site.stop().await
}

/// 5.6 MPa on a gauge that ends at 40 bar is asked about; what was mistyped all the same is struck out with a reason by who typed it or a supervisor,
/// both stay, the judge leaves it out, the paper prints it, and once somebody has signed nothing more is struck out.
#[tokio::test]
async fn a_mistyped_reading_is_asked_about_and_struck_out_with_a_reason() -> Result<()> {
    let day = Day::start().await?;
    fixtures::tight_hold(&day.supervisor, &day.attempt, day.start).await?;
    let reader = day.site.person("reader").await?;
    let inspector = day.site.person("inspector").await?;
    let mistyped = id();
    let body = |sure: bool| {
        let when = at(day.start + Duration::minutes(60) + Duration::seconds(20));
        json!({ "readings": [{ "id": mistyped, "at": when, "channel": "pressure", "text": "5.6 MPa", "unit": "bar", "sure": sure }] })
    };
    let path = format!("/attempts/{}/readings", day.attempt);
    let answer = reader.request(Method::PUT, &path).json(&body(false)).send().await?;
    assert_eq!(answer.status(), StatusCode::UNPROCESSABLE_ENTITY);
    let problem: Value = answer.json().await?;
    assert_eq!((problem["type"].as_str(), problem["field"].as_str()), (Some("/problems/doubtful"), Some("readings[0].text")));
    assert!(
        problem["detail"].as_str().is_some_and(|d| d.contains("56.00\u{a0}bar, beyond the end of PG-1 at 40.00\u{a0}bar")),
        "{problem}"
    );
    reader.put(&path, &body(true)).await?;
    assert_eq!(day.view().await?["judgement"]["verdict"], "fail", "what stands there is judged");
    let strike = async |who: &Person, reason: &str| {
        sentence(who.request(Method::PUT, &format!("{path}/{mistyped}/strike")).json(&json!({ "reason": reason }))).await
    };
    assert_eq!(strike(&reader, " ").await?.0, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, said) = strike(&inspector, "looks wrong").await?;
    assert!(status == StatusCode::FORBIDDEN && said.contains("reader typed this reading"), "{status} {said}");
    assert_eq!(strike(&reader, "it was 2.6 MPa, read again").await?.0, StatusCode::NO_CONTENT);
    assert_eq!(strike(&reader, "it was 2.6 MPa, read again").await?.0, StatusCode::NO_CONTENT, "sent again it is the same");
    let (status, said) = strike(&day.supervisor, "another reason").await?;
    assert!(status == StatusCode::CONFLICT && said.contains("struck out already by reader"), "{status} {said}");
    let view = day.view().await?;
    assert_eq!(view["judgement"]["verdict"], "pass", "{}", view["judgement"]["sentence"]);
    let kept = day.engineer.get(&path).await?;
    let row = kept.as_array().into_iter().flatten().find(|r| r["id"] == *mistyped).cloned().context("it stays")?;
    assert_eq!((&row["as_typed"], &row["struck"]["by"]), (&json!("5.6 MPa"), &json!("reader")));
    // signed and sealed with it
    assert_eq!(day.sign("performed", "supervisor").await?.0, StatusCode::OK);
    let sealed = day.engineer.get(&format!("/attempts/{}/sealed", day.attempt)).await?;
    assert!(sealed["parts"]["sources"]["typed"].to_string().contains("it was 2.6 MPa, read again"));
    let other = kept[0]["id"].as_str().context("a reading")?.to_owned();
    let late = day.supervisor.request(Method::PUT, &format!("{path}/{other}/strike")).json(&json!({ "reason": "on second thoughts" }));
    assert_eq!(sentence(late).await?.0, StatusCode::CONFLICT);
    day.site.stop().await
}

/// Stored is stored: the same file with a corrected zone, another file under its id, an event or a correction under a used id with another content
/// are refused with what is there, never taken in silence.
#[tokio::test]
async fn what_is_stored_otherwise_is_never_told_to_be_stored() -> Result<()> {
    let day = Day::start().await?;
    fixtures::tight_hold(&day.supervisor, &day.attempt, day.start).await?;
    let file = |minute: i64| {
        let rows =
            (0..5).map(|i| format!("{};26.0{i}", at(day.start + Duration::minutes(minute + i)).replace('T', " ").trim_end_matches('Z')));
        std::iter::once("time;bar".to_owned()).chain(rows).collect::<Vec<_>>().join("\n")
    };
    let recording = id();
    let send = async |of: &str, zone: &str, file: String, look: bool| {
        let mapping = json!({ "time_column": "time", "time_form": { "kind": "year_first" }, "zone": zone, "pressure_column": "bar", "pressure_unit": "bar",
            "temperature_unit": "celsius", "decimal_comma": false });
        let request = day.supervisor.request(Method::PUT, &format!("/attempts/{}/recordings/{of}", day.attempt));
        let query = [("file_name", "l.csv".to_owned()), ("mapping", mapping.to_string()), ("look", look.to_string())];
        Ok::<_, anyhow::Error>(request.query(&query).body(file).send().await?.error_for_status()?.text().await?)
    };
    let looked = send(&recording, "UTC", file(45), true).await?;
    assert!(looked.contains("\"understood\"") && looked.contains("\"rows\":5") && looked.contains("\"zone\":\"UTC\""), "{looked}");
    assert!(send(&recording, "UTC", file(45), false).await?.contains("\"stored\""));
    assert!(send(&recording, "UTC", file(45), false).await?.contains("\"stored\""), "the same again is the same");
    for of in [recording.clone(), id()] {
        let corrected = send(&of, "Europe/Lisbon", file(45), false).await?;
        assert!(corrected.contains("refused") && corrected.contains("zone UTC") && corrected.contains("Europe/Lisbon"), "{corrected}");
    }
    let other = send(&recording, "UTC", file(46), false).await?;
    assert!(other.contains("refused") && other.contains("another file is stored already (l.csv"), "{other}");
    // an event under a used id: another note alone is another content
    let event = id();
    let note = |text: &str| json!({ "kind": "noted", "at": at(day.start + Duration::minutes(50)), "note": text });
    let path = format!("/attempts/{}/events/{event}", day.attempt);
    day.supervisor.put(&path, &note("wind rises")).await?;
    day.supervisor.put(&path, &note("wind rises")).await?;
    let (status, said) = sentence(day.supervisor.request(Method::PUT, &path).json(&note("wind drops"))).await?;
    assert!(status == StatusCode::CONFLICT && said.contains("stored already, with another content"), "{status} {said}");
    // and a correction
    let correction = |reason: &str| json!({ "what": "overrule", "kind": "stuck", "channel": null, "start_s": 0.0, "reason": reason });
    let path = format!("/attempts/{}/corrections/{}", day.attempt, id());
    day.supervisor.put(&path, &correction("the second gauge read the same")).await?;
    day.supervisor.put(&path, &correction("the second gauge read the same")).await?;
    let (status, said) = sentence(day.supervisor.request(Method::PUT, &path).json(&correction("no reason"))).await?;
    assert!(status == StatusCode::CONFLICT && said.contains("never changed"), "{status} {said}");
    day.site.stop().await
}
