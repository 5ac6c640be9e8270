//! What a screen of a test shows, put together from the stored rows.

use crate::access::{Action, may_on};
use crate::grid::parts_of;
use crate::problem::Problem;
use crate::state::App;
pub use crate::store::line::StateKind;
use crate::store::pack::PackRow;
use crate::store::register::{self, Kept, Registers};
use crate::store::{attempt, event, instrument, project, specification};
use crate::views::afterwards::Afterwards;
use crate::views::against::{self, Against};
use crate::views::attempt::{AttemptView, attempt_view, released};
use crate::who::{Reader, Who};
use formats::columns::{COLUMNS, GridColumn};
use formats::parts::GridRow;
use pack::clock::DayPart;
use pack::gates::{Facts, GateResult, Leaked, all, undecided};
use pack::plan::{Plan, RunKind};
use pack::registers::{BoundaryItem, Decision, LookAt, Punch, StillOwed};
use pack::schedule::{Raise, Step, steps};
use pack::signing::{Act, Form, acts};
use pack::spine::{DeriveStands, SpineFacts, SpineStep, spine};
use quantity::PressureUnit;
use rules::objection::Objection;
use rules::part::Part;
use rules::specification::Specification;
use rules::system::{Derived, Refusal, System, derive};
use serde::Serialize;
use terms::EventKind;
use terms::Term;

/// A signature that the test needs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct ActOf {
    /// What it does.
    pub act: Act,
    /// Who is named for it; empty where nobody is.
    pub person: String,
}

/// The project of a test, as its screens need it.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct ProjectView {
    /// Id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Its zone.
    pub zone: String,
    /// Its units, for whoever chose none.
    pub units: quantity::Units,
}

/// A test as its screens show it.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct PackView {
    /// Id.
    pub id: String,
    /// Its project.
    pub project: ProjectView,
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
    /// Columns of the grid.
    pub columns: Vec<GridColumn>,
    /// Rows of the grid as typed.
    pub rows: Vec<GridRow>,
    /// What follows from the plan.
    pub derived: Option<Derived>,
    /// Why nothing follows, the first reason.
    pub refusal: Option<String>,
    /// Everything that stands against it, each at its field.
    pub against: Vec<Against>,
    /// How its method stands: the plain liquid test, or an alternative with what is still open.
    pub method: rules::method::MethodStanding,
    /// The gauge as the rules see it.
    pub gauge: rules::gauge::Gauge,
    /// Unit that the gauge shows.
    pub unit: PressureUnit,
    /// Steps of the raise.
    pub schedule: Vec<Step>,
    /// Hold asked, s.
    pub hold_s: f64,
    /// The day, part by part.
    pub clock: Vec<DayPart>,
    /// Gates.
    pub gates: Vec<GateResult>,
    /// What leaked, and nobody has decided about.
    pub undecided: Vec<Leaked>,
    /// Punch list.
    pub punch: Vec<Kept<Punch>>,
    /// Blinds and removed items.
    pub boundary: Vec<Kept<BoundaryItem>>,
    /// Places to look at.
    pub looks: Vec<Kept<LookAt>>,
    /// What is still owed.
    pub promises: Vec<Kept<StillOwed>>,
    /// What was decided.
    pub decisions: Vec<Kept<Decision>>,
    /// The ten steps.
    pub spine: Vec<SpineStep>,
    /// What is signed, in order, and who is named for it.
    pub acts: Vec<ActOf>,
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
    /// Who put it away, when and why, in a sentence; absent while it is in the lists.
    pub away: Option<String>,
}

/// What a person may do on a test.
#[derive(Debug, Clone, Copy, Serialize, utoipa::ToSchema)]
pub struct May {
    /// change the plan
    pub plan: bool,
    /// change the punch list
    pub punch: bool,
    /// say what must be looked at
    pub looks: bool,
    /// release
    pub release: bool,
    /// book readings and events
    pub book: bool,
    /// correct how a record is read
    pub judge: bool,
    /// practise on a copy
    pub practise: bool,
}

/// Words for a claim and what the system is filled with.
fn claim_words(plan: &Plan) -> String {
    format!("{}, {}", plan.claim.short(), plan.basis.medium.gas().map_or("water", physics::gas::Gas::word))
}

/// Plan, parts and what follows from them.
pub struct Planned {
    /// Parts.
    pub parts: Vec<Part>,
    /// System.
    pub system: System,
    /// What follows.
    pub derived: Result<Derived, Refusal>,
    /// Every reason why nothing does.
    pub refusals: Vec<Objection>,
    /// Gates.
    pub gates: Vec<GateResult>,
    /// What leaked, and nobody has decided about.
    pub undecided: Vec<Leaked>,
    /// Everything that is recorded, in the order of the channels.
    pub instruments: Vec<pack::instrument::Instrument>,
    /// Steps of the raise.
    pub schedule: Vec<Step>,
    /// Hold asked.
    pub hold: quantity::Span,
    /// The day, part by part.
    pub clock: Vec<DayPart>,
}

/// Derives a pack and looks at its gates.
///
/// # Errors
/// When the database fails.
pub async fn planned(app: &App, row: &PackRow, registers: &Registers, reads: Option<Reader>) -> Result<Planned, Problem> {
    let specification = specification::get(&app.db, &row.project.id).await?.specification;
    planned_under(app, row, registers, reads, specification).await
}

/// The same under another specification than the project's.
///
/// # Errors
/// When the database fails.
pub async fn planned_under(
    app: &App,
    row: &PackRow,
    registers: &Registers,
    reads: Option<Reader>,
    specification: Specification,
) -> Result<Planned, Problem> {
    let store = row.plan.instruments(&instrument::lent_to(&app.db, &row.project.id).await?);
    let members = project::members(&app.db, &row.project.id).await?;
    let library = specification.library().map_err(|e| Problem::invalid("specification.library", e))?;
    let parts = parts_of(&library, &row.rows);
    let mut system = row.plan.system(&row.title, parts.clone(), &store, &specification);
    // without a choice of their own people read what the gauge shows
    system.said_in = Some(reads.unwrap_or_default().units(system.gauge.unit));
    let derived = derive(&system);
    let refused = if derived.is_err() { rules::system::refusals(&system) } else { vec![] };
    let (punch, boundary) = (registers.items::<Punch>()?, registers.items::<BoundaryItem>()?);
    let (looks, decisions) = (registers.items::<LookAt>()?, registers.items::<Decision>()?);
    let today = app.today(&row.project.zone);
    let leaks: Vec<Leaked> =
        event::leaks_of_pack(&app.db, &row.id).await?.iter().map(|(n, class, note)| Leaked::of(*n, *class, note, &looks)).collect();
    let undecided = undecided(&leaks, &looks, &decisions);
    let gates = all(&Facts {
        form: row.form,
        plan: &row.plan,
        derived: &derived,
        refusals: &refused,
        say: system.say(),
        instruments: &store,
        members: &members,
        punch: &punch,
        boundary: &boundary,
        looks: &looks,
        leaks: &leaks,
        decisions: &decisions,
        specification: &specification,
        today: &today,
    });
    let hold = row.plan.hold(&specification);
    let schedule: Vec<Step> = derived
        .as_ref()
        .ok()
        .filter(|d| d.day.is_some())
        .map(|d| steps(&Raise::of(&row.plan, d, system.gauge.division_pa, system.at_gauge(), hold)))
        .unwrap_or_default();
    let instruments = row.plan.recorded().into_iter().filter_map(|tag| store.iter().find(|i| i.tag == tag).cloned()).collect();
    let clock = derived.as_ref().map_or_else(|_| vec![], |d| pack::clock::day(&system, d, &schedule, hold));
    let refusals = refused.iter().map(|e| e.objection(system.say())).collect();
    Ok(Planned { parts, system, derived, refusals, gates, instruments, schedule, hold, clock, undecided })
}

/// What is planned otherwise there than here, a sentence each.
pub fn differences(now: &Planned, then: &Planned) -> Vec<String> {
    let pressure = |p: &Planned| {
        let day = p.derived.as_ref().ok().and_then(Derived::readable_day);
        day.map_or_else(|| "none".to_owned(), |d| p.system.at_gauge().up(d.planned_pa))
    };
    let mut all = Vec::new();
    if pressure(now) != pressure(then) {
        all.push(format!("The planned pressure changes from {} to {}.", pressure(now), pressure(then)));
    }
    if now.hold != then.hold {
        all.push(format!("The hold changes from {} to {}.", quantity::format::span(now.hold), quantity::format::span(then.hold)));
    }
    let shut = |p: &Planned| p.gates.iter().filter(|g| !g.ready).map(|g| g.sentence.clone()).collect::<Vec<_>>();
    let (before, after) = (shut(now), shut(then));
    all.extend(after.iter().filter(|s| !before.contains(s)).map(|s| format!("It would be stopped: {s}")));
    all.extend(before.iter().filter(|s| !after.contains(s)).map(|s| format!("No longer stopped: {s}")));
    all
}

/// The hold of a plan as the judge would read it; none while nothing follows from the plan, or no gauge is chosen.
///
/// # Errors
/// When the database fails.
pub async fn planned_case(app: &App, who: &Who, row: &PackRow) -> Result<Option<judge::HoldCase>, Problem> {
    let planned = planned(app, row, &Registers::default(), None).await?;
    let Ok(derived) = &planned.derived else { return Ok(None) };
    let case = run::hold_case::planned(&row.title, &row.plan, &planned.system, &planned.instruments, derived, planned.hold);
    Ok(case.map(|case| judge::HoldCase { told_in: Some(who.reads_on(row).units(planned.system.gauge.unit)), ..case }))
}

/// A test as a person sees it.
///
/// # Errors
/// When it is not theirs to see.
pub async fn pack_view(app: &App, who: &Who, row: PackRow) -> Result<PackView, Problem> {
    may_on(who, Action::See, &row)?;
    let registers = register::of_pack(&app.db, &row.id).await?;
    let after = Afterwards::of(&registers)?;
    let mut planned = planned(app, &row, &registers, Some(who.reads_on(&row))).await?;
    let mut attempts = Vec::new();
    for attempt in attempt::of_pack(&app.db, &row.id).await? {
        let view = attempt_view(app, who, &row, &attempt, &after).await?;
        // under pressure every screen shows the window of the release, whatever rules or library say today
        if view.changed_since.is_some()
            && let Some((derived, schedule)) = released(app, &attempt).await?
        {
            planned.schedule = schedule;
            planned.derived = Ok(derived);
            planned.refusals.clear();
        }
        attempts.push(view);
    }
    let spine = spine(&spine_facts(app, &row, &planned, &after.boundary, attempts.last()));
    let last = attempts.last().map(Last::of_view);
    let (state_kind, state) = state(row.form, &planned.gates, last.as_ref(), after.owed());
    let may = |action| may_on(who, action, &row).is_ok();
    let can_practise = crate::views::practice::can_practise(app, planned.instruments.iter().find(|i| i.tag == row.plan.gauge_tag));
    Ok(PackView {
        away: away(app, &row),
        locked: locked(attempts.last().map(|a| (a.number, a.over || a.withdrawn.is_some()))),
        may: May {
            plan: may(Action::Plan),
            punch: may(Action::Punch),
            looks: may(Action::Looks),
            release: may(Action::Release),
            book: may(Action::Book),
            judge: may(Action::Judge),
            practise: may(Action::Practise) && can_practise && row.plan.run != RunKind::Practice,
        },
        columns: COLUMNS.to_vec(),
        refusal: planned.refusals.first().map(|r| r.sentence.clone()),
        against: against::all(&planned.refusals, planned.derived.as_ref().map_or(&[], |d| &d.objections)),
        acts: acts(row.form, row.plan.signers)
            .iter()
            .map(|act| ActOf { act: *act, person: act.person(&row.plan.people).to_owned() })
            .collect(),
        unit: planned.system.gauge.unit,
        method: rules::method::standing(&row.plan.basis, &row.plan.method),
        gauge: planned.system.gauge,
        derived: planned.derived.ok(),
        schedule: planned.schedule,
        hold_s: planned.hold.s(),
        clock: planned.clock,
        gates: planned.gates,
        undecided: planned.undecided,
        project: ProjectView {
            zone: row.project.zone.name().to_owned(),
            units: row.project.units,
            id: row.project.id,
            name: row.project.name,
        },
        id: row.id,
        number: row.number,
        title: row.title,
        form: row.form,
        version: row.version,
        updated_by: row.updated_by,
        plan: row.plan,
        rows: row.rows,
        punch: after.punch,
        boundary: after.boundary,
        looks: after.looks,
        promises: after.promises,
        decisions: after.decisions,
        spine,
        attempts,
        state,
        state_kind,
    })
}

/// Who put a test away, when and why.
pub fn away(app: &App, row: &PackRow) -> Option<String> {
    let (by, at, why) = row.away.as_ref()?;
    Some(format!("Put away by {by}, {}: {why}. It is in no list until it is brought back.", app.moment(&row.project.zone, *at)))
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

fn spine_facts(app: &App, row: &PackRow, planned: &Planned, boundary: &[Kept<BoundaryItem>], last: Option<&AttemptView>) -> SpineFacts {
    let derive = match &planned.derived {
        Ok(d) => match (d.objections.iter().filter(|o| o.step == "derive").count(), d.readable_day()) {
            (_, None) => DeriveStands::Conflict,
            (0, Some(day)) => {
                let pressure = planned.system.at_gauge().up(day.planned_pa);
                DeriveStands::Planned { pressure, gauge: planned.system.gauge.tag.clone() }
            }
            (things, Some(_)) => DeriveStands::Stopped { things },
        },
        Err(Refusal::NoParts) => DeriveStands::NoParts,
        Err(_) => DeriveStands::Missing { things: planned.refusals.len() },
    };
    let has = |k| last.is_some_and(|a| a.events.iter().any(|e| e.kind == k));
    let count = |k| last.map_or(0, |a| a.events.iter().filter(|e| e.kind == k).count());
    let hold_since = last
        .and_then(|a| a.events.iter().rev().find(|e| matches!(e.kind, EventKind::PumpOff | EventKind::Repump)))
        .map(|e| app.moment(&row.project.zone, e.at))
        .unwrap_or_default();
    SpineFacts {
        // whoever works alone relies on it themselves
        proven_to: row.form == Form::Quick || !row.plan.relied_on_by.trim().is_empty(),
        claim_words: claim_words(&row.plan),
        against_prove: planned.derived.as_ref().map_or(0, |d| d.objections.iter().filter(|o| o.step == "prove").count()),
        derive,
        boundary: (boundary.iter().filter(|b| b.item.set_for_test).count(), boundary.len()),
        gates: (planned.gates.iter().filter(|g| g.ready).count(), planned.gates.len(), owed(&planned.gates)),
        // a release that was withdrawn is none
        released_for_test: last.filter(|a| a.withdrawn.is_none()).map(|a| app.moment(&row.project.zone, a.released_at)).unwrap_or_default(),
        filled: has(EventKind::Filled),
        raise: (count(EventKind::StepReached).min(planned.schedule.len()), planned.schedule.len()),
        hold_since,
        hold_ended: has(EventKind::HoldEnded),
        stopped: last.is_some_and(|a| a.over) && !has(EventKind::HoldEnded),
        verdict: last.and_then(|a| a.judgement.as_ref()).map(|j| j.outcome().words().to_owned()).unwrap_or_default(),
        restore: last.map_or((0, 0), |a| (a.restore.iter().filter(|l| l.done).count(), a.restore.len())),
        signed: (last.map_or(0, |a| a.signatures.len()), acts(row.form, row.plan.signers).len()),
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

/// How far the last attempt of a pack is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Last {
    /// 1 for the first.
    pub number: u32,
    /// True where its release no longer stands.
    pub withdrawn: bool,
    /// True once the pressure was released.
    pub over: bool,
    /// What was booked.
    pub booked: Vec<EventKind>,
    /// What the judgement came to, in words.
    pub verdict: Option<String>,
    /// Signatures that were given.
    pub signed: Vec<Act>,
    /// The signature that comes next.
    pub next_act: Option<Act>,
}

impl Last {
    fn of_view(a: &AttemptView) -> Self {
        Self {
            number: a.number,
            withdrawn: a.withdrawn.is_some(),
            over: a.over,
            booked: a.events.iter().map(|e| e.kind).collect(),
            verdict: a.judgement.as_ref().map(|j| j.outcome().words().to_owned()),
            signed: a.signatures.iter().map(|s| s.act).collect(),
            next_act: a.next_act,
        }
    }
}

/// Kind of a pack's state, and the state in a few words.
pub fn state(form: Form, gates: &[GateResult], last: Option<&Last>, owed: usize) -> (StateKind, String) {
    if let Some(a) = last {
        if a.withdrawn {
            return (StateKind::Blocked, format!("release withdrawn, attempt {}", a.number));
        }
        if !a.over {
            let what = if a.booked.contains(&EventKind::HoldEnded) {
                "hold over, still under pressure"
            } else if a.booked.contains(&EventKind::PumpOff) {
                "holding"
            } else if a.booked.contains(&EventKind::StepReached) {
                "under pressure"
            } else {
                "released for test"
            };
            return (StateKind::Running, format!("{what}, attempt {}", a.number));
        }
        if a.next_act.is_none() {
            let still = if owed == 0 { String::new() } else { format!(", {owed} still owed") };
            return (StateKind::Signed, format!("signed: {}{still}", a.verdict.as_deref().unwrap_or("no verdict")));
        }
        let signed = if a.signed.is_empty() {
            String::new()
        } else {
            format!(", signed as {}", a.signed.iter().map(|act| act.key()).collect::<Vec<_>>().join(", "))
        };
        return (StateKind::Judged, format!("{}, attempt {}{signed}", a.verdict.as_deref().unwrap_or("no hold"), a.number));
    }
    let missing = gates.iter().filter(|g| !g.ready).count();
    if missing == 0 {
        (StateKind::Ready, "ready to release".to_owned())
    } else {
        let word = if form == Form::Quick { "this test" } else { "this pack" };
        (StateKind::Blocked, format!("{} {} {word}", missing, if missing == 1 { "thing stops" } else { "things stop" }))
    }
}
