//! The installation's key (Ed25519) and its fingerprint.

use crate::canonical::{hex, sha256, sha256_hex, unhex};
use ed25519_dalek::{Signature, Signer, SigningKey, VerifyingKey};

/// The key that an installation seals with. It is kept in a file outside the database.
pub struct SealingKey(SigningKey);

impl std::fmt::Debug for SealingKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "SealingKey({})", self.public().fingerprint())
    }
}

impl SealingKey {
    /// From 32 secret bytes.
    pub fn from_bytes(secret: [u8; 32]) -> Self {
        Self(SigningKey::from_bytes(&secret))
    }
    /// From the hex text of a key file.
    pub fn from_hex(text: &str) -> Option<Self> {
        Some(Self::from_bytes(unhex(text.trim())?.try_into().ok()?))
    }
    /// Its public half.
    pub fn public(&self) -> PublicKey {
        PublicKey(self.0.verifying_key())
    }
    /// Secret bytes of another key, for a purpose: SHA-256 of the purpose and this secret.
    pub fn derived(&self, purpose: &str) -> [u8; 32] {
        sha256(&[purpose.as_bytes(), b"\0", self.0.as_bytes()].concat())
    }
    /// Signature of a message, in hex.
    pub fn sign(&self, message: &[u8]) -> String {
        hex(&self.0.sign(message).to_bytes())
    }
}

/// The public half: anybody may have it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PublicKey(VerifyingKey);

impl PublicKey {
    /// From hex.
    pub fn from_hex(text: &str) -> Option<Self> {
        let bytes: [u8; 32] = unhex(text.trim())?.try_into().ok()?;
        VerifyingKey::from_bytes(&bytes).ok().map(Self)
    }
    /// As hex.
    pub fn to_hex(self) -> String {
        hex(self.0.as_bytes())
    }
    /// Fingerprint: the first 16 bytes of the key's SHA-256 in groups of four hex digits.
    pub fn fingerprint(&self) -> String {
        let digest = sha256_hex(self.0.as_bytes());
        digest.as_bytes()[..32].chunks(4).map(|c| String::from_utf8_lossy(c).into_owned()).collect::<Vec<_>>().join(" ")
    }
    /// True when the signature is of this message by this key (strict: no malleable form passes).
    pub fn verifies(&self, message: &[u8], signature_hex: &str) -> bool {
        let Some(bytes) = unhex(signature_hex).and_then(|b| <[u8; 64]>::try_from(b).ok()) else { return false };
        self.0.verify_strict(message, &Signature::from_bytes(&bytes)).is_ok()
    }
}
