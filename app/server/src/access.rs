//! Who may do what. A role opens an action; a pack opens itself only to those it concerns.

use crate::problem::Problem;
use crate::store::pack::PackRow;
use crate::who::Who;
use pack::people::Role;
use pack::signing::Form;
use terms::Term;

/// What a person wants to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Action {
    /// read a pack
    See,
    /// make a pack
    Make(Form),
    /// change plan, parts, registers
    Plan,
    /// add or clear a punch item
    Punch,
    /// keep the instrument store
    Instruments,
    /// release for test, start a new attempt
    Release,
    /// book readings, events and recordings
    Book,
    /// correct how a record is read
    Judge,
    /// sign
    Sign,
    /// make a copy for practice
    Practise,
    /// change what the project lays down
    Specification,
    /// read and export the security log
    Security,
}

/// Roles that work for the site and see every pack; the others see those on which they are named.
fn of_the_site(role: Role) -> bool {
    matches!(role, Role::Engineer | Role::Supervisor | Role::Reader | Role::Inspector)
}

/// True when the role may, on packs that it sees. An owner does everything on a quick test of their own.
fn role_may(role: Role, action: Action, own_quick: bool) -> bool {
    use Role::{Administrator, Engineer, Inspector, Owner, Reader, Supervisor};
    // whoever looks after the installation has no part in any test
    if role == Administrator || action == Action::Security {
        return role == Administrator && action == Action::Security;
    }
    match action {
        Action::See | Action::Sign | Action::Security => true,
        Action::Practise => of_the_site(role) || own_quick,
        Action::Make(Form::Pack) | Action::Specification => role == Engineer,
        Action::Make(Form::Quick) => matches!(role, Engineer | Supervisor | Owner),
        Action::Plan => matches!(role, Engineer | Supervisor) || own_quick,
        Action::Punch => matches!(role, Engineer | Supervisor | Inspector) || own_quick,
        Action::Instruments => matches!(role, Engineer | Supervisor | Owner),
        Action::Release => role == Supervisor || own_quick,
        Action::Judge => matches!(role, Engineer | Supervisor | Inspector) || own_quick,
        Action::Book => matches!(role, Supervisor | Reader | Inspector) || own_quick,
    }
}

fn words(action: Action) -> &'static str {
    match action {
        Action::See => "see this",
        Action::Make(Form::Pack) => "make a pack",
        Action::Make(Form::Quick) => "make a quick test",
        Action::Plan => "change the plan",
        Action::Punch => "change the punch list",
        Action::Instruments => "change the instrument store",
        Action::Release => "release a test",
        Action::Book => "book readings and events",
        Action::Judge => "correct how a record is read",
        Action::Sign => "sign",
        Action::Practise => "practise on a copy",
        Action::Security => "read the security log",
        Action::Specification => "change the project's specification",
    }
}

/// Checks an action that is not about one pack.
///
/// # Errors
/// When the role may not.
pub fn may(who: &Who, action: Action) -> Result<(), Problem> {
    if role_may(who.role, action, false) {
        Ok(())
    } else {
        Err(Problem::NotAllowed(format!("As {} you cannot {}.", who.role.words(), words(action))))
    }
}

/// Checks an action on a pack. A pack that does not concern the person is not there for them.
///
/// # Errors
/// When it is not theirs to see, or the role may not.
pub fn may_on(who: &Who, action: Action, pack: &PackRow) -> Result<(), Problem> {
    let own = pack.created_by == who.sign_in;
    if !(of_the_site(who.role) || own || pack.plan.people.name(&who.sign_in)) {
        return Err(Problem::NotFound("pack"));
    }
    // whoever practises does every part of it alone
    let own_quick = own && (pack.form == Form::Quick || pack.plan.run == pack::plan::RunKind::Practice);
    if role_may(who.role, action, own_quick) {
        Ok(())
    } else {
        Err(Problem::NotAllowed(format!("As {} you cannot {}.", who.role.words(), words(action))))
    }
}

/// True when a pack is theirs to see.
pub fn sees(who: &Who, created_by: &str, people: &pack::people::People) -> bool {
    of_the_site(who.role) || created_by == who.sign_in || people.name(&who.sign_in)
}
