//! Free ports on loopback.

use anyhow::{Context, Result};
use rand::RngExt;
use std::net::TcpListener;

/// A port between 20 000 and 32 000 that nobody listens on: below the range that the system hands out by itself.
///
/// # Errors
/// When two hundred tries find none.
pub fn free() -> Result<u16> {
    let mut rng = rand::rng();
    (0..200)
        .map(|_| rng.random_range(20_000..32_000))
        .find(|p| TcpListener::bind(("127.0.0.1", *p)).is_ok())
        .context("no free port between 20000 and 32000 on loopback: end a program that holds them")
}
