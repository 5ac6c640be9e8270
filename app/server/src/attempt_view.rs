//! What a screen shows of one attempt, put together from the stored rows.

use crate::judged::judged;
use crate::judging::Run;
use crate::problem::Problem;
use crate::state::App;
use crate::store::boundary::BoundaryRow;
use crate::store::event::EventRow;
use crate::store::pack::PackRow;
use crate::store::signature;
use crate::who::Who;
use judge::judgement::Judgement;
use judge::segments::starts_clock;
use pack::restore::{RestoreLine, closed, list};
use pack::run::RunEventKind;
use pack::schedule::{Raise, Step, steps};
use pack::signing::{Act, next};
use quantity::PressureUnit;
use record::sealed::SignedStatement;
use rules::accept::{QuickFall, counts_water};
use rules::system::Derived;
use serde::Serialize;
use time::OffsetDateTime;

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

/// One attempt as shown to a person.
pub async fn attempt_view(app: &App, who: &Who, pack: &PackRow, run: &Run, boundary: &[BoundaryRow]) -> Result<AttemptView, Problem> {
    let signatures = signature::of_attempt(&app.db, &run.attempt.id).await?;
    let frozen = signature::content(&app.db, &run.attempt.id).await?;
    let items: Vec<_> = boundary.iter().map(|b| b.item.clone()).collect();
    let derived = run.derived().ok();
    let withdrawn = run.withdrawn(app).await?;
    let case = derived.as_ref().and_then(|d| run.case(d));
    let restore = match &frozen {
        Some(content) => content.parts.restore.clone(),
        None => list(&run.booked(), &items, pack.plan.derating.as_ref()),
    };
    let judgement = match &frozen {
        Some(content) => Some(content.parts.judgement.clone()),
        None => match &case {
            Some(case) => Some(judged(app, run, case.clone()).await?.as_ref().clone()),
            None => None,
        },
    };
    let schedule = derived.as_ref().map(|d| schedule_of(run, d)).unwrap_or_default();
    let reached = run.booked().iter().filter(|k| **k == RunEventKind::StepReached).count();
    let done: Vec<(Act, String)> = signatures.iter().map(|s| (s.act, s.person.clone())).collect();
    let next_act = next(pack.form, &done.iter().map(|d| d.0).collect::<Vec<_>>());
    let last = last_read(run, run.now_s(app));
    Ok(AttemptView {
        id: run.attempt.id.clone(),
        number: run.attempt.number,
        follows: run.attempt.follows,
        supersedes_reason: run.attempt.supersedes_reason.clone(),
        instruction: withdrawn.clone().unwrap_or_else(|| instruction(app, run, derived.as_ref(), &schedule, reached)),
        withdrawn,
        changed_since: run.warned(app).await?,
        released_at: run.attempt.released_at,
        released_by: run.attempt.released_by.clone(),
        readings: run.typed.len() + run.logged.len() + run.ticks.len(),
        last_pressure_pa: last.map(|l| l.1),
        last_pressure_s: last.map(|l| l.0),
        over: run.over(),
        frozen: frozen.is_some(),
        sign_objection: next_act.and_then(|act| sign_objection(pack, run, &restore, judgement.as_ref(), &done, act, who)),
        next_statement: next_act.map(|a| a.statement(pack.form).to_owned()),
        next_act,
        signatures,
        next_step: schedule.into_iter().nth(reached),
        hold_start_s: case.as_ref().map(|c| c.hold_start_s),
        hold_end_s: case.as_ref().map(|c| c.hold_end_s),
        judgement,
        restore,
        events: run.events.clone(),
    })
}

/// The last pressure, s from the release and Pa: the recorder's last before what was typed, and never one that lies ahead.
fn last_read(run: &Run, now_s: f64) -> Option<(f64, f64)> {
    let gauge = run.attempt.frozen.instruments.iter().position(|i| i.tag == run.attempt.frozen.plan.gauge_tag);
    let read = |t: &crate::store::tick::Tick| {
        let v = t.values.iter().find(|v| Some(usize::from(v.channel)) == gauge)?;
        Some((run.seconds_us(t.run_us), v.value?))
    };
    let recorded = run.ticks.iter().rev().find_map(read);
    recorded.or_else(|| {
        let brought = run.readings().into_iter().rfind(|r| r.pressure_pa.is_some() && r.t_s <= now_s)?;
        Some((brought.t_s, brought.pressure_pa?.pa()))
    })
}

/// Steps of a run, as frozen.
pub fn schedule_of(run: &Run, derived: &Derived) -> Vec<Step> {
    if derived.day.is_none() {
        return Vec::new();
    }
    steps(&Raise::of(&run.attempt.frozen.plan, derived, run.system().gauge.division_pa, run.attempt.frozen.hold()))
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
    if plan.run == pack::plan::RunKind::Practice {
        return Some("This is practice on a simulated system: it is never signed. The real test is another pack.".to_owned());
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

/// When the rest at the step that was reached last is over, s from the release; none before the first.
pub fn rest_until_s(run: &Run, schedule: &[Step], reached: usize) -> Option<f64> {
    let step = schedule.get(reached.checked_sub(1)?)?;
    let at = run.last_s(RunEventKind::StepReached)?;
    let rest = if reached == schedule.len() { step.hold_s - run.attempt.frozen.hold().s() } else { step.hold_s };
    Some(at + rest.max(0.0))
}

/// When the clock of a hold was started last, s from the release: when the pump was taken off, or by a stroke that starts it anew; none before.
pub fn clock_from_s(run: &Run, derived: Option<&Derived>) -> Option<f64> {
    let counts_water = derived.is_some_and(|d| counts_water(&d.criteria));
    run.judged_events().into_iter().rfind(|e| starts_clock(e, counts_water)).map(|e| e.t_s)
}

/// Until when a run waits with the pump off for the quick fall that its basis asks for, s from the release; none before and after.
pub fn waits_until_s(run: &Run, derived: &Derived) -> Option<(QuickFall, f64)> {
    let quick = derived.lowering()?.quick?;
    let off = run.last_s(RunEventKind::PumpOff)?;
    let lowered = run.last_s(RunEventKind::Bleed).is_some_and(|bled| bled > off);
    (!lowered && run.last_s(RunEventKind::HoldEnded).is_none()).then(|| (quick, off + quick.wait_s.s()))
}

/// What to do next in a run.
pub fn instruction(app: &App, run: &Run, derived: Option<&Derived>, schedule: &[Step], reached: usize) -> String {
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
    let look = derived.and_then(Derived::looks_at_pa);
    let looked = || {
        let since = run.events.iter().find(|e| e.kind == RunEventKind::PumpOff).map(|e| run.event_s(e));
        run.events.iter().any(|e| e.kind == RunEventKind::LookDone && e.place.is_none() && since.is_some_and(|s| run.event_s(e) >= s))
    };
    if let (true, Some(look)) = (has(RunEventKind::HoldEnded) && !looked(), look) {
        return format!(
            "Lower slowly to {}, nobody in line; then look at every joint and book it, before the pressure is released.",
            show(look)
        );
    }
    if has(RunEventKind::HoldEnded) {
        return "Release slowly by the bleed valve, nobody in line; prove zero in every section.".to_owned();
    }
    let clock = |t_s: f64| app.clock(run.shown(t_s));
    let now_s = run.now_s(app);
    if let Some((quick, until)) = derived.and_then(|d| waits_until_s(run, d)) {
        return format!(
            "Wait until {} with everything shut; it may fall by {:.0} %. Then lower it quickly by {:.0} to {:.0} %, measure the water drawn and book the \
             bleed: the hold's clock starts then.",
            clock(until),
            100.0 * quick.wait_fall_share,
            100.0 * quick.shares.0,
            100.0 * quick.shares.1
        );
    }
    if has(RunEventKind::PumpOff) {
        let until = clock_from_s(run, derived).map(|s| clock(s + run.attempt.frozen.hold().s()));
        let then = match look {
            Some(look) => format!("stay clear. Then end the hold and lower to {}: the joints are looked at there.", show(look)),
            None => "look at every joint and book it.".to_owned(),
        };
        return format!("Hold until {}. Read pressure and temperature; {then}", until.unwrap_or_default());
    }
    if !has(RunEventKind::Filled) {
        return "Fill slowly from the bottom, let every vent run free of bubbles, close from the lowest up. Look with the static head on."
            .to_owned();
    }
    let until = derived.filter(|_| reached == 0).and_then(|d| run.rests_until(d)).filter(|until| *until > app.clock.now());
    if let Some(until) = until {
        return format!(
            "No pressure before {}: the wall still draws back from the test before, and until then it counts as no test.",
            app.clock(until)
        );
    }
    let lowering = derived.and_then(Derived::lowering);
    let lowered = derived.filter(|_| lowering.is_some_and(|l| l.quick.is_none())).map(Derived::hold_begins_pa);
    let resting = rest_until_s(run, schedule, reached).filter(|until| *until > now_s).map(clock);
    match (schedule.get(reached), resting) {
        (Some(_), Some(until)) if derived.is_some_and(|d| d.gas.is_some()) => {
            let stopped = reached.checked_sub(1).and_then(|i| schedule.get(i)).map_or("", |s| s.words.as_str());
            format!("Hold this step until {until}: {stopped}.")
        }
        (Some(_), Some(until)) => format!("Hold this step until {until}; look at every joint."),
        (Some(step), None) => format!("Raise to {}, then stop the pump.", show(step.target_pa)),
        (None, Some(until)) if lowering.is_some() => {
            format!("At test pressure until {until}: pump up what the wall takes as it stretches.")
        }
        (None, Some(until)) => format!("At test pressure: stand clear and let it settle until {until}."),
        (None, None) if let Some(to) = lowered => {
            format!(
                "Lower it to {} by the bleed, then valve off and disconnect the pump, and book it. The hold's clock starts then.",
                show(to)
            )
        }
        (None, None) if let Some(quick) = lowering.and_then(|l| l.quick) => {
            let wait = quantity::format::span(quick.wait_s.s());
            format!("Valve off and disconnect the pump, and book it. The wait of {wait} starts then.")
        }
        (None, None) => "Valve off and disconnect the pump, and book it. The hold's clock starts then.".to_owned(),
    }
}
