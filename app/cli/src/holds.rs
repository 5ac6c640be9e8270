//! Holds in folders: `case.json` with `readings.csv`.

use anyhow::{Context, Result, anyhow};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

fn folders(path: &Path) -> Result<Vec<PathBuf>> {
    if holdfolder::is_case(path) {
        return Ok(vec![path.to_owned()]);
    }
    let mut all: Vec<PathBuf> = std::fs::read_dir(path)
        .with_context(|| format!("{} cannot be read", path.display()))?
        .filter_map(|e| Some(e.ok()?.path()))
        .filter(|p| holdfolder::is_case(p))
        .collect();
    all.sort();
    Ok(all)
}

/// A hold that could not be read, in the shape of the others.
#[derive(serde::Serialize)]
struct Unreadable {
    case: String,
    verdict: &'static str,
    reason: String,
}

/// Judges each hold of a folder, one line of JSON a hold in the order of their names; 1 where one of them could not be read.
pub fn judge(path: &Path) -> Result<ExitCode> {
    let folders = folders(path)?;
    if folders.is_empty() {
        return Err(anyhow!("{} holds no folder with case.json and readings.csv", path.display()));
    }
    let next = AtomicUsize::new(0);
    let lines: Mutex<Vec<(usize, String, bool)>> = Mutex::new(Vec::new());
    let threads = std::thread::available_parallelism().map_or(1, std::num::NonZero::get).min(folders.len());
    std::thread::scope(|scope| {
        for _ in 0..threads {
            scope.spawn(|| {
                loop {
                    let at = next.fetch_add(1, Ordering::Relaxed);
                    let Some(folder) = folders.get(at) else { break };
                    let (line, read) = line(folder);
                    lines.lock().unwrap_or_else(std::sync::PoisonError::into_inner).push((at, line, read));
                }
            });
        }
    });
    let mut lines = lines.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
    lines.sort_by_key(|l| l.0);
    lines.iter().for_each(|l| crate::say::say(&l.1));
    Ok(if lines.iter().all(|l| l.2) { ExitCode::SUCCESS } else { ExitCode::from(1) })
}

/// The line of one folder, and whether it could be read.
fn line(folder: &Path) -> (String, bool) {
    let name = || folder.file_name().map_or_else(String::new, |n| n.to_string_lossy().into_owned());
    let unreadable = |reason: String| {
        let line = Unreadable { case: name(), verdict: "not_shown", reason };
        (serde_json::to_string(&line).unwrap_or_default(), false)
    };
    match holdfolder::read(folder) {
        Ok(hold) => match serde_json::to_string(&holdfolder::judge(&hold)) {
            Ok(line) => (line, true),
            Err(e) => unreadable(e.to_string()),
        },
        Err(e) => unreadable(e.to_string()),
    }
}
