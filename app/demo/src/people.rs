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
