//! Files that released versions wrote: every one of every format is still opened, verified and served.

use anyhow::{Context, Result};
use demo::client::Person;
use e2e::site::{binary, root};
use host::database::Database;
use host::folder::Folder;
use host::installation::{Installation, Options};
use reqwest::Method;
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
            // without the key of the installation nobody says whose it is; what nobody signed is no record
            let expected = match command {
                "verify" if name.contains("no-signature") => 1,
                "verify" => 3,
                _ => 0,
            };
            assert_eq!(code, Some(expected), "{command} {}: {says}", file.display());
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
        if !kept {
            // a database with signatures and no key is not started with a new one unless somebody says so
            std::fs::write(home.key_file(), "5a".repeat(32))?;
            let owner = [("ZERO_LEAK_OWNER_URL", database.owner_url())];
            for args in
                [vec!["migrate".to_owned()], vec!["adopt-key".to_owned(), "--key-file".to_owned(), home.key_file().display().to_string()]]
            {
                let out = Command::new(binary()?).args(&args).envs(owner.clone()).output()?;
                anyhow::ensure!(out.status.success(), "{args:?}: {}", String::from_utf8_lossy(&out.stderr));
            }
        }
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
            bench: false,
        };
        let installation = Installation::start(place.path(), options).await?;
        let engineer = Person::sign_in(&installation.base(), "engineer", "test-password-of-engineer").await?;
        let packs = engineer.packs().await?;
        assert!(packs.len() > 30, "{}: {} packs", folder.display(), packs.len());
        let mut signed = 0;
        for line in &packs {
            let id = line["id"].as_str().context("a pack has no id")?;
            let pack = engineer.get(&format!("/packs/{id}")).await.with_context(|| format!("{}: {}", folder.display(), line["number"]))?;
            if line["number"] == "SW-014" {
                taken_over(&folder, &pack)?;
            }
            assert!(pack["rows"].as_array().is_some_and(|r| r.iter().all(|r| r["typed"].is_object())), "{}", line["number"]);
            for attempt in pack["attempts"].as_array().into_iter().flatten() {
                if attempt["signatures"].as_array().is_none_or(Vec::is_empty) {
                    continue;
                }
                let of = attempt["id"].as_str().context("an attempt has no id")?;
                for what in ["sealed", "report"] {
                    let file = place.path().join(what);
                    let answer = engineer.request(Method::GET, &format!("/attempts/{of}/{what}")).send().await?;
                    if !kept {
                        // another key's signatures are never handed out under this one
                        let (status, says) = (answer.status(), answer.text().await?);
                        assert!(status == 409 && says.contains("does not prove itself"), "{status} {says}");
                        continue;
                    }
                    anyhow::ensure!(answer.status().is_success(), "{} {}: {}", line["number"], answer.status(), answer.text().await?);
                    std::fs::write(&file, answer.bytes().await?)?;
                    let public = installation.key_line.rsplit("public key ").next().unwrap_or_default().trim_end_matches(')');
                    let (code, says) = code(&["verify", "--key", public], &file)?;
                    assert_eq!(code, Some(0), "{} {} {what}: {says}", folder.display(), line["number"]);
                }
                signed += 1;
            }
        }
        assert!(signed >= 3, "{}: {signed} signed attempts", folder.display());
        let today = engineer.today().await?;
        assert!(today["signed"].as_i64().is_some_and(|n| n >= 2), "{today}");
        installation.stop().await?;
    }
    Ok(())
}

/// Punch items and blinds of before they were a register are there, with who booked them and when.
fn taken_over(folder: &Path, pack: &serde_json::Value) -> Result<()> {
    let of = |register: &str, field: &str, name: &str| {
        let found = pack[register].as_array().and_then(|all| all.iter().find(|i| i[field] == name)).cloned();
        found.with_context(|| format!("{}: {name} is not in {register}", folder.display()))
    };
    let blind = of("boundary", "tag", "TB-21")?;
    assert_eq!((&blind["set_for_test"], &blind["put_back"], &blind["version"]), (&true.into(), &false.into(), &1.into()));
    assert_eq!(blind["marks"]["set_for_test"]["by"], "supervisor");
    if folder.ends_with("4") {
        // 2026-11-29T22:45:01.673659Z in the dump
        assert_eq!(blind["marks"]["set_for_test"]["at_us"], 1_795_992_301_673_659_i64);
    }
    assert_eq!(of("boundary", "tag", "PSV-31")?["marks"], serde_json::json!({}));
    assert_eq!(of("punch", "number", "07")?["text"], "weld 12 not examined");
    Ok(())
}
