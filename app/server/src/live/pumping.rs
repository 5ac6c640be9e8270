//! The pumping curve of a run, from the ticks of gauge and stroke counter.

use crate::judging::Run;
use crate::store::tick::Tick;
use pack::instrument::InstrumentKind;
use pack::run::RunEventKind;
use quantity::{GaugePressure, PressureDifference};
use rules::system::{AIR_FRACTION_LIMIT, Derived};
use serde::Serialize;
use watch::giving_way::{GivingWay, PointNoise, giving_way};
use watch::pumping::{AirFound, CurveSays, Pumped, PumpingPoint, air, says, theory};

/// A pause of the counter of this many of its usual gaps is a rest.
const REST_GAPS: f64 = 4.0;
/// Relative uncertainty (95 %) of a stroke whose counter states none (common practice).
const STROKE_UNC: f64 = 0.02;
/// Points of each edge of the band.
const BAND: usize = 40;

/// The picture and what it says.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct PumpingView {
    /// Points, one for each move of the counter.
    pub points: Vec<PumpingPoint>,
    /// What theory asks for without air, from the first point on.
    pub without_air: Vec<PumpingPoint>,
    /// The same with as much air as is allowed.
    pub with_air: Vec<PumpingPoint>,
    /// Air that is allowed, share of the volume.
    pub limit: f64,
    /// What the curve says of the air; absent before six points.
    pub air: Option<AirFound>,
    /// In one word.
    pub says: Option<CurveSays>,
    /// In a sentence.
    pub sentence: String,
    /// What gives way, when something does.
    pub giving_way: Option<GivingWay>,
    /// Strokes so far.
    pub strokes: f64,
    /// Strokes a minute over the last ones; nil at rest.
    pub strokes_per_min: f64,
    /// Rise of the last strokes, Pa each.
    #[schema(value_type = Option<f64>)]
    pub per_stroke_pa: Option<PressureDifference>,
}

/// A move of the counter.
struct Move {
    t_s: f64,
    strokes: f64,
    pressure: GaugePressure,
}

fn moves(run: &Run, ticks: &[Tick], gauge: u8, counter: u8, until_s: f64) -> Vec<Move> {
    let mut out: Vec<Move> = Vec::new();
    let (mut last, mut offset) = (None::<f64>, 0.0);
    let mut resting: Option<Move> = None;
    for t in ticks {
        let t_s = run.seconds_us(t.run_us);
        if t_s > until_s {
            break;
        }
        let of = |channel| t.values.iter().find(|v| v.channel == channel).and_then(|v| v.value);
        let (Some(p), Some(count)) = (of(gauge), of(counter)) else { continue };
        let here = |strokes| Move { t_s, strokes, pressure: GaugePressure::from_pa(p) };
        match last {
            None => resting = Some(here(0.0)),
            // a counter that was set back goes on from where it stood
            Some(before) if count < before => offset += before,
            Some(before) if count > before => {
                out.extend(resting.take());
                out.push(here(count + offset));
            }
            Some(_) if out.is_empty() => resting = Some(here(0.0)),
            Some(_) => {}
        }
        if last.is_none() {
            offset = -count;
        }
        last = Some(count);
    }
    out
}

/// The curve of the raise; none where no stroke counter is recorded, or nothing is known of the system.
pub fn pumping(run: &Run, derived: &Derived, ticks: &[Tick], now_s: f64) -> Option<PumpingView> {
    let instruments = &run.attempt.frozen.instruments;
    let place = |of: &dyn Fn(&pack::instrument::Instrument) -> bool| instruments.iter().position(of).and_then(|i| u8::try_from(i).ok());
    let gauge = place(&|i| i.tag == run.attempt.frozen.plan.gauge_tag)?;
    let counter = place(&|i| i.kind == InstrumentKind::StrokeCounter)?;
    let (stroke, unc) =
        instruments.get(usize::from(counter)).and_then(|i| Some((i.stroke_m3?, i.stroke_unc_95_rel.unwrap_or(STROKE_UNC))))?;
    let off = run.events.iter().find(|e| e.kind == RunEventKind::PumpOff).map_or(f64::INFINITY, |e| run.event_s(e));
    let moves = moves(run, ticks, gauge, counter, off);
    let points: Vec<PumpingPoint> = moves.iter().map(|m| PumpingPoint { volume_m3: stroke * m.strokes, pressure_pa: m.pressure }).collect();
    let g = run.gauge()?;
    let system = run.system();
    let high = system.parts.iter().map(|p| p.elevation_m.m()).fold(run.attempt.frozen.plan.gauge_elevation_m.m(), f64::max);
    let head = -derived.column_pa_per_m * (high - run.attempt.frozen.plan.gauge_elevation_m.m());
    let pumped = Pumped {
        system: system.shut_in()?,
        temperature: system.water_temperature_c,
        head_to_air: PressureDifference::from_pa(head),
        stroke,
        stroke_unc_95_rel: unc,
        volume_unc_95_rel: 0.05,
        division: g.division_pa?,
        repeatability: g.division_pa? * 0.5,
        zero_error_95: PressureDifference::from_pa(g.full_scale_pa?.pa() * g.error_of_scale?),
        limit: AIR_FRACTION_LIMIT,
    };
    // the fit begins where the water stands to the high point
    let static_head = GaugePressure::from_pa(-head);
    let fitted: Vec<PumpingPoint> = points.iter().copied().filter(|p| p.pressure_pa >= static_head).collect();
    let found = air(&pumped, &fitted).ok();
    let said = found.as_ref().map(|f| says(&pumped, f));
    let from = points.first().map_or(static_head, |p| p.pressure_pa);
    let top = derived.day.as_ref().map_or(derived.upper_pa, |d| d.planned_pa);
    let edge: Vec<GaugePressure> = (0..=BAND).map(|i| from + (top - from) * (i as f64 / BAND as f64)).collect();
    let recent = since_rest(&moves, now_s);
    let rate = strokes_per_min(&moves, now_s);
    let noise = PointNoise {
        pressure: PressureDifference::from_pa((pumped.division.pa().powi(2) / 12.0 + pumped.repeatability.pa().powi(2)).sqrt()),
        volume: stroke * ((rate / 60.0).min(1.0) / 12f64.sqrt()),
    };
    Some(PumpingView {
        without_air: theory(&pumped, 0.0, from, &edge),
        with_air: theory(&pumped, AIR_FRACTION_LIMIT, from, &edge),
        limit: AIR_FRACTION_LIMIT,
        sentence: said
            .as_ref()
            .map_or_else(|| "Air: not determinable before six strokes have brought pressure.".to_owned(), |s| s.1.clone()),
        says: said.map(|s| s.0),
        air: found,
        giving_way: if rate > 0.0 { giving_way(&points[points.len() - recent..], noise) } else { None },
        strokes: moves.last().map_or(0.0, |m| m.strokes),
        strokes_per_min: rate,
        per_stroke_pa: per_stroke(&moves, recent),
        points,
    })
}

/// Usual time between moves, s.
fn usual_gap(moves: &[Move]) -> Option<f64> {
    let mut gaps: Vec<f64> = moves.windows(2).rev().take(30).map(|w| w[1].t_s - w[0].t_s).collect();
    gaps.sort_by(f64::total_cmp);
    gaps.get(gaps.len() / 2).copied()
}

/// How many moves there are since the pump last rested.
fn since_rest(moves: &[Move], now_s: f64) -> usize {
    let Some(usual) = usual_gap(moves) else { return 0 };
    if moves.last().is_none_or(|m| now_s - m.t_s > REST_GAPS * usual) {
        return 0;
    }
    moves.windows(2).rev().take_while(|w| w[1].t_s - w[0].t_s <= REST_GAPS * usual).count()
}

fn strokes_per_min(moves: &[Move], now_s: f64) -> f64 {
    let n = since_rest(moves, now_s).min(8);
    if n < 2 {
        return 0.0;
    }
    let (a, b) = (&moves[moves.len() - n], &moves[moves.len() - 1]);
    60.0 * (b.strokes - a.strokes) / (b.t_s - a.t_s).max(0.1)
}

fn per_stroke(moves: &[Move], recent: usize) -> Option<PressureDifference> {
    let n = recent.min(5);
    if n < 2 {
        return None;
    }
    let (a, b) = (&moves[moves.len() - n], &moves[moves.len() - 1]);
    (b.strokes > a.strokes).then(|| (b.pressure - a.pressure) / (b.strokes - a.strokes))
}
