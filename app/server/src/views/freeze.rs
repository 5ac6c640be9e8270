//! What the first signature freezes.

use crate::kept::Held;
use crate::problem::{Problem, internal};
use crate::runs;
use crate::state::App;
use crate::store::attempt::{self, AttemptRow};
use crate::store::pack::PackRow;
use crate::store::recording;
use crate::store::register;
use crate::store::signature;
use crate::views::afterwards::{Afterwards, items};
use crate::views::judged::judged;
use crate::views::practice::on_the_rig;
use moment::Zone;
use pack::plan::Plan;
use pack::signing::{Form, Signers};
use record::sealed::{
    EarlierAttempt, LoggerFile, Parts, RecordedChannel, RecordedEvent, RecordedReading, SeenLeak, Sources, StruckOut, Subject,
};
use rules::why::{Figure, why};
use run::Run;
use run::rows::{EventRow, Tick};
use std::sync::Arc;
use terms::EventKind;

/// Cautions that go with every record.
const CAUTIONS: [&str; 3] = [
    "The adopted code, the local law and a licensed or appointed person decide; this tool computes and records.",
    "Clauses and factors are written from memory of the published codes and were not checked against the published edition.",
    "This record shows what was tested, on the day and in the state described; it is not a statement about later service.",
];

/// Gathers the content of a run's record, away from the threads that answer.
///
/// # Errors
/// While the run has no judged hold.
pub async fn parts(app: &App, pack: &PackRow, attempt: &AttemptRow, held: &Arc<Held>) -> Result<Parts, Problem> {
    let judgement = judged(app, &pack.project.zone, &attempt.id, held).await?.ok_or_else(|| {
        Problem::Conflict("There is no hold to sign: the pump was never booked as off, or no pressure was read after it.".to_owned())
    })?;
    let registers = register::of_pack(&app.db, &pack.id).await?;
    let after = Afterwards::of(&registers)?;
    let files = recording::files_of_attempt(&app.db, &attempt.id).await?;
    let site = crate::store::site::get(&app.db).await?;
    let earlier = earlier(app, pack, attempt).await?;
    let (app, pack, attempt, held) = (app.clone(), pack.clone(), attempt.clone(), Arc::clone(held));
    let gather = move || -> Result<Parts, Problem> {
        let run = held.read();
        let derived = run.facts().derived.clone().map_err(|e| Problem::invalid(e.field(), &e))?;
        let system = run.facts().system.clone();
        let mut derivations = Vec::new();
        for (figure, _) in Figure::WHOLE {
            derivations.extend(why(&system, &derived, &figure).map_err(|e| Problem::invalid(e.field(), &e))?);
        }
        let frozen = run.frozen();
        Ok(Parts {
            subject: subject(&app, site.name, &pack, &attempt),
            plan: frozen.plan.clone(),
            schedule: run.facts().schedule.clone(),
            instruments: frozen.instruments.clone(),
            booked: after.booked(attempt.number),
            punch: items(&after.punch),
            looks: after.looks_in(attempt.number),
            promises: items(&after.promises),
            decisions: items(&after.decisions),
            events: events(&run),
            gates: frozen.gates.clone(),
            earlier,
            sources: sources(&run, files, true),
            judgement: judgement.as_ref().clone(),
            readings: run.case(&pack.project.zone).ok_or_else(|| internal(&"a judged hold has no case"))?,
            restore: after.restore(&pack, &run),
            boundary: items(&after.boundary),
            cautions: CAUTIONS.map(str::to_owned).to_vec(),
            rows: Some(run.recorded_rows().packed()),
            derivations,
            derived,
            system,
        })
    };
    tokio::task::spawn_blocking(gather).await.map_err(|e| internal(&e))?
}

/// Most attempts before that a record tells of: the last ones.
const EARLIER: usize = 10;

/// What became of the attempts before.
async fn earlier(app: &App, pack: &PackRow, attempt: &AttemptRow) -> Result<Vec<EarlierAttempt>, Problem> {
    let mut before = attempt::of_pack(&app.db, &pack.id).await?;
    before.retain(|a| a.number < attempt.number);
    let last = before.split_off(before.len().saturating_sub(EARLIER));
    let mut all = Vec::with_capacity(last.len());
    for a in last {
        let held = runs::current(app, &a).await?;
        let outcome = match signature::content(&app.db, &a.id).await? {
            Some(sealed) => Some(sealed.parts.judgement.outcome()),
            None => judged(app, &pack.project.zone, &a.id, &held).await?.map(|j| j.outcome()),
        };
        let leak = |e: &EventRow| SeenLeak { class: e.place, place: e.note.clone() };
        let leaks = held.read().events().iter().filter(|e| e.kind == EventKind::LeakSeen).map(leak).collect();
        let content_sha256 = signature::content_sha256(&app.db, &a.id).await?.unwrap_or_default();
        all.push(EarlierAttempt { number: a.number, released_at: a.released_at.to_string(), outcome, leaks, content_sha256 });
    }
    Ok(all)
}

fn subject(app: &App, site: String, pack: &PackRow, attempt: &AttemptRow) -> Subject {
    Subject {
        pack_number: pack.number.clone(),
        title: attempt.frozen.title.clone(),
        form: pack.form,
        signers: Some(signers_of(pack.form, &attempt.frozen.plan)),
        attempt: attempt.number,
        released_at: attempt.released_at.to_string(),
        follows_attempt: attempt.follows,
        supersedes: attempt.supersedes.clone(),
        supersedes_reason: attempt.supersedes_reason.clone(),
        site,
        zone: pack.project.zone.name().to_owned(),
        software: env!("CARGO_PKG_VERSION").to_owned(),
        released_by_rules: attempt.frozen.rules_version.clone(),
        training_clock_rate: Some(app.clock.rate()).filter(|_| app.clock.for_training()),
        practice: on_the_rig(app, attempt),
    }
}

/// Who signs a test.
pub fn signers_of(form: Form, plan: &Plan) -> Signers {
    match form {
        Form::Quick => plan.signers,
        Form::Pack => Signers::Four,
    }
}

/// Events as recorded.
fn events(run: &Run) -> Vec<RecordedEvent> {
    let recorded = |e: &EventRow| RecordedEvent {
        id: e.id.clone(),
        at: e.at.to_string(),
        kind: e.kind,
        place: e.place,
        looked: e.looked,
        volume_m3: e.volume_m3,
        figure: e.figure,
        of: e.of.clone(),
        note: e.note.clone(),
        by: e.person.clone(),
        stored_at: e.stored_at.to_string(),
    };
    run.events().iter().map(recorded).collect()
}

/// What a record says that stands in rows: by the name of its part, as it would be written now. `to_let_out` is false of a record of before the fourth
/// format, which counts what the recorder read after all was let out, too.
///
/// # Errors
/// When the database fails.
pub async fn rows(
    app: &App,
    attempt: &AttemptRow,
    held: &Arc<Held>,
    zone: Zone,
    to_let_out: bool,
) -> Result<Vec<(&'static str, serde_json::Value)>, Problem> {
    let files = recording::files_of_attempt(&app.db, &attempt.id).await?;
    let (a, held) = (attempt.clone(), Arc::clone(held));
    let written = move || -> Result<Vec<(&'static str, serde_json::Value)>, Problem> {
        let run = held.read();
        let subject = serde_json::json!({
            "title": a.frozen.title, "attempt": a.number, "released_at": a.released_at, "follows_attempt": a.follows,
            "supersedes": a.supersedes, "supersedes_reason": a.supersedes_reason
        });
        Ok(vec![
            ("subject", subject),
            ("plan", serde_json::to_value(&a.frozen.plan)?),
            ("instruments", serde_json::to_value(&a.frozen.instruments)?),
            ("events", serde_json::to_value(events(&run))?),
            ("sources", serde_json::to_value(sources(&run, files, to_let_out))?),
            ("rows", serde_json::to_value(run.recorded_rows().packed())?),
            ("readings", serde_json::to_value(run.case(&zone))?),
        ])
    };
    tokio::task::spawn_blocking(written).await.map_err(|e| internal(&e))?
}

/// Readings as typed, and the loggers' files with how they were read.
fn sources(run: &Run, files: Vec<LoggerFile>, to_let_out: bool) -> Sources {
    let typed = run.typed().iter().map(|r| RecordedReading {
        id: r.id.clone(),
        at: r.at.to_string(),
        channel: r.channel.key().to_owned(),
        of: r.of.clone(),
        as_typed: r.as_typed.clone(),
        value: r.value,
        by: r.person.clone(),
        struck: r.struck.clone().map(|s| StruckOut { by: s.by, reason: s.reason }),
        stored_at: r.stored_at.to_string(),
    });
    Sources { typed: typed.collect(), files, recorded: recorded(run, if to_let_out { run.recorded_ticks() } else { run.ticks() }) }
}

/// What the recorder read of each connected instrument, with a hash over it.
fn recorded(run: &Run, ticks: &[Tick]) -> Vec<RecordedChannel> {
    let instruments = run.frozen().instruments.iter().enumerate().filter(|(_, i)| i.connection.is_some());
    instruments
        .filter_map(|(channel, instrument)| {
            let of = |t: &Tick| t.values.iter().find(|v| usize::from(v.channel) == channel).map(|v| v.value);
            let mut bytes = Vec::new();
            let (mut readings, mut unanswered) = (0, 0);
            for tick in ticks {
                match of(tick) {
                    Some(Some(value)) => {
                        readings += 1;
                        bytes.extend_from_slice(&tick.at_us.to_le_bytes());
                        bytes.extend_from_slice(&value.to_le_bytes());
                    }
                    Some(None) => unanswered += 1,
                    None => {}
                }
            }
            (readings + unanswered > 0).then(|| RecordedChannel {
                tag: instrument.tag.clone(),
                readings,
                unanswered,
                sha256: record::canonical::sha256_hex(&bytes),
            })
        })
        .collect()
}
