//! Commands that need no server: derive, judge, verify.

use crate::say::say;
use anyhow::{Context, Result, anyhow};
use paper::check::Pages;
use record::key::PublicKey;
use record::verify::Verification;
use serde::de::DeserializeOwned;
use std::path::Path;
use std::process::ExitCode;

fn read<T: DeserializeOwned>(file: &Path, what: &str) -> Result<T> {
    let text = std::fs::read_to_string(file).with_context(|| format!("{} cannot be read", file.display()))?;
    serde_json::from_str(&text).map_err(|e| anyhow!("{} is not a {what}: {e}", file.display()))
}

fn print<T: serde::Serialize>(value: &T) -> Result<()> {
    say(serde_json::to_string_pretty(value)?);
    Ok(())
}

/// One line for a file of a folder: what was derived, or why nothing was.
#[derive(serde::Serialize)]
struct Line {
    file: String,
    #[serde(flatten)]
    said: Said,
}

#[derive(serde::Serialize)]
#[serde(rename_all = "snake_case")]
enum Said {
    Derived(Box<rules::system::Derived>),
    Refused { field: String, sentence: String },
}

/// Derives a system; of a folder each system in it, one line of JSON a file in the order of their names. A folder answers with 1 where one of its
/// systems was refused.
pub fn derive(path: &Path) -> Result<ExitCode> {
    if !path.is_dir() {
        let system: rules::system::System = read(path, "system")?;
        let derived = rules::system::derive(&system).map_err(|e| anyhow!("{} ({})", e, e.field()))?;
        print(&derived)?;
        return Ok(ExitCode::SUCCESS);
    }
    let mut files: Vec<_> = std::fs::read_dir(path)
        .with_context(|| format!("{} cannot be read", path.display()))?
        .filter_map(|e| Some(e.ok()?.path()))
        .filter(|p| p.extension().is_some_and(|e| e == "json"))
        .collect();
    files.sort();
    if files.is_empty() {
        return Err(anyhow!("{} holds no file that ends in .json: give a folder of systems", path.display()));
    }
    let mut refused = false;
    for file in files {
        let said = match read::<rules::system::System>(&file, "system") {
            Ok(system) => match rules::system::derive(&system) {
                Ok(derived) => Said::Derived(Box::new(derived)),
                Err(e) => Said::Refused { field: e.field().to_owned(), sentence: format!("{e}.") },
            },
            Err(e) => Said::Refused { field: "file".to_owned(), sentence: format!("{e:#}.") },
        };
        refused |= matches!(said, Said::Refused { .. });
        let file = file.file_name().map_or_else(String::new, |n| n.to_string_lossy().into_owned());
        say(serde_json::to_string(&Line { file, said })?);
    }
    Ok(if refused { ExitCode::from(1) } else { ExitCode::SUCCESS })
}

/// Judges a hold.
pub fn judge(file: &Path) -> Result<()> {
    let case: judge::HoldCase = read(file, "hold case")?;
    case.usable().map_err(|e| anyhow!(e))?;
    let mut judgement = judge::judge(&case);
    let lines = judgement.lines.take();
    print(&Judged { lines, judgement })
}

/// A judgement with its three lines first.
#[derive(serde::Serialize)]
struct Judged {
    #[serde(flatten)]
    lines: Option<judge::lines::ThreeLines>,
    #[serde(flatten)]
    judgement: judge::Judgement,
}

/// Tells a run.
pub fn run(file: &Path) -> Result<()> {
    let (run, now, tell) = read::<run::file::RunFile>(file, "run")?.open().map_err(|e| anyhow!("{} is not told: {e}", file.display()))?;
    run.story(&now, &tell).into_iter().for_each(say);
    Ok(())
}

/// Checks a sealed file, or a report with one in it.
pub fn verify(file: &Path, key: Option<&str>) -> ExitCode {
    let bytes = match std::fs::read(file) {
        Ok(bytes) => bytes,
        Err(e) => {
            eprintln!("zero-leak: {} cannot be read: {e}", file.display());
            return ExitCode::from(2);
        }
    };
    let expected = match key.map(public_key).transpose() {
        Ok(key) => key,
        Err(e) => {
            eprintln!("zero-leak: {e:#}");
            return ExitCode::from(2);
        }
    };
    let (sealed, pages) = if paper::attached::is_pdf(&bytes) {
        match paper::check::check(&bytes, &report::Typesetter) {
            Ok((sealed, pages)) => (sealed, Some(pages)),
            Err(e) => {
                eprintln!("zero-leak: {e}");
                return ExitCode::from(2);
            }
        }
    } else {
        (bytes, None)
    };
    let found = record::verify::verify(&sealed, expected.as_ref());
    let (code, lines) = told(&found, pages);
    if code == 2 {
        lines.iter().for_each(|l| eprintln!("zero-leak: {l}"));
    } else {
        lines.iter().chain(&superseding(&sealed)).for_each(say);
    }
    ExitCode::from(code)
}

/// What a check found, the gravest first, with the exit code: 0 genuine, 1 altered, unsigned or by another key, 2 unreadable, 3 not all is proven.
fn told(found: &Verification, pages: Option<Pages>) -> (u8, Vec<String>) {
    let (code, mut lines) = match found {
        Verification::Genuine { fingerprint, key_compared, checked } => {
            let head = if *key_compared {
                "Genuine: nothing was altered since it was sealed."
            } else {
                "Unaltered since it was sealed; who sealed it is not known."
            };
            let by = if *key_compared {
                format!("Sealed by the key that you gave, {fingerprint}.")
            } else {
                format!(
                    "Sealed by the key {fingerprint}: compare it with the fingerprint of the installation that should have sealed it, or give that key with --key. Anybody can seal with a key of their own."
                )
            };
            (if *key_compared { 0 } else { 3 }, [vec![head.to_owned()], checked.clone(), vec![by]].concat())
        }
        Verification::Altered { parts, sentence } => {
            (1, vec![format!("Not genuine. {sentence}"), format!("Altered: {}", parts.join(", "))])
        }
        Verification::Unsigned { sentence } => (1, vec![format!("Not a record. {sentence}")]),
        Verification::Unreadable { sentence } => return (2, vec![sentence.clone()]),
    };
    let Some(pages) = pages else { return (code, lines) };
    match pages {
        Pages::Signed | Pages::AsPrinted => {
            lines.push(pages.sentence().to_owned());
            (code, lines)
        }
        Pages::NotAsPrinted => (if code == 1 { 1 } else { 3 }, [vec![pages.sentence().to_owned()], lines].concat()),
        Pages::Altered => (1, [vec![format!("Not genuine. {}", pages.sentence())], lines].concat()),
    }
}

/// What a record says of one that it supersedes.
fn superseding(sealed: &[u8]) -> Vec<String> {
    let subject = serde_json::from_slice::<record::sealed::SealedRecord>(sealed).ok().map(|r| r.parts.subject);
    let earlier = subject.and_then(|s| Some((s.supersedes?, s.supersedes_reason.unwrap_or_default())));
    let mut lines: Vec<String> =
        earlier.map(|(hash, why)| format!("It supersedes the record with the content SHA-256 {hash}: {why}")).into_iter().collect();
    lines.push("Whether a later record supersedes it is known to the installation that sealed it: ask there.".to_owned());
    lines
}

fn public_key(given: &str) -> Result<PublicKey> {
    let text = if Path::new(given).is_file() {
        std::fs::read_to_string(given).with_context(|| format!("{given} cannot be read"))?
    } else {
        given.to_owned()
    };
    PublicKey::from_hex(&text).ok_or_else(|| anyhow!("\"{given}\" is not a public key: give its 64 hex digits, or a file that holds them"))
}

/// Checks an exported security log.
pub fn check_log(file: &Path) -> Result<ExitCode> {
    let text = std::fs::read_to_string(file).with_context(|| format!("{} cannot be read", file.display()))?;
    match record::chain::check_file(&text) {
        Ok((entries, last)) => {
            println!("{entries} entries follow one another; the last has the hash {last}.");
            println!("Whether later ones were left out is told by comparing that hash with the log of the installation.");
            Ok(ExitCode::SUCCESS)
        }
        Err(e) => {
            println!("Altered: {e}.");
            Ok(ExitCode::from(1))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_line_and_the_exit_code_say_the_gravest() {
        let genuine = |key_compared| Verification::Genuine { fingerprint: "f".into(), key_compared, checked: vec![] };
        let altered = Verification::Altered { parts: vec!["events".into()], sentence: "Altered after sealing: events.".into() };
        let unsigned = Verification::Unsigned { sentence: "Nobody signed it.".into() };
        let unreadable = Verification::Unreadable { sentence: "No.".into() };
        for (found, pages, code, first) in [
            (genuine(true), None, 0, "Genuine"),
            (genuine(false), None, 3, "Unaltered since it was sealed; who sealed it is not known"),
            (genuine(true), Some(Pages::Signed), 0, "Genuine"),
            (genuine(true), Some(Pages::AsPrinted), 0, "Genuine"),
            (genuine(true), Some(Pages::NotAsPrinted), 3, "The pages are in doubt"),
            (genuine(true), Some(Pages::Altered), 1, "Not genuine. The pages are not those that were printed"),
            (altered.clone(), None, 1, "Not genuine"),
            (altered, Some(Pages::NotAsPrinted), 1, "The pages are in doubt"),
            (unsigned, None, 1, "Not a record. Nobody signed it"),
            (unreadable, None, 2, "No."),
        ] {
            let (got, lines) = told(&found, pages);
            assert!(got == code && lines[0].starts_with(first), "{found:?} {pages:?}: {got} {lines:?}");
        }
    }
}
