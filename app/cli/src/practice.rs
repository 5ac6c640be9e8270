//! Rigs for practice runs: a simulated system for each, in the server's own process.

use anyhow::{Context, Result};
use rig::scenario::Scenario;
use rig::serve::Rig;
use rig::simulation::Simulation;
use server::practice_rigs::StartsRigs;
use std::net::SocketAddr;
use std::path::Path;
use std::sync::Arc;
use tokio::task::AbortHandle;

/// A scenario that is begun anew for each.
#[derive(Debug)]
pub struct Practice {
    scenario: Scenario,
    speed: f64,
}

impl Practice {
    /// Reads a scenario, which is run as fast as the installation's clock.
    ///
    /// # Errors
    /// When it cannot be read.
    pub fn read(file: &Path, speed: f64) -> Result<Arc<dyn StartsRigs>> {
        let text = std::fs::read_to_string(file).with_context(|| format!("{} cannot be read", file.display()))?;
        let scenario = Scenario { start_pressure_pa: 0.0, ..Scenario::read(&text)? };
        Ok(Arc::new(Self { scenario, speed }))
    }
}

impl StartsRigs for Practice {
    fn start(&self) -> Result<(SocketAddr, AbortHandle)> {
        let listener = std::net::TcpListener::bind(("127.0.0.1", 0)).context("no port on loopback is free for a practice rig")?;
        listener.set_nonblocking(true)?;
        let address = listener.local_addr()?;
        let listener = tokio::net::TcpListener::from_std(listener)?;
        let (rig, speed) = (Rig::new(Simulation::new(self.scenario.clone())?), self.speed);
        let task = tokio::spawn(async move {
            tokio::select! {
                ended = rig.run(speed) => drop(ended),
                ended = rig.answer(listener) => drop(ended),
            }
        });
        Ok((address, task.abort_handle()))
    }
}
