//! The quick test: its owner's answers make a plan and its parts.

use super::looks;
use super::packs::{NewPack, made};
use super::{Body, etag, uuid};
use crate::access::{Action, meant};
use crate::problem::{FieldProblem, Problem, ProblemBody};
use crate::state::App;
use crate::store::{instrument, pack as packs, specification};
use crate::views::pack::{PackView, pack_view};
use crate::who::Who;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use formats::parts::GridRow;
use pack::instrument::{Instrument, InstrumentKind, IsoDate};
use pack::own_gauge::{OWN_GAUGE, OwnGauge};
use pack::plan::Plan;
use pack::quick::{self, QuickObject, answered};
use pack::signing::{Form, Signers};
use quantity::bounds::{DESIGN_PRESSURE, WATER_TEMPERATURE};
use quantity::{PressureDifference, PressureUnit, Volume, parse};
use rules::gauge::GaugeOffer;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// The answers of a quick test.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct QuickTest {
    /// Id of its project; without one the only project in which whoever makes it may.
    #[serde(default)]
    pub project: Option<String>,
    /// What people call it; empty for what it is.
    #[serde(default)]
    pub title: String,
    /// Key of the object.
    pub object: String,
    /// Answers by the key of the question, each figure with its unit.
    #[serde(default)]
    pub answers: BTreeMap<String, String>,
    /// A higher test pressure that somebody asks, with its unit; empty where nobody does.
    #[serde(default)]
    pub agreed: String,
    /// Who asks it, and why.
    #[serde(default)]
    pub agreed_by: String,
    /// Temperature of water and metal at the test, with its unit.
    pub at_test: String,
    /// Tag of the gauge; empty where it is their own.
    #[serde(default)]
    pub gauge: String,
    /// Their own gauge, where none of the store is read.
    #[serde(default)]
    pub own_gauge: Option<OwnGaugeTyped>,
    /// Tag of the thermometer; empty where there is none.
    #[serde(default)]
    pub thermometer: String,
    /// That they pump by hand, stay at the pump, in part strokes near the end, eyes on the gauge.
    #[serde(default)]
    pub hand_pump: bool,
    /// Volume of a stroke of their pump, with its unit; empty where it is not known.
    #[serde(default)]
    pub stroke: String,
    /// Who signs.
    #[serde(default)]
    pub signers: Signers,
}

/// A gauge that is in no store, in three figures.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnGaugeTyped {
    /// How far it reads, with its unit.
    pub reads_to: String,
    /// How much lies between two marks, in that unit.
    pub mark: String,
    /// Last day of its calibration; empty where `not_calibrated` says so.
    #[serde(default)]
    pub until: String,
    /// That it is not calibrated.
    #[serde(default)]
    pub not_calibrated: bool,
}

impl OwnGaugeTyped {
    /// The gauge, or all that is missing.
    fn read(&self, unit: PressureUnit) -> Result<OwnGauge, Vec<FieldProblem>> {
        let mut missing = Vec::new();
        let mut say = |field: &str, sentence: String| missing.push(FieldProblem::new(format!("own_gauge.{field}"), sentence));
        let scale = parse::gauge_pressure(&DESIGN_PRESSURE, &self.reads_to, unit);
        let unit = scale.as_ref().map_or(unit, |s| s.1);
        let mark = parse::gauge_pressure(&DESIGN_PRESSURE, &self.mark, unit);
        if scale.is_err() {
            say("reads_to", "Write the last figure on its dial, with its unit, for example 25 bar.".to_owned());
        }
        if mark.is_err() {
            say("mark", "Write how much lies between two marks, for example 0.5 bar.".to_owned());
        }
        let until = match (self.not_calibrated, self.until.trim()) {
            (true, _) => None,
            (false, "") => {
                say("until", "Write until when it is calibrated, or say that it is not.".to_owned());
                None
            }
            (false, day) => match IsoDate::new(day) {
                Some(day) => Some(day),
                None => {
                    say("until", "Write the day as 2027-06-01, or say that it is not calibrated.".to_owned());
                    None
                }
            },
        };
        let (Ok(scale), Ok(mark), true) = (scale, mark, missing.is_empty()) else { return Err(missing) };
        let own = OwnGauge { full_scale_pa: scale.0, division_pa: PressureDifference::from_pa(mark.0.pa()), unit, calibrated_until: until };
        own.check().map_err(|(field, why)| {
            let typed = if field == "division_pa" { "mark" } else { "reads_to" };
            vec![FieldProblem::new(format!("own_gauge.{typed}"), why)]
        })?;
        Ok(own)
    }
}

/// Who a result is for where nobody else relies on it.
const RELIED_ON_BY: &str = "its owner";

/// What the answers make: a plan as far as they go, and its rows.
struct Told {
    plan: Value,
    rows: Vec<GridRow>,
}

/// Reads what is said of the object and the day; the gauge is read by itself.
async fn told(
    app: &App,
    who: &Who,
    project: &str,
    object: &QuickObject,
    body: &QuickTest,
    missing: &mut Vec<FieldProblem>,
) -> Result<Told, Problem> {
    let unit = who.reads.pressure.unwrap_or_default();
    let at_test = parse::temperature(&WATER_TEMPERATURE, &body.at_test);
    missing.extend(at_test.as_ref().err().map(|e| FieldProblem::new("at_test", e.to_string())));
    let mut told = match answered(object, &body.answers, unit) {
        Ok(made) => {
            let rows: Vec<GridRow> = made.parts.into_iter().map(|typed| GridRow { typed, ..GridRow::default() }).collect();
            let library = specification::library(&app.db, project).await?;
            let fate = crate::grid::fate(&library, &rows, who.reads.pressure);
            let problems = fate.rows.iter().flat_map(|r| r.problems.iter().map(move |p| (r.line - 1, p)));
            missing.extend(problems.map(|(part, p)| FieldProblem::new(asked_for(object, part, &p.column), p.sentence.clone())));
            Told { plan: made.plan, rows }
        }
        Err(all) => {
            missing.extend(all.into_iter().map(|m| FieldProblem::new(format!("answers.{}", m.key), m.sentence)));
            Told { plan: json!({}), rows: Vec::new() }
        }
    };
    let plan = &mut told.plan;
    if !body.agreed.trim().is_empty() {
        match parse::gauge_pressure(&DESIGN_PRESSURE, &body.agreed, unit) {
            Ok((agreed, _)) => plan["basis"]["agreed_pressure_pa"] = json!(agreed),
            Err(e) => missing.push(FieldProblem::new("agreed", e.to_string())),
        }
        match body.agreed_by.trim() {
            "" => missing.push(FieldProblem::new("agreed_by", "Say who asks for more than the rule, and why.")),
            by => plan["basis"]["over_test_reason"] = json!(by),
        }
    }
    if !body.stroke.trim().is_empty() {
        match parse::amount("the stroke of the pump", &body.stroke, quantity::Dimension::VolumeM3, Some("mL")) {
            Ok(m3) if m3 > 0.0 => plan["site"]["stroke_m3"] = json!(Volume::from_m3(m3)),
            Ok(_) => missing.push(FieldProblem::new("stroke", "A stroke moves more than nothing: write its volume, or leave it empty.")),
            Err(e) => missing.push(FieldProblem::new("stroke", e.to_string())),
        }
    }
    if let Ok(at_test) = at_test {
        plan["water_temperature_c"] = json!(at_test.c());
        plan["site"]["metal_c"] = json!(at_test.c());
    }
    plan["claim"] = json!("both");
    plan["worked_in"] = serde_json::to_value(unit).unwrap_or_default();
    plan["relied_on_by"] = json!(RELIED_ON_BY);
    plan["gauge_elevation_m"] = json!(0.0);
    plan["thermometer_tag"] = json!(body.thermometer.trim());
    plan["hand_pump"] = json!(body.hand_pump);
    plan["signers"] = serde_json::to_value(body.signers).unwrap_or_default();
    plan["people"] = json!({ "performs": who.sign_in });
    Ok(told)
}

/// What it is called where nobody names it: what it is, and which one.
fn called(object: &QuickObject, body: &QuickTest) -> String {
    let which = object.ask.iter().find(|a| a.into.iter().any(|i| i.ends_with(":tag"))).and_then(|a| body.answers.get(&a.key));
    match (body.title.trim(), which.map(|w| w.trim()).filter(|w| !w.is_empty())) {
        ("", Some(which)) => format!("{}: {which}", object.words),
        ("", None) => object.words.clone(),
        (title, _) => title.to_owned(),
    }
}

/// Makes a quick test of its owner's answers under an id of the client's; the same again changes nothing. All that is missing is said at once.
#[utoipa::path(put, path = "/api/v1/quick/{id}", tag = "packs", params(("id" = String, Path, description = "UUID made by the client")), request_body = QuickTest,
    responses((status = 201, body = PackView), (status = 403, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn make(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Body(body): Body<QuickTest>,
) -> Result<(StatusCode, HeaderMap, Json<PackView>), Problem> {
    let project = meant(&who, body.project.as_deref(), Action::Make(Form::Quick))?.to_owned();
    uuid(&id)?;
    let object = object_of(&body)?;
    let mut missing: Vec<FieldProblem> = Vec::new();
    let Told { mut plan, rows } = told(&app, &who, &project, object, &body, &mut missing).await?;
    match (&body.own_gauge, body.gauge.trim()) {
        (Some(own), _) => match own.read(who.reads.pressure.unwrap_or_default()) {
            Ok(own) => {
                plan["own_gauge"] = serde_json::to_value(own)?;
                plan["gauge_tag"] = json!(OWN_GAUGE);
            }
            Err(all) => missing.extend(all),
        },
        (None, "") => missing.push(FieldProblem::new("gauge", "Choose the gauge that you will read, or describe your own.")),
        (None, tag) => plan["gauge_tag"] = json!(tag),
    }
    if !missing.is_empty() {
        return Err(Problem::Several(missing));
    }
    let plan = serde_json::from_value(plan).map_err(|e| crate::problem::internal(&e))?;
    let new = NewPack { project: Some(project), number: String::new(), title: called(object, &body), form: Form::Quick, plan, rows };
    made(&app, &who, &id, new).await?;
    // whoever works alone walks along what such an object has, and makes no list first
    let row = packs::get(&app.db, &id).await?;
    looks::list(&app, &who, &row).await?;
    let view = pack_view(&app, &who, row).await?;
    Ok((StatusCode::CREATED, etag(view.version), Json(view)))
}

/// What a gauge of the store is for this test.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct GaugeFit {
    /// Tag.
    pub tag: String,
    /// What speaks against it; absent where it suits.
    pub against: Option<String>,
}

/// Which gauges suit.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct GaugesFit {
    /// What the test asks of a gauge, in a sentence; with the pressure that it is made at.
    pub asked: String,
    /// Gauges that are lent to the project.
    pub gauges: Vec<GaugeFit>,
}

/// Gauges that are tried one by one; the others are known by their range alone.
const MOST_TRIED: usize = 40;

/// Which gauges suit the pressure that follows from the answers; stores nothing. Refused while answers are missing.
#[utoipa::path(post, path = "/api/v1/quick/gauges", tag = "packs", request_body = QuickTest,
    responses((status = 200, body = GaugesFit), (status = 403, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn gauges(State(app): State<App>, who: Who, Body(body): Body<QuickTest>) -> Result<Json<GaugesFit>, Problem> {
    let project = meant(&who, body.project.as_deref(), Action::Make(Form::Quick))?.to_owned();
    let object = object_of(&body)?;
    let mut missing = Vec::new();
    let Told { mut plan, rows } = told(&app, &who, &project, object, &body, &mut missing).await?;
    if !missing.is_empty() {
        return Err(Problem::Several(missing));
    }
    plan["gauge_tag"] = json!("");
    let plan: Plan = serde_json::from_value(plan).map_err(|e| crate::problem::internal(&e))?;
    let specification = specification::get(&app.db, &project).await?.specification;
    let library = specification.library().map_err(|e| Problem::invalid("specification.library", e))?;
    let fate = crate::grid::fate(&library, &rows, who.reads.pressure);
    let parts: Vec<_> = fate.rows.into_iter().filter_map(|r| r.part).collect();
    let zone = crate::store::project::get(&app.db, &project).await?.zone;
    let today = app.today(&zone);
    let store = instrument::lent_to(&app.db, &project).await?;
    let reads = who.reads;
    let fit = move || -> Result<GaugesFit, Problem> {
        let derived = |gauge: &str| {
            let plan = Plan { gauge_tag: gauge.to_owned(), ..plan.clone() };
            let mut system = plan.system(&object.words, parts.clone(), &store, &specification);
            system.said_in = Some(reads.units(system.gauge.unit));
            let say = system.say();
            (rules::system::derive(&system), say)
        };
        let (nothing, say) = derived("");
        let nothing = nothing.map_err(|e| Problem::invalid("answers", rules::say::sentence(&e.say(say), false)))?;
        let Some(offer) = nothing.gauge_offer.clone() else {
            let why = nothing.conflict.map_or_else(|| "No pressure suits every part.".to_owned(), |c| c.sentence);
            return Err(Problem::invalid("answers", why));
        };
        let about = nothing.day.as_ref().map_or(nothing.lower_readable_pa, |d| d.planned_pa);
        let gauges = store.iter().filter(|i| i.kind == InstrumentKind::Gauge);
        let mut tried = 0;
        let gauges = gauges.map(|i| GaugeFit {
            tag: i.tag.clone(),
            against: against(i, &offer, &today, &mut tried, |tag| derived(tag).0.map_err(|e| e.to_string())),
        });
        Ok(GaugesFit {
            asked: format!(
                "The test is made at about {}: a dial that ends between {} and {}.",
                say.p(about),
                say.named(offer.least_pa),
                say.named(offer.most_pa)
            ),
            gauges: gauges.collect(),
        })
    };
    Ok(Json(tokio::task::spawn_blocking(fit).await.map_err(|e| crate::problem::internal(&e))??))
}

/// What speaks against a gauge: its day, its range, or what follows from its marks and its error.
fn against(
    gauge: &Instrument,
    offer: &GaugeOffer,
    today: &IsoDate,
    tried: &mut usize,
    derived: impl Fn(&str) -> Result<rules::system::Derived, String>,
) -> Option<String> {
    if let Some(objection) = gauge.objection(today) {
        return Some(objection);
    }
    let inside = gauge.full_scale_pa.is_some_and(|s| s >= offer.least_pa.times(1.0 - 1e-9) && s <= offer.most_pa.times(1.0 + 1e-9));
    if !inside {
        return Some("its range does not suit".to_owned());
    }
    *tried += 1;
    if *tried > MOST_TRIED {
        return Some("its range suits; whether its marks do shows once it is chosen".to_owned());
    }
    match derived(&gauge.tag) {
        Err(why) => Some(why),
        Ok(d) => {
            let narrow = d.day.as_ref().and_then(|day| day.conflicts.iter().find(|c| c.about == "gauge").map(|c| c.sentence.clone()));
            d.conflict.map(|c| c.sentence).or(narrow).or_else(|| d.gauge_offer.and_then(|o| o.refused))
        }
    }
}

fn object_of(body: &QuickTest) -> Result<&'static QuickObject, Problem> {
    quick::object(&body.object).ok_or_else(|| Problem::invalid("object", "choose what it is from those that are offered"))
}

/// The question whose answer a cell is.
fn asked_for(object: &QuickObject, part: usize, column: &str) -> String {
    let into = format!("part:{part}:{column}");
    object.ask.iter().find(|a| a.into.contains(&into)).map_or_else(|| "answers".to_owned(), |a| format!("answers.{}", a.key))
}
