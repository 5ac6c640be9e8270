//! What a file would bring: told as JSON, without a database; nothing is stored.

use anyhow::{Context, Result, anyhow};
use formats::{delimited, network, parts, workbook};
use quantity::PressureUnit;
use std::io::Read;
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
    // no more is read than is taken, whatever the file says of its size
    let mut bytes = Vec::new();
    let opened = std::fs::File::open(file).with_context(|| format!("{name} cannot be read"))?;
    opened.take(network::LONGEST + 1).read_to_end(&mut bytes).with_context(|| format!("{name} cannot be read"))?;
    if bytes.len() as u64 > network::LONGEST {
        return Err(anyhow!(
            "{name} has more than {} MB, which no list or network has: export the part of it that is tested",
            network::LONGEST >> 20
        ));
    }
    let a_workbook = workbook::is_workbook(&bytes) || workbook::is_old_workbook(&bytes);
    let text = if a_workbook { String::new() } else { delimited::decode(&bytes).map_err(|e| anyhow!("{name}: {e}"))?.0 };
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
