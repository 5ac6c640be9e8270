//! Packs that suggest themselves from the parts of one: what can share a filling. Nothing is stored; whoever accepts makes the packs.

use super::Query;
use crate::access::{Action, may_on};
use crate::problem::{Problem, ProblemBody};
use crate::state::App;
use crate::store::{pack as packs, register};
use crate::views::pack::planned;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use formats::parts::GridRow;
use quantity::PressureDifference;
use rules::part::Part;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use system::joined::Joined;
use system::suggested::{Line, OnSite, suggested};

/// What the site has for it.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
pub struct Asked {
    /// Pairs of points that a hose can join: `a:b;c:d`.
    hoses: Option<String>,
}

/// Lines that can share a filling.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct SuggestedPack {
    /// Tags of its parts, as they are listed.
    pub parts: Vec<String>,
    /// Their rows, each with the heights and points that it had from its neighbours.
    pub rows: Vec<GridRow>,
    /// Lower bound at the gauge of this pack, Pa.
    pub lower_pa: f64,
    /// Upper bound there, Pa.
    pub upper_pa: f64,
    /// Room, m³.
    pub volume_m3: f64,
    /// What they share, in a sentence.
    pub reason: String,
}

/// Suggested packs.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct SuggestedPacks {
    /// The packs, the largest first.
    pub packs: Vec<SuggestedPack>,
    /// Parts that fit nowhere, for nothing suits even them alone.
    pub alone: Vec<String>,
    /// No way of grouping needs fewer packs than this.
    pub at_least: usize,
    /// Places where something is connected: named anew in each pack.
    pub left_out: Vec<String>,
}

/// Most hoses that are asked about at once.
const MOST_HOSES: usize = 100;

fn hoses(text: &str) -> Result<Vec<[String; 2]>, Problem> {
    let pair = |p: &str| p.split_once(':').map(|(a, b)| [a.trim().to_owned(), b.trim().to_owned()]);
    let all: Option<Vec<[String; 2]>> = text.split(';').filter(|p| !p.trim().is_empty()).map(pair).collect();
    all.filter(|h| h.len() <= MOST_HOSES && h.iter().flatten().all(|p| !p.is_empty())).ok_or_else(|| {
        Problem::invalid("hoses", format!("a hose joins two points: write them as \"low:shelf; pit:house\", at most {MOST_HOSES} of them"))
    })
}

/// The row of a part as it can stand without its neighbours: with its own heights, and the points that it joins by name.
fn by_itself(grid: &[GridRow], parts: &[Part], joined: &Joined, part: usize) -> Option<GridRow> {
    let (part, place) = (&parts[part], joined.places[part]?);
    let mut row = grid.iter().find(|r| r.cell("tag") == part.tag)?.clone();
    row.id.clear();
    let name = |p: usize| Some(joined.names[p].clone()).filter(|n| !n.is_empty()).unwrap_or_else(|| format!("point {}", p + 1));
    let mut set = |column: &str, text: String| {
        if row.cell(column).is_empty() {
            row.typed.insert(column.to_owned(), text);
        }
    };
    set("height", format!("{} m", part.elevation_m.m()));
    set("from", name(place.from));
    if place.to != place.from {
        set("to", name(place.to));
        if let Some(z) = part.to_elevation_m {
            set("to height", format!("{} m", z.m()));
        }
    }
    Some(row)
}

/// Which parts of a pack can share a filling: they hang together, stand the same water, and one gauge reading suits them all.
#[utoipa::path(get, path = "/api/v1/packs/{id}/suggested", tag = "packs", params(("id" = String, Path), Asked),
    responses((status = 200, body = SuggestedPacks), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(asked): Query<Asked>,
) -> Result<Json<SuggestedPacks>, Problem> {
    let row = packs::get(&app.db, &id).await?;
    may_on(&who, Action::See, &row)?;
    let hoses = hoses(asked.hoses.as_deref().unwrap_or_default())?;
    let registers = register::of_pack(&app.db, &id).await?;
    let planned = planned(&app, &row, &registers, Some(who.reads_on(&row))).await?;
    let Ok(derived) = &planned.derived else {
        let why = planned.refusals.first().map_or("no parts are listed", |r| r.sentence.as_str());
        return Err(Problem::Conflict(format!("Nothing can be suggested while no window follows: {why}")));
    };
    let windows: HashMap<String, (quantity::GaugePressure, quantity::GaugePressure)> =
        derived.parts.iter().map(|w| (w.tag.clone(), (w.gauge_lower_pa, w.gauge_upper_pa))).collect();
    let most = planned.system.specification.answer("chloride").ppm;
    let clean = planned.system.site.chloride_ppm.zip(most).is_some_and(|(c, m)| c <= m) || most.is_none();
    let library = planned.system.library().map_err(|e| Problem::invalid("specification.library", e))?;
    let austenitic = move |p: &Part| p.material.as_deref().and_then(|m| library.material(m).ok()).is_some_and(|m| m.austenitic());
    let (system, grid) = (planned.system, row.rows);
    let found = app
        .looking
        .run(move |_| {
            let parts = system::joined::with_points(&system.parts, &system.joints);
            let joined = system::joined::joined(&parts);
            let point = |p: usize| format!("{p}");
            let taken: Vec<usize> =
                (0..parts.len()).filter(|i| joined.places[*i].is_some() && windows.contains_key(&parts[*i].tag)).collect();
            let lines: Vec<Line> = taken
                .iter()
                .filter_map(|i| {
                    let (place, window) = (joined.places[*i]?, windows.get(&parts[*i].tag)?);
                    Some(Line {
                        tag: parts[*i].tag.clone(),
                        points: vec![point(place.from), point(place.to)],
                        lower: window.0,
                        upper: window.1,
                        water: if !clean && austenitic(&parts[*i]) { "water low in chloride" } else { "any water" }.to_owned(),
                        volume: parts[*i].volume(),
                    })
                })
                .collect();
            // points of one name at two heights are one, by a riser that nobody measured; a hose joins points by their names
            let named = |name: &str| joined.names.iter().position(|n| n == name).map(point);
            let risers = joined.steps.iter().map(|s| joined.network.runs[s.run]).map(|r| [point(r.from), point(r.to)]);
            let hoses = hoses.iter().filter_map(|[a, b]| Some([named(a)?, named(b)?]));
            let room = PressureDifference::from_pa(system.gauge.division_pa.pa());
            let on_site = OnSite { room, water: system.site.water_at_hand_m3, hoses: risers.chain(hoses).collect() };
            let found = suggested(&lines, &on_site);
            let at_gauge = system.at_gauge();
            SuggestedPacks {
                packs: found
                    .groups
                    .iter()
                    .map(|g| SuggestedPack {
                        parts: g.lines.iter().map(|i| lines[*i].tag.clone()).collect(),
                        rows: g.lines.iter().filter_map(|i| by_itself(&grid, &parts, &joined, taken[*i])).collect(),
                        lower_pa: g.lower.pa(),
                        upper_pa: g.upper.pa(),
                        volume_m3: g.volume.m3(),
                        reason: {
                            let water = g.lines.first().map_or("any water", |i| lines[*i].water.as_str());
                            let (lower, upper) = (at_gauge.up(g.lower), at_gauge.down(g.upper));
                            match g.lines.len() {
                                1 => format!("It stands {water}, and from {lower} to {upper} suits it."),
                                _ => format!("They hang together and stand {water}, and from {lower} to {upper} suits each."),
                            }
                        },
                    })
                    .collect(),
                alone: found.alone.iter().map(|i| lines[*i].tag.clone()).collect(),
                at_least: found.at_least,
                left_out: parts.iter().filter(|p| p.kind.connection()).map(|p| p.tag.clone()).collect(),
            }
        })
        .await?;
    Ok(Json(found))
}
