//! What is kept in memory and could be made anew from the database: runs that somebody looked at lately, and judgements that were made.

use judge::Memory;
use judge::judgement::Judgement;
use quantity::Units;
use run::Run;
use std::collections::HashMap;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError, RwLock, RwLockReadGuard, RwLockWriteGuard};

/// Most runs that are kept.
const MOST_RUNS: usize = 64;
/// Most instants of recorders that are kept with them: some hundred bytes each.
const MOST_TICKS: usize = 1_500_000;
/// Attempts whose judgement is kept.
const MOST_JUDGED: usize = 200;

/// A run, and how far it was read from the database.
#[derive(Debug)]
pub struct Held {
    run: RwLock<Run>,
    /// Held by whoever reads on; what was booked is in once this is the revision of the database.
    pub revision: tokio::sync::Mutex<Option<String>>,
    used: AtomicU64,
}

impl Held {
    /// Around a run.
    pub fn new(run: Run) -> Self {
        Self { run: RwLock::new(run), revision: tokio::sync::Mutex::default(), used: AtomicU64::new(0) }
    }

    /// The run, for as long as something is computed of it: never across a wait.
    pub fn read(&self) -> RwLockReadGuard<'_, Run> {
        self.run.read().unwrap_or_else(PoisonError::into_inner)
    }

    /// The run, for rows to be added.
    pub fn write(&self) -> RwLockWriteGuard<'_, Run> {
        self.run.write().unwrap_or_else(PoisonError::into_inner)
    }
}

/// Runs by attempt.
#[derive(Debug, Default)]
pub struct Runs {
    all: Mutex<HashMap<String, Arc<Held>>>,
    looks: AtomicU64,
}

impl Runs {
    /// The run of an attempt, made where it is not kept. What nobody looked at for longest makes room.
    pub fn of(&self, attempt: &str, make: impl FnOnce() -> Run) -> Arc<Held> {
        let look = self.looks.fetch_add(1, Ordering::Relaxed);
        let kept = self.locked().get(attempt).cloned();
        let held = kept.unwrap_or_else(|| {
            // made outside of the lock: to derive an old release takes its time
            let made = Arc::new(Held::new(make()));
            let mut all = self.locked();
            let held = Arc::clone(all.entry(attempt.to_owned()).or_insert(made));
            make_room(&mut all);
            held
        });
        held.used.store(look, Ordering::Relaxed);
        held
    }

    fn locked(&self) -> std::sync::MutexGuard<'_, HashMap<String, Arc<Held>>> {
        self.all.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

fn make_room(all: &mut HashMap<String, Arc<Held>>) {
    let ticks = |h: &Arc<Held>| h.run.try_read().map_or(0, |r| r.ticks().len());
    let mut total: usize = all.values().map(ticks).sum();
    while all.len() > MOST_RUNS || total > MOST_TICKS {
        let idle = all.iter().filter(|(_, h)| Arc::strong_count(h) == 1);
        let Some(oldest) = idle.min_by_key(|(_, h)| h.used.load(Ordering::Relaxed)).map(|(id, _)| id.clone()) else { return };
        total -= all.remove(&oldest).as_ref().map_or(0, ticks);
    }
}

/// What a judgement rests on: counts of what is only ever added to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Rests {
    /// Events.
    pub events: usize,
    /// Typed readings, and those struck out once more.
    pub typed: usize,
    /// Rows of loggers' files.
    pub logged: usize,
    /// Instants of the recorder, in steps while it runs.
    pub ticks: usize,
    /// Corrections.
    pub corrections: usize,
}

/// A judgement that was made.
#[derive(Debug, Clone)]
pub struct Made {
    /// What it rests on.
    pub rests: Rests,
    /// The judgement.
    pub judgement: Arc<Judgement>,
    /// Where its answer was found, and how many times since the search began from nothing.
    pub memory: Option<Memory>,
    /// How many times it was made from where the answer before was found.
    pub times: u32,
}

/// The place of a run's judgement: whoever makes it holds it, so that one at a time is made.
pub type Judging = Arc<tokio::sync::Mutex<Option<Made>>>;

/// A judgement, and the same told in other units.
type Told = (Arc<Judgement>, Vec<(Units, Arc<Judgement>)>);

/// Judgements by attempt.
#[derive(Debug, Default)]
pub struct Kept(Mutex<HashMap<String, Judging>>, Mutex<HashMap<String, Told>>);

impl Kept {
    /// A judgement as it was told in these units.
    pub fn told(&self, attempt: &str, units: Units, made: &Arc<Judgement>) -> Option<Arc<Judgement>> {
        let told = self.1.lock().unwrap_or_else(PoisonError::into_inner);
        let (of, all) = told.get(attempt)?;
        (Arc::ptr_eq(of, made) || of == made).then(|| all.iter().find(|t| t.0 == units).map(|t| Arc::clone(&t.1)))?
    }

    /// Keeps a judgement as it was told.
    pub fn keep_told(&self, attempt: &str, units: Units, made: Arc<Judgement>, as_told: Arc<Judgement>) {
        let mut told = self.1.lock().unwrap_or_else(PoisonError::into_inner);
        if told.len() >= MOST_JUDGED {
            told.clear();
        }
        let kept = told.entry(attempt.to_owned()).or_insert_with(|| (Arc::clone(&made), Vec::new()));
        if !Arc::ptr_eq(&kept.0, &made) && kept.0 != made {
            *kept = (made, Vec::new());
        }
        kept.1.push((units, as_told));
    }

    /// The place of an attempt's judgement.
    pub fn of(&self, attempt: &str) -> Judging {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.len() >= MOST_JUDGED && !kept.contains_key(attempt) {
            kept.retain(|_, j| Arc::strong_count(j) > 1);
        }
        Arc::clone(kept.entry(attempt.to_owned()).or_default())
    }
}
