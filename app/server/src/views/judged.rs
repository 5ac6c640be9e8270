//! The judgement of a run's hold: made once for what it rests on, one at a time, beside the other work of the server.

use crate::kept::{Held, Made, Rests};
use crate::problem::{Problem, internal};
use crate::state::App;
use judge::judgement::{Judgement, RULES_VERSION};
use judge::{HoldCase, Memory};
use moment::Zone;
use quantity::Units;
use run::Run;
use std::sync::Arc;
use terms::EventKind;

/// While a hold runs it is judged anew after so many instants of the recorder.
const TICKS: usize = 5;
/// A running hold is judged so many times from where its answer was found before, then once from nothing.
const FROM_MEMORY: u32 = 9;

fn running(run: &Run) -> bool {
    !run.has(EventKind::HoldEnded) && !run.has(EventKind::Released)
}

fn rests(run: &Run) -> Rests {
    Rests {
        events: run.events().len(),
        typed: run.typed().len() + run.typed().iter().filter(|r| r.struck.is_some()).count(),
        logged: run.logged(),
        ticks: if running(run) { run.ticks().len() / TICKS } else { run.ticks().len() },
        corrections: run.corrections().len(),
    }
}

/// Under what a judgement is kept: its sentences name times in a zone.
fn in_zone(id: &str, zone: &Zone) -> String {
    format!("{id} {}", zone.name())
}

/// The judgement of a run's hold; none while the hold has not begun.
///
/// # Errors
/// When the judge's thread ends by itself.
pub async fn judged(app: &App, zone: &Zone, id: &str, held: &Arc<Held>) -> Result<Option<Arc<Judgement>>, Problem> {
    let place = app.judgements.of(&in_zone(id, zone));
    let mut kept = place.lock().await;
    let (rests, running) = {
        let run = held.read();
        if run.hold().is_none() && !run.over() {
            return Ok(None);
        }
        (rests(&run), running(&run))
    };
    if let Some(made) = kept.as_ref().filter(|k| k.rests == rests) {
        return Ok(Some(Arc::clone(&made.judgement)));
    }
    // what is sealed is always searched from nothing
    let from = kept.take().filter(|l| running && l.times < FROM_MEMORY).and_then(|l| l.memory.map(|m| (m, l.times + 1)));
    let times = from.as_ref().map_or(0, |f| f.1);
    let (held, zone) = (Arc::clone(held), zone.clone());
    let judge = move || -> Option<(Judgement, Option<Memory>)> {
        let case = held.read().case(&zone)?;
        Some(judge::judge_from(&case, from.as_ref().map(|f| &f.0)))
    };
    let Some((judgement, memory)) = tokio::task::spawn_blocking(judge).await.map_err(|e| internal(&e))? else { return Ok(None) };
    let judgement = Arc::new(judgement);
    *kept = Some(Made { rests, judgement: Arc::clone(&judgement), memory: memory.filter(|_| running), times });
    Ok(Some(judgement))
}

/// A judgement with its sentences in a person's units and sentence by sentence, told once for each set of units.
///
/// # Errors
/// When the thread ends by itself.
pub async fn told(
    app: &App,
    zone: &Zone,
    id: &str,
    held: &Arc<Held>,
    made: Arc<Judgement>,
    units: Units,
) -> Result<Arc<Judgement>, Problem> {
    // by other rules only what was found is told anew: what they made of it stays as it was sealed
    let tell = if made.rules_version == RULES_VERSION { judge::judgement::told } else { judge::judgement::told_as_sealed };
    if let Some(kept) = app.judgements.told(&in_zone(id, zone), units, &made) {
        return Ok(kept);
    }
    let (held, of, judged) = (Arc::clone(held), zone.clone(), Arc::clone(&made));
    let telling = move || {
        let case = HoldCase { told_in: Some(units), ..held.read().case(&of)? };
        Some(Arc::new(tell(&case, &judged)))
    };
    let told = tokio::task::spawn_blocking(telling).await.map_err(|e| internal(&e))?.unwrap_or_else(|| Arc::clone(&made));
    app.judgements.keep_told(&in_zone(id, zone), units, made, Arc::clone(&told));
    Ok(told)
}

/// The hold as the judge reads it, made beside the other work of the server; none while it has not begun.
///
/// # Errors
/// When the thread ends by itself.
pub async fn case_of(zone: &Zone, held: &Arc<Held>) -> Result<Option<HoldCase>, Problem> {
    let (held, zone) = (Arc::clone(held), zone.clone());
    tokio::task::spawn_blocking(move || held.read().case(&zone)).await.map_err(|e| internal(&e))
}
