//! What a form offers: materials, kinds, bases, people.

use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::who::Who;
use axum::Json;
use axum::extract::State;
use pack::people::Role;
use pack::plan::ObjectKind;
use pack::quick::{QuickObject, objects};
use rules::basis::book;
use serde::Serialize;
use std::collections::BTreeMap;

/// A material on offer.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct MaterialChoice {
    /// Id.
    pub id: String,
    /// Name.
    pub name: String,
}

/// A person on offer.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct PersonChoice {
    /// Sign-in name.
    pub sign_in: String,
    /// Role.
    pub role: Role,
    /// Id of the project in which they have it.
    pub project: String,
}

/// What forms offer.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Library {
    /// Materials.
    pub materials: Vec<MaterialChoice>,
    /// Kinds of parts.
    pub part_kinds: Vec<String>,
    /// Test bases.
    pub bases: Vec<rules::basis::info::BasisInfo>,
    /// What is tested by each basis, where nobody says otherwise.
    pub objects: BTreeMap<String, ObjectKind>,
    /// Objects of the quick test.
    pub quick: Vec<QuickObject>,
    /// Ways to test in the order of their rank, and reasons against the plain liquid test.
    pub methods: rules::method::Methods,
    /// People of the projects in which whoever asks has a part.
    pub people: Vec<PersonChoice>,
}

/// What forms offer.
#[utoipa::path(get, path = "/api/v1/library", tag = "library", responses((status = 200, body = Library), (status = 401, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who) -> Result<Json<Library>, Problem> {
    let mut people = Vec::new();
    for project in who.roles.keys() {
        let members = crate::store::project::members(&app.db, project).await?;
        people.extend(members.into_iter().map(|m| PersonChoice { sign_in: m.person, role: m.role, project: project.clone() }));
    }
    Ok(Json(Library {
        materials: rules::library::shipped()
            .materials()
            .iter()
            .map(|m| MaterialChoice { id: m.id.clone(), name: m.name.clone() })
            .collect(),
        part_kinds: rules::part::PartKind::ALL.iter().map(|k| k.1.to_owned()).collect(),
        bases: rules::basis::info::catalogue(book::shipped(), who.reads.without_gauge()),
        objects: book::shipped().all().map(|(e, _)| (e.id.clone(), ObjectKind::of_basis(&e.id, e.duty))).collect(),
        quick: objects().iter().map(|o| o.told(who.reads.without_gauge())).collect(),
        methods: rules::method::methods().clone(),
        people,
    }))
}
