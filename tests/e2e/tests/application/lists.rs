//! Lists: what they hold is what is derived, whatever was changed; pages have every line once; who follows them hears of it.

use anyhow::{Context, Result, ensure};
use demo::client::{Person, id};
use e2e::fixtures;
use e2e::site::Site;
use rand::seq::IndexedRandom;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::collections::BTreeSet;

/// Holds every line against the derivation once none is being renewed.
async fn lines_are_derived(site: &Site, person: &Person, when: &str) -> Result<()> {
    person.today().await?;
    let (same, said) = site.installation.check_lines().await?;
    ensure!(same && !said.starts_with("0 packs compared"), "{when}: {said}");
    Ok(())
}

async fn page(person: &Person, query: &[(&str, &str)]) -> Result<Value> {
    let answer = person.request(Method::GET, "/packs").query(query).send().await?;
    ensure!(answer.status() == StatusCode::OK, "{}", answer.text().await?);
    Ok(answer.json().await?)
}

fn numbers(lines: &[Value]) -> Vec<String> {
    lines.iter().map(|l| l["number"].as_str().unwrap_or_default().to_owned()).collect()
}

/// Page after page, a few lines each.
async fn all_pages(person: &Person, query: &[(&str, &str)]) -> Result<Vec<Value>> {
    let (mut all, mut after) = (Vec::new(), String::new());
    loop {
        let mut asked = query.to_vec();
        asked.extend([("most", "7"), ("after", after.as_str())]);
        let one = page(person, &asked).await?;
        let lines = one["lines"].as_array().context("no lines")?;
        ensure!(!lines.is_empty() && lines.len() <= 7, "{} lines on a page", lines.len());
        all.extend(lines.iter().cloned());
        match one["next"].as_str() {
            Some(next) => after = next.to_owned(),
            None => return Ok(all),
        }
    }
}

#[tokio::test]
async fn the_lists_of_the_demo_are_what_is_derived_and_their_pages_hold_each_line_once() -> Result<()> {
    let site = Site::start().await?;
    site.load_demo().await?;
    let supervisor = site.person("supervisor").await?;
    lines_are_derived(&site, &supervisor, "the demo").await?;

    let whole = supervisor.packs().await?;
    ensure!(whole.len() > 40, "{} packs", whole.len());
    let ids = |lines: &[Value]| lines.iter().map(|l| l["id"].as_str().unwrap_or_default().to_owned()).collect::<BTreeSet<_>>();
    for sort in ["number", "title", "planned", "state", "moved"] {
        for down in ["false", "true"] {
            let pages = all_pages(&supervisor, &[("sort", sort), ("down", down)]).await?;
            assert_eq!((pages.len(), ids(&pages)), (whole.len(), ids(&whole)), "{sort} {down}");
            let mut planned: Vec<f64> = pages.iter().map(|l| l["planned_pa"].as_f64().unwrap_or(-1.0)).collect();
            if down == "true" {
                planned.reverse();
            }
            assert!(sort != "planned" || planned.is_sorted(), "{planned:?}");
        }
    }
    for state in ["blocked", "ready", "running", "judged", "signed"] {
        let of: Vec<&Value> = whole.iter().filter(|l| l["state_kind"] == state).collect();
        let one = page(&supervisor, &[("state", state), ("most", "200")]).await?;
        assert_eq!((one["lines"].as_array().map(Vec::len), one["total"].as_u64()), (Some(of.len()), Some(of.len() as u64)), "{state}");
    }
    // every word, each cut short, in any case; a part, a blind and a gauge as well
    let found = async |q: &str| page(&supervisor, &[("q", q)]).await;
    assert!(numbers(found("COOL wat cond").await?["lines"].as_array().context("lines")?).contains(&"CW-003".to_owned()));
    let cooling = whole.iter().find(|l| l["number"] == "CW-003").context("CW-003")?;
    let gauge = supervisor.get(&format!("/packs/{}", cooling["id"].as_str().unwrap_or_default())).await?["plan"]["gauge_tag"].clone();
    for q in ["TB-31", "cooling tb-31", &format!("{} cw 003", gauge.as_str().unwrap_or_default())] {
        assert_eq!(numbers(found(q).await?["lines"].as_array().context("lines")?), ["CW-003"], "{q}");
    }
    assert_eq!(found("nothing is called so").await?["lines"], json!([]));
    let hits = supervisor.get("/find?q=tb-31").await?;
    let kinds: Vec<(&str, &str)> =
        hits.as_array().into_iter().flatten().map(|h| (h["kind"].as_str().unwrap_or(""), h["name"].as_str().unwrap_or(""))).collect();
    assert_eq!(kinds, [("pack", "CW-003"), ("blind", "TB-31")]);
    // a place in another order, and what is no order
    for query in [[("after", "[\"a\"]"), ("sort", "state")], [("after", "x"), ("sort", "number")], [("sort", "colour"), ("after", "")]] {
        assert_eq!(supervisor.request(Method::GET, "/packs").query(&query).send().await?.status(), StatusCode::UNPROCESSABLE_ENTITY);
    }
    // what is owed adds up: each gate on the board is a list of as many
    let today = supervisor.today().await?;
    let stopped = today["stopped"].as_array().context("stopped")?;
    ensure!(stopped.len() > 2, "{stopped:?}");
    for gate in stopped {
        let rule = gate["rule"].as_str().unwrap_or_default();
        let lines = all_pages(&supervisor, &[("owes", rule)]).await?;
        assert_eq!(Some(lines.len() as u64), gate["tests"].as_u64(), "{gate}");
        assert!(lines.iter().all(|l| l["blockers"].as_array().is_some_and(|b| b.iter().any(|b| b["rule"] == rule))), "{rule}");
    }
    says_what_a_page_says(&supervisor, &whole).await?;
    unchanged_is_not_sent_again(&supervisor).await?;
    site.stop().await
}

/// A sentence of a line is word for word that of the pack's page, in whatever units it is read.
async fn says_what_a_page_says(person: &Person, whole: &[Value]) -> Result<()> {
    let mut figures = 0;
    for units in ["bar,celsius,metre,litre", "psi,fahrenheit,foot,us_gallon", "kpa,imperial_gallon"] {
        let read = async |path: &str, query: &[(&str, &str)]| -> Result<Value> {
            Ok(person.request(Method::GET, path).query(query).header("x-units", units).send().await?.json().await?)
        };
        let lines = read("/packs", &[("state", "blocked"), ("most", "200")]).await?;
        for line in lines["lines"].as_array().into_iter().flatten() {
            let pack = read(&format!("/packs/{}", line["id"].as_str().unwrap_or_default()), &[]).await?;
            let gates = pack["gates"].as_array().into_iter().flatten().filter(|g| g["ready"] == json!(false));
            let page: Vec<&Value> = gates.map(|g| &g["sentence"]).collect();
            let listed: Vec<&Value> = line["blockers"].as_array().into_iter().flatten().map(|b| &b["sentence"]).collect();
            assert_eq!(listed, page, "{} in {units}", line["number"]);
            figures += usize::from(units.starts_with("psi") && line["blockers"].to_string().contains("psi"));
        }
    }
    ensure!(figures > 3, "only {figures} lines say a pressure of {}", whole.len());
    Ok(())
}

async fn unchanged_is_not_sent_again(person: &Person) -> Result<()> {
    for path in ["/today", "/packs?state=ready"] {
        let first = person.request(Method::GET, path).send().await?;
        let tag = first.headers().get("etag").context("no etag")?.clone();
        let again = person.request(Method::GET, path).header("if-none-match", tag.clone()).send().await?;
        assert_eq!((again.status(), again.headers().get("etag")), (StatusCode::NOT_MODIFIED, Some(&tag)), "{path}");
        let other = person.request(Method::GET, path).header("if-none-match", tag.clone()).header("x-units", "psi").send().await?;
        assert_eq!(other.status(), StatusCode::OK, "{path} in other units");
    }
    Ok(())
}

/// One change of a kind that a line rests on, at random; what is refused is none.
async fn change(rng: &mut ChaCha8Rng, engineer: &Person, supervisor: &Person, packs: &[String], kind: u32) -> Result<()> {
    let pack = packs.choose(rng).context("no pack")?;
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    let send = async |person: &Person, path: String, body: Value, version: &Value| -> Result<()> {
        person.request(Method::PUT, &path).header("if-match", format!("\"v{version}\"")).json(&body).send().await?;
        Ok(())
    };
    let none = json!(0);
    match kind {
        0 => {
            let mut plan = view["plan"].clone();
            let of = |rng: &mut ChaCha8Rng, all: [&str; 3]| json!(all.choose(rng).copied().unwrap_or_default());
            plan["permit_number"] = of(rng, ["", "PTW-7", "PTW-8"]);
            plan["gauge_tag"] = of(rng, ["PG-1", "PG-2", "PG-9"]);
            plan["people"]["witnesses"] = of(rng, ["witness", "", "owner"]);
            let title = format!("Line {}", rng.random_range(0..5));
            send(engineer, format!("/packs/{pack}/plan"), json!({ "title": title, "plan": plan }), &view["version"]).await
        }
        1 => {
            let (number, category) = (rng.random_range(1..3).to_string(), ["A", "B"].choose(rng));
            let item = json!({ "number": number, "category": category, "text": "weld open", "owner": "inspector", "cleared": false });
            send(engineer, format!("/packs/{pack}/registers/punch/{}", id()), item, &none).await
        }
        2 => match view["punch"].as_array().and_then(|p| p.choose(rng)) {
            Some(there) => {
                let mut item = there.clone();
                let path = format!("/packs/{pack}/registers/punch/{}", there["id"].as_str().unwrap_or_default());
                item["cleared"] = json!(true);
                if let Some(fields) = item.as_object_mut() {
                    fields.retain(|k, _| ["number", "category", "text", "owner", "cleared"].contains(&k.as_str()));
                }
                send(engineer, path, item, &there["version"]).await
            }
            None => Ok(()),
        },
        3 => {
            let set: bool = rng.random();
            let item = json!({ "tag": format!("TB-{}", rng.random_range(1..4)), "kind": "blind", "place": "north", "set_for_test": set, "put_back": false });
            send(engineer, format!("/packs/{pack}/registers/boundary/{}", id()), item, &none).await
        }
        4 => {
            let tag = *["PG-1", "PG-2"].choose(rng).context("no tag")?;
            let store = engineer.get("/instruments").await?;
            let there = store.as_array().and_then(|s| s.iter().find(|i| i["instrument"]["tag"] == tag)).context("not in the store")?;
            let mut body = there["instrument"].clone();
            body["valid_until"] = json!(fixtures::day(*[-1, 0, 90].choose(rng).context("no day")?));
            send(engineer, format!("/instruments/{tag}"), body, &there["version"]).await
        }
        5 => {
            let path = format!("/projects/{}/specification", engineer.project().await?);
            let view = engineer.get(&path).await?;
            let answer = *["1440", "30"].choose(rng).context("no answer")?;
            send(engineer, path, json!({ "schools": { "hold": { "answer": answer, "reason": "the owner's standard" } } }), &view["version"])
                .await
        }
        6 => send(supervisor, format!("/packs/{pack}/attempts/{}", id()), json!({}), &none).await,
        _ => match view["attempts"].as_array().and_then(|a| a.last()) {
            Some(attempt) => {
                let attempt = attempt["id"].as_str().unwrap_or_default();
                let now = fixtures::at(time::OffsetDateTime::now_utc());
                let kind = *["filled", "step_reached", "released"].choose(rng).context("no kind")?;
                if kind == "released" {
                    drop(fixtures::zero(supervisor, attempt, time::OffsetDateTime::now_utc()).await);
                }
                send(supervisor, format!("/attempts/{attempt}/events/{}", id()), json!({ "kind": kind, "at": now, "note": "" }), &none)
                    .await
            }
            None => Ok(()),
        },
    }
}

#[tokio::test]
async fn whatever_is_changed_a_line_is_what_is_derived_and_says_until_then_that_it_is_being_renewed() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let mut packs = Vec::new();
    for i in 1..=6 {
        packs.push(fixtures::pack(&engineer, &format!("AA-{i}"), &fixtures::piping()).await?);
    }
    // ready, and with its instrument out of date from the moment that is stored, before any line is made anew
    supervisor.today().await?;
    let ready = page(&supervisor, &[("state", "ready")]).await?;
    assert_eq!(ready["total"], 6, "{ready}");
    for pack in &packs[4..] {
        fixtures::release(&supervisor, pack).await?;
    }
    let mut gauge = fixtures::gauge("PG-1", &fixtures::day(-1));
    gauge["calibrated_on"] = json!(fixtures::day(-400));
    let store = engineer.get("/instruments").await?;
    let version = &store.as_array().and_then(|s| s.iter().find(|i| i["instrument"]["tag"] == "PG-1")).context("PG-1")?["version"];
    let put = engineer.request(Method::PUT, "/instruments/PG-1").header("if-match", format!("\"v{version}\"")).json(&gauge).send().await?;
    assert_eq!(put.status(), StatusCode::NO_CONTENT);
    let at_once = page(&supervisor, &[]).await?;
    for line in at_once["lines"].as_array().into_iter().flatten() {
        let (kind, state) = (&line["state_kind"], line["state"].as_str().unwrap_or_default());
        let as_it_was = kind == "running" && state.contains("attempt 1");
        assert!(as_it_was || (kind == "blocked" && (state == "being renewed" || state.contains("stops this pack"))), "{line}");
    }
    lines_are_derived(&site, &supervisor, "an instrument out of date").await?;

    let mut rng = ChaCha8Rng::seed_from_u64(21);
    for round in 0..4 {
        for _ in 0..25 {
            let kind = rng.random_range(0..8);
            change(&mut rng, &engineer, &supervisor, &packs, kind).await?;
        }
        lines_are_derived(&site, &supervisor, &format!("round {round}")).await?;
    }
    let states: BTreeSet<String> = supervisor.packs().await?.iter().map(|l| l["state_kind"].to_string()).collect();
    ensure!(states.len() > 1, "every pack is in the same state, so the changes changed nothing: {states:?}");
    site.stop().await
}

#[tokio::test]
async fn who_follows_the_lists_hears_of_each_line_and_of_no_other_pack_and_misses_none_while_away() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, witness) = (site.person("engineer").await?, site.person("witness").await?);
    fixtures::instruments(&engineer).await?;
    let mut unseen = fixtures::piping();
    unseen["people"]["witnesses"] = json!("someone else");
    let (named, other) = (fixtures::pack(&engineer, "AA-1", &fixtures::piping()).await?, fixtures::pack(&engineer, "AA-2", &unseen).await?);
    engineer.today().await?;

    let hears = async |person: &Person, after: Option<u64>, until: &str| -> Result<(String, u64)> {
        let mut request = person.request(Method::GET, "/news");
        if let Some(after) = after {
            request = request.header("last-event-id", after.to_string());
        }
        let mut stream = request.send().await?;
        let (mut heard, mut change) = (String::new(), after.is_none());
        let deadline = tokio::time::Instant::now() + std::time::Duration::from_secs(20);
        while !heard.contains(until) {
            // something changes only once somebody listens
            if std::mem::take(&mut change) {
                for pack in [&named, &other] {
                    let view = engineer.get(&format!("/packs/{pack}")).await?;
                    let body = json!({ "title": "Another title", "plan": view["plan"] });
                    let put = engineer.request(Method::PUT, &format!("/packs/{pack}/plan")).header("if-match", "\"v1\"").json(&body);
                    ensure!(put.send().await?.status() == StatusCode::OK, "the plan was not taken");
                }
            }
            match tokio::time::timeout_at(deadline, stream.chunk()).await.with_context(|| format!("heard only {heard}"))?? {
                Some(bytes) => heard.push_str(&String::from_utf8_lossy(&bytes)),
                None => break,
            }
        }
        let last = heard.lines().filter_map(|l| l.strip_prefix("id: ")?.parse().ok()).max().unwrap_or(0);
        Ok((heard, last))
    };
    let (heard, last) = hears(&engineer, None, &other).await?;
    ensure!(heard.contains(&named) && heard.contains("event: lists") && last > 0, "{heard}");
    // the witness was away, and comes back with a number of before; of the other pack nothing reaches them
    let (heard, _) = hears(&witness, Some(1), &named).await?;
    ensure!(!heard.contains(&other), "{heard}");
    site.stop().await
}
