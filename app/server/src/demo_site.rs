//! Who loads an invented site into an installation that is being set up.

use pack::people::Role;
use serde::Serialize;

/// Somebody of the invented site.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct DemoAccount {
    /// Sign-in name.
    pub sign_in: String,
    /// Password, made up for this installation and shown once.
    pub password: String,
    /// What they do.
    pub does: String,
}

/// Loads an invented site through the API, as its people would enter it.
pub trait LoadsDemo: std::fmt::Debug + Send + Sync {
    /// Its people, with passwords made up now.
    fn people(&self) -> Vec<(DemoAccount, Role)>;
    /// Begins to load it; what fails stands in the server's log.
    fn load(&self, people: Vec<DemoAccount>);
}
