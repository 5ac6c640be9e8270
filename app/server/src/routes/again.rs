//! The same test once more: the next joint, the next boiler, the same one next year.

use super::uuid;
use crate::access::{Action, may_in, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::{pack as packs, register};
use crate::views::pack::{PackView, pack_view};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use pack::plan::RunKind;
use pack::registers::{BoundaryItem, Item, Read};
use pack::signing::Form;

/// Makes a test like another: what is tested, how, and who does what; what closes it, to be set anew. Never a reading, a look, a word that somebody gave, or
/// a signature. A number at the end of its name goes on by one. The same id again changes nothing.
#[utoipa::path(put, path = "/api/v1/packs/{id}/again/{copy}", tag = "packs", params(("id" = String, Path), ("copy" = String, Path, description = "UUID made by the client")),
    responses((status = 201, body = PackView), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    Path((id, copy)): Path<(String, String)>,
) -> Result<(StatusCode, Json<PackView>), Problem> {
    let row = packs::get(&app.db, &id).await?;
    may_on(&who, Action::See, &row)?;
    may_in(&who, &row.project.id, Action::Make(row.form))?;
    uuid(&copy)?;
    let mut plan = row.plan.clone();
    // what somebody looked at, found, promised or was allowed for one test is none of the next
    plan.inside_look = String::new();
    plan.derating = None;
    plan.next_test = None;
    plan.permit_number = String::new();
    plan.relief_alternative = String::new();
    plan.pretest_permitted_by = String::new();
    plan.run = if plan.run == RunKind::Practice { RunKind::Record } else { plan.run };
    // whoever pumps gives their own word
    plan.hand_pump = plan.hand_pump && plan.people.performs == who.sign_in;
    plan.relief_fitted_pa = plan.relief_fitted_pa.filter(|_| plan.people.performs == who.sign_in);
    if row.form == Form::Quick {
        plan.people.performs.clone_from(&who.sign_in);
    }
    let mut rows = row.rows.clone();
    for cell in rows.iter_mut().filter_map(|r| r.typed.get_mut("tag")) {
        if row.title.ends_with(cell.as_str()) {
            *cell = next_name(cell);
        }
    }
    let new = packs::NewPackRow {
        id: &copy,
        project: &row.project,
        number: "",
        title: &next_name(&row.title),
        form: row.form,
        plan: &plan,
        rows: &rows,
        by: &who.sign_in,
    };
    packs::insert(&app.db, &new).await?;
    boundary(&app, &who, &id, &copy, false).await?;
    let made = packs::get(&app.db, &copy).await?;
    if row.form == Form::Quick {
        super::looks::list(&app, &who, &made).await?;
    }
    Ok((StatusCode::CREATED, Json(pack_view(&app, &who, made).await?)))
}

/// Copies what is put in and taken out for a test to another: set for it already, or to be set anew. What is there stays as it is.
pub(super) async fn boundary(app: &App, who: &Who, from: &str, to: &str, set: bool) -> Result<(), Problem> {
    let there = register::of_pack(&app.db, to).await?.items::<BoundaryItem>()?;
    for b in register::of_pack(&app.db, from).await?.items::<BoundaryItem>()? {
        let item = BoundaryItem { set_for_test: set, put_back: false, ..b };
        if !there.iter().any(|t| t.tag == item.tag) {
            let id = uuid::Uuid::now_v7().to_string();
            let register = BoundaryItem::REGISTER;
            let change = register::Change { pack: to, register, id: &id, by: &who.sign_in, at: app.clock.now(), version: None, why: None };
            register::put(&app.db, &change, &Read { tag: item.tag.clone(), body: serde_json::to_value(&item)? }).await?;
        }
    }
    Ok(())
}

/// A name whose last number is one more: "joint 12" becomes "joint 13", "J-09" becomes "J-10"; any other stays.
fn next_name(name: &str) -> String {
    let digits = name.chars().rev().take_while(char::is_ascii_digit).count();
    let (before, number) = name.split_at(name.len() - digits);
    // a year, and a number as long as one that somebody stamped into a plate, is no count
    match number.parse::<u32>() {
        Ok(n) if digits < 4 => format!("{before}{:0digits$}", n + 1),
        _ => name.to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_number_of_a_name_goes_on_by_one() {
        for (name, next) in [
            ("joint 12", "joint 13"),
            ("J-09", "J-10"),
            ("No. 99", "No. 100"),
            ("Boiler", "Boiler"),
            ("built 1931", "built 1931"),
            ("", ""),
        ] {
            assert_eq!(next_name(name), next);
        }
    }
}
