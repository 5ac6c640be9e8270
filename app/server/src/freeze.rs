//! What the first signature freezes.

use crate::judged::judged;
use crate::judging::Run;
use crate::problem::Problem;
use crate::state::App;
use crate::store::boundary::BoundaryRow;
use crate::store::pack::PackRow;
use crate::store::punch::PunchRow;
use crate::store::tick::Tick;
use crate::store::{boundary, punch, recording};
use pack::schedule::{self, Raise};
use record::sealed::{Booked, BookedAct, Parts, RecordedChannel, RecordedEvent, RecordedReading, Sources, StruckOut, Subject};
use rules::why::{Figure, why};
use time::format_description::well_known::Rfc3339;

/// Cautions that go with every record.
const CAUTIONS: [&str; 3] = [
    "The adopted code, the local law and a licensed or appointed person decide; this tool computes and records.",
    "Clauses and factors are written from memory of the published codes and were not checked against the published edition.",
    "This record shows what was tested, on the day and in the state described; it is not a statement about later service.",
];

/// An instant as text.
pub fn rfc3339(at: time::OffsetDateTime) -> String {
    at.format(&Rfc3339).unwrap_or_default()
}

/// Gathers the content of a run's record.
///
/// # Errors
/// While the run has no judged hold.
pub async fn parts(app: &App, pack: &PackRow, run: &Run) -> Result<Parts, Problem> {
    let system = run.system();
    let derived = run.derived().map_err(|e| Problem::invalid(e.field(), &e))?;
    let case = run.case(&derived).ok_or_else(|| {
        Problem::Conflict("There is no hold to sign: the pump was never booked as off, or no pressure was read after it.".to_owned())
    })?;
    let (boundary, punch) = (boundary::of_pack(&app.db, &pack.id).await?, punch::of_pack(&app.db, &pack.id).await?);
    let booked = booked(&boundary, &punch);
    let boundary: Vec<_> = boundary.into_iter().map(|b| b.item).collect();
    let mut derivations = Vec::new();
    for (figure, _) in Figure::WHOLE {
        derivations.extend(why(&system, &derived, &figure).map_err(|e| Problem::invalid(e.field(), &e))?);
    }
    let plan = &run.attempt.frozen.plan;
    Ok(Parts {
        subject: Subject {
            pack_number: pack.number.clone(),
            title: run.attempt.frozen.title.clone(),
            form: pack.form,
            attempt: run.attempt.number,
            released_at: rfc3339(run.attempt.released_at),
            follows_attempt: run.attempt.follows,
            supersedes: run.attempt.supersedes.clone(),
            supersedes_reason: run.attempt.supersedes_reason.clone(),
            site: app.site.to_string(),
            software: env!("CARGO_PKG_VERSION").to_owned(),
            released_by_rules: run.attempt.frozen.rules_version.clone(),
            training_clock_rate: Some(app.clock.rate()).filter(|_| app.clock.for_training()),
            practice: crate::routes::rig::on_the_rig(app, &run.attempt),
        },
        plan: plan.clone(),
        schedule: schedule::steps(&Raise::of(plan, &derived, system.gauge.division_pa, run.attempt.frozen.hold())),
        instruments: run.attempt.frozen.instruments.clone(),
        punch: punch.into_iter().map(|p| p.punch).collect(),
        booked,
        events: events(run),
        sources: sources(app, run).await?,
        judgement: judged(app, run, case.clone()).await?.as_ref().clone(),
        readings: case,
        restore: pack::restore::list(&run.booked(), &boundary, pack.plan.derating.as_ref()),
        boundary,
        cautions: CAUTIONS.map(str::to_owned).to_vec(),
        derivations,
        derived,
        system,
    })
}

/// Who booked what of boundary and punch list.
fn booked(boundary: &[BoundaryRow], punch: &[PunchRow]) -> Vec<Booked> {
    let one = |item: &str, act: BookedAct, by: &Option<String>, at: Option<time::OffsetDateTime>| {
        Some(Booked { item: item.to_owned(), act, by: by.clone()?, stored_at: rfc3339(at?) })
    };
    let of_boundary = boundary
        .iter()
        .flat_map(|b| [one(&b.item.tag, BookedAct::Set, &b.set_by, b.set_at), one(&b.item.tag, BookedAct::PutBack, &b.back_by, b.back_at)]);
    let of_punch = punch.iter().map(|p| one(&p.punch.number, BookedAct::Cleared, &p.cleared_by, p.cleared_at));
    of_boundary.chain(of_punch).flatten().collect()
}

/// Events as recorded.
fn events(run: &Run) -> Vec<RecordedEvent> {
    let recorded = |e: &crate::store::event::EventRow| RecordedEvent {
        id: e.id.clone(),
        at: rfc3339(e.at),
        kind: e.kind,
        place: e.place,
        looked: e.looked,
        volume_m3: e.volume_m3,
        note: e.note.clone(),
        by: e.person.clone(),
        stored_at: rfc3339(e.stored_at),
    };
    run.events.iter().map(recorded).collect()
}

/// What a record says that stands in rows: by the name of its part, as it would be written now.
///
/// # Errors
/// When the database fails.
pub async fn rows(app: &App, run: &Run) -> Result<Vec<(&'static str, serde_json::Value)>, Problem> {
    let a = &run.attempt;
    let case = run.derived().ok().and_then(|d| run.case(&d));
    let subject = serde_json::json!({
        "title": a.frozen.title, "attempt": a.number, "released_at": rfc3339(a.released_at), "follows_attempt": a.follows,
        "supersedes": a.supersedes, "supersedes_reason": a.supersedes_reason
    });
    Ok(vec![
        ("subject", subject),
        ("plan", serde_json::to_value(&a.frozen.plan)?),
        ("instruments", serde_json::to_value(&a.frozen.instruments)?),
        ("events", serde_json::to_value(events(run))?),
        ("sources", serde_json::to_value(sources(app, run).await?)?),
        ("readings", serde_json::to_value(case)?),
    ])
}

/// Readings as typed, and the loggers' files with how they were read.
async fn sources(app: &App, run: &Run) -> Result<Sources, Problem> {
    let typed = run.typed.iter().map(|r| RecordedReading {
        id: r.id.clone(),
        at: rfc3339(r.at),
        channel: r.channel.key().to_owned(),
        as_typed: r.as_typed.clone(),
        value: r.value,
        by: r.person.clone(),
        struck: r.struck.clone().map(|s| StruckOut { by: s.by, reason: s.reason }),
        stored_at: rfc3339(r.stored_at),
    });
    let files = recording::files_of_attempt(&app.db, &run.attempt.id).await?;
    Ok(Sources { typed: typed.collect(), files, recorded: recorded(run) })
}

/// What the recorder read of each connected instrument, with a hash over it.
fn recorded(run: &Run) -> Vec<RecordedChannel> {
    let instruments = run.attempt.frozen.instruments.iter().enumerate().filter(|(_, i)| i.connection.is_some());
    instruments
        .filter_map(|(channel, instrument)| {
            let of = |t: &Tick| t.values.iter().find(|v| usize::from(v.channel) == channel).map(|v| v.value);
            let mut bytes = Vec::new();
            let (mut readings, mut unanswered) = (0, 0);
            for tick in &run.ticks {
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
