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
    let mut last = Value::Null;
    for _ in 0..8 {
        let answer = http.post(&address).json(&json!({ "sign_in": "engineer", "password": "guess" })).send().await?;
        statuses.push(answer.status());
        last = answer.json().await?;
    }
    assert_eq!(statuses[0], StatusCode::UNAUTHORIZED);
    assert!(statuses[6..].iter().all(|s| *s == StatusCode::TOO_MANY_REQUESTS), "{statuses:?}");
    assert!(last["detail"].as_str().unwrap_or("").contains("wait a minute"), "{last}");
    // who is signed in already is not slowed
    assert_eq!(http.get(format!("{}/api/v1/today", site.installation.base())).send().await?.status(), StatusCode::UNAUTHORIZED);
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
    assert_eq!(engineer.get("/packs").await?, json!([]), "nothing was stored");
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
