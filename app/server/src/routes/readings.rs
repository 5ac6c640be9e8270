//! Typed readings: kept as typed, stored once, in SI beside it.

use super::{
    Body,
    attempts::{of_person, stands},
    uuid,
};
use crate::access::Action;
use crate::kept::Held;
use crate::problem::{Problem, ProblemBody};
use crate::runs;
use crate::state::App;
use crate::store::reading;
use crate::who::{Reader, Who};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use moment::Instant;
use pack::people::Role;
use pack::signing::Form;
use quantity::bounds::{READING_PRESSURE, READING_TEMPERATURE};
use quantity::parse;
use quantity::{GaugePressure, PressureDifference, PressureUnit};
use rules::say::Say;
use run::Run;
use run::rows::{Channel, ReadingRow};
use serde::Deserialize;

/// Most readings in one request.
const MOST: usize = 1000;

/// A reading as typed.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedReading {
    /// UUID made by the client, so that sending again stores once.
    pub id: String,
    /// When it was read.
    pub at: Instant,
    /// What it is of.
    pub channel: Channel,
    /// Tag of the further gauge or thermometer of the plan that it was read from; absent or empty for those that the test is read from.
    #[serde(default)]
    pub of: String,
    /// As typed: "25.9", "376 psi", "15,2"; between two marks of a dial "4.2 to 4.4".
    pub text: String,
    /// Unit of a bare pressure.
    #[serde(default)]
    pub unit: PressureUnit,
    /// True when the person was asked about it and says that it stands there.
    #[serde(default)]
    pub sure: bool,
}

/// A batch.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Readings {
    /// The readings; all are stored, or none.
    pub readings: Vec<TypedReading>,
}

/// How far ahead of the clock a time may lie, s: the clocks of two machines differ.
const AHEAD_S: f64 = 300.0;
/// How far before the release a time may lie, s.
const BEFORE_S: f64 = 60.0;

/// An instant that can belong to this run.
pub(super) fn instant(app: &App, run: &Run, field: &str, at: Instant) -> Result<(), Problem> {
    let at_s = run.seconds(at, run.lead_us(at));
    if at_s > run.now_s(app.clock.now()) + AHEAD_S {
        return Err(Problem::invalid(field, "this time lies in the future: check the date and the zone"));
    }
    if at_s < -BEFORE_S {
        return Err(Problem::invalid(
            field,
            "this time is before the test was released: check the date and the zone, or book it on the attempt that it belongs to",
        ));
    }
    Ok(())
}

fn read(app: &App, run: &Run, i: usize, typed: TypedReading, person: &str, say: Say) -> Result<ReadingRow, Problem> {
    let field = |name: &str| format!("readings[{i}].{name}");
    uuid(&typed.id)?;
    instant(app, run, &field("at"), typed.at)?;
    if typed.text.chars().count() > 64 {
        return Err(Problem::invalid(field("text"), "a reading has at most 64 characters"));
    }
    let of = instrument(run, &typed).map_err(|e| Problem::invalid(field("of"), e))?;
    let dial = Dial::of(run, of.as_deref());
    let value = match typed.channel {
        Channel::Pressure => pressure(&dial, &typed, say),
        Channel::Temperature => {
            parse::temperature(&READING_TEMPERATURE, &typed.text).map(quantity::Temperature::c).map_err(|e| e.to_string())
        }
    };
    let value = value.map_err(|e| Problem::invalid(field("text"), e))?;
    if let (Channel::Pressure, false) = (typed.channel, typed.sure)
        && let Some(sentence) = doubtful(run, &dial, GaugePressure::from_pa(value), say)
    {
        return Err(Problem::Doubtful { field: field("text"), sentence });
    }
    Ok(ReadingRow {
        id: typed.id,
        at: typed.at,
        channel: typed.channel,
        of,
        value,
        as_typed: typed.text,
        person: person.to_owned(),
        lead_us: run.lead_us(typed.at),
        stored_at: app.clock.now(),
        struck: None,
    })
}

/// Marks that a needle stands between are no further apart than this many divisions.
const MARKS_APART: f64 = 1.5;

/// Tag of the further instrument that a reading is of; none for those that the test is read from.
fn instrument(run: &Run, typed: &TypedReading) -> Result<Option<String>, String> {
    let (tag, plan, facts) = (typed.of.trim(), &run.frozen().plan, run.facts());
    let (first, further, word): (&str, Vec<&str>, &str) = match typed.channel {
        Channel::Pressure => (&plan.gauge_tag, facts.also_gauges.iter().map(|g| g.tag.as_str()).collect(), "gauge"),
        Channel::Temperature => (&plan.thermometer_tag, facts.also_thermometers.iter().map(|t| t.tag.as_str()).collect(), "thermometer"),
    };
    if tag.is_empty() || tag == first {
        return Ok(None);
    }
    if further.contains(&tag) {
        return Ok(Some(tag.to_owned()));
    }
    let there: Vec<&str> = std::iter::once(first).filter(|f| !f.is_empty()).chain(further).collect();
    Err(match there.as_slice() {
        [] => format!("{tag} is no {word} of this test, and none is named in its plan: leave it empty, and say in a note what was read"),
        _ => format!("{tag} is no {word} of this test: it is read from {}", there.join(", ")),
    })
}

/// The dial that a pressure is read from.
struct Dial<'a> {
    tag: &'a str,
    division: PressureDifference,
    ends: Option<GaugePressure>,
    /// What it shows over the gauge that the test is read from, for it hangs lower.
    below: PressureDifference,
}

impl<'a> Dial<'a> {
    fn of(run: &'a Run, further: Option<&str>) -> Self {
        let (plan, facts) = (&run.frozen().plan, run.facts());
        match facts.also_gauges.iter().find(|g| further == Some(g.tag.as_str())) {
            Some(g) => {
                let column = run.window().map_or(0.0, |d| d.column_pa_per_m);
                let below = PressureDifference::from_pa(column * (plan.gauge_elevation_m - g.elevation_m).m());
                Self { tag: &g.tag, division: g.division_pa, ends: Some(g.full_scale_pa), below }
            }
            None => Self {
                tag: &plan.gauge_tag,
                division: facts.division(),
                ends: facts.gauge.as_ref().and_then(|g| g.full_scale_pa),
                below: PressureDifference::ZERO,
            },
        }
    }
}

/// A pressure as typed, Pa: one figure, or the middle between the two marks that the needle stands between.
fn pressure(dial: &Dial<'_>, typed: &TypedReading, say: Say) -> Result<f64, String> {
    let one = |text: &str| parse::gauge_pressure(&READING_PRESSURE, text, typed.unit).map(|p| p.0).map_err(|e| e.to_string());
    let Some((low, high)) = parse::between_marks(&typed.text) else { return one(&typed.text).map(GaugePressure::pa) };
    let (low, high) = (one(&low)?, one(&high)?);
    let division = dial.division;
    if high <= low || (high - low).pa() > MARKS_APART * division.pa() {
        return Err(format!(
            "the marks that the needle stands between are one division apart, and that is {}: write them as the dial has them, the lower first",
            say.change(division)
        ));
    }
    Ok(0.5 * (low.pa() + high.pa()))
}

/// Why a pressure is asked about before it is stored: it lies beyond the gauge, or above all that the test may see.
fn doubtful(run: &Run, dial: &Dial<'_>, read: GaugePressure, say: Say) -> Option<String> {
    let tag = dial.tag;
    let ends = dial.ends.filter(|end| read > *end);
    let upper = run.window().map(|d| d.upper_pa + dial.below).filter(|u| read > *u);
    let over = match (ends, upper) {
        (Some(end), _) => format!("beyond the end of {tag} at {}", say.p(end)),
        (None, Some(upper)) => format!("above the upper bound of {}", say.down(upper)),
        (None, None) => return None,
    };
    Some(format!(
        "This is {}, {over}. Is it mistyped, or in another unit? If the gauge really stands there, stop the pump and bleed it down, then store it as it was read.",
        say.p(read)
    ))
}

/// Why a reading is struck out.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Strike {
    /// Why.
    pub reason: String,
}

/// Strikes a typed reading out: it stays, the judge leaves it out, and the report prints it with the reason. By who typed it or a supervisor, until
/// somebody signs. The same again changes nothing.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/readings/{reading}/strike", tag = "run", params(("attempt" = String, Path), ("reading" = String, Path)), request_body = Strike,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn strike(
    State(app): State<App>,
    who: Who,
    Path((id, reading_id)): Path<(String, String)>,
    Body(body): Body<Strike>,
) -> Result<StatusCode, Problem> {
    let (pack, _) = of_person(&app, &who, &id, Action::Book).await?;
    let reason = body.reason.trim();
    super::text("reason", reason, 300, "the reason")?;
    if reason.chars().count() < 3 {
        return Err(Problem::invalid("reason", "write why it does not count, in a few words"));
    }
    let there = reading::of_attempt(&app.db, &id).await?.into_iter().find(|r| r.id == reading_id).ok_or(Problem::NotFound("reading"))?;
    let own_quick = pack.created_by == who.sign_in && pack.form == Form::Quick;
    if there.person != who.sign_in && who.role_in(&pack.project.id) != Some(Role::Supervisor) && !own_quick {
        return Err(Problem::NotAllowed(format!("{} typed this reading: only they, or a supervisor, strike it out.", there.person)));
    }
    reading::strike(&app.db, &id, &reading_id, reason, &who.sign_in).await?;
    Ok(StatusCode::NO_CONTENT)
}

fn rows(app: &App, run: &Held, body: Readings, who: &Who, reads: Reader) -> Result<Vec<ReadingRow>, Problem> {
    let run = run.read();
    let say = Say(reads.units(run.dial()));
    body.readings.into_iter().enumerate().map(|(i, r)| read(app, &run, i, r, &who.sign_in, say)).collect()
}

/// Stores typed readings. What is acknowledged is stored; the same ids again change nothing.
#[utoipa::path(put, path = "/api/v1/attempts/{attempt}/readings", tag = "run", params(("attempt" = String, Path)), request_body = Readings,
    responses((status = 204), (status = 403, body = ProblemBody), (status = 404, body = ProblemBody), (status = 409, body = ProblemBody), (status = 422, body = ProblemBody)))]
pub async fn put(State(app): State<App>, who: Who, Path(id): Path<String>, Body(body): Body<Readings>) -> Result<StatusCode, Problem> {
    let (pack, attempt) = of_person(&app, &who, &id, Action::Book).await?;
    if body.readings.len() > MOST {
        return Err(Problem::invalid(
            "readings",
            format!("{} readings in one request, {MOST} fit: send them in parts", body.readings.len()),
        ));
    }
    let run = runs::current(&app, &attempt).await?;
    let rows = rows(&app, &run, body, &who, who.reads_on(&pack))?;
    stands(&app, &pack, &run, who.reads_on(&pack)).await?;
    reading::insert(&app.db, &id, &rows).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Typed readings in time order.
#[utoipa::path(get, path = "/api/v1/attempts/{attempt}/readings", tag = "run", params(("attempt" = String, Path)), responses((status = 200, body = Vec<ReadingRow>), (status = 404, body = ProblemBody)))]
pub async fn get(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<Vec<ReadingRow>>, Problem> {
    of_person(&app, &who, &id, Action::See).await?;
    Ok(Json(reading::of_attempt(&app.db, &id).await?))
}
