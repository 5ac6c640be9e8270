//! The command line, on the examples that stand beside the published formats.

use anyhow::{Context, Result};
use e2e::site::{binary, root};
use serde_json::Value;
use std::path::PathBuf;
use std::process::{Command, Output};

fn run(args: &[&str]) -> Result<Output> {
    Ok(Command::new(binary()?).args(args).output()?)
}

fn example(name: &str) -> String {
    root().join("docs/formats").join(name).display().to_string()
}

fn json(out: &Output) -> Result<Value> {
    serde_json::from_slice(&out.stdout).with_context(|| String::from_utf8_lossy(&out.stderr).into_owned())
}

/// An example with one thing changed, in a file of its own.
fn changed(name: &str, change: impl FnOnce(&mut Value)) -> Result<(tempfile::TempDir, PathBuf)> {
    let mut value: Value = serde_json::from_str(&std::fs::read_to_string(example(name))?)?;
    change(&mut value);
    let folder = tempfile::tempdir()?;
    let file = folder.path().join("changed.json");
    std::fs::write(&file, value.to_string())?;
    Ok((folder, file))
}

/// Worked by hand: 1.5 × 16 = 24 bar at 18.5 m; 17.3 m of water at 15 °C (999.1 kg/m³) weigh 1.695 bar, so 25.695 at the gauge,
/// 25.7 on a gauge read to 0.1 bar. The class 150 flange, 20 bar at 38 °C in the published table, takes 1.5 × 20 = 30 bar at 1.0 m,
/// which is 0.2 m below the gauge: 30 − 0.0196 = 29.980.
#[test]
fn derive_gives_the_worked_figures_of_the_dn150_line() -> Result<()> {
    let out = run(&["derive", &example("system.example.json")])?;
    assert_eq!(out.status.code(), Some(0));
    let derived = json(&out)?;
    let bar = |name: &str| derived[name].as_f64().unwrap_or(f64::NAN) / 1e5;
    assert!((bar("lower_readable_pa") - 25.7).abs() < 1e-9, "{}", bar("lower_readable_pa"));
    assert!((bar("upper_shown_pa") - 29.98).abs() < 1e-9, "{}", bar("upper_shown_pa"));
    assert!((bar("lower_pa") - 25.695).abs() < 5e-4, "{}", bar("lower_pa"));
    assert_eq!((&derived["lower_part"], &derived["upper_part"]), (&"Top run".into(), &"Bottom flange".into()));
    Ok(())
}

/// A folder: one line a system in the order of the names, a refusal with its field among them, and 1 for it.
#[test]
fn derive_reads_a_folder_of_systems() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let text = std::fs::read_to_string(example("system.example.json"))?;
    std::fs::write(folder.path().join("b.json"), &text)?;
    std::fs::write(folder.path().join("a.json"), text.replace("\"b31_3\"", "\"b31_1\""))?;
    std::fs::write(folder.path().join("notes.txt"), "no system")?;
    let run_on = || run(&["derive", &folder.path().display().to_string()]);
    let out = run_on()?;
    assert_eq!(out.status.code(), Some(0), "{}", String::from_utf8_lossy(&out.stderr));
    let lines: Vec<Value> = String::from_utf8(out.stdout)?.lines().map(serde_json::from_str).collect::<Result<_, _>>()?;
    assert_eq!(lines.iter().map(|l| l["file"].as_str().unwrap_or_default()).collect::<Vec<_>>(), ["a.json", "b.json"]);
    assert_eq!(lines[1]["derived"]["lower_part"], "Top run");
    std::fs::write(folder.path().join("c.json"), text.replace("\"b31_3\"", "\"b31_4\""))?;
    let out = run_on()?;
    assert_eq!(out.status.code(), Some(1));
    let last = String::from_utf8(out.stdout)?.lines().last().unwrap_or_default().to_owned();
    let last: Value = serde_json::from_str(&last)?;
    assert_eq!(last["refused"]["field"], "basis");
    assert!(last["refused"]["sentence"].as_str().is_some_and(|s| s.contains("use one of b31_3")), "{last}");
    let empty = tempfile::tempdir()?;
    assert_eq!(run(&["derive", &empty.path().display().to_string()])?.status.code(), Some(2));
    Ok(())
}

#[test]
fn an_answer_is_an_answer_whatever_it_is() -> Result<()> {
    // an empty window is computed: it exits with 0 and names both parts
    let (_folder, file) = changed("system.example.json", |v| v["basis"]["design_pressure_pa"] = 2.2e6.into())?;
    let out = run(&["derive", &file.display().to_string()])?;
    assert_eq!(out.status.code(), Some(0));
    assert!(json(&out)?["conflict"]["sentence"].as_str().is_some_and(|s| s.contains("Top run") && s.contains("Bottom flange")));
    // so is a hold without temperatures, which shows nothing
    let (_folder, file) = changed("hold-case.example.json", |v| {
        for r in v["readings"].as_array_mut().into_iter().flatten() {
            r["temperature_c"] = Value::Null;
        }
    })?;
    let out = run(&["judge", &file.display().to_string()])?;
    assert_eq!(out.status.code(), Some(0));
    assert_eq!(json(&out)?["found"]["finding"], "not_shown");
    Ok(())
}

#[test]
fn judge_answers_the_worked_example() -> Result<()> {
    let out = run(&["judge", &example("hold-case.example.json")])?;
    assert_eq!(out.status.code(), Some(0), "{}", String::from_utf8_lossy(&out.stderr));
    let judgement = json(&out)?;
    assert_eq!(judgement["found"]["finding"], "leak_shown");
    // the leak that the example's generator put in, L/h (see the formats' page)
    let truth = 0.582_452_713_366_145_4;
    let leak = &judgement["found"]["leak"];
    let l_per_h = |name: &str| leak[name].as_f64().unwrap_or(f64::NAN) * 3.6e6;
    assert!(l_per_h("lo_m3_per_s") < truth && truth < l_per_h("hi_m3_per_s"), "{leak}");
    Ok(())
}

#[test]
fn what_cannot_be_computed_is_one_sentence_and_two() -> Result<()> {
    let (_a, no_height) = changed("system.example.json", |v| {
        v["parts"][0].as_object_mut().map(|p| p.remove("elevation_m"));
    })?;
    let (_b, zero) = changed("system.example.json", |v| v["basis"]["design_pressure_pa"] = 0.0.into())?;
    let (_c, wall) = changed("system.example.json", |v| v["parts"][0]["wall_m"] = (-0.007).into())?;
    let (_d, lag) = changed("hold-case.example.json", |v| v["bodies"][0]["skin_lag_s"] = 0.0.into())?;
    for (command, file, says) in [
        ("derive", no_height, "elevation_m"),
        ("derive", zero, "design_pressure_pa"),
        ("derive", wall, "wall"),
        ("judge", lag, "bodies.skin_lag_s must be above zero"),
        ("derive", PathBuf::from("/nowhere/at/all.json"), "cannot be read"),
        ("judge", PathBuf::from(example("system.example.json")), "is not a hold case"),
    ] {
        let out = run(&[command, &file.display().to_string()])?;
        assert_eq!(out.status.code(), Some(2), "{command} {}", file.display());
        assert!(out.stdout.is_empty());
        let said = String::from_utf8(out.stderr)?;
        assert!(said.contains(says) && said.trim().lines().count() == 1, "{said}");
    }
    Ok(())
}

#[test]
fn verify_tells_genuine_altered_and_unreadable_apart() -> Result<()> {
    let (file, key) = (example("sealed-record.example.json"), example("sealed-record.example.key"));
    let unknown = run(&["verify", &file])?;
    assert_eq!(unknown.status.code(), Some(3), "whole, but by whom?");
    assert!(String::from_utf8(unknown.stdout)?.starts_with("Unaltered since it was sealed; who sealed it is not known."));
    assert_eq!(run(&["verify", &file, "--key", &key])?.status.code(), Some(0));
    // the public key of the first test of RFC 8032, 7.1
    let other = "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a";
    assert_eq!(run(&["verify", &file, "--key", other])?.status.code(), Some(1));
    assert_eq!(run(&["verify", &file, "--key", "no key"])?.status.code(), Some(2));
    let (_folder, altered) = changed("sealed-record.example.json", |v| v["parts"]["readings"]["readings"][0]["pressure_pa"] = 9e5.into())?;
    let out = run(&["verify", &altered.display().to_string()])?;
    assert_eq!(out.status.code(), Some(1));
    assert!(String::from_utf8(out.stdout)?.contains("Altered: readings"));
    for unreadable in [example("README.md"), "/nowhere/at/all".to_owned()] {
        let out = run(&["verify", &unreadable])?;
        assert_eq!(out.status.code(), Some(2), "{unreadable}");
        assert_eq!(String::from_utf8(out.stderr)?.trim().lines().count(), 1);
    }
    Ok(())
}
