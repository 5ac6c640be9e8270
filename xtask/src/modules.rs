//! The modules of the server by layers: each uses only what stands below it, and no circle is closed among its files.

use crate::root;
use anyhow::{Context, Result, bail, ensure};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// Layers from the ground up: what is in one may use those of its own and all below. A module that is in none fails the check.
const LAYERS: [(&str, &[&str]); 7] = [
    (
        "ground",
        &[
            "assets",
            "clock",
            "config",
            "demo_site",
            "door",
            "grid",
            "guesses",
            "heavy",
            "kept",
            "limits",
            "migrate",
            "places",
            "practice_rigs",
            "problem",
            "reach",
            "rooms",
        ],
    ),
    ("store", &["store"]),
    ("state", &["state"]),
    ("who", &["access", "budget", "runs", "second_factor", "security", "session_store", "sign_in", "who"]),
    ("views", &["lines", "recorder", "views"]),
    ("routes", &["routes"]),
    ("front", &["api", "waiting", "lib"]),
];

/// Files with the modules that each uses.
type Uses = BTreeMap<String, BTreeSet<String>>;

/// Holds the server's modules against [`LAYERS`].
pub fn check() -> Result<()> {
    let uses = uses(&root().join("app/server/src"))?;
    ensure!(uses.len() > 50, "only {} modules of the server were looked at", uses.len());
    let arrows: usize = uses.values().map(BTreeSet::len).sum();
    ensure!(arrows > 150, "only {arrows} uses between modules of the server were looked at");
    for (module, used) in &uses {
        let from = layer(module)?;
        for other in used {
            let to = layer(other)?;
            ensure!(to <= from, "{module} ({}) uses {other} ({}), which stands above it", LAYERS[from].0, LAYERS[to].0);
        }
    }
    match circle(&uses) {
        Some(circle) => bail!("modules of the server use each other in a circle: {}", circle.join(" → ")),
        None => Ok(()),
    }
}

fn layer(module: &str) -> Result<usize> {
    let first = module.split("::").next().unwrap_or(module);
    let found = LAYERS.iter().position(|(_, modules)| modules.contains(&first));
    found.with_context(|| format!("{module} of the server is in no layer: say in xtask/src/modules.rs in which"))
}

/// Every file as a module, with the modules of the same crate that its text names outside of its tests.
fn uses(folder: &Path) -> Result<Uses> {
    let mut files: Vec<(String, PathBuf)> = Vec::new();
    walk(folder, folder, &mut files)?;
    let names: BTreeSet<String> = files.iter().map(|f| f.0.clone()).collect();
    let mut out = Uses::new();
    for (module, path) in &files {
        let text = std::fs::read_to_string(path)?;
        let text = text.split("#[cfg(test)]").next().unwrap_or_default();
        let mut used = BTreeSet::new();
        for (word, from) in [("crate::", ""), ("super::", parent(module))] {
            for (at, _) in text.match_indices(word) {
                used.extend(named(from, &text[at + word.len()..], &names));
            }
        }
        used.remove(module);
        // a folder's own file only lists what is in it
        used.retain(|u| !(u.starts_with(&format!("{module}::")) || module.starts_with(&format!("{u}::"))));
        out.insert(module.clone(), used);
    }
    Ok(out)
}

fn parent(module: &str) -> &str {
    module.rsplit_once("::").map_or("", |m| m.0)
}

/// The modules that a path begins with, or the several of a group in braces.
fn named(from: &str, piece: &str, names: &BTreeSet<String>) -> Vec<String> {
    let join = |rest: &str| if from.is_empty() { rest.to_owned() } else { format!("{from}::{rest}") };
    let ends = |c: char| !(c.is_alphanumeric() || c == '_' || c == ':');
    let path = piece.split(ends).next().unwrap_or_default().trim_end_matches(':');
    let rest = &piece[path.len()..];
    let group = rest.trim_start_matches(':').strip_prefix('{').and_then(|g| g.split('}').next());
    let mut paths = vec![join(path)];
    paths.extend(group.into_iter().flat_map(|g| g.split(',')).map(|p| {
        let inner = p.trim().split(ends).next().unwrap_or_default();
        if path.is_empty() { join(inner) } else { join(&format!("{path}::{inner}")) }
    }));
    paths.iter().filter_map(|p| longest(p, names)).collect()
}

/// The longest beginning of a path that is a module.
fn longest(path: &str, names: &BTreeSet<String>) -> Option<String> {
    let parts: Vec<&str> = path.split("::").collect();
    (1..=parts.len()).rev().map(|n| parts[..n].join("::")).find(|p| names.contains(p))
}

fn walk(folder: &Path, at: &Path, out: &mut Vec<(String, PathBuf)>) -> Result<()> {
    for entry in std::fs::read_dir(at)? {
        let path = entry?.path();
        if path.is_dir() {
            walk(folder, &path, out)?;
        } else if path.extension().is_some_and(|e| e == "rs") {
            let inner = path.strip_prefix(folder)?.with_extension("");
            let mut parts: Vec<String> = inner.iter().map(|p| p.to_string_lossy().into_owned()).collect();
            if parts.len() > 1 && parts.last().is_some_and(|p| p == "mod") {
                parts.pop();
            }
            out.push((parts.join("::"), path));
        }
    }
    Ok(())
}

/// A circle of modules, where there is one.
fn circle(uses: &Uses) -> Option<Vec<String>> {
    let mut done: BTreeSet<&str> = BTreeSet::new();
    uses.keys().find_map(|m| follow(m, uses, &mut Vec::new(), &mut done))
}

fn follow<'a>(module: &'a str, uses: &'a Uses, way: &mut Vec<&'a str>, done: &mut BTreeSet<&'a str>) -> Option<Vec<String>> {
    if let Some(at) = way.iter().position(|w| *w == module) {
        return Some(way[at..].iter().copied().chain([module]).map(str::to_owned).collect());
    }
    if done.contains(module) {
        return None;
    }
    way.push(module);
    let found = uses.get(module).into_iter().flatten().find_map(|used| follow(used, uses, way, done));
    way.pop();
    done.insert(module);
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    fn graph(lines: &[(&str, &[&str])]) -> Uses {
        lines.iter().map(|(m, u)| ((*m).to_owned(), u.iter().map(|x| (*x).to_owned()).collect())).collect()
    }

    #[test]
    fn a_circle_is_found_however_long_and_none_where_there_is_none() {
        assert_eq!(circle(&graph(&[("a", &["b", "c"]), ("b", &["c"]), ("c", &[])])), None);
        let round = circle(&graph(&[("a", &["b"]), ("b", &["c"]), ("c", &["d"]), ("d", &["b"])])).unwrap();
        assert_eq!(round, ["b", "c", "d", "b"]);
    }

    #[test]
    fn modules_are_found_in_paths_and_in_braces() {
        let names: BTreeSet<String> = ["store", "store::tick", "state"].map(str::to_owned).into();
        let found = |piece: &str| named("", piece, &names);
        assert_eq!(found("state::App;"), ["state"]);
        assert_eq!(found("store::{tick, other};"), ["store", "store::tick", "store"]);
        assert_eq!(found("store::tick::after(db)"), ["store::tick"]);
        assert_eq!(found("{state, store::tick};"), ["state", "store::tick"]);
        assert!(layer("nothing").is_err());
    }
}
