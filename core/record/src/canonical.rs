//! One byte string for one value (RFC 8785), and its SHA-256.

use serde::Serialize;
use serde_json::value::RawValue;
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;

/// The value cannot be written in canonical form (a number that is not finite).
#[derive(Debug, thiserror::Error)]
#[error("the record cannot be written in canonical form: {0}")]
pub struct NotCanonical(#[from] serde_json::Error);

/// Canonical form of a value: RFC 8785.
///
/// # Errors
/// When a number is not finite.
pub fn bytes<T: Serialize>(value: &T) -> Result<Vec<u8>, NotCanonical> {
    Ok(serde_json_canonicalizer::to_vec(value)?)
}

/// SHA-256 of bytes.
pub fn sha256(bytes: &[u8]) -> [u8; 32] {
    Sha256::digest(bytes).into()
}

/// SHA-256 of bytes, in hex.
pub fn sha256_hex(bytes: &[u8]) -> String {
    hex(&Sha256::digest(bytes))
}

/// SHA-256 of the canonical form of a value, in hex.
///
/// # Errors
/// When a number is not finite.
pub fn digest<T: Serialize>(value: &T) -> Result<String, NotCanonical> {
    Ok(sha256_hex(&bytes(value)?))
}

/// SHA-256 of each member of an object that is in canonical form, by its name.
///
/// Part of a canonical form is the canonical form of that part, so nothing is written anew.
///
/// # Errors
/// When the bytes are no object.
pub fn member_digests(object: &[u8]) -> Result<BTreeMap<String, String>, NotCanonical> {
    let members: BTreeMap<String, &RawValue> = serde_json::from_slice(object)?;
    Ok(members.into_iter().map(|(name, value)| (name, sha256_hex(value.get().as_bytes()))).collect())
}

/// Bytes as lower-case hex.
pub fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

/// Bytes from lower-case hex; none unless every character is one of its digits.
pub fn unhex(text: &str) -> Option<Vec<u8>> {
    let digit = |c: u8| match c {
        b'0'..=b'9' => Some(c - b'0'),
        b'a'..=b'f' => Some(c - b'a' + 10),
        _ => None,
    };
    let b = text.as_bytes();
    b.len().is_multiple_of(2).then_some(())?;
    b.chunks(2).map(|pair| Some(digit(pair[0])? << 4 | digit(pair[1])?)).collect()
}
