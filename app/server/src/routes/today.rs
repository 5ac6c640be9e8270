//! Today: what is under test, what can be tested, what stops the rest.

use super::packs::{PackLine, line, views};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::views::pack::StateKind;
use crate::who::Who;
use axum::Json;
use axum::extract::State;
use serde::Serialize;

/// A blind that is still in.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct BlindIn {
    /// Tag.
    pub tag: String,
    /// Where.
    pub place: String,
    /// Pack.
    pub pack_id: String,
    /// Number of the pack.
    pub pack_number: String,
}

/// The day board.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Today {
    /// The site's day.
    pub date: String,
    /// Under test now.
    pub running: Vec<PackLine>,
    /// Can be released.
    pub ready: Vec<PackLine>,
    /// Over, waiting for repair, retest or signatures.
    pub judged: Vec<PackLine>,
    /// Stopped, with the reasons.
    pub blocked: Vec<PackLine>,
    /// Signed.
    pub signed: Vec<PackLine>,
    /// Blinds that are in, across all packs.
    pub blinds_in: Vec<BlindIn>,
    /// Instruments that are out of date, in sentences.
    pub instruments_out: Vec<String>,
}

/// The day board for this person.
#[utoipa::path(get, path = "/api/v1/today", tag = "packs", responses((status = 200, body = Today), (status = 401, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who) -> Result<Json<Today>, Problem> {
    let date = app.today();
    let instruments = crate::store::instrument::all(&app.db).await?;
    let mut today = Today {
        instruments_out: instruments.iter().filter_map(|r| r.instrument.objection(&date)).collect(),
        date: date.0,
        running: vec![],
        ready: vec![],
        judged: vec![],
        blocked: vec![],
        signed: vec![],
        blinds_in: vec![],
    };
    let (views, rubbish) = views(&app, &who).await?;
    today.blocked = rubbish;
    for view in views {
        today.blinds_in.extend(
            view.boundary
                .iter()
                .filter(|b| b.item.kind == pack::registers::BoundaryKind::Blind && b.item.set_for_test && !b.item.put_back)
                .map(|b| BlindIn {
                    tag: b.item.tag.clone(),
                    place: b.item.place.clone(),
                    pack_id: view.id.clone(),
                    pack_number: view.number.clone(),
                }),
        );
        let list = match view.state_kind {
            StateKind::Running => &mut today.running,
            StateKind::Ready => &mut today.ready,
            StateKind::Judged => &mut today.judged,
            StateKind::Blocked => &mut today.blocked,
            StateKind::Signed => &mut today.signed,
        };
        list.push(line(view));
    }
    Ok(Json(today))
}
