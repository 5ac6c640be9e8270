//! Places of those that are answered at once, and how much slower a build without optimisation is.

use std::sync::Arc;
use tokio::sync::Semaphore;

/// A build without optimisation takes longer, and is given it.
pub const SLOWER: u64 = if cfg!(debug_assertions) { 3 } else { 1 };

/// Places of those that are answered at once.
#[derive(Debug)]
pub struct Places {
    /// of the usual requests
    pub usual: Arc<Semaphore>,
    /// of those with a queue of their own
    pub heavy: Arc<Semaphore>,
}

impl Default for Places {
    fn default() -> Self {
        Self { usual: Arc::new(Semaphore::new(8)), heavy: Arc::new(Semaphore::new(12)) }
    }
}
