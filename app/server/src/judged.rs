//! Judgements that were made, kept so that a screen that is opened again does not fit the same readings again.

use crate::judging::Run;
use crate::problem::{Problem, internal};
use crate::state::App;
use judge::HoldCase;
use judge::judgement::Judgement;
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

/// Judgements by attempt.
#[derive(Debug, Default)]
pub struct Kept(Mutex<HashMap<String, (Rests, Arc<Judgement>)>>);

impl Kept {
    fn get(&self, attempt: &str, rests: Rests) -> Option<Arc<Judgement>> {
        let kept = self.0.lock().ok()?;
        kept.get(attempt).filter(|k| k.0 == rests).map(|k| Arc::clone(&k.1))
    }

    fn put(&self, attempt: &str, rests: Rests, judgement: &Arc<Judgement>) {
        if let Ok(mut kept) = self.0.lock() {
            if kept.len() >= MOST {
                kept.clear();
            }
            kept.insert(attempt.to_owned(), (rests, Arc::clone(judgement)));
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
        typed: run.typed.len(),
        logged: run.logged.len(),
        ticks: if running { run.ticks.len() / TICKS } else { run.ticks.len() },
        corrections: run.corrections.len(),
    };
    if let Some(kept) = app.judgements.get(&run.attempt.id, rests) {
        return Ok(kept);
    }
    let made = tokio::task::spawn_blocking(move || judge::judge(&case)).await.map_err(|e| internal(&e))?;
    let made = Arc::new(made);
    app.judgements.put(&run.attempt.id, rests, &made);
    Ok(made)
}
