//! The drill: what was backed up is restored elsewhere, opens, proves itself and goes on; with another key, over something else or damaged it is refused.

use anyhow::{Context, Result, ensure};
use demo::client::{Person, id};
use e2e::fixtures;
use e2e::site::{Site, binary};
use host::database::Database;
use host::folder::{Folder, write_private};
use host::installation::{Installation, Options};
use serde_json::json;
use std::path::Path;
use std::process::Command;

/// A command of the program with the owner's address; whether it went well, and what it said.
fn run(owner: &str, args: &[&str]) -> Result<(bool, String)> {
    let out = Command::new(binary()?).args(args).env("ZERO_LEAK_OWNER_URL", owner).output()?;
    Ok((out.status.success(), String::from_utf8_lossy(&[out.stdout, out.stderr].concat()).into_owned()))
}

#[tokio::test(flavor = "multi_thread")]
async fn a_backup_is_restored_with_its_key_and_goes_on_where_it_was() -> Result<()> {
    let site = Site::start().await?;
    let (engineer, supervisor) = (site.person("engineer").await?, site.person("supervisor").await?);
    fixtures::instruments(&engineer).await?;
    let pack = fixtures::pack(&engineer, "AA-001", &fixtures::piping()).await?;
    let (attempt, start) = fixtures::release(&supervisor, &pack).await?;
    fixtures::tight_hold(&supervisor, &attempt, start).await?;
    let sign = json!({ "act": "performed", "password": site.password("supervisor") });
    supervisor.put(&format!("/attempts/{attempt}/signatures/{}", id()), &sign).await?;
    let sealed = supervisor.request(reqwest::Method::GET, &format!("/attempts/{attempt}/sealed")).send().await?.bytes().await?;

    let place = tempfile::tempdir()?;
    let backup = place.path().join("monday");
    let (to, owner) = (backup.display().to_string(), site.installation.database.owner_url());
    let (done, said) = run(&owner, &["backup", &to])?;
    ensure!(done && said.contains("The sealing key is not in it"), "{said}");
    let (done, said) = run(&owner, &["backup", &to])?;
    ensure!(!done && said.contains("is there already"), "{said}");
    let key = std::fs::read(site.installation.folder.key_file())?;
    let text = std::fs::read_to_string(backup.join("database.sql"))?;
    ensure!(!text.contains(std::str::from_utf8(&key)?.trim()), "the key is in the backup");
    elsewhere(&backup, &key, &pack, &attempt, &sealed, site.password("engineer")).await?;
    // into a database that holds something nothing is restored
    let file = site.installation.folder.key_file().display().to_string();
    let (done, said) = run(&owner, &["restore", &to, "--key-file", &file])?;
    ensure!(!done && said.contains("holds tables already"), "{said}");
    site.stop().await
}

async fn elsewhere(backup: &Path, key: &[u8], pack: &str, attempt: &str, sealed: &[u8], password: &str) -> Result<()> {
    let place = tempfile::tempdir()?;
    let home = Folder::open(place.path())?;
    let database = Database::start(&home).await?;
    let (from, owner) = (backup.display().to_string(), database.owner_url());
    let file = home.key_file().display().to_string();
    let (done, said) = run(&owner, &["restore", &from, "--key-file", &file])?;
    ensure!(!done && said.contains("the sealing key that was kept apart"), "without a key: {said}");
    write_private(&home.key_file(), &"5a".repeat(32))?;
    let (done, said) = run(&owner, &["restore", &from, "--key-file", &file])?;
    ensure!(!done && said.contains("sealed nothing in this backup"), "with another key: {said}");
    std::fs::write(home.key_file(), key)?;
    // one byte of the backup is another
    let damaged = place.path().join("damaged");
    std::fs::create_dir(&damaged)?;
    std::fs::copy(backup.join("backup.json"), damaged.join("backup.json"))?;
    let text = std::fs::read_to_string(backup.join("database.sql"))?;
    std::fs::write(damaged.join("database.sql"), text.replacen("AA-001", "AA-002", 1))?;
    let (done, said) = run(&owner, &["restore", &damaged.display().to_string(), "--key-file", &file])?;
    ensure!(!done && said.contains("is not what was backed up"), "damaged: {said}");

    let (done, said) = run(&owner, &["restore", &from, "--key-file", &file])?;
    ensure!(done, "{said}");
    database.stop().await?;
    let options = Options {
        binary: binary()?,
        site: "Another name".to_owned(),
        zone: "UTC".to_owned(),
        port: None,
        sign_in_burst: 50,
        rig: None,
        training_clock: None,
        clock_set: None,
        bench: false,
    };
    let installation = Installation::start(place.path(), options).await?;
    let engineer = Person::sign_in(&installation.base(), "engineer", password).await?;
    // the site's own name, not that which a start names for a new one
    assert_eq!(engineer.get("/session").await?["site"], "Merrowick Works");
    let view = engineer.get(&format!("/packs/{pack}")).await?;
    assert_eq!(view["attempts"][0]["signatures"][0]["person"], "supervisor");
    let again = engineer.request(reqwest::Method::GET, &format!("/attempts/{attempt}/sealed")).send().await?.bytes().await?;
    ensure!(again.as_ref() == sealed, "the sealed file is another");
    engineer.today().await?;
    let (same, said) = installation.check_lines().await?;
    ensure!(same && said.starts_with("1 packs compared"), "{said}");
    // and it goes on
    let inspector = Person::sign_in(&installation.base(), "inspector", &password.replace("engineer", "inspector")).await?;
    let body = json!({ "act": "inspected", "password": password.replace("engineer", "inspector") });
    let signed = inspector.put(&format!("/attempts/{attempt}/signatures/{}", id()), &body).await?;
    assert_eq!(signed.as_array().context("no signatures")?.len(), 2);
    installation.stop().await
}
