//! Files that released versions wrote: every one of every format is still opened, verified and served.

use anyhow::{Context, Result};
use demo::client::Person;
use e2e::site::{binary, root};
use host::database::Database;
use host::folder::Folder;
use host::installation::{Installation, Options};
use reqwest::Method;
use serde_json::Value;
use std::path::{Path, PathBuf};
use std::process::Command;

/// The folder of each format, by its number.
fn formats() -> Result<Vec<PathBuf>> {
    let mut all: Vec<PathBuf> =
        std::fs::read_dir(root().join("tests/old_files"))?.filter_map(|e| Some(e.ok()?.path())).filter(|p| p.is_dir()).collect();
    all.sort();
    anyhow::ensure!(all.len() >= 2, "the folders of the old formats are gone");
    Ok(all)
}

fn code(args: &[&str], file: &Path) -> Result<(Option<i32>, String)> {
    let out = Command::new(binary()?).args(args).arg(file).output()?;
    Ok((out.status.code(), format!("{}{}", String::from_utf8_lossy(&out.stdout), String::from_utf8_lossy(&out.stderr))))
}

/// Whatever a version sealed, printed or read from a file, the command line of this one still takes.
#[test]
fn every_old_file_is_verified_derived_and_judged() -> Result<()> {
    let mut seen = 0;
    for folder in formats()? {
        for entry in std::fs::read_dir(&folder)? {
            let file = entry?.path();
            let name = file.file_name().and_then(|n| n.to_str()).unwrap_or_default().to_owned();
            let command = match name.split('.').next() {
                Some("sealed-record") => "verify",
                Some("report") if !name.contains("draft") => "verify",
                Some("system") => "derive",
                Some("hold-case") => "judge",
                _ => continue,
            };
            let (code, says) = code(&[command], &file)?;
            assert_eq!(code, Some(0), "{command} {}: {says}", file.display());
            seen += 1;
        }
    }
    assert!(seen >= 12, "only {seen} files");
    Ok(())
}

/// A database of each format is restored and migrated; every pack opens, and what was signed is handed out as it was sealed.
#[tokio::test(flavor = "multi_thread")]
async fn every_old_database_is_taken_over() -> Result<()> {
    for folder in formats()? {
        let place = tempfile::tempdir()?;
        let home = Folder::open(place.path())?;
        // of the first format no key was kept: its signatures are then told to be another key's
        let key = folder.join("sealing.key");
        let kept = key.is_file();
        if kept {
            std::fs::copy(&key, home.key_file())?;
        }
        let database = Database::start(&home).await?;
        database.restore(&folder.join("database.sql"))?;
        database.stop().await?;
        let options = Options {
            binary: binary()?,
            site: "Merrowick Works".to_owned(),
            zone: "UTC".to_owned(),
            port: None,
            sign_in_burst: 50,
            rig: None,
            training_clock: None,
        clock_set: None,
        };
        let installation = Installation::start(place.path(), options).await?;
        let engineer = Person::sign_in(&installation.base(), "engineer", "test-password-of-engineer").await?;
        let packs = engineer.get("/packs").await?.as_array().cloned().unwrap_or_default();
        assert!(packs.len() > 30, "{}: {} packs", folder.display(), packs.len());
        let mut signed = 0;
        for line in &packs {
            let id = line["id"].as_str().context("a pack has no id")?;
            let pack = engineer.get(&format!("/packs/{id}")).await.with_context(|| format!("{}: {}", folder.display(), line["number"]))?;
            assert!(pack["rows"].as_array().is_some_and(|r| r.iter().all(|r| r["typed"].is_object())), "{}", line["number"]);
            for attempt in pack["attempts"].as_array().into_iter().flatten() {
                if attempt["signatures"].as_array().is_none_or(Vec::is_empty) {
                    continue;
                }
                let of = attempt["id"].as_str().context("an attempt has no id")?;
                for what in ["sealed", "report"] {
                    let file = place.path().join(what);
                    let body =
                        engineer.request(Method::GET, &format!("/attempts/{of}/{what}")).send().await?.error_for_status()?.bytes().await?;
                    std::fs::write(&file, body)?;
                    let (code, says) = code(&["verify"], &file)?;
                    assert_eq!(code, Some(i32::from(!kept)), "{} {} {what}: {says}", folder.display(), line["number"]);
                    assert!(kept || says.contains("signature"), "{says}");
                }
                signed += 1;
            }
        }
        assert!(signed >= 3, "{}: {signed} signed attempts", folder.display());
        let today: Value = engineer.get("/today").await?;
        assert!(today.is_object() || today.is_array());
        installation.stop().await?;
    }
    Ok(())
}
