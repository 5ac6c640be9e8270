//! The demo's site.

use crate::{binary, root};
use ::demo::people::{DemoPerson, PEOPLE, password};
use anyhow::Result;
use host::folder::{Folder, write_private};
use host::installation::{Installation, Options};
use std::path::Path;
use std::time::{Duration, Instant};

/// The demo's people with passwords that are made up once for each installation and kept beside it.
pub fn people(folder: &Folder) -> Result<Vec<DemoPerson>> {
    let file = folder.path().join("people.json");
    if let Ok(text) = std::fs::read_to_string(&file) {
        return Ok(serde_json::from_str(&text)?);
    }
    let all: Vec<DemoPerson> = PEOPLE
        .iter()
        .map(|(sign_in, role, does)| {
            let secret = folder.secret(&format!("password-{sign_in}"))?;
            Ok(DemoPerson {
                sign_in: (*sign_in).to_owned(),
                role: (*role).to_owned(),
                does: (*does).to_owned(),
                password: password(&secret),
            })
        })
        .collect::<Result<_>>()?;
    write_private(&file, &serde_json::to_string_pretty(&all)?)?;
    Ok(all)
}

/// Starts an installation in a folder, and loads the demo into it once.
pub async fn start(path: &Path, port: Option<u16>) -> Result<(Installation, Vec<DemoPerson>)> {
    println!("Starting the database and the server ...");
    let options = Options {
        binary: binary()?,
        site: "Merrowick Works".to_owned(),
        zone: "UTC".to_owned(),
        port,
        sign_in_burst: 60,
        rig: Some(root().join("docs/formats/examples/pump-house.rig.json")),
        training_clock: None,
        clock_set: None,
        bench: false,
    };
    let installation = Installation::start(path, options).await?;
    let people = people(&installation.folder)?;
    let loaded = installation.folder.path().join("demo-loaded");
    if !loaded.exists() {
        println!("Loading the demo ...");
        let began = Instant::now();
        for p in &people {
            installation.person(&p.sign_in, &p.role, &p.password).await?;
        }
        let finished = finished(installation.binary()).await?;
        let rig = installation.rig.as_ref().map(|r| ::demo::merrowick::RigSite { port: r.port, finished });
        ::demo::merrowick::load(&installation.base(), &people, rig.as_ref(), &|what| println!("  {what}, {} s", began.elapsed().as_secs()))
            .await?;
        std::fs::write(loaded, "")?;
    }
    Ok((installation, people))
}

/// A run of the practice rig from beginning to end, as its recorder wrote it.
async fn finished(binary: &Path) -> Result<Vec<u8>> {
    let scenario = root().join("docs/formats/examples/boiler-feed.rig.json");
    let out = tokio::process::Command::new(binary).arg("rig").arg(scenario).args(["--trace", "6600", "--every", "5"]).output().await?;
    anyhow::ensure!(out.status.success(), "the practice rig failed: {}", String::from_utf8_lossy(&out.stderr));
    Ok(out.stdout)
}

/// Runs the demo until Ctrl-C.
pub async fn demo(fresh: bool, port: u16) -> Result<()> {
    let path = root().join(".local/demo");
    if fresh && path.exists() {
        std::fs::remove_dir_all(&path)?;
    }
    let (mut installation, people) = start(&path, Some(port)).await?;
    println!("\nMerrowick Works, an invented site, is open at {}\n", installation.base());
    for p in &people {
        println!("  {:<13} {:<30} {}", p.sign_in, p.password, p.does);
    }
    println!("\n{}\nCtrl-C stops all that this started; the data stays for the next time (`--fresh` starts over).", installation.key_line);
    let log = installation.folder.path().join("server.log");
    let mut ends: Vec<Instant> = Vec::new();
    loop {
        tokio::select! {
            _ = tokio::signal::ctrl_c() => break,
            () = installation.server_ended() => {}
        }
        ends.retain(|at| at.elapsed() < Duration::from_secs(60));
        ends.push(Instant::now());
        if ends.len() > MOST_ENDS {
            println!("Stopping ...");
            installation.stop().await?;
            anyhow::bail!("the server ended {MOST_ENDS} times within a minute; see {}", log.display());
        }
        println!("The server ended by itself (see {}). It is started again ...", log.display());
        installation.start_server().await?;
        println!("It serves again at {}", installation.base());
    }
    println!("Stopping ...");
    installation.stop().await
}

/// How often the server may end within a minute before the demo gives up.
const MOST_ENDS: usize = 3;
