//! Rigs for practice runs: a simulated system for each, in the server's own process.

use anyhow::{Context, Result};
use quantity::TemperatureDifference;
use rig::scenario::{Fault, RigInstrument, Scenario};
use rig::serve::Rig;
use rig::simulation::Simulation;
use run::debrief::Hidden;
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

    fn hidden(&self) -> Hidden {
        let s = &self.scenario;
        let faulty = |i: &RigInstrument| {
            let what = i.faults.iter().map(|f| match f {
                Fault::Silent { .. } => "did not answer for a while",
                Fault::Stuck { .. } => "stood still for a while, whatever the pressure did",
                Fault::Leap { .. } => "leapt, and stayed wrong",
            });
            what.map(|w| (i.tag.clone(), w.to_owned())).collect::<Vec<_>>()
        };
        Hidden {
            air_fraction: s.air_fraction,
            leaks: s.leaks.iter().map(|l| l.place.clone()).collect(),
            warming: TemperatureDifference::from_k(s.weather.mean_c - s.start_c),
            faults: s.instruments.iter().flat_map(faulty).collect(),
        }
    }
}
