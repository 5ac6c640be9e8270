//! The sealed record: canonical form, hashes, signatures, and the check that anyone with the file can make.

pub mod canonical;
pub mod chain;
pub mod key;
pub mod sealed;
pub mod verify;
