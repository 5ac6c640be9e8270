//! Who may do what. A role opens an action; a pack opens itself only to those it concerns.

use crate::problem::Problem;
use crate::store::listing::Sees;
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
    /// say what must be looked at
    Looks,
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
    /// invite people, give them roles, make projects
    People,
}

/// Roles that work for the project and see every pack of it; the others see those on which they are named.
fn of_the_site(role: Role) -> bool {
    matches!(role, Role::Engineer | Role::Supervisor | Role::Reader | Role::Inspector)
}

/// True when the role may, on packs that it sees. An owner does everything on a quick test of their own.
fn role_may(role: Role, action: Action, own_quick: bool) -> bool {
    use Role::{Administrator, Engineer, Inspector, Owner, Reader, Supervisor};
    // whoever looks after the installation has no part in any test
    if role == Administrator || matches!(action, Action::Security | Action::People) {
        return role == Administrator && matches!(action, Action::Security | Action::People);
    }
    match action {
        Action::See | Action::Sign | Action::Security | Action::People => true,
        Action::Practise => of_the_site(role) || own_quick,
        Action::Make(Form::Pack) | Action::Specification => role == Engineer,
        Action::Make(Form::Quick) => matches!(role, Engineer | Supervisor | Owner),
        Action::Plan => matches!(role, Engineer | Supervisor) || own_quick,
        Action::Punch => matches!(role, Engineer | Supervisor | Inspector) || own_quick,
        Action::Looks => of_the_site(role) || own_quick,
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
        Action::Punch => "change this list",
        Action::Looks => "change what must be looked at",
        Action::Instruments => "change the instrument store",
        Action::Release => "release a test",
        Action::Book => "book readings and events",
        Action::Judge => "correct how a record is read",
        Action::Sign => "sign",
        Action::Practise => "practise on a copy",
        Action::Security => "read the security log",
        Action::People => "look after people and projects",
        Action::Specification => "change the project's specification",
    }
}

/// Checks an action that is about no project: the installation, or the instruments of the site.
///
/// # Errors
/// When none of their roles may.
pub fn may(who: &Who, action: Action) -> Result<(), Problem> {
    let any = if who.administrator {
        role_may(Role::Administrator, action, false)
    } else {
        who.roles.values().any(|r| role_may(*r, action, false))
    };
    if any { Ok(()) } else { Err(Problem::NotAllowed(format!("As {} you cannot {}.", who.role_words(), words(action)))) }
}

/// Checks an action in a project that is not about one pack. A project in which a person has no part is not there for them.
///
/// # Errors
/// When it is not theirs to see, or their role in it may not.
pub fn may_in(who: &Who, project: &str, action: Action) -> Result<(), Problem> {
    match who.role_in(project) {
        None => Err(Problem::NotFound("project")),
        Some(role) if role_may(role, action, false) => Ok(()),
        Some(role) => Err(Problem::NotAllowed(format!("As {} you cannot {}.", role.words(), words(action)))),
    }
}

/// The project in which a person means to do something: the one that they name, or the only one in which they may.
///
/// # Errors
/// When there is none, or they must say which.
pub fn meant<'a>(who: &'a Who, named: Option<&'a str>, action: Action) -> Result<&'a str, Problem> {
    if let Some(project) = named.filter(|p| !p.is_empty()) {
        return may_in(who, project, action).map(|()| project);
    }
    let mut open = who.roles.iter().filter(|(_, r)| role_may(**r, action, false)).map(|(p, _)| p.as_str());
    match (open.next(), open.next()) {
        (Some(only), None) => Ok(only),
        (Some(_), Some(_)) => Err(Problem::invalid("project", "you work in more than one project: say in which this is")),
        (None, _) => Err(Problem::NotAllowed(format!("As {} you cannot {}.", who.role_words(), words(action)))),
    }
}

/// Checks an action on a pack. A pack that does not concern the person is not there for them.
///
/// # Errors
/// When it is not theirs to see, or the role may not.
pub fn may_on(who: &Who, action: Action, pack: &PackRow) -> Result<(), Problem> {
    let own = pack.created_by == who.sign_in;
    let Some(role) = who.role_in(&pack.project.id) else { return Err(Problem::NotFound("pack")) };
    if !(of_the_site(role) || own || pack.plan.people.name(&who.sign_in)) {
        return Err(Problem::NotFound("pack"));
    }
    // whoever practises does every part of it alone
    let own_quick = own && (pack.form == Form::Quick || pack.plan.run == pack::plan::RunKind::Practice);
    if role_may(role, action, own_quick) {
        Ok(())
    } else {
        Err(Problem::NotAllowed(format!("As {} you cannot {}.", role.words(), words(action))))
    }
}

/// What lists hold for a person.
pub fn sees_in_lists(who: &Who) -> Sees {
    let (whole, named): (Vec<_>, Vec<_>) = who.roles.iter().partition(|(_, role)| of_the_site(**role));
    Sees {
        person: who.sign_in.clone(),
        whole: whole.into_iter().map(|(p, role)| (p.clone(), role.key())).collect(),
        named: named.into_iter().map(|(p, _)| p.clone()).collect(),
    }
}
