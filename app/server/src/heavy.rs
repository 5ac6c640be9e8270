//! Heavy work: a few at a time on threads of its own, some more waiting, the rest turned away with a sentence. Recording and booking never wait
//! for it.

use crate::problem::{Problem, internal};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;
use tokio::sync::Semaphore;

/// A kind of heavy work.
#[derive(Debug)]
pub struct Heavy {
    running: Arc<Semaphore>,
    waiting: AtomicUsize,
    most_waiting: usize,
    patience: Duration,
}

/// Leaves the queue however it is left: served, given up, or its caller gone.
struct Waits<'a>(&'a AtomicUsize);

impl Drop for Waits<'_> {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

impl Heavy {
    /// So many at once, so many waiting, nobody for longer than `patience`.
    pub fn new(at_once: usize, most_waiting: usize, patience: Duration) -> Self {
        Self { running: Arc::new(Semaphore::new(at_once)), waiting: AtomicUsize::new(0), most_waiting, patience }
    }

    /// Does a piece of work when its turn has come.
    ///
    /// # Errors
    /// When too many wait already, when the turn does not come in time, or when the work panics.
    pub async fn run<T: Send + 'static>(&self, work: impl FnOnce() -> T + Send + 'static) -> Result<T, Problem> {
        let seconds = u32::try_from(self.patience.as_secs()).unwrap_or(30);
        if self.waiting.fetch_add(1, Ordering::Relaxed) >= self.most_waiting {
            drop(Waits(&self.waiting));
            return Err(Problem::Busy(seconds));
        }
        let waits = Waits(&self.waiting);
        let turn = tokio::time::timeout(self.patience, Arc::clone(&self.running).acquire_owned()).await;
        drop(waits);
        let turn = turn.map_err(|_| Problem::Busy(seconds))?.map_err(|e| internal(&e))?;
        let done = tokio::task::spawn_blocking(move || {
            let done = work();
            drop(turn);
            done
        });
        done.await.map_err(|e| internal(&e))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn a_few_run_some_wait_and_the_rest_are_turned_away_at_once() {
        let heavy = Arc::new(Heavy::new(1, 2, Duration::from_millis(400)));
        let (go, hold) = std::sync::mpsc::channel::<()>();
        let one = {
            let h = Arc::clone(&heavy);
            tokio::spawn(async move { h.run(move || hold.recv().is_ok()).await })
        };
        tokio::time::sleep(Duration::from_millis(50)).await;
        let waiting: Vec<_> = (0..2)
            .map(|_| {
                let h = Arc::clone(&heavy);
                tokio::spawn(async move { h.run(|| true).await })
            })
            .collect();
        tokio::time::sleep(Duration::from_millis(50)).await;
        let asked = std::time::Instant::now();
        assert!(matches!(heavy.run(|| true).await, Err(Problem::Busy(_))));
        assert!(asked.elapsed() < Duration::from_millis(100));
        // whoever waited in vain is told so, and then there is room again
        for w in waiting {
            assert!(matches!(w.await.unwrap(), Err(Problem::Busy(_))));
        }
        go.send(()).unwrap();
        assert!(one.await.unwrap().unwrap());
        assert!(heavy.run(|| true).await.unwrap());
    }
}
