//! What a screen shows of one attempt, put together from the stored rows.

use crate::problem::Problem;
use crate::runs;
use crate::state::App;
use crate::store::attempt::AttemptRow;
use crate::store::pack::PackRow;
use crate::store::signature;
use crate::views::afterwards::Afterwards;
use crate::views::judged::{judged, told};
use crate::who::Who;
use judge::judgement::{Judgement, RULES_VERSION};
use moment::Instant;
use pack::low_gas;
use pack::restore::RestoreLine;
use pack::schedule::Step;
use pack::signing::{Act, next};
use quantity::PressureUnit;
use record::sealed::SignedStatement;
use rules::system::Derived;
use run::before_water::Soak;
use run::rows::{Channel, EventRow};
use run::signing::{After, Signer};
use run::situation::At;
use run::{Now, Run};
use serde::Serialize;
use std::sync::Arc;
use terms::{EventKind, Outcome};

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
    /// Why the release no longer stands; absent where it does.
    pub withdrawn: Option<String>,
    /// What rules or library would say today of a run that has begun and is not over; absent where they say the same.
    pub changed_since: Option<String>,
    /// When it was released.
    pub released_at: Instant,
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
    /// True where it was sealed by the rules of another version: what these said stays word for word, in the units of that day.
    pub by_other_rules: bool,
    /// Start of the hold, s from the release.
    pub hold_start_s: Option<f64>,
    /// End of the hold, s from the release.
    pub hold_end_s: Option<f64>,
    /// What to do next in the run, in one sentence.
    pub instruction: String,
    /// The step of pressure to reach next.
    pub next_step: Option<Step>,
    /// Further gauges and thermometers of the plan that can be read.
    pub further: Vec<Further>,
    /// What may be booked by hand now.
    pub by_hand: Vec<EventKind>,
    /// What the water's and the surroundings' temperatures ask for; absent before somebody booked both.
    pub soak: Option<Soak>,
    /// How far the low gas test is; absent where none is planned.
    pub low_gas: Option<LowGas>,
}

/// A further gauge or thermometer of a run.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct Further {
    /// Its tag.
    pub tag: String,
    /// What it reads.
    pub channel: Channel,
    /// Unit of its dial; a thermometer's is degrees.
    pub unit: PressureUnit,
    /// True when the recorder reads it by itself.
    pub recorded: bool,
}

/// Further gauges and thermometers of a run.
fn further(run: &Run) -> Vec<Further> {
    let facts = run.facts();
    let of = |tag: &str, channel| {
        let there = run.frozen().instruments.iter().find(|i| i.tag == tag);
        Further {
            tag: tag.to_owned(),
            channel,
            unit: there.map_or_else(PressureUnit::default, |i| i.unit),
            recorded: there.is_some_and(|i| i.connection.is_some()),
        }
    };
    let gauges = facts.also_gauges.iter().map(|g| of(&g.tag, Channel::Pressure));
    gauges.chain(facts.also_thermometers.iter().map(|t| of(&t.tag, Channel::Temperature))).collect()
}

/// How far a low gas test is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LowGas {
    /// no gas is in
    ToDo,
    /// gas is in, and nobody has looked for bubbles yet
    ToLook,
    /// gas is in, and no leak was seen
    Dry,
    /// gas is in, and it leaks
    Leaks,
    /// it passed
    Passed,
}

/// How far the low gas test of a run is; none where none is planned.
fn low_gas(run: &Run) -> Option<LowGas> {
    Some(match run.low_gas()? {
        low_gas::Stage::NotPlanned => return None,
        low_gas::Stage::ToDo { .. } => LowGas::ToDo,
        low_gas::Stage::On { leaks: true, .. } => LowGas::Leaks,
        low_gas::Stage::On { looked: false, .. } => LowGas::ToLook,
        low_gas::Stage::On { .. } => LowGas::Dry,
        low_gas::Stage::Passed => LowGas::Passed,
    })
}

/// One attempt as shown to a person.
///
/// # Errors
/// When the database fails.
pub async fn attempt_view(app: &App, who: &Who, pack: &PackRow, attempt: &AttemptRow, after: &Afterwards) -> Result<AttemptView, Problem> {
    let held = runs::current(app, attempt).await?;
    let (project, reads) = (&pack.project, who.reads_on(pack));
    let role = who.role_in(&project.id).ok_or(Problem::NotFound("pack"))?;
    let signatures = signature::of_attempt(&app.db, &attempt.id).await?;
    let frozen = signature::content(&app.db, &attempt.id).await?;
    let (withdrawn, changed_since) = (runs::withdrawn(app, project, &held, reads).await?, runs::warned(app, project, &held, reads).await?);
    let units = reads.units(held.read().dial());
    let made = match &frozen {
        Some(content) => Some(Arc::new(content.parts.judgement.clone())),
        None => judged(app, &project.zone, &attempt.id, &held).await?,
    };
    let judgement = match made {
        Some(made) => Some(told(app, &project.zone, &attempt.id, &held, made, units).await?.as_ref().clone()),
        None => None,
    };
    let run = held.read();
    let restore = match &frozen {
        Some(content) => content.parts.restore.clone(),
        None => after.restore(pack, &run),
    };
    let looks = frozen.as_ref().map_or_else(|| after.looks_in(attempt.number), |c| c.parts.looks.clone());
    let done_after = After { attempt: attempt.number, looks: &looks, restore: &restore };
    let done: Vec<(Act, String)> = signatures.iter().map(|s| (s.act, s.person.clone())).collect();
    let signers = attempt.frozen.plan.signers;
    let next_act = next(pack.form, signers, &done.iter().map(|d| d.0).collect::<Vec<_>>());
    let now = Now::by_clock(&run, app.clock.now());
    let last = run.last_read(now.s);
    let hold = run.hold();
    let tell = app.tell(project, reads.units(run.dial()));
    let signer = Signer { person: &who.sign_in, role, form: pack.form, done: &done, hand: None };
    Ok(AttemptView {
        id: attempt.id.clone(),
        number: attempt.number,
        follows: attempt.follows,
        supersedes_reason: attempt.supersedes_reason.clone(),
        instruction: withdrawn.clone().unwrap_or_else(|| run.instruction(&now, &tell)),
        withdrawn,
        changed_since,
        released_at: attempt.released_at,
        released_by: attempt.released_by.clone(),
        readings: run.typed().len() + run.logged() + run.ticks().len(),
        last_pressure_pa: last.map(|l| l.p.pa()),
        last_pressure_s: last.map(|l| l.t.s()),
        over: run.over(),
        frozen: frozen.is_some(),
        sign_objection: next_act.and_then(|act| run.sign_objection(&done_after, judgement.as_ref(), act, &signer)),
        next_statement: next_act
            .map(|a| a.statement(pack.form, signers, judgement.as_ref().map_or(Outcome::NotComplete, |j| j.outcome())).to_owned()),
        next_act,
        signatures,
        further: further(&run),
        by_hand: At::new(&run, app.clock.now(), app.clock.rate()).by_hand(&tell),
        soak: run.soak(),
        low_gas: low_gas(&run),
        next_step: run.schedule(rules::say::Say(reads.units(run.dial()))).into_iter().nth(run.reached()),
        hold_start_s: hold.map(|h| h.start.s()),
        hold_end_s: hold.map(|h| h.end.s()),
        by_other_rules: judgement.as_ref().is_some_and(|j| j.rules_version != RULES_VERSION),
        judgement,
        restore,
        events: run.events().to_vec(),
    })
}

/// Window and steps of a release, for screens that show it while it is under pressure, whatever rules or library say today.
///
/// # Errors
/// When the database fails.
pub async fn released(app: &App, attempt: &AttemptRow) -> Result<Option<(Derived, Vec<Step>)>, Problem> {
    let held = runs::current(app, attempt).await?;
    let run = held.read();
    Ok(run.window().map(|d| (d.clone(), run.facts().schedule.clone())))
}
