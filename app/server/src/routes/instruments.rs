//! The instrument store.

use super::{Body, etag, text, version};
use crate::access::{Action, may};
use crate::door::Caller;
use crate::problem::{Problem, ProblemBody};
use crate::reach::Reach;
use crate::security::{What, note};
use crate::state::App;
use crate::store::history::{self, Change};
use crate::store::instrument as store;
use crate::store::instrument::Unreadable;
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode, header};
use pack::instrument::{Connection, Instrument, InstrumentKind, IsoDate};
use pack::people::Role;
use quantity::bounds;
use serde::{Deserialize, Serialize};

/// An instrument with its version, and what speaks against it today.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct InstrumentView {
    /// The instrument.
    pub instrument: Instrument,
    /// Version, for If-Match.
    pub version: u32,
    /// What speaks against it today, in a sentence.
    pub objection: Option<String>,
    /// Who keeps it; absent of those entered before instruments had keepers.
    pub keeper: Option<String>,
    /// True when this person may change it, pass it on and lend it.
    pub may: bool,
    /// Ids of the projects to which it is lent, of those in which whoever asks has a part.
    pub lent_to: Vec<String>,
}

/// True when a person may change an instrument: its keeper; of one without a keeper, an engineer or a supervisor.
fn keeps(who: &Who, keeper: Option<&str>) -> bool {
    match keeper {
        Some(keeper) => keeper == who.sign_in,
        None => who.roles.values().any(|r| matches!(r, Role::Engineer | Role::Supervisor)),
    }
}

fn not_kept(tag: &str, keeper: Option<&str>) -> Problem {
    let who = keeper.map_or_else(|| "an engineer or a supervisor".to_owned(), str::to_owned);
    Problem::NotAllowed(format!(
        "{tag} is kept by {who}: only they change it or its certificate, or pass it on. Ask them, or add an instrument of your own."
    ))
}

/// All instruments by tag.
#[utoipa::path(get, path = "/api/v1/instruments", tag = "library", responses((status = 200, body = Vec<InstrumentView>), (status = 401, body = ProblemBody)))]
pub async fn list(State(app): State<App>, who: Who) -> Result<Json<Vec<InstrumentView>>, Problem> {
    let today = app.today(&crate::store::site::get(&app.db).await?.zone);
    let rows = store::rows(&app.db).await?;
    let unreadable = |Unreadable { tag }: Unreadable| InstrumentView {
        objection: Some(format!(
            "What the database holds of {tag} cannot be read, and no test uses it: whoever looks after the installation restores it from the backup."
        )),
        may: false,
        lent_to: Vec::new(),
        keeper: None,
        version: 0,
        instrument: Instrument::unknown(tag),
    };
    let mut loans = store::loans(&app.db).await?;
    let mut of = |r: store::InstrumentRow| InstrumentView {
        lent_to: loans.remove(&r.instrument.tag).unwrap_or_default().into_iter().filter(|p| who.role_in(p).is_some()).collect(),
        objection: r.instrument.objection(&today),
        may: may(&who, Action::Instruments).is_ok() && keeps(&who, r.keeper.as_deref()),
        keeper: r.keeper,
        instrument: r.instrument,
        version: r.version,
    };
    Ok(Json(rows.into_iter().map(|r| r.map_or_else(unreadable, &mut of)).collect()))
}

fn check(i: &Instrument, reach: &Reach) -> Result<(), Problem> {
    text("tag", &i.tag, 64, "the tag")?;
    text("certificate", &i.certificate, 64, "the number of the certificate")?;
    for (field, date) in [("calibrated_on", &i.calibrated_on), ("valid_until", &i.valid_until)] {
        IsoDate::new(&date.0)
            .ok_or_else(|| Problem::invalid(field, format!("\"{}\" is no day of the calendar: write it as 2026-03-01", date.0)))?;
    }
    if i.valid_until < i.calibrated_on {
        return Err(Problem::invalid("valid_until", "a certificate cannot end before the calibration: check the two dates"));
    }
    let positive = |field: &str, v: Option<f64>| {
        v.filter(|v| *v > 0.0 && v.is_finite()).ok_or_else(|| Problem::invalid(field, "this figure must be given and above zero"))
    };
    match i.kind {
        InstrumentKind::Gauge => {
            let scale = positive("full_scale_pa", i.full_scale_pa.map(quantity::GaugePressure::pa))?;
            bounds::GAUGE_RANGE.check(scale / 1e5).map_err(|e| Problem::invalid("full_scale_pa", e))?;
            let division = positive("division_pa", i.division_pa.map(quantity::PressureDifference::pa))?;
            if division > scale / 5.0 {
                return Err(Problem::invalid("division_pa", "the readable division is more than a fifth of the full scale: check both"));
            }
            let error = positive("error_of_scale", i.error_of_scale)?;
            if error > 0.1 {
                return Err(Problem::invalid(
                    "error_of_scale",
                    "an error above 10 % of scale is not a gauge for a test: write 0.005 for 0.5 %",
                ));
            }
        }
        InstrumentKind::Thermometer => {
            positive("division_k", i.division_k)?;
            positive("error_k", i.error_k)?;
        }
        InstrumentKind::StrokeCounter => {
            positive("stroke_m3", i.stroke_m3.map(quantity::Volume::m3))?;
            if i.stroke_unc_95_rel.is_some_and(|u| !(0.0..=0.5).contains(&u)) {
                return Err(Problem::invalid(
                    "stroke_unc_95_rel",
                    "the uncertainty of a stroke must be inside 0 to 0.5: write 0.02 for 2 %",
                ));
            }
        }
    }
    i.connection.as_ref().map_or(Ok(()), |c| connection(c, reach))
}

/// Where an instrument answers must be a place that this server may speak to, and a scale that gives a figure.
fn connection(c: &Connection, reach: &Reach) -> Result<(), Problem> {
    if reach.address(c).is_none() {
        return Err(Problem::invalid(
            "connection.address",
            format!(
                "{} is not among the addresses that this server may speak to, and an instrument is reached by number and port, for instance 192.168.1.20 \
                 and 502: an administrator names its address when the server is started (--instruments)",
                if c.address.trim().is_empty() { "an empty address" } else { c.address.as_str() }
            ),
        ));
    }
    if !(1..=247).contains(&c.unit) {
        return Err(Problem::invalid("connection.unit", format!("unit {} is not a Modbus unit: it must be inside 1 to 247", c.unit)));
    }
    if !(c.scale.is_finite() && c.scale != 0.0) {
        return Err(Problem::invalid("connection.scale", "the scale must be a figure other than zero"));
    }
    Ok(())
}

/// Adds an instrument, or changes it when nobody else did (If-Match).
#[utoipa::path(put, path = "/api/v1/instruments/{tag}", tag = "library", params(("tag" = String, Path)), request_body = Instrument,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 412, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(tag): Path<String>,
    headers: HeaderMap,
    Body(body): Body<Instrument>,
) -> Result<(StatusCode, HeaderMap), Problem> {
    may(&who, Action::Instruments)?;
    if body.tag != tag {
        return Err(Problem::invalid(
            "tag",
            format!("the address names {tag}, the instrument {}: a tag is not changed, add another instrument", body.tag),
        ));
    }
    check(&body, &app.reach)?;
    let there = store::get(&app.db, &tag).await?;
    let body = body.keeping(there.as_ref().and_then(|t| t.instrument.quarantine.clone()));
    if let Some(there) = there
        && there.instrument != body
        && !keeps(&who, there.keeper.as_deref())
    {
        return Err(not_kept(&tag, there.keeper.as_deref()));
    }
    let version = if headers.contains_key(header::IF_MATCH) { Some(version(&headers)?) } else { None };
    let lent: Vec<String> = who.roles.keys().cloned().collect();
    let now = store::put(&app.db, &body, version, &who.sign_in, &lent).await?;
    let what = format!("{tag}, certificate {} until {}", body.certificate, body.valid_until.0);
    note(&app, What::InstrumentChanged, &who.sign_in, Some(caller.0), &what).await;
    Ok((StatusCode::NO_CONTENT, etag(now)))
}

/// To whom an instrument is passed on.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Keeper {
    /// Sign-in name.
    pub keeper: String,
}

/// Passes an instrument on; only its keeper may.
#[utoipa::path(put, path = "/api/v1/instruments/{tag}/keeper", tag = "library", params(("tag" = String, Path)), request_body = Keeper,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn pass_on(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(tag): Path<String>,
    Body(body): Body<Keeper>,
) -> Result<StatusCode, Problem> {
    may(&who, Action::Instruments)?;
    text("keeper", &body.keeper, 64, "the new keeper")?;
    let there = store::get(&app.db, &tag).await?.ok_or(Problem::NotFound("instrument"))?;
    if !keeps(&who, there.keeper.as_deref()) {
        return Err(not_kept(&tag, there.keeper.as_deref()));
    }
    store::pass_on(&app.db, &tag, there.keeper.as_deref(), body.keeper.trim(), &who.sign_in).await?;
    note(&app, What::InstrumentChanged, &who.sign_in, Some(caller.0), &format!("{tag} passed on to {}", body.keeper.trim())).await;
    Ok(StatusCode::NO_CONTENT)
}

/// To which projects an instrument is lent.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Loans {
    /// Ids of all projects to which it is lent from now on, of those in which whoever lends it has a part.
    pub projects: Vec<String>,
}

/// Lends an instrument to projects, or takes it back from them; only its keeper may. Loans to projects in which the keeper has no part stay as they are.
#[utoipa::path(put, path = "/api/v1/instruments/{tag}/projects", tag = "library", params(("tag" = String, Path)), request_body = Loans,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody)))]
pub async fn lend(
    State(app): State<App>,
    who: Who,
    caller: Caller,
    Path(tag): Path<String>,
    Body(body): Body<Loans>,
) -> Result<StatusCode, Problem> {
    may(&who, Action::Instruments)?;
    let there = store::get(&app.db, &tag).await?.ok_or(Problem::NotFound("instrument"))?;
    if !keeps(&who, there.keeper.as_deref()) {
        return Err(not_kept(&tag, there.keeper.as_deref()));
    }
    if body.projects.iter().any(|p| who.role_in(p).is_none()) {
        return Err(Problem::NotFound("project"));
    }
    let lent = store::loans(&app.db).await?.remove(&tag).unwrap_or_default();
    let all: Vec<String> = lent.into_iter().filter(|p| who.role_in(p).is_none()).chain(body.projects).collect();
    store::lend(&app.db, &tag, &all, &who.sign_in).await?;
    note(&app, What::InstrumentChanged, &who.sign_in, Some(caller.0), &format!("{tag} lent to {} projects", all.len())).await;
    Ok(StatusCode::NO_CONTENT)
}

/// Who changed an instrument, its certificate or its keeper, when, from what to what; the last first.
#[utoipa::path(get, path = "/api/v1/instruments/{tag}/history", tag = "library", params(("tag" = String, Path)), responses((status = 200, body = Vec<Change>), (status = 401, body = ProblemBody)))]
pub async fn changes(State(app): State<App>, _who: Who, Path(tag): Path<String>) -> Result<Json<Vec<Change>>, Problem> {
    Ok(Json(history::of(&app.db, &tag, true).await?))
}
