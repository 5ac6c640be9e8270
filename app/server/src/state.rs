//! What every request needs.

use crate::clock::Clock;
use crate::config::Config;
use crate::judged::Kept;
use crate::live::Hub;
use crate::practice_rigs::PracticeRigs;
use anyhow::{Context, Result};
use pack::instrument::IsoDate;
use record::key::SealingKey;
use sqlx::mysql::{MySqlConnectOptions, MySqlPoolOptions, MySqlSslMode};
use std::str::FromStr;
use std::sync::Arc;
use std::time::Duration;
use tokio_util::sync::CancellationToken;

/// Shared state.
#[derive(Debug, Clone)]
pub struct App {
    /// Connections of the server's account.
    pub db: sqlx::MySqlPool,
    /// Key that records are sealed with.
    pub key: Arc<SealingKey>,
    /// Name of the site.
    pub site: Arc<str>,
    /// Zone of the site.
    pub zone: Arc<str>,
    /// Sign-ins in a row.
    pub sign_in_burst: u32,
    /// The installation's clock.
    pub clock: Clock,
    /// The practice rig of this installation.
    pub rig: Option<std::net::SocketAddr>,
    /// Rigs of the practice runs.
    pub practice: Arc<PracticeRigs>,
    /// Runs that somebody watches.
    pub hub: Arc<Hub>,
    /// Judgements that were made.
    pub judgements: Arc<Kept>,
    /// Set when the server is to stop, so that open streams end.
    pub stopping: CancellationToken,
}

/// A pool for one of the installation's accounts; loopback has no TLS.
///
/// # Errors
/// When the database cannot be reached.
pub async fn pool(url: &str, connections: u32) -> Result<sqlx::MySqlPool> {
    let options = MySqlConnectOptions::from_str(url)?.ssl_mode(MySqlSslMode::Disabled);
    MySqlPoolOptions::new()
        .max_connections(connections)
        .acquire_timeout(Duration::from_secs(10))
        .connect_with(options)
        .await
        .context("the database cannot be reached: is MariaDB running?")
}

impl App {
    /// Connects and reads or makes the key.
    ///
    /// # Errors
    /// When the database cannot be reached or the key cannot be read.
    pub async fn start(config: &Config) -> Result<Self> {
        Ok(Self {
            db: pool(&config.database_url, 12).await?,
            key: Arc::new(read_or_make_key(&config.key_file)?),
            site: config.site.as_str().into(),
            zone: config.zone.as_str().into(),
            sign_in_burst: config.sign_in_burst,
            clock: config.clock,
            rig: config.rig,
            practice: Arc::new(PracticeRigs::new(config.practice.clone())),
            hub: Arc::default(),
            judgements: Arc::default(),
            stopping: CancellationToken::new(),
        })
    }

    /// The site's day.
    pub fn today(&self) -> IsoDate {
        let zone = jiff::tz::TimeZone::get(&self.zone).unwrap_or(jiff::tz::TimeZone::UTC);
        IsoDate(timestamp(self.clock.now()).to_zoned_datetime(zone).date().to_string())
    }

    /// An instant as people say it: the clock for today, the date for another day.
    pub fn moment(&self, at: time::OffsetDateTime) -> String {
        let zone = jiff::tz::TimeZone::get(&self.zone).unwrap_or(jiff::tz::TimeZone::UTC);
        let day = timestamp(at).to_zoned_datetime(zone).date().to_string();
        if day == self.today().0 { self.clock(at) } else { day }
    }

    /// An instant as the site's clock shows it, HH:MM.
    pub fn clock(&self, at: time::OffsetDateTime) -> String {
        let zone = jiff::tz::TimeZone::get(&self.zone).unwrap_or(jiff::tz::TimeZone::UTC);
        timestamp(at).to_zoned_datetime(zone).strftime("%H:%M").to_string()
    }
}

fn timestamp(at: time::OffsetDateTime) -> jiff::Timestamp {
    let micros = i64::try_from(at.unix_timestamp_nanos() / 1000).unwrap_or(0);
    jiff::Timestamp::from_microsecond(micros).unwrap_or_default()
}

fn read_or_make_key(file: &std::path::Path) -> Result<SealingKey> {
    use std::io::Write;
    use std::os::unix::fs::OpenOptionsExt;
    if let Ok(text) = std::fs::read_to_string(file) {
        return SealingKey::from_hex(&text).with_context(|| {
            format!("{} does not hold a sealing key: restore it from its backup, or move it away to start with a new key", file.display())
        });
    }
    let secret: [u8; 32] = rand::random();
    let mut f = std::fs::OpenOptions::new()
        .write(true)
        .create_new(true)
        .mode(0o600)
        .open(file)
        .with_context(|| format!("{} cannot be made", file.display()))?;
    f.write_all(record::canonical::hex(&secret).as_bytes())?;
    Ok(SealingKey::from_bytes(secret))
}
