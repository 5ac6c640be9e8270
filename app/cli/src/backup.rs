//! A backup of an installation's database, and the way back. The sealing key is kept apart: whoever holds both could seal in this installation's name.

use anyhow::{Context, Result, anyhow, bail, ensure};
use record::canonical::sha256_hex;
use serde::{Deserialize, Serialize};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// The format of a backup's folder.
const FORMAT: &str = "zero-leak-backup/1";
const DATA: &str = "database.sql";
const HEAD: &str = "backup.json";

/// What a backup says of itself.
#[derive(Debug, Serialize, Deserialize)]
struct Head {
    format: String,
    /// When it was made.
    made_at: String,
    /// Of the dump.
    sha256: String,
    bytes: u64,
    /// Public keys that sealed in this database: one of them fits the key that is kept apart.
    sealed_by: Vec<String>,
}

/// The address of the database in the pieces that its own clients take.
struct Address {
    user: String,
    password: String,
    host: String,
    port: String,
    name: String,
}

impl Address {
    fn owner() -> Result<(Self, String)> {
        let url = crate::serve::url("ZERO_LEAK_OWNER_URL")?;
        let rest = url.strip_prefix("mysql://").context("ZERO_LEAK_OWNER_URL begins with mysql://")?;
        let (who, at) = rest.split_once('@').context("ZERO_LEAK_OWNER_URL names account and password before @")?;
        let (user, password) = who.split_once(':').unwrap_or((who, ""));
        let (place, name) = at.split_once('/').context("ZERO_LEAK_OWNER_URL names the database behind a slash")?;
        let (host, port) = place.split_once(':').unwrap_or((place, "3306"));
        let name = name.split('?').next().unwrap_or(name);
        let own = |s: &str| s.to_owned();
        Ok((Self { user: own(user), password: own(password), host: own(host), port: own(port), name: own(name) }, url))
    }

    /// A client of MariaDB; the password goes through the environment, since arguments are for everybody to see.
    fn client(&self, program: &str) -> Command {
        let mut command = Command::new(program);
        command
            .args(["--no-defaults", "--protocol=tcp"])
            .arg(format!("--host={}", self.host))
            .arg(format!("--port={}", self.port))
            .arg(format!("--user={}", self.user))
            .env("MYSQL_PWD", &self.password);
        command
    }
}

/// Writes a backup into a folder that is not there yet.
pub fn backup(folder: &Path) -> Result<()> {
    ensure!(
        !folder.exists(),
        "{} is there already: name a folder that is not, so that no backup is written over another",
        folder.display()
    );
    let (address, url) = Address::owner()?;
    let keys = crate::serve::sealed_by(&url)?;
    let part = folder.with_extension("part");
    std::fs::create_dir_all(&part).with_context(|| format!("{} cannot be made", part.display()))?;
    let file = part.join(DATA);
    let out = std::fs::File::create(&file)?;
    // one moment of all tables, with the triggers that guard them; nobody is signed in where it is restored
    let status = address
        .client("mariadb-dump")
        .args(["--single-transaction", "--triggers", "--hex-blob", "--skip-dump-date"])
        .arg(format!("--ignore-table-data={}.session", address.name))
        .arg(&address.name)
        .stdout(out)
        .status()
        .context("mariadb-dump cannot be started: install mariadb-client")?;
    ensure!(status.success(), "mariadb-dump failed: nothing was backed up");
    let bytes = std::fs::read(&file)?;
    let head = Head {
        format: FORMAT.to_owned(),
        made_at: server::clock::Clock::real().now().to_string(),
        sha256: sha256_hex(&bytes),
        bytes: bytes.len() as u64,
        sealed_by: keys,
    };
    std::fs::write(part.join(HEAD), serde_json::to_string_pretty(&head)?)?;
    std::fs::rename(&part, folder)?;
    println!("Backed up to {}: {:.1} MB, {}.", folder.display(), bytes.len() as f64 / 1e6, head.made_at);
    println!("The sealing key is not in it: keep a copy of its file in another place. Without it nothing more can be signed here.");
    Ok(())
}

fn read(folder: &Path) -> Result<(Head, PathBuf)> {
    let text = std::fs::read_to_string(folder.join(HEAD)).with_context(|| format!("{} holds no backup", folder.display()))?;
    let head: Head = serde_json::from_str(&text).with_context(|| format!("{} cannot be read", folder.join(HEAD).display()))?;
    ensure!(head.format == FORMAT, "{} is of the format {}, which this program does not know", folder.display(), head.format);
    let file = folder.join(DATA);
    let bytes = std::fs::read(&file).with_context(|| format!("{} cannot be read", file.display()))?;
    ensure!(
        sha256_hex(&bytes) == head.sha256,
        "{} is not what was backed up ({} bytes of {}): take another backup",
        file.display(),
        bytes.len(),
        head.bytes
    );
    Ok((head, file))
}

/// Restores a backup into a database that is empty, with the key that fits it.
pub fn restore(folder: &Path, key_file: &Path) -> Result<()> {
    let (head, file) = read(folder)?;
    let key = crate::print::key(key_file).with_context(|| {
        format!("a backup is restored with the sealing key that was kept apart: {} does not hold it", key_file.display())
    })?;
    let public = key.public().to_hex();
    if !head.sealed_by.is_empty() && !head.sealed_by.contains(&public) {
        bail!(
            "{} holds the key {}, which sealed nothing in this backup: restore with the key of that installation, or adopt another afterwards \
             (`zero-leak adopt-key`)",
            key_file.display(),
            key.public().fingerprint()
        );
    }
    let (address, url) = Address::owner()?;
    ensure!(
        crate::serve::is_empty(&url)?,
        "the database {} holds tables already: restore into an empty one, so that nothing is written over",
        address.name
    );
    let status = address
        .client("mariadb")
        .arg(&address.name)
        .stdin(Stdio::from(std::fs::File::open(&file)?))
        .status()
        .map_err(|e| anyhow!("mariadb cannot be started ({e}): install mariadb-client"))?;
    ensure!(status.success(), "the backup could not be restored: what stands in the database now is not whole. Empty it, and try again");
    crate::serve::migrate()?;
    println!("Restored what was backed up at {}. Everybody signs in anew; start the server with this key file.", head.made_at);
    Ok(())
}
