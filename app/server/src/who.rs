//! Who asks: the session behind a request, and the defence against forged requests.

use crate::door::{Named, is_change};
use crate::problem::Problem;
use crate::state::App;
use crate::store::pack::PackRow;
use crate::{session_store, sign_in};
use axum::extract::FromRequestParts;
use axum::http::request::Parts;
use pack::people::Role;
use quantity::{Chosen, PressureUnit, Units};
use rules::say::Say;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use terms::{Term, VariantArray as _};
use tower_sessions::{Expiry, Session};

/// Header that carries the session's token on every request that changes something.
pub const TOKEN_HEADER: &str = "x-request-token";

/// Header that names the units in which the person reads, "psi,fahrenheit,foot,us_gallon"; without one of pressures they read what a gauge shows.
pub const UNITS_HEADER: &str = "x-units";
/// The same for pressures alone.
const UNIT_HEADER: &str = "x-pressure-unit";

/// What a person reads: a set of units, pressures in that of the gauge in hand where they chose none.
#[derive(Debug, Clone, Copy, Default)]
pub struct Reader {
    /// Their own choice for pressures; a bare pressure that they send is in it.
    pub pressure: Option<PressureUnit>,
    chosen: Chosen,
    usual: Units,
}

impl Reader {
    /// From words, "psi,fahrenheit,foot,us_gallon"; what they leave out is as `usual` has it.
    pub fn of(words: &str, usual: Units) -> Self {
        let chosen = Chosen::read(words);
        Self { pressure: chosen.pressure, chosen, usual }
    }

    /// The same where others are usual.
    #[must_use]
    pub fn usually(self, usual: Units) -> Self {
        Self { usual, ..self }
    }

    /// Before a gauge that shows `gauge`.
    pub fn units(self, gauge: PressureUnit) -> Units {
        self.chosen.over(self.usual.at(gauge))
    }

    /// Where no gauge is in hand.
    pub fn without_gauge(self) -> Say {
        Say(self.units(self.usual.pressure))
    }
}

/// A signed-in person.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Who {
    /// Sign-in name.
    pub sign_in: String,
    /// True for whoever looks after the installation, who has no part in any test.
    #[serde(skip)]
    pub administrator: bool,
    /// Roles by project.
    #[serde(skip)]
    pub roles: BTreeMap<String, Role>,
    /// True where a second factor is in use.
    #[serde(skip)]
    pub second_factor: bool,
    /// True where the site asks for a second factor and there is none yet: nothing else is open until there is.
    #[serde(skip)]
    pub owes_factor: bool,
    /// Changes with the password.
    #[serde(default)]
    pub credential: String,
    /// Token against forged requests.
    pub token: String,
    /// Units in which this request's sentences are said.
    #[serde(skip)]
    pub reads: Reader,
    /// The session's place in the table.
    #[serde(skip)]
    pub session: String,
}

/// What is open to whoever owes a second factor.
const OWN: &str = "/api/v1/session";

/// A session that is used goes on: so long after its last use it ends.
pub const IDLE: time::Duration = time::Duration::hours(12);
/// It is written anew once this much of that has gone.
pub const RENEW_AFTER: time::Duration = time::Duration::minutes(30);

impl Who {
    /// Nobody in particular, who sees every pack of a project and reads figures later: for what is made before anybody asks.
    pub fn later(project: &str) -> Self {
        Self {
            sign_in: String::new(),
            administrator: false,
            roles: BTreeMap::from([(project.to_owned(), Role::Engineer)]),
            second_factor: false,
            owes_factor: false,
            credential: String::new(),
            token: String::new(),
            reads: Reader { usual: Units::later(), ..Reader::default() },
            session: String::new(),
        }
    }

    /// Their role in a project; none where they have no part in it.
    pub fn role_in(&self, project: &str) -> Option<Role> {
        self.roles.get(project).copied()
    }

    /// What they read on a pack: their own choice, and else what its project has.
    pub fn reads_on(&self, pack: &PackRow) -> Reader {
        self.reads.usually(pack.project.units)
    }

    /// How people call what they are: "engineer", "engineer and witness".
    pub fn role_words(&self) -> String {
        if self.administrator {
            return Role::Administrator.words().to_owned();
        }
        let all: Vec<&str> = Role::VARIANTS.iter().filter(|r| self.roles.values().any(|of| of == *r)).map(|r| r.words()).collect();
        match all.split_last() {
            None => "without a role".to_owned(),
            Some((last, [])) => (*last).to_owned(),
            Some((last, others)) => format!("{} and {last}", others.join(", ")),
        }
    }

    /// True while the session stands, and the account has the same password and roles: an open stream ends with them.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn stands(&self, app: &App) -> Result<bool, sqlx::Error> {
        let there = sqlx::query_scalar!("SELECT COUNT(*) FROM session WHERE id = ?", self.session).fetch_one(&app.db).await?;
        let account = sign_in::now(&app.db, &self.sign_in).await?;
        Ok(there > 0
            && account.is_some_and(|a| a.roles == self.roles && a.administrator == self.administrator && a.credential == self.credential))
    }
}

impl FromRequestParts<App> for Who {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, Problem> {
        let session = parts.extensions.get::<Session>().cloned().ok_or(Problem::NotSignedIn)?;
        let mut who: Self =
            session.get(session_store::SESSION_KEY).await.map_err(|e| session_store::problem(&e))?.ok_or(Problem::NotSignedIn)?;
        // what the account is now counts, not what it was at sign-in
        let account = sign_in::now(&app.db, &who.sign_in).await?.filter(|a| a.credential == who.credential).ok_or(Problem::NotSignedIn)?;
        (who.administrator, who.roles) = (account.administrator, account.roles);
        (who.second_factor, who.owes_factor) = (account.second_factor, account.owes_factor);
        if who.owes_factor && !parts.uri.path().starts_with(OWN) {
            return Err(Problem::NotAllowed("This site asks for a second factor: set yours up first, under your account.".to_owned()));
        }
        if let Some(named) = parts.extensions.get::<Named>() {
            let _ = named.0.set(who.sign_in.clone());
        }
        app.limits.account(&who.sign_in)?;
        if session.expiry_date() - time::OffsetDateTime::now_utc() < IDLE - RENEW_AFTER {
            session.set_expiry(Some(Expiry::OnInactivity(IDLE)));
        }
        who.session = session.id().map(|id| session_store::key(&id)).unwrap_or_default();
        if is_change(&parts.method) {
            let sent = parts.headers.get(TOKEN_HEADER).and_then(|v| v.to_str().ok()).unwrap_or("");
            if sent != who.token {
                return Err(Problem::Forged);
            }
        }
        let words = [UNITS_HEADER, UNIT_HEADER].into_iter().find_map(|h| parts.headers.get(h)?.to_str().ok()).unwrap_or("");
        who.reads = Reader::of(words, Units::default());
        Ok(who)
    }
}
