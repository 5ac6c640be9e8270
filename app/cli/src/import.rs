//! What a file would bring: told as JSON, without a database; nothing is stored.

use anyhow::{Context, Result, anyhow};
use formats::{delimited, network, parts};
use quantity::PressureUnit;
use std::path::Path;

/// What a list of parts comes to.
#[derive(serde::Serialize)]
struct List {
    rows_read: usize,
    rows_refused: usize,
    /// Columns that mean nothing here.
    ignored_columns: Vec<String>,
    findings: Vec<Finding>,
}

#[derive(serde::Serialize)]
struct Finding {
    line: usize,
    column: String,
    sentence: String,
}

/// Tells what a water network or a list of parts would bring. Pressures without a unit are in bar.
pub fn import(file: &Path) -> Result<()> {
    let name = file.display();
    let size = std::fs::metadata(file).with_context(|| format!("{name} cannot be read"))?.len();
    if size > network::LONGEST {
        return Err(anyhow!(
            "{name} has {} MB, and no list or network has more than {}: export the part of it that is tested",
            size >> 20,
            network::LONGEST >> 20
        ));
    }
    let bytes = std::fs::read(file).with_context(|| format!("{name} cannot be read"))?;
    let (text, _) = delimited::decode(&bytes).map_err(|e| anyhow!("{name}: {e}"))?;
    let json = if network::is_network(&text) {
        serde_json::to_string_pretty(&network::read(&bytes).map_err(|e| anyhow!("{name}: {e}"))?.told())?
    } else {
        serde_json::to_string_pretty(&list(&bytes).map_err(|e| anyhow!("{name}: {e:#}"))?)?
    };
    crate::say::say(json);
    Ok(())
}

fn list(bytes: &[u8]) -> Result<List> {
    let fate = parts::read_text(rules::library::shipped(), bytes, None, PressureUnit::Bar)?;
    if !fate.headed {
        return Err(anyhow!(
            "its first line ({}) names no columns: name at least what it is called and its height, as tag and elevation",
            fate.first_line.join(", ")
        ));
    }
    let findings = fate
        .rows
        .iter()
        .flat_map(|r| r.problems.iter().map(|p| Finding { line: r.line, column: p.column.clone(), sentence: p.sentence.clone() }));
    Ok(List {
        rows_read: fate.rows.len(),
        rows_refused: fate.rows.len() - fate.good,
        findings: findings.collect(),
        ignored_columns: fate.ignored_columns,
    })
}
