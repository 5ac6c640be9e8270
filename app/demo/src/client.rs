//! A person at the API.

use anyhow::{Result, bail};
use reqwest::{Method, Response, StatusCode};
use serde_json::Value;

/// A signed-in person.
#[derive(Debug, Clone)]
pub struct Person {
    http: reqwest::Client,
    base: String,
    token: String,
}

/// A new id.
pub fn id() -> String {
    uuid::Uuid::now_v7().to_string()
}

impl Person {
    /// Signs in.
    ///
    /// # Errors
    /// When the server refuses or cannot be reached.
    pub async fn sign_in(base: &str, name: &str, password: &str) -> Result<Self> {
        let http = reqwest::Client::builder().cookie_store(true).build()?;
        let body = serde_json::json!({ "sign_in": name, "password": password });
        let response = http.post(format!("{base}/api/v1/session")).json(&body).send().await?;
        let me: Value = good(response).await?.json().await?;
        Ok(Self { http, base: base.to_owned(), token: me["token"].as_str().unwrap_or_default().to_owned() })
    }

    /// A request under this person's session.
    pub fn request(&self, method: Method, path: &str) -> reqwest::RequestBuilder {
        self.request_with_token(method, path, &self.token)
    }

    /// A request under this person's session with another token than the session's.
    pub fn request_with_token(&self, method: Method, path: &str, token: &str) -> reqwest::RequestBuilder {
        self.http.request(method, format!("{}/api/v1{path}", self.base)).header("x-request-token", token)
    }

    /// Reads.
    ///
    /// # Errors
    /// The server's own sentence.
    pub async fn get(&self, path: &str) -> Result<Value> {
        Ok(good(self.request(Method::GET, path).send().await?).await?.json().await?)
    }

    /// A request that adds an item to a register of a pack, or changes it as it stands now.
    ///
    /// # Errors
    /// When the register cannot be read.
    pub async fn keeping(&self, pack: &str, register: &str, item: &str, body: &Value) -> Result<reqwest::RequestBuilder> {
        let there = self.get(&format!("/packs/{pack}/registers/{register}")).await?;
        let version = there["items"].as_array().into_iter().flatten().find(|i| i["id"] == item).map(|i| i["version"].clone());
        let request = self.request(Method::PUT, &format!("/packs/{pack}/registers/{register}/{item}")).json(body);
        Ok(match version {
            Some(version) => request.header("if-match", format!("\"v{version}\"")),
            None => request,
        })
    }

    /// Adds an item to a register of a pack, or changes it as it stands now.
    ///
    /// # Errors
    /// The server's own sentence.
    pub async fn keep(&self, pack: &str, register: &str, item: &str, body: &Value) -> Result<()> {
        good(self.keeping(pack, register, item, body).await?.send().await?).await.map(|_| ())
    }

    /// The day board once no line of any list is being renewed.
    ///
    /// # Errors
    /// The server's own sentence, or that the lists do not settle within half a minute.
    pub async fn today(&self) -> Result<Value> {
        for _ in 0..300 {
            let today = self.get("/today").await?;
            if today["renewing"] == 0 {
                return Ok(today);
            }
            tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        }
        bail!("lines are still being renewed after half a minute")
    }

    /// Every line of the list of packs, page after page, once none is being renewed.
    ///
    /// # Errors
    /// The server's own sentence.
    pub async fn packs(&self) -> Result<Vec<Value>> {
        self.today().await?;
        let (mut all, mut after) = (Vec::new(), String::new());
        loop {
            let request = self.request(Method::GET, "/packs").query(&[("most", "200"), ("after", &after)]);
            let page: Value = good(request.send().await?).await?.json().await?;
            all.extend(page["lines"].as_array().into_iter().flatten().cloned());
            match page["next"].as_str() {
                Some(next) => next.clone_into(&mut after),
                None => return Ok(all),
            }
        }
    }

    /// Id of the project of this person; the first where there are several.
    ///
    /// # Errors
    /// The server's own sentence.
    pub async fn project(&self) -> Result<String> {
        Ok(self.get("/session").await?["projects"][0]["id"].as_str().unwrap_or_default().to_owned())
    }

    /// Changes or adds; returns what the server answers, null where it answers nothing.
    ///
    /// # Errors
    /// The server's own sentence.
    pub async fn put(&self, path: &str, body: &Value) -> Result<Value> {
        let response = good(self.request(Method::PUT, path).json(body).send().await?).await?;
        if response.status() == StatusCode::NO_CONTENT {
            return Ok(Value::Null);
        }
        Ok(response.json().await?)
    }
}

/// The response, or its problem's sentence as an error.
async fn good(response: Response) -> Result<Response> {
    if response.status().is_success() {
        return Ok(response);
    }
    let status = response.status();
    let problem: Value = response.json().await.unwrap_or_default();
    bail!("{status}: {}", problem["detail"].as_str().unwrap_or("no sentence"))
}
