//! The practice rig as a process of its own.

use crate::ports;
use anyhow::{Context, Result, bail};
use std::path::Path;
use std::process::Stdio;
use std::time::Duration;
use tokio::io::{AsyncBufReadExt, BufReader};
use tokio::process::{Child, Command};

/// A running rig. It ends when this is dropped.
#[derive(Debug)]
pub struct Rig {
    child: Child,
    /// Port on loopback.
    pub port: u16,
}

impl Rig {
    /// Starts a rig; its port and its pressure are kept in `folder`, so that the instruments of a test that is under way find it again.
    ///
    /// # Errors
    /// When it does not come up within 10 s.
    pub async fn start(binary: &Path, scenario: &Path, speed: f64, folder: &Path) -> Result<Self> {
        let port_file = folder.join("rig-port");
        let kept = std::fs::read_to_string(&port_file).ok().and_then(|t| t.trim().parse::<u16>().ok());
        let port = match kept {
            Some(port) => port,
            None => ports::free()?,
        };
        std::fs::write(&port_file, port.to_string())?;
        let log = std::fs::OpenOptions::new().create(true).append(true).open(folder.join("rig.log"))?;
        let mut child = Command::new(binary)
            .arg("rig")
            .arg(scenario)
            .args(["--port", &port.to_string(), "--speed", &speed.to_string()])
            .arg("--keep")
            .arg(folder.join("rig-state"))
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(log)
            .process_group(0)
            .kill_on_drop(true)
            .spawn()
            .with_context(|| format!("{} cannot be started", binary.display()))?;
        let mut lines = BufReader::new(child.stdout.take().context("the rig has no output")?).lines();
        match tokio::time::timeout(Duration::from_secs(10), lines.next_line()).await {
            Ok(Ok(Some(line))) if line.starts_with("Rig on") => Ok(Self { child, port }),
            _ => bail!("the rig did not come up; see {}", folder.join("rig.log").display()),
        }
    }

    /// Ends it.
    ///
    /// # Errors
    /// When it cannot be signalled.
    pub async fn stop(mut self) -> Result<()> {
        self.child.start_kill()?;
        self.child.wait().await?;
        Ok(())
    }
}
