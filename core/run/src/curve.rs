//! The pumping curve of a run, from the ticks of gauge and stroke counter, or from what was booked by hand.

use crate::facts::Facts;
use crate::rows::Tick;
use crate::run::Run;
use judge::read::Read;
use quantity::{GaugePressure, PressureDifference, Volume};
use rules::system::{AIR_FRACTION_LIMIT, Derived};
use serde::Serialize;
use std::sync::OnceLock;
use terms::EventKind;
use watch::giving_way::{GivingWay, PointNoise, giving_way};
use watch::pumping::{AirFound, CurveSays, Pumped, PumpingPoint, air, says, theory};
use watch::rejoined::{Rejoined, rejoined};

/// A pause of the counter of this many of its usual gaps is a rest.
const REST_GAPS: f64 = 4.0;
/// Relative uncertainty (95 %) of a stroke whose counter states none (common practice).
const STROKE_UNC: f64 = 0.02;
/// The same of strokes that a person counts, and of water that is measured in a jug (common practice).
const BY_HAND_UNC: f64 = 0.05;
/// What is pumped in by litres is counted in strokes of so much where no hand pump is planned.
const LITRE: Volume = Volume::from_m3(1e-3);
/// A gauge that is read within so long of a booking was read at it, s.
const READ_WITH_S: f64 = 120.0;
/// Points of each edge of the band.
const BAND: usize = 40;

/// A move of the counter.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Move {
    t_s: f64,
    strokes: f64,
    pressure: GaugePressure,
}

/// The moves of the counter until the pump was booked as off: a fold over the ticks in their sequence.
#[derive(Debug, Clone, Default)]
pub struct Curve {
    moves: Vec<Move>,
    last: Option<f64>,
    offset: f64,
    resting: Option<Move>,
    /// What the moves say of the air: looked for once, until another move comes.
    found: OnceLock<Option<AirFound>>,
}

impl Curve {
    /// Takes the next tick.
    pub(crate) fn add(&mut self, tick: &Tick, t_s: f64, facts: &Facts, off_s: f64) {
        let (Some(gauge), Some(counter)) = (facts.gauge_channel, facts.counter_channel) else { return };
        if t_s > off_s {
            return;
        }
        let (Some(p), Some(count)) = (tick.value(gauge), tick.value(counter)) else { return };
        let here = |strokes| Move { t_s, strokes, pressure: GaugePressure::from_pa(p) };
        match self.last {
            None => {
                self.resting = Some(here(0.0));
                self.offset = -count;
            }
            // a counter that was set back goes on from where it stood
            Some(before) if count < before => self.offset += before,
            Some(before) if count > before => {
                self.moves.extend(self.resting.take());
                self.moves.push(here(count + self.offset));
                self.found = OnceLock::new();
            }
            Some(_) if self.moves.is_empty() => self.resting = Some(here(0.0)),
            Some(_) => {}
        }
        self.last = Some(count);
    }

    /// From what was booked by hand where no counter is recorded: strokes or litres since the booking before, and what the gauge read then.
    pub(crate) fn by_hand(run: &Run) -> Self {
        let off_s = run.pump_off_s();
        let filled = run.last_s(EventKind::Filled).unwrap_or(f64::INFINITY);
        let read_at = |t_s: f64| {
            let apart = |r: &&Read| (r.t.s() - t_s).abs();
            run.pressures().iter().min_by(|a, b| apart(a).total_cmp(&apart(b))).filter(|r| apart(r) <= READ_WITH_S).map(|r| r.p)
        };
        let stroke = by_hand_stroke(run).m3();
        let mut strokes = 0.0;
        let mut moves: Vec<Move> = Vec::new();
        for e in run.events() {
            let t_s = run.event_s(e);
            let more = match (e.kind, e.figure) {
                (EventKind::Stroked, Some(n)) => n,
                (EventKind::Pumped, Some(m3)) => m3 / stroke,
                _ => continue,
            };
            strokes += more;
            if t_s > off_s {
                continue;
            }
            // the curve begins at what stood on the gauge before the first stroke
            let before = run.pressures().iter().rfind(|r| moves.is_empty() && r.t.s() >= filled && r.t.s() < t_s);
            moves.extend(before.map(|r| Move { t_s: r.t.s(), strokes: 0.0, pressure: r.p }));
            moves.extend(read_at(t_s).map(|pressure| Move { t_s, strokes, pressure }));
        }
        Self { moves, ..Self::default() }
    }
}

/// The stroke that is counted by hand.
fn by_hand_stroke(run: &Run) -> Volume {
    run.frozen().plan.site.stroke_m3.unwrap_or(LITRE)
}

/// The picture and what it says.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PumpingView {
    /// Points, one for each move of the counter; without what was let out between them.
    pub points: Vec<PumpingPoint>,
    /// Times that the pressure was let down and pumped up again.
    pub let_down: usize,
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

/// What is known of pump, gauge and system; none where something of them is not.
fn pumped(run: &Run, derived: &Derived) -> Option<Pumped> {
    let facts = run.facts();
    facts.gauge_channel?;
    let counter = facts.counter_channel.and_then(|c| run.frozen().instruments.get(usize::from(c)));
    let (stroke, stroke_unc_95_rel) = match counter {
        Some(counter) => (counter.stroke_m3?, counter.stroke_unc_95_rel.unwrap_or(STROKE_UNC)),
        None if run.curve().moves.is_empty() => return None,
        None => (by_hand_stroke(run), BY_HAND_UNC),
    };
    let gauge = facts.gauge.as_ref()?;
    let here = run.frozen().plan.gauge_elevation_m.m();
    let high = facts.system.parts.iter().map(|p| p.elevation_m.m()).fold(here, f64::max);
    let division = gauge.division_pa?;
    Some(Pumped {
        system: facts.system.shut_in()?,
        temperature: facts.system.water_temperature_c,
        head_to_air: PressureDifference::from_pa(-derived.column_pa_per_m * (high - here)),
        stroke,
        stroke_unc_95_rel,
        volume_unc_95_rel: judge::case::VOLUME_UNC_95_REL,
        division,
        repeatability: division * 0.5,
        zero_error_95: PressureDifference::from_pa(gauge.full_scale_pa?.pa() * gauge.error_of_scale?),
        limit: AIR_FRACTION_LIMIT,
    })
}

fn curve(moves: &[Move], pumped: &Pumped) -> Rejoined {
    let counted: Vec<_> = moves.iter().map(|m| PumpingPoint { volume_m3: pumped.stroke * m.strokes, pressure_pa: m.pressure }).collect();
    rejoined(&counted, pumped.division)
}

/// What the curve says of the air; none where nothing can be said of it.
pub fn air_found(run: &Run) -> Option<AirFound> {
    let pumped = pumped(run, run.window()?)?;
    found(run, &pumped, &curve(&run.curve().moves, &pumped)).cloned()
}

/// The fit begins where the water stands to the high point.
fn found<'a>(run: &'a Run, pumped: &Pumped, curve: &Rejoined) -> Option<&'a AirFound> {
    let static_head = GaugePressure::from_pa(-pumped.head_to_air.pa());
    let full = |p: &PumpingPoint| p.pressure_pa >= static_head;
    let look = || {
        let fitted: Vec<PumpingPoint> = curve.points.iter().copied().filter(full).collect();
        let branches: Vec<usize> = curve.branches.iter().map(|b| curve.points[..*b].iter().filter(|p| full(p)).count()).collect();
        air(pumped, &fitted, &branches).ok()
    };
    run.curve().found.get_or_init(look).as_ref()
}

/// The curve of the raise; none where no stroke is counted, by an instrument or by hand, or nothing is known of the system.
pub fn pumping(run: &Run, now_s: f64) -> Option<PumpingView> {
    let derived = run.window()?;
    let pumped = pumped(run, derived)?;
    let moves = &run.curve().moves;
    let curve = curve(moves, &pumped);
    let found = found(run, &pumped, &curve);
    let points = &curve.points;
    let said = found.map(|f| says(&pumped, f));
    let from = points.first().map_or(GaugePressure::from_pa(-pumped.head_to_air.pa()), |p| p.pressure_pa);
    let top = derived.day.as_ref().map_or(derived.upper_pa, |d| d.planned_pa);
    let edge: Vec<GaugePressure> = (0..=BAND).map(|i| from + (top - from) * (i as f64 / BAND as f64)).collect();
    let recent = since_rest(moves, now_s);
    let of_branch = recent.min(points.len() - curve.branches.last().copied().unwrap_or(0));
    let rate = strokes_per_min(moves, now_s);
    let noise = PointNoise {
        pressure: PressureDifference::from_pa((pumped.division.pa().powi(2) / 12.0 + pumped.repeatability.pa().powi(2)).sqrt()),
        volume: pumped.stroke * ((rate / 60.0).min(1.0) / 12f64.sqrt()),
    };
    Some(PumpingView {
        without_air: theory(&pumped, 0.0, from, &edge),
        with_air: theory(&pumped, AIR_FRACTION_LIMIT, from, &edge),
        limit: AIR_FRACTION_LIMIT,
        sentence: sentence(said.as_ref().map(|s| s.1.as_str()), curve.let_down),
        says: said.map(|s| s.0),
        air: found.cloned(),
        giving_way: if rate > 0.0 { giving_way(&points[points.len() - of_branch..], noise) } else { None },
        strokes: moves.last().map_or(0.0, |m| m.strokes),
        strokes_per_min: rate,
        per_stroke_pa: per_stroke(moves, recent),
        let_down: curve.let_down,
        points: curve.points,
    })
}

/// What the curve says, and that water went out meanwhile: by the bleed, or where nobody meant it to.
fn sentence(said: Option<&str>, let_down: usize) -> String {
    let said = said.unwrap_or("Air: not determinable before six strokes have brought pressure.");
    let times = match let_down {
        0 => return said.to_owned(),
        1 => "once".to_owned(),
        n => format!("{n} times"),
    };
    format!("{said} The pressure fell {times} between strokes, and what went out is not counted: if nobody let it out, look for a leak.")
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
