//! Commands that need no server: derive, judge, verify.

use anyhow::{Context, Result, anyhow};
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
    println!("{}", serde_json::to_string_pretty(value)?);
    Ok(())
}

/// Derives a system.
pub fn derive(file: &Path) -> Result<()> {
    let system: rules::system::System = read(file, "system")?;
    let derived = rules::system::derive(&system).map_err(|e| anyhow!("{} ({})", e, e.field()))?;
    print(&derived)
}

/// Judges a hold.
pub fn judge(file: &Path) -> Result<()> {
    let case: judge::HoldCase = read(file, "hold case")?;
    check(&case)?;
    print(&judge::judge(&case))
}

/// What would make a judgement meaningless.
fn check(case: &judge::HoldCase) -> Result<()> {
    if case.hold_end_s.partial_cmp(&case.hold_start_s) != Some(std::cmp::Ordering::Greater) {
        return Err(anyhow!("the hold must end after it starts: hold_start_s is {}, hold_end_s is {}", case.hold_start_s, case.hold_end_s));
    }
    if let Some(pair) = case.readings.windows(2).find(|w| w[1].t_s < w[0].t_s) {
        return Err(anyhow!("readings must be in time order: {} s comes after {} s", pair[1].t_s, pair[0].t_s));
    }
    let positive = |name: &str, v: f64| if v > 0.0 && v.is_finite() { Ok(()) } else { Err(anyhow!("{name} must be above zero, not {v}")) };
    positive("gauge.division_pa", case.gauge.division_pa.pa())?;
    positive("gauge.full_scale_pa", case.gauge.full_scale_pa.pa())?;
    positive("atmosphere_pa", case.atmosphere_pa.pa())?;
    for s in &case.segments {
        positive("segments.volume_m3", s.volume_m3.m3())?;
        positive("segments.wall_m", s.wall_m.m())?;
        positive("segments.elastic.youngs_modulus_pa", s.elastic.youngs_modulus_pa.pa())?;
        if s.outside_diameter_m.m() <= 2.0 * s.wall_m.m() {
            return Err(anyhow!(
                "{}: a wall of {} m does not fit an outside diameter of {} m",
                s.name,
                s.wall_m.m(),
                s.outside_diameter_m.m()
            ));
        }
    }
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
    let sealed = if report::attached::is_pdf(&bytes) {
        match report::check::check(&bytes) {
            Ok((sealed, pages)) => {
                println!("The PDF carries a sealed file. {}", pages.sentence());
                sealed
            }
            Err(e) => {
                eprintln!("zero-leak: {e}");
                return ExitCode::from(2);
            }
        }
    } else {
        bytes
    };
    match record::verify::verify(&sealed, expected.as_ref()) {
        Verification::Genuine { fingerprint, key_compared, checked } => {
            println!("Genuine: nothing was altered since it was sealed.");
            checked.iter().for_each(|c| println!("{c}"));
            if key_compared {
                println!("Sealed by the key that you gave, {fingerprint}.");
            } else {
                println!(
                    "Sealed by the key {fingerprint}: compare it with the fingerprint of the installation that should have sealed it, or give that key with --key. Anybody can seal with a key of their own."
                );
            }
            ExitCode::SUCCESS
        }
        Verification::Altered { parts, sentence } => {
            println!("Not genuine. {sentence}");
            println!("Altered: {}", parts.join(", "));
            ExitCode::from(1)
        }
        Verification::Unreadable { sentence } => {
            eprintln!("zero-leak: {sentence}");
            ExitCode::from(2)
        }
    }
}

fn public_key(given: &str) -> Result<PublicKey> {
    let text = if Path::new(given).is_file() {
        std::fs::read_to_string(given).with_context(|| format!("{given} cannot be read"))?
    } else {
        given.to_owned()
    };
    PublicKey::from_hex(&text).ok_or_else(|| anyhow!("\"{given}\" is not a public key: give its 64 hex digits, or a file that holds them"))
}
