//! The people of the site, by role, with passwords that are made up for each installation.

use serde::{Deserialize, Serialize};

/// A person of the demo.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct DemoPerson {
    /// Sign-in name.
    pub sign_in: String,
    /// Role.
    pub role: String,
    /// Made-up password.
    pub password: String,
    /// What they do on the site.
    pub does: String,
}

/// Names, roles and what each does.
pub const PEOPLE: [(&str, &str, &str); 8] = [
    ("engineer", "engineer", "plans and derives"),
    ("supervisor", "supervisor", "gets permits, releases and runs the test"),
    ("reader", "reader", "reads gauges"),
    ("inspector", "inspector", "looks, and signs as inspected"),
    ("witness", "witness", "sees packs on which they are named"),
    ("owner", "owner", "accepts"),
    ("boiler-owner", "owner", "owns a miniature boiler and tests it alone"),
    ("administrator", "administrator", "looks after the installation, reads the security log"),
];

const WORDS: [&str; 32] = [
    "anchor", "basin", "cedar", "delta", "ember", "fjord", "gravel", "harbour", "island", "juniper", "kelp", "lantern", "meadow", "nickel",
    "otter", "pebble", "quarry", "river", "saffron", "timber", "umber", "valley", "willow", "yarrow", "zephyr", "barley", "copper", "dune",
    "estuary", "flint", "granite", "heron",
];

/// A password of three words, made of a secret in hex of at least twelve digits.
pub fn password(secret: &str) -> String {
    let at = |from: usize| usize::from_str_radix(secret.get(from..from + 2).unwrap_or("0"), 16).unwrap_or(0) % WORDS.len();
    format!("{}-{}-{}-{}", WORDS[at(0)], WORDS[at(2)], WORDS[at(4)], secret.get(8..11).unwrap_or("000"))
}
