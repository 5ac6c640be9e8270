//! A rig of its own for each practice run: what is pumped there reaches no other test.

use anyhow::Result;
use run::debrief::Hidden;
use std::collections::HashMap;
use std::fmt::Debug;
use std::net::SocketAddr;
use std::sync::{Arc, Mutex, PoisonError};
use tokio::task::AbortHandle;

/// Starts simulated systems; who starts the server says how.
pub trait StartsRigs: Debug + Send + Sync {
    /// A new system without pressure, on a free port of loopback; it ends with the task.
    ///
    /// # Errors
    /// When no port is free.
    fn start(&self) -> Result<(SocketAddr, AbortHandle)>;

    /// What such a system hides from those who test it.
    fn hidden(&self) -> Hidden;
}

/// Rigs of the practice runs that this server records.
#[derive(Debug, Default)]
pub struct PracticeRigs {
    starts: Option<Arc<dyn StartsRigs>>,
    running: Mutex<HashMap<String, (SocketAddr, AbortHandle)>>,
}

impl PracticeRigs {
    /// With somebody who starts them; without, nobody can practise here.
    pub fn new(starts: Option<Arc<dyn StartsRigs>>) -> Self {
        Self { starts, running: Mutex::default() }
    }

    /// True where rigs can be started.
    pub fn can(&self) -> bool {
        self.starts.is_some()
    }

    /// The rig of a practice run; started, from zero, for the first who asks.
    ///
    /// # Errors
    /// When it cannot be started.
    pub fn of(&self, attempt: &str) -> Result<SocketAddr> {
        let mut running = self.running.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((address, task)) = running.get(attempt)
            && !task.is_finished()
        {
            return Ok(*address);
        }
        let starts = self.starts.as_ref().ok_or_else(|| anyhow::anyhow!("this server has no scenario to practise on"))?;
        let (address, task) = starts.start()?;
        running.insert(attempt.to_owned(), (address, task));
        Ok(address)
    }

    /// What the systems hide; none where nobody can practise.
    pub fn hidden(&self) -> Option<Hidden> {
        self.starts.as_ref().map(|s| s.hidden())
    }

    /// Ends the rig of a practice run.
    pub fn end(&self, attempt: &str) {
        if let Some((_, task)) = self.running.lock().unwrap_or_else(PoisonError::into_inner).remove(attempt) {
            task.abort();
        }
    }
}
