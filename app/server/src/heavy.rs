//! Heavy work: a few at a time on threads of its own, some more waiting, the rest turned away with a sentence. Recording and booking never wait
//! for it.

use crate::problem::{Problem, internal};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
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

/// Tells a piece of work that whoever asked for it has left: it looks between its steps, and stops.
#[derive(Debug, Clone, Default)]
pub struct Left(Arc<AtomicBool>);

impl Left {
    /// True once nobody waits for the work any more.
    pub fn has(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}

/// Says so when the request is dropped.
struct Goes(Left);

impl Drop for Goes {
    fn drop(&mut self) {
        self.0.0.store(true, Ordering::Relaxed);
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
    pub async fn run<T: Send + 'static>(&self, work: impl FnOnce(&Left) -> T + Send + 'static) -> Result<T, Problem> {
        let seconds = u32::try_from(self.patience.as_secs()).unwrap_or(30);
        if self.waiting.fetch_add(1, Ordering::Relaxed) >= self.most_waiting {
            drop(Waits(&self.waiting));
            return Err(Problem::Busy(seconds));
        }
        let waits = Waits(&self.waiting);
        let turn = tokio::time::timeout(self.patience, Arc::clone(&self.running).acquire_owned()).await;
        drop(waits);
        let turn = turn.map_err(|_| Problem::Busy(seconds))?.map_err(|e| internal(&e))?;
        let left = Left::default();
        let goes = Goes(left.clone());
        let done = tokio::task::spawn_blocking(move || {
            let done = work(&left);
            drop(turn);
            done
        })
        .await;
        drop(goes);
        done.map_err(|e| internal(&e))
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
            tokio::spawn(async move { h.run(move |_| hold.recv().is_ok()).await })
        };
        tokio::time::sleep(Duration::from_millis(50)).await;
        let waiting: Vec<_> = (0..2)
            .map(|_| {
                let h = Arc::clone(&heavy);
                tokio::spawn(async move { h.run(|_| true).await })
            })
            .collect();
        tokio::time::sleep(Duration::from_millis(50)).await;
        let asked = std::time::Instant::now();
        assert!(matches!(heavy.run(|_| true).await, Err(Problem::Busy(_))));
        assert!(asked.elapsed() < Duration::from_millis(100));
        // whoever waited in vain is told so, and then there is room again
        for w in waiting {
            assert!(matches!(w.await.unwrap(), Err(Problem::Busy(_))));
        }
        go.send(()).unwrap();
        assert!(one.await.unwrap().unwrap());
        assert!(heavy.run(|_| true).await.unwrap());
    }

    #[tokio::test]
    async fn work_is_told_when_whoever_asked_for_it_has_left() {
        let heavy = Arc::new(Heavy::new(1, 2, Duration::from_secs(5)));
        let (said, told) = std::sync::mpsc::channel();
        let asked = {
            let h = Arc::clone(&heavy);
            tokio::spawn(async move {
                h.run(move |left| {
                    let begun = std::time::Instant::now();
                    while !left.has() && begun.elapsed() < Duration::from_secs(5) {
                        std::thread::sleep(Duration::from_millis(5));
                    }
                    said.send(begun.elapsed()).is_ok()
                })
                .await
            })
        };
        tokio::time::sleep(Duration::from_millis(100)).await;
        asked.abort();
        let took = tokio::task::spawn_blocking(move || told.recv()).await.unwrap().unwrap();
        assert!(took < Duration::from_secs(2), "{took:?}");
    }
}
