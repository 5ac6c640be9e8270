//! Pictures of the main views, from an application that `cargo xtask shots` has started.

use anyhow::{Context, Result};
use demo::client::Person;
use demo::people::DemoPerson;
use e2e::browser::Browser;
use std::path::PathBuf;

/// Name of the picture, who looks, pack, path, what the page must say before the picture is taken.
const VIEWS: &[(&str, &str, &str, &str, &str)] = &[
    ("today", "supervisor", "", "/", "Under test now"),
    ("packs", "engineer", "", "/packs", "CW-003"),
    ("quick-test", "boiler-owner", "", "/quick", "Which gauge"),
    ("prove", "engineer", "CW-003", "prove", "What and why"),
    ("derive", "engineer", "CW-003", "derive", "Answered before"),
    ("bound", "engineer", "BD-010", "bound", "Down leg"),
    ("ready", "supervisor", "SW-014", "ready", "Punch list"),
    ("raise", "supervisor", "CW-007", "raise", "Pumping curve"),
    ("hold", "inspector", "BF-004", "hold", "Where it was looked at"),
    ("judge", "inspector", "CH-011", "judge", "By the basis"),
    ("restore", "supervisor", "PW-008", "restore", "put back"),
    ("sign", "owner", "SC-021", "sign", "Sealed file"),
    ("instruments", "engineer", "", "/instruments", "PG-101"),
    ("derive-gas", "engineer", "IA-012", "derive", "Energy as area"),
    ("specification", "engineer", "", "/specification", "Which full scale"),
    ("library", "engineer", "", "/library", "yield ksi"),
];

/// A view in another size and light: name, who, pack, path, words, width, height, light.
type View = (&'static str, &'static str, &'static str, &'static str, &'static str, u32, u32, &'static str);
/// The same for other sizes and another light of the screen.
const SIZED: [View; 2] = [
    ("raise-tablet-outdoor", "supervisor", "CW-007", "raise", "Pumping curve", 800, 1280, "outdoor"),
    ("one-page-phone", "boiler-owner", "QT-002", "page", "Before it begins", 390, 844, "light"),
];

#[tokio::main]
async fn main() -> Result<()> {
    let env = |name: &str| std::env::var(name).with_context(|| format!("{name} is not set: run `cargo xtask shots`"));
    let (base, only) = (env("ZERO_LEAK_BASE")?, std::env::var("ZERO_LEAK_SHOTS_ONLY").unwrap_or_default());
    let out = PathBuf::from(env("ZERO_LEAK_SHOTS_OUT")?);
    let people: Vec<DemoPerson> = serde_json::from_str(&env("ZERO_LEAK_PEOPLE")?)?;
    let password = |name: &str| people.iter().find(|p| p.sign_in == name).map_or("", |p| p.password.as_str());
    let engineer = Person::sign_in(&base, "engineer", password("engineer")).await?;
    let packs = engineer.packs().await?;
    let browser = Browser::start(&base).await?;
    browser.open("/").await?;
    browser.see("Password").await?;
    if only.is_empty() || "verify".contains(&only) {
        let pack = packs.iter().find(|p| p["number"] == "SC-021").context("SC-021")?;
        let view = engineer.get(&format!("/packs/{}", pack["id"].as_str().unwrap_or_default())).await?;
        let attempt = view["attempts"][0]["id"].as_str().unwrap_or_default().to_owned();
        let file = engineer.request(reqwest::Method::GET, &format!("/attempts/{attempt}/sealed")).send().await?.bytes().await?;
        let folder = tempfile::tempdir()?;
        let record = folder.path().join("SC-021-attempt-1.sealed.json");
        std::fs::write(&record, file)?;
        browser.open("/verify").await?;
        browser.upload("Sealed file", &record).await?;
        browser.see("Genuine").await?;
        browser.picture(&out.join("verify.png")).await?;
    }
    let mut signed_in = "";
    for (name, who, number, path, says) in VIEWS.iter().filter(|v| v.0.contains(&only)) {
        if signed_in != *who {
            browser.sign_out().await?;
            browser.sign_in(who, password(who)).await?;
            signed_in = who;
        }
        let path = if number.is_empty() {
            (*path).to_owned()
        } else {
            let pack = packs.iter().find(|p| p["number"] == *number).with_context(|| (*number).to_owned())?;
            format!("/tests/{}/{path}", pack["id"].as_str().unwrap_or_default())
        };
        browser.open(&path).await?;
        browser.see(says).await.with_context(|| (*name).to_owned())?;
        browser.driver.execute("await document.fonts.ready; document.activeElement?.blur();", Vec::new()).await.ok();
        browser.picture(&out.join(format!("{name}.png"))).await?;
        println!("{name}.png");
    }
    for (name, who, number, path, says, width, height, light) in SIZED.iter().filter(|v| v.0.contains(&only)) {
        browser.sign_out().await?;
        browser.sign_in(who, password(who)).await?;
        browser.choose("Light of the screen", light).await?;
        browser.size(*width, *height).await?;
        let pack = packs.iter().find(|p| p["number"] == *number).with_context(|| (*number).to_owned())?;
        browser.open(&format!("/tests/{}/{path}", pack["id"].as_str().unwrap_or_default())).await?;
        browser.see(says).await.with_context(|| (*name).to_owned())?;
        browser.driver.execute("await document.fonts.ready; document.activeElement?.blur();", Vec::new()).await.ok();
        browser.picture(&out.join(format!("{name}.png"))).await?;
        println!("{name}.png");
        browser.size(1280, 800).await?;
        browser.choose("Light of the screen", "light").await?;
    }
    browser.end().await
}
