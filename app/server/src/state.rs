//! What every request needs.

use crate::clock::Clock;
use crate::config::Config;
use crate::door::Door;
use crate::guesses::Guesses;
use crate::heavy::Heavy;
use crate::kept::{Kept, Runs};
use crate::limits::Limits;
use crate::places::Places;
use crate::practice_rigs::PracticeRigs;
use crate::rooms::Hub;
use crate::store::project::Project;
use anyhow::{Context, Result};
use moment::{Instant, Zone};
use pack::instrument::IsoDate;
use quantity::Units;
use record::key::SealingKey;
use rules::say::Say;
use run::Tell;
use sqlx::mysql::{MySqlConnectOptions, MySqlPoolOptions, MySqlSslMode};
use std::str::FromStr;
use std::sync::Arc;
use std::time::Duration;
use tokio_util::sync::CancellationToken;

/// Shared state.
#[derive(Debug, Clone)]
pub struct App {
    /// Connections of the server's account, those of the usual requests or those of the urgent ones.
    pub db: sqlx::MySqlPool,
    /// Connections that only recording, booking and following a run use.
    pub urgent: sqlx::MySqlPool,
    /// Connections of those who sign while others add, two for each.
    pub signing: sqlx::MySqlPool,
    /// Who may do so at once.
    pub signers: Arc<tokio::sync::Semaphore>,
    /// Key that records are sealed with.
    pub key: Arc<SealingKey>,
    /// What lays reports out.
    pub press: Arc<dyn paper::Press>,
    /// Key that printed pages are signed with.
    pub paper_key: Arc<paper::paper_key::PaperKey>,
    /// How much one account and one address may ask for.
    pub limits: Arc<Limits>,
    /// Places of those that are answered at once.
    pub places: Arc<Places>,
    /// Where people reach this server.
    pub door: Arc<Door>,
    /// Where instruments may answer.
    pub reach: crate::reach::Reach,
    /// The installation's clock.
    pub clock: Clock,
    /// The code with which an empty installation is set up; none where somebody has an account.
    pub setup_code: Option<Arc<str>>,
    /// Loads an invented site where whoever sets up asks for it.
    pub demo: Option<Arc<dyn crate::demo_site::LoadsDemo>>,
    /// True where the routes answer that figures are held against.
    pub bench: bool,
    /// The practice rig of this installation.
    pub rig: Option<std::net::SocketAddr>,
    /// Rigs of the practice runs.
    pub practice: Arc<PracticeRigs>,
    /// Runs that somebody watches.
    pub hub: Arc<Hub>,
    /// Runs that somebody looked at lately.
    pub runs: Arc<Runs>,
    /// Judgements that were made.
    pub judgements: Arc<Kept>,
    /// Wrong passwords.
    pub guesses: Arc<Guesses>,
    /// Passwords, which are slow to check on purpose.
    pub passwords: Arc<Heavy>,
    /// Files that anybody may send to be checked.
    pub checking: Arc<Heavy>,
    /// Files of people who are signed in, looked at before they are stored.
    pub looking: Arc<Heavy>,
    /// Layout of reports.
    pub printing: Arc<Heavy>,
    /// Where the lists stand, for those who follow them.
    pub news: tokio::sync::watch::Sender<Option<crate::store::standing::Stand>>,
    /// Wakes the worker that keeps the lines of lists.
    pub lines: Arc<tokio::sync::Notify>,
    /// Set when the server is to stop, so that open streams end.
    pub stopping: CancellationToken,
}

/// How many sign at once while others add.
const SIGNERS: u32 = 2;

/// Connections of the usual requests.
const USUAL: u32 = 10;
/// Connections of the urgent ones.
const URGENT: u32 = 8;
/// How long a request waits for a connection, or for the database to be there.
const CONNECTED_WITHIN: Duration = Duration::from_millis(900 * crate::places::SLOWER);

fn options(url: &str) -> Result<MySqlConnectOptions> {
    Ok(MySqlConnectOptions::from_str(url)?.ssl_mode(MySqlSslMode::Disabled))
}

/// A pool for one of the installation's accounts; loopback has no TLS.
///
/// # Errors
/// When the database cannot be reached.
pub async fn pool(url: &str, connections: u32) -> Result<sqlx::MySqlPool> {
    MySqlPoolOptions::new()
        .max_connections(connections)
        .acquire_timeout(Duration::from_secs(10))
        .connect_with(options(url)?)
        .await
        .context("the database cannot be reached: is MariaDB running?")
}

/// A pool that connects when it is needed, and says soon that it cannot.
fn server_pool(url: &str, connections: u32) -> Result<sqlx::MySqlPool> {
    Ok(MySqlPoolOptions::new()
        .max_connections(connections)
        .min_connections(connections / 2)
        .acquire_timeout(CONNECTED_WITHIN)
        .connect_lazy_with(options(url)?))
}

/// Host and port of a database's address.
pub fn place(url: &str) -> String {
    options(url).map_or_else(|_| "its address".to_owned(), |o| format!("{}:{}", o.get_host(), o.get_port()))
}

/// Whether the database answers; if not, why not.
///
/// # Errors
/// When it answers and does not take this account.
pub async fn answers(url: &str) -> Result<std::result::Result<(), String>> {
    use sqlx::ConnectOptions;
    match tokio::time::timeout(CONNECTED_WITHIN, options(url)?.connect()).await {
        Err(_) => Ok(Err("it does not answer".to_owned())),
        Ok(Ok(_)) => Ok(Ok(())),
        Ok(Err(e)) if crate::problem::is_away(&e) => Ok(Err(e.to_string())),
        Ok(Err(e)) => Err(e).context("the database does not take this server's account: check ZERO_LEAK_DATABASE_URL"),
    }
}

impl App {
    /// Connects and reads or makes the key.
    ///
    /// # Errors
    /// When the database cannot be reached or the key cannot be read.
    pub async fn start(config: &Config) -> Result<Self> {
        let db = server_pool(&config.database_url, USUAL)?;
        crate::migrate::current(&db).await?;
        let key = sealing_key(&db, &config.key_file).await?;
        if let Some(site) = &config.site {
            let zone = Zone::named(&config.zone).with_context(|| format!("there is no zone {}: name one as Europe/Lisbon", config.zone))?;
            crate::store::site::begin(&db, site, &zone, config.units).await?;
        }
        Ok(Self {
            db: db.clone(),
            urgent: server_pool(&config.database_url, URGENT)?,
            signing: server_pool(&config.database_url, 2 * SIGNERS)?,
            signers: Arc::new(tokio::sync::Semaphore::new(SIGNERS as usize)),
            paper_key: Arc::new(paper::paper_key::PaperKey::of(&key)?),
            press: Arc::clone(&config.press),
            key: Arc::new(key),
            limits: Arc::new(Limits::new(config.sign_in_burst)),
            places: Arc::default(),
            door: Arc::new(config.door.clone()),
            reach: crate::reach::Reach { networks: config.instruments.as_slice().into(), rig: config.rig },
            clock: config.clock,
            rig: config.rig,
            bench: config.bench,
            setup_code: if crate::store::account::nobody(&db).await? { Some(setup_code().into()) } else { None },
            demo: config.demo.clone(),
            practice: Arc::new(PracticeRigs::new(config.practice.clone())),
            hub: Arc::default(),
            runs: Arc::default(),
            judgements: Arc::default(),
            guesses: Arc::default(),
            passwords: Arc::new(Heavy::new(2, 64, Duration::from_secs(10))),
            looking: Arc::new(Heavy::new(2, 16, Duration::from_secs(15))),
            checking: Arc::new(Heavy::new(1, 8, Duration::from_secs(20))),
            printing: Arc::new(Heavy::new(2, 16, Duration::from_secs(20))),
            news: tokio::sync::watch::Sender::new(None),
            lines: Arc::default(),
            stopping: CancellationToken::new(),
        })
    }

    /// The same with the connections of what is urgent.
    #[must_use]
    pub fn urgent(&self) -> Self {
        Self { db: self.urgent.clone(), ..self.clone() }
    }

    /// The day in a zone.
    pub fn today(&self, zone: &Zone) -> IsoDate {
        IsoDate(zone.day(self.clock.now()))
    }

    /// The day of an instant in a zone.
    pub fn day_of(at: Instant, zone: &Zone) -> IsoDate {
        IsoDate(zone.day(at))
    }

    /// An instant as people say it: the clock for today, with the day on another.
    pub fn moment(&self, zone: &Zone, at: Instant) -> String {
        zone.said(at, self.clock.now())
    }

    /// How somebody is told who reads these units on a pack of a project.
    pub fn tell(&self, project: &Project, units: Units) -> Tell {
        Tell { say: Say(units), zone: project.zone.clone(), at: self.clock.now() }
    }
}

/// Letters and figures that nobody takes for one another.
const PLAIN: &[u8; 31] = b"ABCDEFGHJKMNPQRSTUVWXYZ23456789";

/// A code that is read off a terminal and typed, "K7QM-2XRA".
fn setup_code() -> String {
    let letter = || char::from(PLAIN[usize::from(rand::random::<u16>()) % PLAIN.len()]);
    let four = || std::iter::repeat_with(letter).take(4).collect::<String>();
    format!("{}-{}", four(), four())
}

/// The sealing key: read from its file; made only where this database knows of none, so that a lost file is never replaced in silence.
async fn sealing_key(db: &sqlx::MySqlPool, file: &std::path::Path) -> Result<SealingKey> {
    let known = crate::store::signature::known_keys(db)
        .await
        .context("the database does not say which keys sealed here: run `zero-leak migrate`")?;
    let signed = crate::store::signature::any(db).await?;
    match std::fs::read_to_string(file) {
        Ok(text) => {
            let key = SealingKey::from_hex(&text)
                .with_context(|| format!("{} does not hold a sealing key: restore it from its backup", file.display()))?;
            let hex = key.public().to_hex();
            if !known.is_empty() && !known.contains(&hex) {
                anyhow::bail!(
                    "{} holds another key ({}) than those that sealed the records of this database: restore the key from its backup. To go on with a new \
                     key, run `zero-leak adopt-key --key-file {}` as the owner of the database; what was sealed before stays as it was sealed.",
                    file.display(),
                    key.public().fingerprint(),
                    file.display()
                );
            }
            Ok(key)
        }
        Err(e) if e.kind() == std::io::ErrorKind::NotFound && known.is_empty() && !signed => make_key(file),
        Err(e) if e.kind() == std::io::ErrorKind::NotFound => anyhow::bail!(
            "{} is not there, and this database holds records that were sealed with a key: restore the file from its backup. Without it nothing more can \
             be added to what was signed.",
            file.display()
        ),
        Err(e) => Err(e).with_context(|| format!("{} cannot be read", file.display())),
    }
}

fn make_key(file: &std::path::Path) -> Result<SealingKey> {
    use std::io::Write;
    use std::os::unix::fs::OpenOptionsExt;
    let secret: [u8; 32] = rand::random();
    let mut f = std::fs::OpenOptions::new()
        .write(true)
        .create_new(true)
        .mode(0o600)
        .open(file)
        .with_context(|| format!("{} cannot be made", file.display()))?;
    f.write_all(record::canonical::hex(&secret).as_bytes())?;
    println!("A sealing key was made in {}: keep a backup of it outside the database.", file.display());
    Ok(SealingKey::from_bytes(secret))
}
