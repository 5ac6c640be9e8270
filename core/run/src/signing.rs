//! What a signature wants of a run.

use crate::run::Run;
use judge::judgement::Judgement;
use pack::looks::not_looked_at;
use pack::people::Role;
use pack::plan::RunKind;
use pack::registers::LookAt;
use pack::restore::{RestoreLine, closed};
use pack::signing::{Act, Form, HandWay};
use terms::{EventKind, Outcome};

/// Who would sign, and what was signed before.
#[derive(Debug, Clone, Copy)]
pub struct Signer<'a> {
    /// Sign-in name.
    pub person: &'a str,
    /// Role.
    pub role: Role,
    /// Size of the test.
    pub form: Form,
    /// Signatures that were given, in order.
    pub done: &'a [(Act, String)],
    /// How somebody signs who has no account; none for whoever has one.
    pub hand: Option<HandWay>,
}

/// What was done with a run and after it, as signatures count it.
#[derive(Debug, Clone, Copy)]
pub struct After<'a> {
    /// Number of the attempt.
    pub attempt: u32,
    /// Places to look at.
    pub looks: &'a [LookAt],
    /// What must be put back or done.
    pub restore: &'a [RestoreLine],
}

impl Run {
    /// Why a person may not sign now; none when they may.
    pub fn sign_objection(&self, after: &After<'_>, judgement: Option<&Judgement>, act: Act, by: &Signer<'_>) -> Option<String> {
        let plan = &self.frozen().plan;
        if plan.run == RunKind::Rehearsal {
            return Some("This run is a rehearsal, which is never signed. Plan a record run.".to_owned());
        }
        if plan.run == RunKind::Practice {
            return Some("This is practice on a simulated system, which is never signed. The real test is another pack.".to_owned());
        }
        let Some(judgement) = judgement.filter(|_| self.has(EventKind::HoldEnded) || self.over()) else {
            return Some("The test is not over: end the hold, or book that the pressure was let out.".to_owned());
        };
        // a run that stopped before its hold says what was not looked at
        if let Some(open) = not_looked_at(after.looks, after.attempt).filter(|_| self.has(EventKind::PumpOff)) {
            return Some(open);
        }
        if !closed(after.restore) {
            return Some("Restore is not closed. Release, vent, drain, and put everything back first.".to_owned());
        }
        let lines = judgement.lines.as_ref();
        if let Some(open) = lines.and_then(|l| l.by_basis.to_decide.as_ref()) {
            return Some(format!("{open} That is done on Judge."));
        }
        if act == Act::Accepted && judgement.outcome() != Outcome::Meets {
            return Some("Only a test that meets what is asked of it can be accepted. Plan another attempt.".to_owned());
        }
        match by.hand {
            Some(_) => {
                let done: Vec<Act> = by.done.iter().map(|d| d.0).collect();
                pack::signing::by_hand_objection(by.form, plan.signers, &done, act)
            }
            None => pack::signing::objection(by.form, plan.signers, &plan.people, by.done, act, by.person, by.role),
        }
    }
}
