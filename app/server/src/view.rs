//! What a screen of a test shows, put together from the stored rows.

use crate::access::{Action, may_on};
use crate::judging::Run;
use crate::problem::Problem;
use crate::state::App;
use crate::store::boundary::BoundaryRow;
use crate::store::event::EventRow;
use crate::store::pack::PackRow;
use crate::store::punch::PunchRow;
use crate::store::{attempt, boundary, instrument, punch, signature};
use crate::who::Who;
use judge::judgement::Judgement;
use pack::gates::{Facts, GateResult, all};
use pack::plan::{Claim, Plan};
use pack::restore::{RestoreLine, closed, list};
use pack::run::RunEventKind;
use pack::schedule::{Step, steps};
use pack::signing::{Act, Form, acts, next};
use pack::spine::{SpineFacts, SpineStep, spine};
use quantity::PressureUnit;
use record::sealed::SignedStatement;
use rules::part::Part;
use rules::system::{Derived, Refusal, System, derive};
use serde::Serialize;
use time::OffsetDateTime;

/// Why nothing is derived.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct RefusalView {
    /// The field to mend.
    pub field: String,
    /// What, why, and what to do.
    pub sentence: String,
}

/// One attempt as shown.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct AttemptView {
    /// Id.
    pub id: String,
    /// 1 for the first.
    pub number: u32,
    /// The attempt that it follows.
    pub follows: Option<u32>,
    /// Why it supersedes a signed record.
    pub supersedes_reason: Option<String>,
    /// When it was released.
    #[serde(with = "time::serde::rfc3339")]
    pub released_at: OffsetDateTime,
    /// By whom.
    pub released_by: String,
    /// Events in time order.
    pub events: Vec<EventRow>,
    /// How many readings there are.
    pub readings: usize,
    /// Last gauge reading, Pa.
    pub last_pressure_pa: Option<f64>,
    /// Time of the last gauge reading, s from the release.
    pub last_pressure_s: Option<f64>,
    /// True once the pressure was released.
    pub over: bool,
    /// True once the content is frozen by a signature.
    pub frozen: bool,
    /// What must be put back.
    pub restore: Vec<RestoreLine>,
    /// Signatures in order.
    pub signatures: Vec<SignedStatement>,
    /// Signature that comes next.
    pub next_act: Option<Act>,
    /// What the next signature states.
    pub next_statement: Option<String>,
    /// Why this person may not sign it now; absent when they may.
    pub sign_objection: Option<String>,
    /// The judgement; absent before the hold.
    pub judgement: Option<Judgement>,
    /// Start of the hold, s from the release.
    pub hold_start_s: Option<f64>,
    /// End of the hold, s from the release.
    pub hold_end_s: Option<f64>,
    /// What to do next in the run, in one sentence.
    pub instruction: String,
    /// The step of pressure to reach next.
    pub next_step: Option<Step>,
}

/// A test as its screens show it.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct PackView {
    /// Id.
    pub id: String,
    /// Number.
    pub number: String,
    /// Title.
    pub title: String,
    /// Size.
    pub form: Form,
    /// Version, for If-Match.
    pub version: u32,
    /// Who changed it last.
    pub updated_by: String,
    /// Plan.
    pub plan: Plan,
    /// Names of the grid's columns.
    pub columns: Vec<String>,
    /// Rows of the grid as typed.
    pub cells: Vec<Vec<String>>,
    /// What follows from the plan.
    pub derived: Option<Derived>,
    /// Why nothing follows.
    pub refusal: Option<RefusalView>,
    /// The gauge as the rules see it.
    pub gauge: rules::gauge::Gauge,
    /// Unit that the gauge shows.
    pub unit: PressureUnit,
    /// Steps of the raise.
    pub schedule: Vec<Step>,
    /// Hold asked, s.
    pub hold_s: f64,
    /// Gates.
    pub gates: Vec<GateResult>,
    /// Punch list.
    pub punch: Vec<PunchRow>,
    /// Blinds and removed items.
    pub boundary: Vec<BoundaryRow>,
    /// The ten steps.
    pub spine: Vec<SpineStep>,
    /// Attempts, the last last.
    pub attempts: Vec<AttemptView>,
    /// State in a few words.
    pub state: String,
    /// Kind of state: `draft`, `blocked`, `ready`, `running`, `judged`, `signed`.
    pub state_kind: StateKind,
    /// What this person may do.
    pub may: May,
    /// Why plan and parts cannot be changed now; absent when they can.
    pub locked: Option<String>,
}

/// Kind of a test's state.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StateKind {
    /// something stops it
    Blocked,
    /// may be released
    Ready,
    /// under pressure or about to be
    Running,
    /// over, not yet signed
    Judged,
    /// every signature is there
    Signed,
}

/// What a person may do on a test.
#[derive(Debug, Clone, Copy, Serialize, utoipa::ToSchema)]
pub struct May {
    /// change the plan
    pub plan: bool,
    /// change the punch list
    pub punch: bool,
    /// release
    pub release: bool,
    /// book readings and events
    pub book: bool,
}

/// Words for a claim.
pub fn claim_words(claim: Claim) -> &'static str {
    match claim {
        Claim::Strength => "strength, water",
        Claim::Tightness => "tightness, water",
        Claim::Both => "both claims, water",
    }
}

/// Parts of a pack from the rows of its grid. Stored rows were read before they were stored.
pub fn parts_of(cells: &[Vec<String>]) -> Vec<Part> {
    let header: Vec<String> = formats::parts::COLUMNS.iter().map(|c| c.0.to_owned()).collect();
    formats::parts::read(&header, cells, &[]).rows.into_iter().filter_map(|r| r.part).collect()
}

/// Plan, parts and what follows from them.
pub struct Planned {
    /// Parts.
    pub parts: Vec<Part>,
    /// System.
    pub system: System,
    /// What follows.
    pub derived: Result<Derived, Refusal>,
    /// Gates.
    pub gates: Vec<GateResult>,
    /// Gauge and thermometer.
    pub instruments: Vec<pack::instrument::Instrument>,
    /// Steps of the raise.
    pub schedule: Vec<Step>,
}

/// Derives a pack and looks at its gates.
///
/// # Errors
/// When the database fails.
pub async fn planned(app: &App, row: &PackRow, punch: &[PunchRow], boundary: &[BoundaryRow]) -> Result<Planned, Problem> {
    let store: Vec<_> = instrument::all(&app.db).await?.into_iter().map(|r| r.instrument).collect();
    let parts = parts_of(&row.cells);
    let gauge = store.iter().find(|i| i.tag == row.plan.gauge_tag);
    let system = row.plan.system(&row.title, parts.clone(), gauge);
    let derived = derive(&system);
    let punch: Vec<_> = punch.iter().map(|p| p.punch.clone()).collect();
    let boundary: Vec<_> = boundary.iter().map(|b| b.item.clone()).collect();
    let today = app.today();
    let gates = all(&Facts {
        form: row.form,
        plan: &row.plan,
        derived: &derived,
        instruments: &store,
        punch: &punch,
        boundary: &boundary,
        today: &today,
    });
    let schedule = derived
        .as_ref()
        .ok()
        .and_then(|d| d.day.as_ref())
        .map(|day| steps(row.plan.schedule, day.planned_pa, row.plan.basis.base_pressure(), system.gauge.division_pa, row.plan.hold().s()))
        .unwrap_or_default();
    let instruments = store.into_iter().filter(|i| i.tag == row.plan.gauge_tag || i.tag == row.plan.thermometer_tag).collect();
    Ok(Planned { parts, system, derived, gates, instruments, schedule })
}

/// One attempt as shown to a person.
async fn attempt_view(app: &App, who: &Who, pack: &PackRow, run: &Run, boundary: &[BoundaryRow]) -> Result<AttemptView, Problem> {
    let signatures = signature::of_attempt(&app.db, &run.attempt.id).await?;
    let frozen = signature::content(&app.db, &run.attempt.id).await?;
    let items: Vec<_> = boundary.iter().map(|b| b.item.clone()).collect();
    let system = run.system();
    let derived = derive(&system).ok();
    let case = derived.as_ref().and_then(|d| run.case(d));
    let restore = match &frozen {
        Some(content) => content.parts.restore.clone(),
        None => list(&run.booked(), &items),
    };
    let judgement = match &frozen {
        Some(content) => Some(content.parts.judgement.clone()),
        None => case.as_ref().map(judge::judge),
    };
    let plan = &run.attempt.frozen.plan;
    let schedule = derived
        .as_ref()
        .and_then(|d| d.day.as_ref())
        .map(|day| steps(plan.schedule, day.planned_pa, plan.basis.base_pressure(), system.gauge.division_pa, plan.hold().s()))
        .unwrap_or_default();
    let reached = run.booked().iter().filter(|k| **k == RunEventKind::StepReached).count();
    let done: Vec<(Act, String)> = signatures.iter().map(|s| (s.act, s.person.clone())).collect();
    let next_act = next(pack.form, &done.iter().map(|d| d.0).collect::<Vec<_>>());
    let last = run.readings().into_iter().rfind(|r| r.pressure_pa.is_some());
    Ok(AttemptView {
        id: run.attempt.id.clone(),
        number: run.attempt.number,
        follows: run.attempt.follows,
        supersedes_reason: run.attempt.supersedes_reason.clone(),
        released_at: run.attempt.released_at,
        released_by: run.attempt.released_by.clone(),
        readings: run.typed.len() + run.logged.len(),
        last_pressure_pa: last.as_ref().and_then(|r| r.pressure_pa).map(quantity::GaugePressure::pa),
        last_pressure_s: last.map(|r| r.t_s),
        over: run.over(),
        frozen: frozen.is_some(),
        sign_objection: next_act.and_then(|act| sign_objection(pack, run, &restore, judgement.as_ref(), &done, act, who)),
        next_statement: next_act.map(|a| a.statement(pack.form).to_owned()),
        next_act,
        signatures,
        instruction: instruction(app, run, &schedule, reached),
        next_step: schedule.into_iter().nth(reached),
        hold_start_s: case.as_ref().map(|c| c.hold_start_s),
        hold_end_s: case.as_ref().map(|c| c.hold_end_s),
        judgement,
        restore,
        events: run.events.clone(),
    })
}

/// Why a person may not sign now; none when they may.
pub fn sign_objection(
    pack: &PackRow,
    run: &Run,
    restore: &[RestoreLine],
    judgement: Option<&Judgement>,
    done: &[(Act, String)],
    act: Act,
    who: &Who,
) -> Option<String> {
    let plan = &run.attempt.frozen.plan;
    if plan.run == pack::plan::RunKind::Rehearsal {
        return Some("This run is a rehearsal: it is never signed. Plan a record run.".to_owned());
    }
    if judgement.is_none() || !run.booked().contains(&RunEventKind::HoldEnded) {
        return Some("The hold is not judged: end it first.".to_owned());
    }
    if !closed(restore) {
        return Some("Restore is not closed: release, vent, drain, and put everything back first.".to_owned());
    }
    if act == Act::Accepted && judgement.is_none_or(|j| j.verdict != judge::acceptance::Verdict::Pass) {
        return Some("Only a test that passed can be accepted. Plan another attempt.".to_owned());
    }
    pack::signing::objection(pack.form, &plan.people, done, act, &who.sign_in, who.role)
}

/// What to do next in a run.
fn instruction(app: &App, run: &Run, schedule: &[Step], reached: usize) -> String {
    let has = |k| run.booked().contains(&k);
    let unit = run.gauge().map_or(PressureUnit::Bar, |g| g.unit);
    let decimals = run.gauge().and_then(|g| g.division_pa).map_or(1, |d| quantity::format::decimals_of(d.pa() / unit.pa()));
    let show = |p| quantity::format::gauge_pressure(p, unit, decimals);
    if has(RunEventKind::Released) {
        return if has(RunEventKind::Drained) {
            "Drained. Put everything back, then sign.".to_owned()
        } else {
            "Open the high vent, then drain.".to_owned()
        };
    }
    if has(RunEventKind::HoldEnded) {
        return "Release slowly by the bleed valve, nobody in line; prove zero in every section.".to_owned();
    }
    if has(RunEventKind::PumpOff) {
        let start = run
            .events
            .iter()
            .rev()
            .find(|e| matches!(e.kind, RunEventKind::PumpOff | RunEventKind::Repump | RunEventKind::Bleed))
            .map(|e| e.at);
        let until = start.map(|s| app.clock(s + time::Duration::seconds_f64(run.attempt.frozen.plan.hold().s())));
        return format!("Hold until {}. Read pressure and temperature; look at every joint and book it.", until.unwrap_or_default());
    }
    if !has(RunEventKind::Filled) {
        return "Fill slowly from the bottom, let every vent run free of bubbles, close from the lowest up. Look with the static head on."
            .to_owned();
    }
    match schedule.get(reached) {
        Some(step) => format!("Raise to {}, then {}. Nobody inside the barrier while it rises.", show(step.target_pa), step.words),
        None => "At test pressure: let it settle, valve off and disconnect the pump, and book it. The hold's clock starts then.".to_owned(),
    }
}

/// A test as a person sees it.
///
/// # Errors
/// When it is not theirs to see.
pub async fn pack_view(app: &App, who: &Who, row: PackRow) -> Result<PackView, Problem> {
    may_on(who, Action::See, &row)?;
    let punch = punch::of_pack(&app.db, &row.id).await?;
    let boundary = boundary::of_pack(&app.db, &row.id).await?;
    let planned = planned(app, &row, &punch, &boundary).await?;
    let mut attempts = Vec::new();
    for attempt in attempt::of_pack(&app.db, &row.id).await? {
        let run = Run::load(app, attempt).await?;
        attempts.push(attempt_view(app, who, &row, &run, &boundary).await?);
    }
    let spine = spine(&spine_facts(app, &row, &planned, &boundary, attempts.last()));
    let (state_kind, state) = state(&row, &planned.gates, attempts.last());
    let may = |action| may_on(who, action, &row).is_ok();
    Ok(PackView {
        locked: locked(attempts.last().map(|a| (a.number, a.over))),
        may: May { plan: may(Action::Plan), punch: may(Action::Punch), release: may(Action::Release), book: may(Action::Book) },
        columns: formats::parts::COLUMNS.iter().map(|c| c.0.to_owned()).collect(),
        refusal: planned.derived.as_ref().err().map(|e| RefusalView { field: e.field().to_owned(), sentence: format!("{e}.") }),
        unit: planned.system.gauge.unit,
        gauge: planned.system.gauge,
        derived: planned.derived.ok(),
        schedule: planned.schedule,
        hold_s: row.plan.hold().s(),
        gates: planned.gates,
        id: row.id,
        number: row.number,
        title: row.title,
        form: row.form,
        version: row.version,
        updated_by: row.updated_by,
        plan: row.plan,
        cells: row.cells,
        punch,
        boundary,
        spine,
        attempts,
        state,
        state_kind,
    })
}

/// Why plan and parts cannot be changed now.
pub fn locked(last: Option<(u32, bool)>) -> Option<String> {
    match last {
        Some((number, false)) => Some(format!(
            "Attempt {number} is under way: what it tests is frozen. Release its pressure first; a change is for the next attempt."
        )),
        _ => None,
    }
}

fn spine_facts(app: &App, row: &PackRow, planned: &Planned, boundary: &[BoundaryRow], last: Option<&AttemptView>) -> SpineFacts {
    let unit = planned.system.gauge.unit;
    let decimals = quantity::format::decimals_of(planned.system.gauge.division_pa.pa() / unit.pa());
    let derived = match &planned.derived {
        Ok(d) => match &d.day {
            Some(day) => {
                Ok(format!("{} at {}", quantity::format::gauge_pressure(day.planned_pa, unit, decimals), planned.system.gauge.tag))
            }
            None => Err("no pressure suits every part".to_owned()),
        },
        Err(Refusal::NoParts) => Err("no parts yet".to_owned()),
        Err(e) => Err(format!("{} is wanting", e.field())),
    };
    let has = |k| last.is_some_and(|a| a.events.iter().any(|e| e.kind == k));
    let count = |k| last.map_or(0, |a| a.events.iter().filter(|e| e.kind == k).count());
    let hold_since = last
        .and_then(|a| a.events.iter().rev().find(|e| matches!(e.kind, RunEventKind::PumpOff | RunEventKind::Repump)))
        .map(|e| app.moment(e.at))
        .unwrap_or_default();
    SpineFacts {
        proven_to: !row.plan.relied_on_by.trim().is_empty(),
        claim_words: claim_words(row.plan.claim).to_owned(),
        derived,
        boundary: (boundary.iter().filter(|b| b.item.set_for_test).count(), boundary.len()),
        gates: (planned.gates.iter().filter(|g| g.ready).count(), planned.gates.len(), owed(&planned.gates)),
        released_for_test: last.map(|a| app.moment(a.released_at)).unwrap_or_default(),
        filled: has(RunEventKind::Filled),
        raise: (count(RunEventKind::StepReached).min(planned.schedule.len()), planned.schedule.len()),
        hold_since,
        hold_ended: has(RunEventKind::HoldEnded),
        verdict: last.and_then(|a| a.judgement.as_ref()).map(|j| j.verdict.words().to_owned()).unwrap_or_default(),
        restore: last.map_or((0, 0), |a| (a.restore.iter().filter(|l| l.done).count(), a.restore.len())),
        signed: (last.map_or(0, |a| a.signatures.len()), acts(row.form).len()),
    }
}

fn owed(gates: &[GateResult]) -> String {
    let missing = gates.iter().filter(|g| !g.ready).count();
    match missing {
        0 => String::new(),
        1 => "1 thing owed".to_owned(),
        n => format!("{n} things owed"),
    }
}

fn state(row: &PackRow, gates: &[GateResult], last: Option<&AttemptView>) -> (StateKind, String) {
    if let Some(a) = last {
        let verdict = a.judgement.as_ref().map(|j| j.verdict.words());
        if !a.over {
            let what = if a.events.iter().any(|e| e.kind == RunEventKind::PumpOff) {
                "holding"
            } else if a.events.iter().any(|e| e.kind == RunEventKind::StepReached) {
                "under pressure"
            } else {
                "released for test"
            };
            return (StateKind::Running, format!("{what}, attempt {}", a.number));
        }
        if a.next_act.is_none() {
            return (StateKind::Signed, format!("signed: {}", verdict.unwrap_or("no verdict")));
        }
        let signed = if a.signatures.is_empty() {
            String::new()
        } else {
            format!(", signed as {}", a.signatures.iter().map(|s| s.act.key()).collect::<Vec<_>>().join(", "))
        };
        return (StateKind::Judged, format!("{}, attempt {}{signed}", verdict.unwrap_or("no hold"), a.number));
    }
    let missing = gates.iter().filter(|g| !g.ready).count();
    if missing == 0 {
        (StateKind::Ready, "ready to release".to_owned())
    } else {
        let word = if row.form == Form::Quick { "this test" } else { "this pack" };
        (StateKind::Blocked, format!("{} {} {word}", missing, if missing == 1 { "thing stops" } else { "things stop" }))
    }
}
