//! A whole installation on this machine: database, tables, people, server.

use crate::database::Database;
use crate::folder::{Folder, append_private};
use crate::ports;
use crate::process::run;
use crate::rig::Rig;
use anyhow::{Context, Result, bail};
use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::time::{Duration, Instant};
use tokio::io::{AsyncBufReadExt, BufReader};
use tokio::process::{Child, Command};

/// How a server is started.
#[derive(Debug, Clone)]
pub struct Options {
    /// The `zero-leak` binary.
    pub binary: PathBuf,
    /// Name of the site; empty where whoever sets it up is asked.
    pub site: String,
    /// Zone of the site.
    pub zone: String,
    /// Port; none for any that is free.
    pub port: Option<u16>,
    /// Sign-ins in a row from one address.
    pub sign_in_burst: u32,
    /// Scenario of the practice rig; none for no rig.
    pub rig: Option<PathBuf>,
    /// Training: origin and rate of a clock that is faster than the real one.
    pub training_clock: Option<(String, f64)>,
    /// Also answers the routes that figures are held against.
    pub bench: bool,
    /// Training: a file with the seconds by which the servers' clock is ahead.
    pub clock_set: Option<PathBuf>,
}

/// One more server on the database of an installation. It ends when this is dropped.
#[derive(Debug)]
pub struct AnotherServer {
    child: Child,
    port: u16,
}

impl AnotherServer {
    /// Its address.
    pub fn base(&self) -> String {
        format!("http://127.0.0.1:{}", self.port)
    }

    /// Ends it without warning.
    ///
    /// # Errors
    /// When it cannot be signalled.
    pub async fn kill(&mut self) -> Result<()> {
        self.child.start_kill()?;
        self.child.wait().await?;
        Ok(())
    }
}

/// A running installation. What it started ends with it.
#[derive(Debug)]
pub struct Installation {
    /// Its folder.
    pub folder: Folder,
    /// Its database.
    pub database: Database,
    server: Option<Child>,
    /// The practice rig.
    pub rig: Option<Rig>,
    options: Options,
    /// Port of the server; the same after a restart.
    pub port: u16,
    /// Line in which the server told its sealing key.
    pub key_line: String,
    /// Line in which it told the code of an empty installation; empty where it told none.
    pub setup_line: String,
}

impl Installation {
    /// Starts database and server, brings the tables up to date.
    ///
    /// # Errors
    /// When either does not come up.
    pub async fn start(path: &Path, options: Options) -> Result<Self> {
        let folder = Folder::open(path)?;
        let database = Database::start(&folder).await?;
        run(&options.binary, &["migrate"], &[("ZERO_LEAK_OWNER_URL", &database.owner_url())], "").await?;
        let port = match options.port {
            Some(port) => port,
            None => ports::free()?,
        };
        let rig = match &options.rig {
            Some(scenario) => {
                let speed = options.training_clock.as_ref().map_or(1.0, |c| c.1);
                Some(Rig::start(&options.binary, scenario, speed, folder.path()).await?)
            }
            None => None,
        };
        let mut installation =
            Self { folder, database, server: None, rig, options, port, key_line: String::new(), setup_line: String::new() };
        installation.start_server().await?;
        Ok(installation)
    }

    /// The `zero-leak` binary that it runs.
    pub fn binary(&self) -> &Path {
        &self.options.binary
    }

    /// Address for a browser.
    pub fn base(&self) -> String {
        format!("http://127.0.0.1:{}", self.port)
    }

    /// Adds a person or changes their password.
    ///
    /// # Errors
    /// When the binary refuses.
    pub async fn person(&self, sign_in: &str, role: &str, password: &str) -> Result<()> {
        run(&self.options.binary, &["person", sign_in, role], &[("ZERO_LEAK_OWNER_URL", &self.database.owner_url())], password).await
    }

    /// Starts the server and waits until it says that it serves.
    ///
    /// # Errors
    /// When it ends or says nothing within 30 s.
    pub async fn start_server(&mut self) -> Result<()> {
        let (child, said) = self.spawn(self.port).await?;
        self.server = Some(child);
        self.setup_line = said.iter().find(|l| l.starts_with("This installation is empty")).cloned().unwrap_or_default();
        self.key_line = said.into_iter().next_back().unwrap_or_default();
        Ok(())
    }

    /// Starts one more server on the same database.
    ///
    /// # Errors
    /// When it does not come up.
    pub async fn another_server(&self) -> Result<AnotherServer> {
        let port = ports::free()?;
        Ok(AnotherServer { child: self.spawn(port).await?.0, port })
    }

    /// A command of the program with the options of this installation's servers.
    fn command(&self, what: &str) -> Command {
        let key = self.folder.key_file().display().to_string();
        let mut command = Command::new(&self.options.binary);
        // the simulated instruments of this machine
        command.env("ZERO_LEAK_INSTRUMENTS", "127.0.0.1");
        if let Some(rig) = &self.rig {
            command.env("ZERO_LEAK_RIG", format!("127.0.0.1:{}", rig.port));
        }
        if let Some(scenario) = &self.options.rig {
            command.env("ZERO_LEAK_PRACTICE", scenario);
        }
        if self.options.bench {
            command.env("ZERO_LEAK_BENCH", "true");
        }
        if let Some(file) = &self.options.clock_set {
            command.env("ZERO_LEAK_CLOCK_SET", file);
        }
        if let Some((origin, rate)) = &self.options.training_clock {
            command.env("ZERO_LEAK_CLOCK_ORIGIN", origin).env("ZERO_LEAK_CLOCK_RATE", rate.to_string());
        }
        command
            .args([what, "--key-file", &key])
            .args(["--sign-in-burst", &self.options.sign_in_burst.to_string()])
            .env("ZERO_LEAK_DATABASE_URL", self.database.server_url());
        if !self.options.site.is_empty() {
            command.args(["--site", &self.options.site, "--zone", &self.options.zone]);
        }
        command
    }

    /// Holds the lines of the lists against the derivation of every pack: what differs, in sentences, and what was compared in the last.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub async fn check_lines(&self) -> Result<(bool, String)> {
        let out = self.command("check-lines").output().await?;
        Ok((out.status.success(), String::from_utf8_lossy(&[out.stdout, out.stderr].concat()).into_owned()))
    }

    /// A server on a port, and what it said before it served; the last line tells its key.
    async fn spawn(&self, port: u16) -> Result<(Child, Vec<String>)> {
        let log = append_private(&self.folder.path().join("server.log"))?;
        let mut child = self
            .command("serve")
            .args(["--port", &port.to_string()])
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(log)
            .process_group(0)
            .kill_on_drop(true)
            .spawn()
            .with_context(|| format!("{} cannot be started", self.options.binary.display()))?;
        let out = child.stdout.take().context("the server has no output")?;
        let mut lines = BufReader::new(out).lines();
        let deadline = Instant::now() + Duration::from_secs(30);
        let mut said = Vec::new();
        loop {
            let left = deadline.saturating_duration_since(Instant::now());
            match tokio::time::timeout(left, lines.next_line()).await {
                Ok(Ok(Some(line))) if line.starts_with("Serving") => return Ok((child, said)),
                Ok(Ok(Some(line))) => said.push(line),
                _ => bail!("the server did not come up; see {}", self.folder.path().join("server.log").display()),
            }
        }
    }

    /// Ends the database without warning (SIGKILL), as a power cut would.
    ///
    /// # Errors
    /// When it cannot be signalled.
    pub async fn kill_database(&mut self) -> Result<()> {
        self.database.kill().await
    }

    /// Starts the database again where it was.
    ///
    /// # Errors
    /// When it does not come up.
    pub async fn start_database(&mut self) -> Result<()> {
        self.database = Database::start_on(&self.folder, self.database.port).await?;
        Ok(())
    }

    /// Id of the server's process.
    pub fn server_pid(&self) -> Option<u32> {
        self.server.as_ref().and_then(Child::id)
    }

    /// Ends the server without warning (SIGKILL), as a power cut would.
    ///
    /// # Errors
    /// When it cannot be signalled.
    pub async fn kill_server(&mut self) -> Result<()> {
        if let Some(mut child) = self.server.take() {
            child.start_kill()?;
            child.wait().await?;
        }
        Ok(())
    }

    /// Waits until the server ends by itself.
    pub async fn server_ended(&mut self) {
        match self.server.as_mut() {
            Some(child) => drop(child.wait().await),
            None => std::future::pending().await,
        }
    }

    /// Stops server and database in order.
    ///
    /// # Errors
    /// When they cannot be signalled.
    pub async fn stop(mut self) -> Result<()> {
        if let Some(mut child) = self.server.take() {
            if let Some(pid) = child.id() {
                run(Path::new("kill"), &["-TERM", &pid.to_string()], &[], "").await?;
            }
            if tokio::time::timeout(Duration::from_secs(5), child.wait()).await.is_err() {
                child.start_kill()?;
            }
        }
        if let Some(rig) = self.rig.take() {
            rig.stop().await?;
        }
        self.database.stop().await
    }
}
