//! Is this record genuine? From the file alone, or with the key of an installation.

use crate::canonical::{bytes, digest};
use crate::key::PublicKey;
use crate::sealed::{Content, READS, SealedRecord};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use terms::Term;

/// What the check found.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
#[serde(tag = "result", rename_all = "snake_case")]
pub enum Verification {
    /// Nothing altered since it was sealed.
    Genuine {
        /// Fingerprint of the key that sealed it.
        fingerprint: String,
        /// True when it was held against a key that the reader brought.
        key_compared: bool,
        /// What was checked, in sentences.
        checked: Vec<String>,
    },
    /// Altered, or sealed by another key.
    Altered {
        /// Names of the parts that were altered.
        parts: Vec<String>,
        /// In a sentence.
        sentence: String,
    },
    /// Unaltered, but nobody signed it.
    Unsigned {
        /// In a sentence.
        sentence: String,
    },
    /// Not a sealed record.
    Unreadable {
        /// In a sentence.
        sentence: String,
    },
}

fn altered(parts: Vec<String>, sentence: String) -> Verification {
    Verification::Altered { parts, sentence }
}

/// A file as it is, beside what it means: an older format is proven by its own bytes, whatever its types have become since.
#[derive(Deserialize)]
struct Raw {
    parts: Value,
    signatures: Vec<Value>,
    seal: Value,
}

/// Checks a file: form, hash of each part, chain of signatures, seal, key, and that verdict and window follow from the
/// inputs when the same rules are at hand.
pub fn verify(file: &[u8], expected: Option<&PublicKey>) -> Verification {
    verify_again(file, expected, |_| true)
}

/// The same; window and verdict are computed again only where `again` says so of the key that sealed it. What anybody may send is not worth
/// minutes of arithmetic: whoever likes can seal a file of his own with a key of his own.
pub fn verify_again(file: &[u8], expected: Option<&PublicKey>, again: impl Fn(&PublicKey) -> bool) -> Verification {
    let damaged = |e: serde_json::Error| Verification::Unreadable {
        sentence: format!("This is not a sealed record, or it is damaged so that it cannot be read: {e}."),
    };
    if values(file) > MOST_VALUES {
        return Verification::Unreadable {
            sentence: format!("This is not a sealed record: it has more than {MOST_VALUES} values, which no record has."),
        };
    }
    let record: SealedRecord = match serde_json::from_slice(file) {
        Ok(record) => record,
        Err(e) => return damaged(e),
    };
    if !READS.contains(&record.format.as_str()) {
        return altered(
            vec!["format".to_owned()],
            format!("The file calls itself \"{}\"; this program reads {}.", record.format, READS.join(" and ")),
        );
    }
    match serde_json::from_slice::<Raw>(file) {
        Ok(raw) => check(&record, &raw, file, expected, again).unwrap_or_else(|e| e),
        Err(e) => damaged(e),
    }
}

/// Most values of a file that is read at all: a week at a reading a second is a fifth of it, and they fit into half a gigabyte.
pub const MOST_VALUES: usize = 4_000_000;

/// About how many values a file has: none follows another without one of these.
fn values(file: &[u8]) -> usize {
    file.iter().filter(|b| matches!(b, b',' | b'[' | b'{' | b':')).count()
}

fn check(
    record: &SealedRecord,
    raw: &Raw,
    file: &[u8],
    expected: Option<&PublicKey>,
    again: impl Fn(&PublicKey) -> bool,
) -> Result<Verification, Verification> {
    let impossible = |e: crate::canonical::NotCanonical| Verification::Unreadable {
        sentence: format!("The record cannot be put into canonical form: {e}."),
    };
    let seal = &record.seal;
    let content = Content::kept(bytes(&raw.parts).map_err(impossible)?).map_err(impossible)?;
    let hashes = content.part_sha256();
    let changed: Vec<String> =
        hashes.iter().filter(|(name, hash)| seal.part_sha256.get(*name) != Some(hash)).map(|(name, _)| name.clone()).collect();
    if !changed.is_empty() {
        return Err(altered(changed.clone(), format!("Altered after sealing: {}.", changed.join(", "))));
    }
    if *hashes != seal.part_sha256 || content.sha256().map_err(impossible)? != seal.content_sha256 {
        return Err(altered(vec!["seal".to_owned()], "The seal's table of hashes was altered.".to_owned()));
    }
    let Some(key) = PublicKey::from_hex(&seal.public_key) else {
        return Err(altered(vec!["seal".to_owned()], "The seal's public key was altered: it is not a key.".to_owned()));
    };
    if key.fingerprint() != seal.fingerprint {
        return Err(altered(vec!["seal".to_owned()], "The seal's fingerprint is not that of its key.".to_owned()));
    }
    if let Some(expected) = expected.filter(|e| **e != key) {
        let sentence = format!(
            "Sealed by another key: by {}, not by {}. Whoever sealed this is not the installation whose key you hold.",
            key.fingerprint(),
            expected.fingerprint()
        );
        return Err(altered(vec!["seal".to_owned()], sentence));
    }
    signatures(record, raw, &key)?;
    if digest(&raw.signatures).map_err(impossible)? != seal.signatures_sha256
        || !key.verifies(&bytes(&seal.body(&record.format)).map_err(impossible)?, &seal.ed25519)
    {
        return Err(altered(
            vec!["seal".to_owned()],
            "The seal does not fit its content: it was altered, or signatures were added or taken away.".to_owned(),
        ));
    }
    if content.file(&record.format, &raw.signatures, &raw.seal).map_err(impossible)? != file {
        return Err(altered(
            vec!["form".to_owned()],
            "The file is not in the form in which it was sealed: bytes were added, removed or reordered outside any value.".to_owned(),
        ));
    }
    if record.signatures.is_empty() {
        return Ok(Verification::Unsigned {
            sentence: "Nobody signed it, so it is no record of anything: a sealed file is handed out only once somebody has signed."
                .to_owned(),
        });
    }
    let recomputed = if again(&key) {
        recompute(record)?
    } else {
        "Window and verdict were not computed again, because the record was sealed elsewhere: `zero-leak verify` does that.".to_owned()
    };
    Ok(Verification::Genuine {
        fingerprint: key.fingerprint(),
        key_compared: expected.is_some(),
        checked: vec![
            format!("{} parts are as they were sealed.", hashes.len()),
            match record.signatures.len() {
                1 => "The one signature covers this content.".to_owned(),
                n => format!("{n} signatures follow one another and cover this content."),
            },
            recomputed,
        ],
    })
}

fn signatures(record: &SealedRecord, raw: &Raw, key: &PublicKey) -> Result<(), Verification> {
    let mut previous = String::new();
    for (s, as_it_is) in record.signatures.iter().zip(&raw.signatures) {
        let wrong = |why: &str| {
            altered(vec![format!("signature: {}", s.act.key())], format!("The signature \"{}\" by {} {why}.", s.act.key(), s.person))
        };
        if s.content_sha256 != record.seal.content_sha256 {
            return Err(wrong("is of another content"));
        }
        if s.previous_sha256 != previous {
            return Err(wrong("does not follow the one before it"));
        }
        let genuine = bytes(&s.body()).is_ok_and(|body| key.verifies(&body, &s.ed25519));
        if !genuine {
            return Err(wrong("was altered or is not by this key"));
        }
        previous = digest(as_it_is).unwrap_or_default();
    }
    Ok(())
}

/// A fit on another processor may round differently in its last places: figures that differ by less than this share of the larger are one.
const ROUNDING: f64 = 1e-3;
/// Pressures that differ by less than this are one, Pa.
const LEAST_PA: f64 = 2.0;

/// True for two judgements that say the same: words but for their figures, figures but for rounding. `name` is the field they stand in.
fn alike(name: &str, a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::Number(a), Value::Number(b)) => match (a.as_f64(), b.as_f64()) {
            (Some(a), Some(b)) => {
                let apart = (a - b).abs();
                apart <= ROUNDING * a.abs().max(b.abs()) || (name.ends_with("_pa") && apart <= LEAST_PA)
            }
            _ => a == b,
        },
        (Value::String(a), Value::String(b)) => {
            let words = |s: &str| s.chars().filter(|c| !c.is_ascii_digit() && *c != '.').collect::<String>();
            words(a) == words(b)
        }
        (Value::Array(a), Value::Array(b)) => a.len() == b.len() && a.iter().zip(b).all(|(a, b)| alike(name, a, b)),
        (Value::Object(a), Value::Object(b)) => a.len() == b.len() && a.iter().all(|(k, v)| b.get(k).is_some_and(|w| alike(k, v, w))),
        _ => a == b,
    }
}

/// Gathers the hold again from the record's own rows.
fn gathered_again(record: &SealedRecord) -> Result<(), Verification> {
    let parts = &record.parts;
    let wrong = |why: &str| altered(vec!["readings".to_owned()], format!("The hold does not follow from the rows of the run: {why}."));
    let Some(run) = parts.run().map_err(|e| wrong(&e))? else { return Ok(()) };
    let case = run.case(&parts.zone()).ok_or_else(|| wrong("they hold none"))?;
    let same = |a: f64, b: f64| (a - b).abs() <= 1e-9 * a.abs().max(b.abs()).max(1.0);
    let one = |a: Option<f64>, b: Option<f64>| a.zip(b).map_or(a.is_none() && b.is_none(), |(a, b)| same(a, b));
    let pair = |(a, b): (&judge::case::Reading, &judge::case::Reading)| {
        same(a.t_s.s(), b.t_s.s())
            && one(a.pressure_pa.map(|p| p.pa()), b.pressure_pa.map(|p| p.pa()))
            && one(a.temperature_c.map(|t| t.c()), b.temperature_c.map(|t| t.c()))
            && a.also.len() == b.also.len()
            && a.also.iter().zip(&b.also).all(|(a, b)| one(*a, *b))
    };
    let sealed = &parts.readings;
    if case.readings.len() != sealed.readings.len() || !case.readings.iter().zip(&sealed.readings).all(pair) {
        return Err(wrong("readings are not those"));
    }
    let rest = |c: &judge::HoldCase| serde_json::to_value(judge::HoldCase { readings: Vec::new(), ..c.clone() });
    match (rest(&case), rest(sealed)) {
        (Ok(a), Ok(b)) if alike("", &a, &b) => Ok(()),
        _ => Err(wrong("what is known of it besides its readings is different")),
    }
}

/// Derives and judges again; only with the rules that the record was made with.
fn recompute(record: &SealedRecord) -> Result<String, Verification> {
    if record.parts.judgement.rules_version != judge::judgement::RULES_VERSION {
        return Ok(format!(
            "The verdict was not recomputed: the record was made with rules {}, this program has {}.",
            record.parts.judgement.rules_version,
            judge::judgement::RULES_VERSION
        ));
    }
    let same =
        |a: &serde_json::Result<serde_json::Value>, b: &serde_json::Result<serde_json::Value>| matches!((a, b), (Ok(a), Ok(b)) if a == b);
    let released_by = &record.parts.subject.released_by_rules;
    let by_these = released_by.is_empty() || released_by == judge::judgement::RULES_VERSION;
    if by_these {
        let derived = rules::system::derive(&record.parts.system)
            .map_err(|e| altered(vec!["derived".to_owned()], format!("The window cannot be derived again from the inputs: {e}.")))?;
        if !same(&serde_json::to_value(&derived), &serde_json::to_value(&record.parts.derived)) {
            return Err(altered(
                vec!["derived".to_owned()],
                "The window does not follow from the inputs by the rules of this version.".to_owned(),
            ));
        }
    }
    // what no installation seals is not worth minutes of arithmetic
    record.parts.readings.usable().map_err(|e| altered(vec!["readings".to_owned()], format!("The hold cannot be judged: {e}.")))?;
    gathered_again(record)?;
    let judged = judge::judge(&record.parts.readings);
    let follows = match (serde_json::to_value(&judged), serde_json::to_value(&record.parts.judgement)) {
        (Ok(a), Ok(b)) => alike("", &a, &b),
        _ => false,
    };
    if !follows {
        return Err(altered(
            vec!["judgement".to_owned()],
            "The verdict does not follow from the readings by the rules of this version.".to_owned(),
        ));
    }
    Ok(if by_these {
        "Window and verdict follow from the inputs by the rules named.".to_owned()
    } else {
        format!(
            "The verdict follows from the inputs by the rules named; the window was frozen at the release by rules {released_by} and was not derived again."
        )
    })
}
