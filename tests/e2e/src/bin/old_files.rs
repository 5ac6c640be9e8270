//! Writes one of each kind of file as this version writes them, for `tests/old_files`: `cargo run -p e2e --bin old_files FOLDER`.

use anyhow::{Context, Result};
use e2e::site::{Site, root};
use reqwest::Method;
use serde_json::Value;
use std::path::Path;

#[tokio::main]
async fn main() -> Result<()> {
    let folder = std::env::args().nth(1).context("name the folder to write into")?;
    let folder = Path::new(&folder);
    std::fs::create_dir_all(folder)?;
    let site = Site::with_rig(None).await?;
    site.load_demo().await?;
    let engineer = site.person("engineer").await?;
    let mut wanted = vec![(1, "one-signature"), (4, "four-signatures")];
    let mut draft = true;
    for line in engineer.packs().await? {
        let pack = engineer.get(&format!("/packs/{}", text(&line["id"]))).await?;
        for attempt in pack["attempts"].as_array().cloned().unwrap_or_default() {
            let signatures = attempt["signatures"].as_array().map_or(0, Vec::len);
            let path = format!("/attempts/{}", text(&attempt["id"]));
            if let Some(i) = wanted.iter().position(|w| w.0 == signatures) {
                let (_, name) = wanted.remove(i);
                keep(&engineer, &format!("{path}/sealed"), &folder.join(format!("sealed-record.{name}.json"))).await?;
                keep(&engineer, &format!("{path}/report"), &folder.join(format!("report.{name}.pdf"))).await?;
            } else if signatures == 0 && draft && attempt["judgement"].is_object() && attempt["over"] == Value::Bool(true) {
                draft = false;
                keep(&engineer, &format!("{path}/report"), &folder.join("report.draft.pdf")).await?;
            }
        }
    }
    anyhow::ensure!(wanted.is_empty() && !draft, "the demo lacks {wanted:?}, or a run that nobody signed");
    for (from, to) in [("docs/formats/system.example.json", "system.json"), ("docs/formats/hold-case.example.json", "hold-case.json")] {
        std::fs::copy(root().join(from), folder.join(to))?;
    }
    // the key goes with the database, or nothing that was signed in it could be told genuine again; it seals nothing but invented records
    std::fs::copy(site.installation.folder.key_file(), folder.join("sealing.key"))?;
    std::fs::write(folder.join("database.sql"), site.installation.database.dump()?)?;
    site.stop().await
}

fn text(v: &Value) -> &str {
    v.as_str().unwrap_or_default()
}

async fn keep(person: &demo::client::Person, path: &str, file: &Path) -> Result<()> {
    let response = person.request(Method::GET, path).send().await?.error_for_status()?;
    Ok(std::fs::write(file, response.bytes().await?)?)
}
