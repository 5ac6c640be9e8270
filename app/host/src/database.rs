//! MariaDB with a data folder of its own, on loopback, under made-up credentials.

use crate::folder::Folder;
use crate::ports;
use crate::process::run;
use anyhow::{Context, Result, bail};
use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::time::{Duration, Instant};
use tokio::process::{Child, Command};

/// Name of the database; the same everywhere, since checked queries name it.
pub const NAME: &str = "zero_leak";

/// A running MariaDB that this process started.
#[derive(Debug)]
pub struct Database {
    child: Child,
    /// Port on 127.0.0.1.
    pub port: u16,
    root_password: String,
    owner_password: String,
    server_password: String,
}

/// A private temporary directory setting and all else that the server needs.
struct Layout {
    data: PathBuf,
    run: PathBuf,
    tmp: PathBuf,
    log: PathBuf,
}

fn is_root() -> bool {
    use std::os::unix::fs::MetadataExt;
    std::fs::metadata("/proc/self").is_ok_and(|m| m.uid() == 0)
}

impl Layout {
    fn new(folder: &Folder) -> Result<Self> {
        let base = folder.database();
        let layout = Self { data: base.join("data"), run: base.join("run"), tmp: base.join("tmp"), log: base.join("err.log") };
        for d in [&layout.run, &layout.tmp] {
            std::fs::create_dir_all(d)?;
        }
        Ok(layout)
    }
    fn socket(&self) -> PathBuf {
        self.run.join("m.sock")
    }
    /// As root the server runs as the user mysql, which must own its folders and pass through those above.
    async fn hand_over(&self, folder: &Folder) -> Result<()> {
        if is_root() {
            let (base, path) = (folder.database().display().to_string(), folder.path().display().to_string());
            run(Path::new("chown"), &["-R", "mysql:mysql", &base], &[], "").await?;
            run(Path::new("chmod"), &["o+x", &path], &[], "").await?;
        }
        Ok(())
    }
    async fn install(&self, folder: &Folder) -> Result<()> {
        self.hand_over(folder).await?;
        let data = format!("--datadir={}", self.data.display());
        let method = format!("--auth-root-authentication-method={}", if is_root() { "socket" } else { "normal" });
        let mut args = vec!["--no-defaults", &data, &method, "--skip-test-db", "--skip-name-resolve"];
        if is_root() {
            args.push("--user=mysql");
        }
        // two that install at once must not share a temporary folder
        run(Path::new("mariadb-install-db"), &args, &[("TMPDIR", &self.tmp.display().to_string())], "").await
    }
}

impl Database {
    /// Starts MariaDB for an installation's folder; the first time its data folder, database and accounts are made.
    ///
    /// # Errors
    /// When MariaDB is not installed, or does not come up within 60 s.
    pub async fn start(folder: &Folder) -> Result<Self> {
        // a port that was free a moment ago may be gone: another is tried
        for _ in 0..2 {
            if let Ok(database) = Self::start_on(folder, ports::free()?).await {
                return Ok(database);
            }
        }
        Self::start_on(folder, ports::free()?).await
    }

    /// The same on a given port, for one that comes back where it was.
    ///
    /// # Errors
    /// As [`Self::start`].
    pub async fn start_on(folder: &Folder, port: u16) -> Result<Self> {
        let layout = Layout::new(folder)?;
        let ready_mark = folder.path().join("database-ready");
        let first = !ready_mark.exists();
        if first {
            if layout.data.exists() {
                std::fs::remove_dir_all(&layout.data)?;
            }
            layout.install(folder).await?;
        }
        layout.hand_over(folder).await?;
        let mut command = Command::new("mariadbd");
        command.arg("--no-defaults");
        if is_root() {
            command.arg("--user=mysql");
        }
        command
            .args([
                format!("--datadir={}", layout.data.display()),
                format!("--socket={}", layout.socket().display()),
                format!("--pid-file={}", layout.run.join("m.pid").display()),
                format!("--tmpdir={}", layout.tmp.display()),
                format!("--log-error={}", layout.log.display()),
                format!("--port={port}"),
            ])
            .args([
                "--bind-address=127.0.0.1",
                "--skip-name-resolve",
                "--skip-log-bin",
                "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_uca1400_ai_ci",
                "--default-time-zone=+00:00",
                "--max-allowed-packet=256M",
                "--innodb-flush-log-at-trx-commit=1",
            ])
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            // its own group: a Ctrl-C at the terminal reaches the starter, which then stops it in order
            .process_group(0);
        let child = command.spawn().context("mariadbd cannot be started: install mariadb-server")?;
        let mut database = Self {
            child,
            port,
            root_password: folder.secret("database-root-password")?,
            owner_password: folder.secret("database-owner-password")?,
            server_password: folder.secret("database-server-password")?,
        };
        database.wait_until_up(&layout.log, &layout.socket()).await?;
        if first {
            database.make_accounts(&layout).await?;
            std::fs::write(ready_mark, "made\n")?;
        }
        Ok(database)
    }

    async fn wait_until_up(&mut self, log: &Path, socket: &Path) -> Result<()> {
        let deadline = Instant::now() + Duration::from_secs(60);
        loop {
            // its own socket too: somebody else may have taken the port in the meantime
            if tokio::net::TcpStream::connect(("127.0.0.1", self.port)).await.is_ok()
                && tokio::net::UnixStream::connect(socket).await.is_ok()
            {
                return Ok(());
            }
            if let Some(status) = self.child.try_wait()? {
                bail!("MariaDB ended at once ({status}); see {}", log.display());
            }
            if Instant::now() > deadline {
                bail!("MariaDB did not come up within 60 s; see {}", log.display());
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    async fn make_accounts(&self, layout: &Layout) -> Result<()> {
        let sql = format!(
            "CREATE DATABASE IF NOT EXISTS {NAME} CHARACTER SET utf8mb4 COLLATE utf8mb4_uca1400_ai_ci;
             CREATE OR REPLACE USER 'zl_owner'@'127.0.0.1' IDENTIFIED BY '{}';
             CREATE OR REPLACE USER 'zl_server'@'127.0.0.1' IDENTIFIED BY '{}';
             GRANT ALL ON {NAME}.* TO 'zl_owner'@'127.0.0.1' WITH GRANT OPTION;
             DELETE FROM mysql.global_priv WHERE User = '' OR (User = 'root' AND Host <> 'localhost');
             {}
             FLUSH PRIVILEGES;",
            self.owner_password,
            self.server_password,
            // as root of the machine nobody else passes its socket; otherwise everybody on the machine would be its root
            if is_root() { String::new() } else { format!("ALTER USER 'root'@'localhost' IDENTIFIED BY '{}';", self.root_password) }
        );
        // through standard input: the arguments of a process are for everybody to see
        let socket = format!("--socket={}", layout.socket().display());
        run(Path::new("mariadb"), &["--no-defaults", &socket, "--user=root"], &[], &sql).await
    }

    /// Address for the account that owns the tables; used for migrations only.
    pub fn owner_url(&self) -> String {
        format!("mysql://zl_owner:{}@127.0.0.1:{}/{NAME}", self.owner_password, self.port)
    }

    /// Address for the server's account.
    pub fn server_url(&self) -> String {
        format!("mysql://zl_server:{}@127.0.0.1:{}/{NAME}", self.server_password, self.port)
    }

    /// A client of MariaDB as the owning account; the password goes through the environment, since arguments are for everybody to see.
    fn client(&self, program: &str) -> std::process::Command {
        let mut command = std::process::Command::new(program);
        command
            .args(["--no-defaults", "--protocol=tcp", "--host=127.0.0.1", "--user=zl_owner"])
            .arg(format!("--port={}", self.port))
            .env("MYSQL_PWD", &self.owner_password);
        command
    }

    /// Everything in it as SQL, without the sessions of people.
    ///
    /// # Errors
    /// When the client is not installed or fails.
    pub fn dump(&self) -> Result<Vec<u8>> {
        let out = self
            .client("mariadb-dump")
            .args(["--skip-dump-date", "--single-transaction", "--triggers", "--hex-blob", "--skip-extended-insert"])
            .arg(format!("--ignore-table-data={NAME}.session"))
            .arg(NAME)
            .output()
            .context("mariadb-dump cannot be started: install mariadb-client")?;
        anyhow::ensure!(out.status.success(), "mariadb-dump failed: {}", String::from_utf8_lossy(&out.stderr));
        Ok(out.stdout)
    }

    /// Takes over a dump into an empty database.
    ///
    /// # Errors
    /// When the client is not installed or refuses a statement.
    pub fn restore(&self, sql: &Path) -> Result<()> {
        let status = self
            .client("mariadb")
            .arg(NAME)
            .stdin(std::fs::File::open(sql)?)
            .status()
            .context("mariadb cannot be started: install mariadb-client")?;
        anyhow::ensure!(status.success(), "the dump could not be restored");
        Ok(())
    }

    /// Ends it without warning (SIGKILL), as a power cut would.
    ///
    /// # Errors
    /// When it cannot be signalled.
    pub async fn kill(&mut self) -> Result<()> {
        self.child.start_kill()?;
        self.child.wait().await?;
        Ok(())
    }

    /// Id of the process.
    pub fn pid(&self) -> Option<u32> {
        self.child.id()
    }

    /// Stops it in order, and waits.
    ///
    /// # Errors
    /// When it cannot be signalled.
    pub async fn stop(mut self) -> Result<()> {
        if let Some(pid) = self.child.id() {
            run(Path::new("kill"), &["-TERM", &pid.to_string()], &[], "").await?;
        }
        self.child.wait().await?;
        Ok(())
    }
}

impl Drop for Database {
    fn drop(&mut self) {
        // Reached only when stop() was not: end what this process started. InnoDB recovers on the next start.
        let _ = self.child.start_kill();
    }
}
