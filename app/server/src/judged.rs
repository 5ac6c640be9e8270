//! Judgements that were made, kept so that a screen that is opened again does not fit the same readings again.

use crate::judging::Run;
use crate::problem::{Problem, internal};
use crate::state::App;
use judge::judgement::Judgement;
use judge::{HoldCase, Memory};
use pack::run::RunEventKind;
use std::collections::HashMap;
use std::sync::{Arc, Mutex};

/// What a judgement rests on: counts of what is only ever added to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Rests {
    events: usize,
    typed: usize,
    logged: usize,
    ticks: usize,
    corrections: usize,
}

/// While a hold runs it is judged anew after so many instants of the recorder.
const TICKS: usize = 5;
/// Attempts whose judgement is kept.
const MOST: usize = 200;

/// A running hold is judged so many times from where its answer was found before, then once from nothing.
const FROM_MEMORY: u32 = 9;

/// A judgement that was made.
#[derive(Debug, Clone)]
struct Made {
    rests: Rests,
    judgement: Arc<Judgement>,
    /// Where its answer was found, and how many times since the search began from nothing.
    memory: Option<Memory>,
    times: u32,
}

/// Judgements by attempt.
#[derive(Debug, Default)]
pub struct Kept(Mutex<HashMap<String, Made>>);

impl Kept {
    fn last(&self, attempt: &str) -> Option<Made> {
        self.0.lock().ok()?.get(attempt).cloned()
    }

    fn put(&self, attempt: &str, made: Made) {
        if let Ok(mut kept) = self.0.lock() {
            if kept.len() >= MOST {
                kept.clear();
            }
            kept.insert(attempt.to_owned(), made);
        }
    }
}

/// The judgement of a run's hold, made beside the other work of the server.
///
/// # Errors
/// When the judge's thread ends by itself.
pub async fn judged(app: &App, run: &Run, case: HoldCase) -> Result<Arc<Judgement>, Problem> {
    let running = !run.booked().iter().any(|k| matches!(k, RunEventKind::HoldEnded | RunEventKind::Released));
    let rests = Rests {
        events: run.events.len(),
        typed: run.typed.len() + run.typed.iter().filter(|r| r.struck.is_some()).count(),
        logged: run.logged.len(),
        ticks: if running { run.ticks.len() / TICKS } else { run.ticks.len() },
        corrections: run.corrections.len(),
    };
    let last = app.judgements.last(&run.attempt.id);
    if let Some(kept) = last.as_ref().filter(|k| k.rests == rests) {
        return Ok(Arc::clone(&kept.judgement));
    }
    // what is sealed is always searched from nothing
    let from = last.filter(|l| running && l.times < FROM_MEMORY).and_then(|l| l.memory.map(|m| (m, l.times + 1)));
    let times = from.as_ref().map_or(0, |f| f.1);
    let judge = move || judge::judge_from(&case, from.as_ref().map(|f| &f.0));
    let (judgement, memory) = tokio::task::spawn_blocking(judge).await.map_err(|e| internal(&e))?;
    let judgement = Arc::new(judgement);
    let memory = memory.filter(|_| running);
    app.judgements.put(&run.attempt.id, Made { rests, judgement: Arc::clone(&judgement), memory, times });
    Ok(judgement)
}
