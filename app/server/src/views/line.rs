//! What lists show of a pack: its line, made of the same derivation, gates and state as its page. Figures in its sentences are said when somebody reads
//! them, in units of their own.

use crate::problem::Problem;
use crate::runs;
use crate::state::App;
use crate::store::attempt::{self, AttemptRow};
use crate::store::line::{Blind, Blocker, Body, Line, Owed, To};
use crate::store::pack::{PackRow, Unreadable};
use crate::store::register;
use crate::store::signature;
use crate::views::afterwards::Afterwards;
use crate::views::judged::judged;
use crate::views::pack::{Last, StateKind, planned, state};
use crate::who::Who;
use moment::Instant;
use pack::gates::GateResult;
use pack::people::Role;
use pack::signing::{Act, Form, next};
use std::collections::BTreeSet;
use terms::{EventKind, Term};

/// Longest word under which a pack is found.
const LONGEST_WORD: usize = 40;
/// When a pack that cannot be read was last touched nobody knows.
const YEAR_2000: Instant = Instant::from_us(946_684_800_000_000);
/// Most words of one pack.
const MOST_WORDS: usize = 600;

/// What joins the pieces of a tag or a number.
const fn joins(c: char) -> bool {
    matches!(c, '-' | '/' | '.' | '_')
}

/// Pieces of a text that stand apart: tags and numbers stay whole.
fn pieces(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !c.is_alphanumeric() && !joins(c)).filter(|p| p.contains(char::is_alphanumeric))
}

fn small(piece: &str) -> String {
    piece.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).take(LONGEST_WORD).collect()
}

/// The words under which texts are found, in small letters: each piece without what joins it, and its parts.
pub fn words<'a>(texts: impl IntoIterator<Item = &'a str>) -> BTreeSet<String> {
    let mut all = BTreeSet::new();
    for piece in texts.into_iter().flat_map(pieces) {
        all.insert(small(piece));
        all.extend(piece.split(joins).map(small).filter(|w| !w.is_empty()));
        if all.len() >= MOST_WORDS {
            break;
        }
    }
    all
}

/// What somebody looks for, as [`words`] has it: each is the beginning of a word. "tb-31" is the beginning of one tag, not of two words.
pub fn looked_for(text: &str) -> Vec<String> {
    pieces(text).map(small).collect()
}

/// How far an attempt is, what is still to be put back, and when something was booked last.
async fn last_of(app: &App, row: &PackRow, attempt: &AttemptRow, after: &Afterwards) -> Result<(Last, usize, Instant), Problem> {
    let held = runs::current(app, attempt).await?;
    let signed: Vec<_> = signature::of_attempt(&app.db, &attempt.id).await?.iter().map(|s| s.act).collect();
    let frozen = if signed.is_empty() { None } else { signature::content(&app.db, &attempt.id).await? };
    let over = held.read().over();
    let verdict = match &frozen {
        Some(content) => Some(content.parts.judgement.outcome()),
        None if over => judged(app, &row.project.zone, &attempt.id, &held).await?.map(|j| j.outcome()),
        None => None,
    };
    let withdrawn = runs::withdrawn(app, &row.project, &held, Who::later(&row.project.id).reads).await?.is_some();
    let run = held.read();
    let open = if frozen.is_some() { 0 } else { after.restore(row, &run).iter().filter(|l| !l.done).count() };
    let moved = run.events().iter().map(|e| e.stored_at).max().unwrap_or(attempt.released_at);
    let last = Last {
        number: attempt.number,
        withdrawn,
        over,
        booked: run.events().iter().map(|e| e.kind).collect(),
        verdict: verdict.map(|v| v.words().to_owned()),
        next_act: next(row.form, attempt.frozen.plan.signers, &signed),
        signed,
    };
    Ok((last, open, moved))
}

/// To whom something is owed that a gate says: a role, or a person by name; on a quick test whoever made it.
fn to(row: &PackRow, who: &str) -> To {
    match Role::from_key(who) {
        _ if row.form == Form::Quick => To::Person(row.created_by.clone()),
        Some(role) => To::Role(role),
        None => To::Person(who.to_owned()),
    }
}

/// Whoever is named, or a role where nobody is.
fn named(row: &PackRow, person: &str, role: Role) -> To {
    match (person.is_empty(), row.form) {
        (false, _) => To::Person(person.to_owned()),
        (true, Form::Quick) => To::Person(row.created_by.clone()),
        (true, Form::Pack) => To::Role(role),
    }
}

/// What comes next in a run that is under way, with the step where it is done.
fn next_of_run(last: Option<&Last>) -> (&'static str, &'static str) {
    let booked = |kind| last.is_some_and(|l| l.booked.contains(&kind));
    if booked(EventKind::HoldEnded) {
        ("restore", "Its hold is over: release the pressure.")
    } else if booked(EventKind::PumpOff) {
        ("hold", "It is holding: read it to the end.")
    } else if booked(EventKind::Filled) {
        ("raise", "It is filled: raise the pressure.")
    } else {
        ("fill", "It is released for test: fill it.")
    }
}

const fn sign_it(act: Act) -> &'static str {
    match act {
        Act::Performed => "Sign that you performed it.",
        Act::Inspected => "Sign that you inspected it.",
        Act::Witnessed => "Sign that you witnessed it.",
        Act::Accepted => "Sign that you accept it.",
    }
}

/// What is owed on a pack, in the order of the work.
fn owed(row: &PackRow, kind: StateKind, gates: &[GateResult], last: Option<&Last>, open: usize) -> Vec<Owed> {
    let performs = || named(row, &row.plan.people.performs, Role::Supervisor);
    let one = |to: To, what: &str, step: &str, sentence: String| vec![Owed { to, what: what.to_owned(), step: step.to_owned(), sentence }];
    match (kind, last) {
        (StateKind::Blocked, _) => gates
            .iter()
            .filter(|g| !g.ready)
            .map(|g| Owed { to: to(row, &g.who), what: g.rule.clone(), step: g.step.clone(), sentence: g.sentence.clone() })
            .collect(),
        (StateKind::Ready, _) => one(performs(), "release", "ready", "Nothing stops it: release it for test.".to_owned()),
        (StateKind::Running, last) => {
            let (step, sentence) = next_of_run(last);
            let mut all = one(performs(), "run", step, sentence.to_owned());
            if row.form == Form::Pack {
                all.push(Owed {
                    to: To::Role(Role::Reader),
                    what: "read".to_owned(),
                    step: "read".to_owned(),
                    sentence: "Read the gauge.".to_owned(),
                });
            }
            all
        }
        (StateKind::Judged, _) if open > 0 => {
            let things = if open == 1 { "1 thing is".to_owned() } else { format!("{open} things are") };
            one(performs(), "restore", "restore", format!("{things} still to be put back or done."))
        }
        // accepted with it carried over: the pack is closed once it is done
        (StateKind::Signed, _) if open > 0 => {
            let things = if open == 1 { "1 thing that was".to_owned() } else { format!("{open} things that were") };
            one(performs(), "restore", "restore", format!("It is signed; {things} carried over must still be done."))
        }
        (StateKind::Judged, Some(Last { next_act: Some(act), .. })) => {
            one(named(row, act.person(&row.plan.people), act.role()), "sign", "sign", sign_it(*act).to_owned())
        }
        _ => Vec::new(),
    }
}

/// The line of a pack.
///
/// # Errors
/// When the database fails, or holds what cannot be read.
pub async fn line(app: &App, row: &PackRow) -> Result<Line, Problem> {
    let reads = Who::later(&row.project.id).reads;
    let registers = register::of_pack(&app.db, &row.id).await?;
    let after = Afterwards::of(&registers)?;
    let planned = planned(app, row, &registers, Some(reads)).await?;
    let attempt = attempt::of_pack(&app.db, &row.id).await?.into_iter().next_back();
    let (last, open, moved) = match &attempt {
        Some(attempt) => {
            let (last, open, moved) = last_of(app, row, attempt, &after).await?;
            (Some(last), open, moved.max(row.updated_at))
        }
        None => (None, 0, row.updated_at),
    };
    let (state_kind, state) = state(row.form, &planned.gates, last.as_ref(), after.owed());
    let gates: &[GateResult] = if state_kind == StateKind::Blocked { &planned.gates } else { &[] };
    let blinds = after.boundary.iter().map(|b| &b.item).filter(|b| b.kind.put_in() && b.set_for_test && !b.put_back);
    let uses: BTreeSet<String> = row.plan.recorded().into_iter().filter(|t| !t.is_empty()).map(str::to_owned).collect();
    let basis = row.plan.basis.name();
    let open = if state_kind == StateKind::Signed { after.owed() } else { open };
    let owed = owed(row, state_kind, gates, last.as_ref(), open);
    let texts = [row.number.as_str(), &row.title, &basis]
        .into_iter()
        .chain(uses.iter().map(String::as_str))
        .chain(after.boundary.iter().map(|b| b.item.tag.as_str()))
        .chain(planned.parts.iter().map(|p| p.tag.as_str()));
    Ok(Line {
        words: words(texts),
        owed: owed.clone(),
        body: Body {
            blockers: gates
                .iter()
                .filter(|g| !g.ready)
                .map(|g| Blocker { rule: g.rule.clone(), sentence: g.sentence.clone(), who: g.who.clone(), step: g.step.clone() })
                .collect(),
            blinds: blinds.map(|b| Blind { tag: b.tag.clone(), place: b.place.clone() }).collect(),
            step: owed.first().map_or("sign", |o| o.step.as_str()).to_owned(),
        },
        planned_pa: planned.derived.as_ref().ok().and_then(rules::system::Derived::readable_day).map(|d| d.planned_pa.pa()),
        gauge_unit: planned.system.gauge.unit,
        basis,
        state_kind,
        state,
        uses,
        moved_at: moved,
    })
}

/// The line of a pack that cannot be read.
pub fn unreadable(pack: &Unreadable) -> Line {
    let sentence = format!(
        "What the database holds of {} cannot be read. Nothing else is touched by it: whoever looks after the installation restores it from the backup.",
        pack.number
    );
    Line {
        words: words([pack.number.as_str(), &pack.title]),
        owed: Vec::new(),
        body: Body {
            blockers: vec![Blocker {
                rule: "unreadable".to_owned(),
                sentence,
                who: "the administrator".to_owned(),
                step: "derive".to_owned(),
            }],
            blinds: Vec::new(),
            step: "derive".to_owned(),
        },
        planned_pa: None,
        gauge_unit: quantity::PressureUnit::Bar,
        basis: String::new(),
        state_kind: StateKind::Blocked,
        state: "cannot be read".to_owned(),
        uses: BTreeSet::new(),
        moved_at: YEAR_2000,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_tag_is_found_by_its_beginning_and_by_its_parts() {
        let of = words(["Cooling water, pump-house", "TB-31"]);
        assert_eq!(
            of.iter().map(String::as_str).collect::<Vec<_>>(),
            ["31", "cooling", "house", "pump", "pumphouse", "tb", "tb31", "water"]
        );
        let found = |typed: &str| looked_for(typed).iter().all(|w| of.iter().any(|o| o.starts_with(w.as_str())));
        for typed in ["COOL wat", "tb-3", "TB 31", "pump-ho", "house,cooling", ""] {
            assert!(found(typed), "{typed}");
        }
        for typed in ["tb-1", "cool steam", "31tb"] {
            assert!(!found(typed), "{typed}");
        }
    }
}
