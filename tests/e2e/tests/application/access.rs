//! Every route, each role, and the pack of somebody else.

use anyhow::{Context, Result};
use demo::client::{Person, id};
use e2e::fixtures;
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use std::collections::{BTreeMap, BTreeSet};

/// Who knocks, in the order of the letters below.
const ROLES: [&str; 7] = ["engineer", "supervisor", "reader", "inspector", "witness", "owner", "administrator"];

/// Routes that make something under an id of the client's.
const NEW: [&str; 2] = ["/api/v1/packs/{id}", "/api/v1/quick/{id}"];

/// Method, path, and what each role meets on a pack that names them: `+` let in, `-` not for this role (403), `0` not there (404), `?` the password is asked (401).
const ROUTES: &[(&str, &str, &str)] = &[
    ("GET", "/api/v1/session", "+++++++"),
    ("DELETE", "/api/v1/session", "+++++++"),
    ("GET", "/api/v1/today", "+++++++"),
    ("GET", "/api/v1/packs", "+++++++"),
    ("GET", "/api/v1/find", "+++++++"),
    ("GET", "/api/v1/news", "+++++++"),
    ("GET", "/api/v1/library", "+++++++"),
    ("GET", "/api/v1/words", "+++++++"),
    ("GET", "/api/v1/projects/{project}/specification", "++++++0"),
    ("PUT", "/api/v1/projects/{project}/specification", "+-----0"),
    ("GET", "/api/v1/instruments", "+++++++"),
    ("PUT", "/api/v1/instruments/{tag}", "++---+-"),
    ("PUT", "/api/v1/instruments/{tag}/keeper", "++---+-"),
    ("PUT", "/api/v1/instruments/{tag}/projects", "+------"),
    ("GET", "/api/v1/instruments/{tag}/history", "+++++++"),
    ("GET", "/api/v1/packs/{id}/history", "++++++0"),
    ("GET", "/api/v1/packs/{id}", "++++++0"),
    ("PUT", "/api/v1/packs/{id}", "+------"),
    ("PUT", "/api/v1/quick/{id}", "++---+-"),
    ("POST", "/api/v1/quick/gauges", "++---+-"),
    ("PUT", "/api/v1/packs/{id}/plan", "++----0"),
    ("GET", "/api/v1/packs/{id}/why/{figure}", "++++++0"),
    ("POST", "/api/v1/packs/{id}/what-if", "++++++0"),
    ("PUT", "/api/v1/packs/{id}/parts", "++----0"),
    ("POST", "/api/v1/packs/{id}/parts/check", "++----0"),
    ("POST", "/api/v1/packs/{id}/parts/preview", "++----0"),
    ("GET", "/api/v1/packs/{id}/joined", "++++++0"),
    ("PUT", "/api/v1/packs/{id}/line-up", "++----0"),
    ("GET", "/api/v1/packs/{id}/suggested", "++++++0"),
    // of the punch list, an item that is not there; the boundary is kept by fewer
    ("GET", "/api/v1/packs/{id}/registers/{register}", "++++++0"),
    ("GET", "/api/v1/packs/{id}/registers/{register}/csv", "++++++0"),
    ("PUT", "/api/v1/packs/{id}/registers/{register}/{item}", "++-+--0"),
    ("PUT", "/api/v1/packs/{id}/registers/{register}/{item}/removal", "00-0--0"),
    ("PUT", "/api/v1/packs/{id}/looks", "++++--0"),
    ("GET", "/api/v1/attempts/{attempt}/proposed", "++++++0"),
    ("GET", "/api/v1/attempts/{attempt}/debrief", "++++++0"),
    ("PUT", "/api/v1/attempts/{attempt}/looks/{event}", "-+++--0"),
    ("PUT", "/api/v1/packs/{id}/attempts/{attempt}", "-+----0"),
    ("PUT", "/api/v1/packs/{id}/practice/{copy}", "++++--0"),
    ("PUT", "/api/v1/packs/{id}/again/{copy}", "+-----0"),
    ("GET", "/api/v1/packs/{id}/promise", "++++++0"),
    ("GET", "/api/v1/attempts/{attempt}/hold", "++++++0"),
    ("GET", "/api/v1/attempts/{attempt}/series", "++++++0"),
    ("GET", "/api/v1/attempts/{attempt}/live", "++++++0"),
    ("PUT", "/api/v1/attempts/{attempt}/rig", "-+++--0"),
    ("GET", "/api/v1/attempts/{attempt}/readings", "++++++0"),
    ("PUT", "/api/v1/attempts/{attempt}/readings", "-+++--0"),
    ("PUT", "/api/v1/attempts/{attempt}/readings/{reading}/strike", "-+++--0"),
    ("PUT", "/api/v1/attempts/{attempt}/events/{event}", "-+++--0"),
    ("PUT", "/api/v1/attempts/{attempt}/corrections/{correction}", "++-+--0"),
    ("POST", "/api/v1/attempts/{attempt}/recordings/preview", "-+++--0"),
    ("PUT", "/api/v1/attempts/{attempt}/recordings/{recording}", "-+++--0"),
    ("PUT", "/api/v1/attempts/{attempt}/signatures/{signature}", "++++++0"),
    ("PUT", "/api/v1/attempts/{attempt}/drawn/{signature}", "-+++--0"),
    ("POST", "/api/v1/attempts/{attempt}/links", "-+++--0"),
    ("GET", "/api/v1/attempts/{attempt}/sealed", "++++++0"),
    ("GET", "/api/v1/attempts/{attempt}/report", "++++++0"),
    ("GET", "/api/v1/attempts/{attempt}/report/pages", "++++++0"),
    ("POST", "/api/v1/projects/{project}/specification/touches", "+-----0"),
    ("GET", "/api/v1/projects", "+++++++"),
    ("GET", "/api/v1/projects/{project}", "+++++++"),
    ("PUT", "/api/v1/projects/{project}", "------+"),
    ("PUT", "/api/v1/packs/{id}/away", "++----0"),
    ("GET", "/api/v1/packs/{id}/project/{project}", "+-----0"),
    ("PUT", "/api/v1/packs/{id}/project/{project}", "+-----0"),
    ("GET", "/api/v1/people", "------+"),
    ("PUT", "/api/v1/people/{sign_in}", "------+"),
    ("DELETE", "/api/v1/people/{sign_in}", "------0"),
    ("PUT", "/api/v1/people/{sign_in}/roles", "------0"),
    ("POST", "/api/v1/people/{sign_in}/link", "------0"),
    ("PUT", "/api/v1/site/second-factor", "------+"),
    ("PUT", "/api/v1/site", "------+"),
    ("GET", "/api/v1/session/all", "+++++++"),
    ("DELETE", "/api/v1/session/all/{id}", "+++++++"),
    ("PUT", "/api/v1/session/password", "???????"),
    ("POST", "/api/v1/session/second-factor", "+++++++"),
    ("PUT", "/api/v1/session/second-factor", "???????"),
    ("DELETE", "/api/v1/session/second-factor", "???????"),
    ("GET", "/api/v1/security", "------+"),
    ("GET", "/api/v1/security/log", "------+"),
];

/// Open to anyone; nothing else is.
const OPEN: [(&str, &str); 7] = [
    ("POST", "/api/v1/session"),
    ("POST", "/api/v1/verify"),
    ("GET", "/api/v1/certificate"),
    ("GET", "/api/v1/setup"),
    ("POST", "/api/v1/setup"),
    ("POST", "/api/v1/join"),
    ("POST", "/api/v1/signing"),
];

/// A pack with its attempt.
struct Target {
    pack: String,
    attempt: String,
    project: String,
}

fn fill(path: &str, target: &Target) -> String {
    let fresh = id();
    path.trim_start_matches("/api/v1")
        .replace("{id}", &target.pack)
        .replace("{attempt}", &target.attempt)
        .replace("{project}", &target.project)
        .replace("{tag}", "PG-1")
        .replace("{sign_in}", &format!("somebody-{fresh}"))
        .replace("{figure}", "planned")
        .replace("{register}", "punch")
        .replace("{item}", &fresh)
        .replace("{copy}", &fresh)
        .replace("{event}", &fresh)
        .replace("{recording}", &fresh)
        .replace("{signature}", &fresh)
}

/// A request whose body is well formed, so that only the person decides.
fn request(site: &Site, person: &Person, name: &str, method: &str, path: &str, target: &Target) -> Result<reqwest::RequestBuilder> {
    let now = fixtures::at(time::OffsetDateTime::now_utc());
    let method = Method::from_bytes(method.as_bytes())?;
    let mut filled = fill(path, target);
    if method == Method::PUT && NEW.contains(&path) {
        filled = filled.replace(&target.pack, &id());
    }
    if path.ends_with("/recordings/{recording}") {
        filled += "?file_name=a.csv&mapping=%7B%7D";
    }
    let request = person.request(method.clone(), &filled).header("if-match", "\"v0\"");
    let body: Option<Value> = match (method.as_str(), path.trim_start_matches("/api/v1")) {
        ("PUT", "/instruments/{tag}/projects") => Some(json!({ "projects": [target.project] })),
        ("PUT", "/instruments/{tag}/keeper") => Some(json!({ "keeper": "" })),
        ("PUT", "/instruments/{tag}") => Some(fixtures::gauge("PG-1", "2000-01-01")),
        ("PUT", "/packs/{id}") => {
            Some(json!({ "title": "t", "form": "pack", "plan": fixtures::piping(), "cells": fixtures::rows(&fixtures::DN150) }))
        }
        ("PUT", "/quick/{id}") | ("POST", "/quick/gauges") => {
            Some(json!({ "title": "t", "object": "joint", "gauge": "PG-1", "at_test": "15 °C",
            "answers": { "name": "joint 1", "volume": "40 L", "limit": "1 bar" } }))
        }
        ("PUT", "/projects/{project}/specification") => Some(json!({ "schools": {} })),
        ("PUT", "/packs/{id}/plan") => Some(json!({ "title": "t", "plan": fixtures::piping() })),
        ("PUT", "/packs/{id}/parts") | ("POST", "/packs/{id}/parts/check") => Some(json!({ "cells": [] })),
        ("PUT", "/packs/{id}/registers/{register}/{item}") => {
            Some(json!({ "number": id()[..8], "category": "C", "text": "t", "owner": "o", "cleared": false }))
        }
        ("PUT", "/packs/{id}/registers/{register}/{item}/removal") => Some(json!({ "why": "t" })),
        ("PUT", "/packs/{id}/attempts/{attempt}") => Some(json!({})),
        ("PUT", "/packs/{id}/practice/{copy}" | "/packs/{id}/again/{copy}") => None,
        ("PUT", "/packs/{id}/away") => Some(json!({ "away": true, "reason": "" })),
        ("PUT", "/packs/{id}/project/{project}") => Some(json!(null)),
        ("PUT", "/projects/{project}") => Some(json!({ "name": "" })),
        ("POST", "/projects/{project}/specification/touches") => Some(json!({})),
        ("PUT", "/people/{sign_in}") => Some(json!({ "roles": { &target.project: "reader" } })),
        ("PUT", "/people/{sign_in}/roles") => Some(json!({ "roles": {} })),
        ("PUT", "/site") => Some(json!({ "name": "", "zone": "UTC", "units": {} })),
        ("PUT", "/site/second-factor") => Some(json!({ "second_factor": "offered" })),
        ("PUT", "/session/password") => Some(json!({ "now": "wrong", "new": "wrong" })),
        ("PUT" | "DELETE", "/session/second-factor") => Some(json!({ "code": "1", "password": "wrong" })),
        ("POST", "/people/{sign_in}/link" | "/session/second-factor") => Some(json!(null)),
        ("PUT", "/attempts/{attempt}/rig") => Some(json!({ "pump": false, "strokes_per_min": 12.0, "bleed": 0.0 })),
        ("PUT", "/attempts/{attempt}/readings") => Some(json!({ "readings": [] })),
        ("PUT", "/attempts/{attempt}/readings/{reading}/strike") => Some(json!({ "reason": "" })),
        ("PUT", "/attempts/{attempt}/events/{event}") => Some(json!({ "kind": "filled", "at": now, "note": "" })),
        ("PUT", "/attempts/{attempt}/looks/{event}") => Some(json!({ "at": now })),
        ("PUT", "/attempts/{attempt}/corrections/{correction}") => Some(
            json!({ "what": "overrule", "kind": "stuck", "channel": null, "start_s": 0.0, "reason": "the second gauge read the same" }),
        ),
        ("PUT", "/attempts/{attempt}/signatures/{signature}") => Some(json!({ "act": "accepted", "password": site.password(name) })),
        ("PUT", "/attempts/{attempt}/drawn/{signature}") => {
            Some(json!({ "act": "accepted", "hand": { "name": "n", "body": "b", "drawing": "M1 1L2 2L3 3L4 4L5 5L6 6L7 7L8 8" } }))
        }
        ("POST", "/attempts/{attempt}/links") => Some(json!({ "act": "accepted", "name": "n" })),
        ("POST", "/packs/{id}/what-if") => Some(json!({ "plan": fixtures::piping() })),
        ("POST", _) => None,
        _ => return Ok(request),
    };
    Ok(match body {
        Some(body) => request.json(&body),
        None => request.header("content-type", "application/octet-stream").body("tag;kind\nA;pipe\n"),
    })
}

/// Whether a response is the handler's own, not the guard's.
fn outcome(status: StatusCode) -> char {
    match status {
        StatusCode::UNAUTHORIZED => '?',
        StatusCode::FORBIDDEN => '-',
        StatusCode::NOT_FOUND => '0',
        _ => '+',
    }
}

/// A released pack; where the witness and the owner of the tests are not named, others are.
async fn target(site: &Site, number: &str, named: bool) -> Result<Target> {
    let (engineer, supervisor) = (&site.person("engineer").await?, &site.person("supervisor").await?);
    let mut plan = fixtures::piping();
    if !named {
        site.installation.person("someone-else", "witness", "four plain words here").await?;
        plan["people"]["witnesses"] = json!("someone-else");
        plan["people"]["accepts"] = json!("boiler-owner");
    }
    let pack = fixtures::pack(engineer, number, &plan).await?;
    let (attempt, _) = fixtures::release(supervisor, &pack).await?;
    Ok(Target { pack, attempt, project: engineer.project().await? })
}

#[tokio::test]
async fn each_role_meets_what_the_table_says_on_every_route() -> Result<()> {
    let site = Site::start().await?;
    let description: Value = serde_json::from_str(&std::fs::read_to_string(e2e::site::root().join("docs/openapi.json"))?)?;
    let described: BTreeSet<(String, String)> = description["paths"]
        .as_object()
        .context("paths")?
        .iter()
        .flat_map(|(path, item)| item.as_object().into_iter().flatten().map(|(method, _)| (method.to_uppercase(), path.clone())))
        .collect();
    let listed: BTreeSet<(String, String)> =
        ROUTES.iter().map(|r| (r.0, r.1)).chain(OPEN).map(|(m, p)| (m.to_owned(), p.to_owned())).collect();
    assert_eq!(described, listed, "a route is missing from the table of this test, or is no longer there");

    let engineer = site.person("engineer").await?;
    fixtures::instruments(&engineer).await?;
    let ours = target(&site, "AA-001", true).await?;
    let others = target(&site, "AA-002", false).await?;

    let mut people = BTreeMap::new();
    for name in ROLES {
        people.insert(name, site.person(name).await?);
    }
    let mut wrong = Vec::new();
    for (method, path, letters) in ROUTES {
        for (name, expected) in ROLES.iter().zip(letters.chars()) {
            // one of the routes ends the session
            let person = if *method == "DELETE" && *path == "/api/v1/session" { &site.person(name).await? } else { &people[name] };
            let met = outcome(request(&site, person, name, method, path, &ours)?.send().await?.status());
            if met != expected {
                wrong.push(format!("{name} meets {met} on {method} {path}, not {expected}"));
            }
        }
        // a pack on which they are not named is not there for witness and owner, whatever they ask
        if (path.contains("{id}") || path.contains("{attempt}")) && !path.starts_with("/api/v1/session") {
            for name in ["witness", "owner"] {
                if *method == "PUT" && NEW.contains(path) {
                    continue;
                }
                let met = outcome(request(&site, &people[name], name, method, path, &others)?.send().await?.status());
                if met != '0' {
                    wrong.push(format!("{name} meets {met} on somebody else's {method} {path}"));
                }
            }
        }
        let nobody = reqwest::Client::new();
        let address = format!("{}/api/v1{}", site.installation.base(), fill(path, &ours));
        let status = nobody.request(Method::from_bytes(method.as_bytes())?, address).json(&json!({})).send().await?.status();
        if status != StatusCode::UNAUTHORIZED {
            wrong.push(format!("without a session {method} {path} answers {status}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    site.stop().await
}

#[tokio::test]
async fn nothing_of_another_pack_is_reached_through_ones_own() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let ours = target(&site, "AA-001", true).await?;
    let others = target(&site, "AA-002", false).await?;

    // lists hold only what names the person
    let witness = site.person("witness").await?;
    assert_eq!(witness.packs().await?.len(), 1);
    assert!(!witness.today().await?.to_string().contains("AA-002"));
    assert_eq!(witness.get("/find?q=AA-002").await?, json!([]));

    // an id of another pack's register, under one's own pack
    let status = async |person: &Person, path: String, body: Value| -> Result<StatusCode> {
        Ok(person.request(Method::PUT, &path).json(&body).send().await?.status())
    };
    let item = id();
    let punch = json!({ "number": "1", "category": "A", "text": "weld open", "owner": "inspector", "cleared": false });
    engineer.keep(&others.pack, "punch", &item, &punch).await?;
    let cleared = json!({ "number": "1", "category": "A", "text": "weld open", "owner": "inspector", "cleared": true });
    assert_eq!(status(&engineer, format!("/packs/{}/registers/punch/{item}", ours.pack), cleared).await?, StatusCode::NOT_FOUND);
    let blind = json!({ "tag": "TB-1", "kind": "blind", "place": "north", "set_for_test": true, "put_back": false });
    let blind_id = id();
    engineer.keep(&others.pack, "boundary", &blind_id, &blind).await?;
    // an id of the punch list is none of the boundary
    assert_eq!(status(&engineer, format!("/packs/{}/registers/boundary/{item}", others.pack), blind.clone()).await?, StatusCode::NOT_FOUND);
    let inspector = site.person("inspector").await?;
    assert_eq!(
        status(&inspector, format!("/packs/{}/registers/boundary/{}", ours.pack, id()), blind.clone()).await?,
        StatusCode::FORBIDDEN
    );
    assert_eq!(status(&engineer, format!("/packs/{}/registers/none/{}", ours.pack, id()), blind.clone()).await?, StatusCode::NOT_FOUND);
    assert_eq!(status(&engineer, format!("/packs/{}/registers/boundary/{blind_id}", ours.pack), blind).await?, StatusCode::NOT_FOUND);
    assert_eq!(engineer.get(&format!("/packs/{}", others.pack)).await?["punch"][0]["cleared"], json!(false));

    // an id of a reading or event of another attempt does not store, show or change anything
    let reading = id();
    let now = fixtures::at(time::OffsetDateTime::now_utc());
    let body = |text: &str| json!({ "readings": [{ "id": reading, "at": now, "channel": "pressure", "text": text, "unit": "bar" }] });
    supervisor.put(&format!("/attempts/{}/readings", others.attempt), &body("3.0")).await?;
    assert_eq!(status(&supervisor, format!("/attempts/{}/readings", ours.attempt), body("3.0")).await?, StatusCode::CONFLICT);
    assert_eq!(status(&supervisor, format!("/attempts/{}/readings", others.attempt), body("4.0")).await?, StatusCode::CONFLICT);
    assert_eq!(engineer.get(&format!("/attempts/{}/readings", ours.attempt)).await?, json!([]));

    // an owner cannot take over a pack by making one under its id
    let owner = site.person("owner").await?;
    let quick = json!({ "title": "mine", "form": "quick", "plan": fixtures::boiler(), "cells": [] });
    assert_eq!(status(&owner, format!("/packs/{}", others.pack), quick).await?, StatusCode::CONFLICT);
    assert_eq!(engineer.get(&format!("/packs/{}", others.pack)).await?["title"], json!("Line AA-002"));
    site.stop().await
}

#[tokio::test]
async fn an_owner_does_everything_on_a_quick_test_of_their_own() -> Result<()> {
    let site = Site::start().await?;
    fixtures::instruments(&site.person("engineer").await?).await?;
    let owner = site.person("boiler-owner").await?;
    let pack = id();
    let shell = fixtures::rows(&[["Shell", "boiler", "0.3", "152 mm", "3 mm", "", "c12200_annealed", "", "", "", "2.4 L"]]);
    let body = json!({ "title": "Boiler 3", "form": "quick", "plan": fixtures::boiler(), "cells": shell });
    owner.put(&format!("/packs/{pack}"), &body).await?;
    let (attempt, start) = fixtures::release(&owner, &pack).await?;
    fixtures::event(&owner, &attempt, start, 5, "filled").await?;
    // another owner does not see it
    let other = site.person("owner").await?;
    assert_eq!(other.request(Method::GET, &format!("/packs/{pack}")).send().await?.status(), StatusCode::NOT_FOUND);
    site.stop().await
}
