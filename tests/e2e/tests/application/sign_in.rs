//! Signing in, and requests that somebody else's page sends.

use anyhow::Result;
use demo::client::id;
use e2e::fixtures;
use e2e::site::Site;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

#[tokio::test]
async fn guessing_a_password_is_slowed_down_for_that_address() -> Result<()> {
    let site = Site::with_sign_in_burst(5).await?;
    let address = format!("{}/api/v1/session", site.installation.base());
    let http = reqwest::Client::new();
    let mut statuses = Vec::new();
    let (mut last, mut waits) = (Value::Null, None);
    for _ in 0..8 {
        let answer = http.post(&address).json(&json!({ "sign_in": "engineer", "password": "guess" })).send().await?;
        statuses.push(answer.status());
        waits = answer.headers().get("retry-after").and_then(|v| v.to_str().ok()?.parse::<u32>().ok());
        last = answer.json().await?;
    }
    assert_eq!(statuses[0], StatusCode::UNAUTHORIZED);
    assert!(statuses[6..].iter().all(|s| *s == StatusCode::TOO_MANY_REQUESTS), "{statuses:?}");
    assert!(last["detail"].as_str().unwrap_or("").contains(": wait "), "{last}");
    assert!(waits.is_some_and(|s| (1..=60).contains(&s)), "how long is told");
    // who is signed in already is not slowed
    assert_eq!(http.get(format!("{}/api/v1/today", site.installation.base())).send().await?.status(), StatusCode::UNAUTHORIZED);
    site.stop().await
}

/// Whoever guesses from an address keeps nobody out who has been signed in from there, and is not helped by it either.
#[tokio::test]
async fn guessing_keeps_no_honest_person_behind_the_same_address_out() -> Result<()> {
    let site = Site::with_sign_in_burst(4).await?;
    site.person("engineer").await?;
    let address = format!("{}/api/v1/session", site.installation.base());
    let http = reqwest::Client::new();
    let guess =
        async |name: &str| anyhow::Ok(http.post(&address).json(&json!({ "sign_in": name, "password": "guess" })).send().await?.status());
    for n in 0..12 {
        guess(&format!("nobody-{n}")).await?;
    }
    assert_eq!(guess("nobody").await?, StatusCode::TOO_MANY_REQUESTS);
    // the engineer was here before, the supervisor was not
    site.person("engineer").await?;
    assert!(site.person("supervisor").await.is_err(), "the limit of the address is gone");
    // and for the engineer's own password the guesses count as ever
    let mut statuses = Vec::new();
    for _ in 0..8 {
        statuses.push(guess("engineer").await?);
    }
    assert_eq!((statuses[0], statuses[7]), (StatusCode::UNAUTHORIZED, StatusCode::TOO_MANY_REQUESTS), "{statuses:?}");
    site.stop().await
}

#[tokio::test]
async fn a_wrong_name_and_a_wrong_password_are_told_the_same() -> Result<()> {
    let site = Site::start().await?;
    let address = format!("{}/api/v1/session", site.installation.base());
    let http = reqwest::Client::new();
    let mut bodies = Vec::new();
    for name in ["engineer", "nobody"] {
        bodies.push(http.post(&address).json(&json!({ "sign_in": name, "password": "guess" })).send().await?.text().await?);
    }
    assert_eq!(bodies[0], bodies[1]);
    site.stop().await
}

#[tokio::test]
async fn a_change_from_another_page_or_without_the_token_is_refused() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    let body = json!({ "title": "t", "form": "pack", "plan": fixtures::piping(), "cells": [] });
    let path = format!("/packs/{}", id());
    let status = async |request: reqwest::RequestBuilder| -> Result<StatusCode> { Ok(request.json(&body).send().await?.status()) };
    assert_eq!(status(engineer.request_with_token(Method::PUT, &path, "00")).await?, StatusCode::FORBIDDEN);
    assert_eq!(status(engineer.request(Method::PUT, &path).header("origin", "http://elsewhere.invalid")).await?, StatusCode::FORBIDDEN);
    assert_eq!(status(engineer.request(Method::PUT, &path).header("sec-fetch-site", "cross-site")).await?, StatusCode::FORBIDDEN);
    assert_eq!(engineer.packs().await?, Vec::<Value>::new(), "nothing was stored");
    assert_eq!(status(engineer.request(Method::PUT, &path)).await?, StatusCode::CREATED);
    site.stop().await
}

#[tokio::test]
async fn a_session_ends_when_its_person_signs_out() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    engineer.get("/today").await?;
    assert_eq!(engineer.request(Method::DELETE, "/session").send().await?.status(), StatusCode::NO_CONTENT);
    assert_eq!(engineer.request(Method::GET, "/today").send().await?.status(), StatusCode::UNAUTHORIZED);
    site.stop().await
}

/// A new password ends every session of the account at once, and its open streams; names are taken whatever their case; a session stands in the
/// database as a hash.
#[tokio::test]
async fn a_new_password_ends_sessions_and_open_streams_at_once() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, _) = fixtures::release(&supervisor, &pack).await?;
    let mut stream = supervisor.request(Method::GET, &format!("/attempts/{attempt}/live")).send().await?;
    assert!(stream.chunk().await?.is_some());
    let loud = demo::client::Person::sign_in(&site.installation.base(), "SuperVisor", site.password("supervisor")).await?;
    assert_eq!(loud.get("/session").await?["sign_in"], "supervisor", "as the account was made");
    site.installation.person("supervisor", "supervisor", "another-password-of-it").await?;
    for session in [&supervisor, &loud] {
        assert_eq!(session.request(Method::GET, "/packs").send().await?.status(), StatusCode::UNAUTHORIZED);
    }
    let ends = async { while let Ok(Some(_)) = stream.chunk().await {} };
    tokio::time::timeout(std::time::Duration::from_secs(10), ends).await?;
    // everybody else goes on
    assert_eq!(engineer.request(Method::GET, "/packs").send().await?.status(), StatusCode::OK);
    site.stop().await
}

/// Whoever holds a session guesses the password that signs only a few times; guessing at the door keeps nobody from signing.
#[tokio::test]
async fn guesses_at_a_signature_are_counted() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    fixtures::tight_hold(&supervisor, &attempt, start).await?;
    let http = reqwest::Client::new();
    for _ in 0..10 {
        let body = json!({ "sign_in": "supervisor", "password": "guess" });
        http.post(format!("{}/api/v1/session", site.installation.base())).json(&body).send().await?;
    }
    let sign = async |password: &str| {
        let path = format!("/attempts/{attempt}/signatures/{}", id());
        Ok::<_, anyhow::Error>(
            supervisor.request(Method::PUT, &path).json(&json!({ "act": "performed", "password": password })).send().await?,
        )
    };
    for _ in 0..6 {
        let answer = sign("guess").await?;
        assert_eq!(answer.status(), StatusCode::UNAUTHORIZED, "{}", answer.text().await?);
    }
    let waits = sign(site.password("supervisor")).await?;
    assert_eq!(waits.status(), StatusCode::TOO_MANY_REQUESTS);
    assert!(waits.headers().contains_key("retry-after"));
    site.stop().await
}

/// Ids in another form than the one in which they are stored, and names that no id has, are not there or cannot be used; nothing fails inside.
#[tokio::test]
async fn odd_ids_are_not_there_and_nothing_fails_inside() -> Result<()> {
    let site = Site::start().await?;
    let engineer = site.person("engineer").await?;
    let uuid = id();
    for odd in [
        "%C3%A9%E2%82%AC",
        "%7B01a22700-cfd7-753d-943c-5902fc62020e%7D",
        "urn:uuid:01a22700-cfd7-753d-943c-5902fc62020e",
        "%F0%9F%92%A7",
        &"x".repeat(300),
    ] {
        for path in [
            format!("/packs/{odd}"),
            format!("/attempts/{odd}/hold"),
            format!("/attempts/{odd}/readings"),
            format!("/packs/{odd}/registers/punch/{uuid}"),
            format!("/packs/{uuid}/registers/boundary/{odd}"),
            format!("/attempts/{uuid}/events/{odd}"),
            format!("/instruments/{odd}"),
        ] {
            for method in [Method::GET, Method::PUT] {
                let status = engineer.request(method.clone(), &path).json(&json!({})).send().await?.status();
                assert!(status.is_client_error(), "{method} {path}: {status}");
            }
        }
        let body = json!({ "number": "AA-9", "title": "t", "form": "pack", "plan": fixtures::piping(), "cells": [] });
        let made = engineer.request(Method::PUT, &format!("/packs/{odd}")).json(&body).send().await?.status();
        assert!(made.is_client_error(), "{odd}: {made}");
    }
    site.stop().await
}
