//! Everything that a screen and a page show of a system as it is joined.

use crate::emptying::{Collapse, Stretch, WaterLeft, collapses, left, stretches, time};
use crate::findings::{Finding, findings};
use crate::isolated::{Section, sections};
use crate::lineup::{Line, lines, what};
use crate::network::{Flaw, Way};
use crate::pockets::AirPocket;
use crate::survey::{Facts, Survey};
use quantity::Length;
use rules::part::{PartKind, Position, ValveType};
use rules::system::PartWindow;
use serde::Serialize;
use std::collections::HashMap;

/// Parts of a system up to which its water is drawn moment by moment.
pub const MOST_DRAWN: usize = 1_000;
/// Moments that are drawn.
const MOMENTS: usize = 60;

/// A point where parts meet.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PointLook {
    /// Where it is, as a person would say it.
    pub place: String,
    /// Height, m.
    pub height_m: f64,
    /// True where it sees the test pressure.
    pub pressed: bool,
    /// True at the end of a riser that nobody measured.
    pub unmeasured: bool,
}

/// What a part is drawn as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = PartMark)]
pub enum Drawn {
    /// a line
    Pipe,
    /// a body
    Vessel,
    /// a valve that is open
    OpenValve,
    /// a valve that is shut
    ShutValve,
    /// a check valve, onward from its first point
    CheckValve,
    /// a blind, cap or plug
    Blind,
    /// a vent
    Vent,
    /// a drain
    Drain,
    /// where water comes in
    Fill,
    /// the gauge
    Gauge,
    /// the relief valve of the test
    Relief,
    /// the pump
    Pump,
    /// an item in the line
    Item,
}

/// A part where it is.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PartLook {
    /// Its tag.
    pub tag: String,
    /// What it is, in words.
    pub what: String,
    /// What it is drawn as.
    pub drawn: Drawn,
    /// Point where it begins, or sits.
    pub from: usize,
    /// Point where it ends; the same for what sits at a point.
    pub to: usize,
    /// Length, m; absent where it has none.
    pub length_m: Option<f64>,
    /// Room, m³.
    pub volume_m3: f64,
    /// True where it sees the test pressure.
    pub pressed: bool,
    /// True where it stands beyond the test.
    pub beyond: bool,
    /// How it stands under test pressure, in words; empty where nobody said it.
    pub position: &'static str,
    /// Least pressure that it needs, at the height of its first point, Pa.
    pub needs_pa: Option<f64>,
    /// What it bears there, Pa.
    pub bears_pa: Option<f64>,
}

/// How the water stands at a moment.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct WaterAt {
    /// Level of what rises or falls, m.
    pub level_m: f64,
    /// What came in, or ran off, m³.
    pub volume_m3: f64,
    /// After how long, s; absent where flow or outlet are not given.
    pub time_s: Option<f64>,
    /// Share of each part that is full, from its lower end up; in the order of the parts.
    pub shares: Vec<f64>,
}

/// A vent while the line is filled.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct VentLook {
    /// Its tag.
    pub tag: String,
    /// Its point.
    pub point: usize,
    /// What has come in when it shows water, m³; absent where it never does.
    pub after_m3: Option<f64>,
    /// After how long, s.
    pub time_s: Option<f64>,
    /// What it shows, and when it may be closed, in a sentence.
    pub sentence: String,
}

/// A system as it is joined.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct SystemLook {
    /// Points.
    pub points: Vec<PointLook>,
    /// Parts, those that see no pressure inside left out.
    pub parts: Vec<PartLook>,
    /// Risers that nobody measured, each as two points.
    pub steps: Vec<[usize; 2]>,
    /// Filling, moment by moment; empty for gas, and for a system too large to draw.
    pub filling: Vec<WaterAt>,
    /// Draining, moment by moment; `shares` tell what is still full.
    pub draining: Vec<WaterAt>,
    /// Room, m³.
    pub volume_m3: f64,
    /// What comes in, m³.
    pub filled_m3: f64,
    /// Vents in the order in which they show water.
    pub vents: Vec<VentLook>,
    /// Air that stays.
    pub pockets: Vec<AirPocket>,
    /// Water that stays.
    pub left: Vec<WaterLeft>,
    /// Stretches of the draining.
    pub stretches: Vec<Stretch>,
    /// All of them, s.
    pub drain_s: Option<f64>,
    /// In which order to open for draining, in a sentence; empty where no vent and no drain is listed.
    pub drain_order: String,
    /// What would collapse without a vent.
    pub collapses: Vec<Collapse>,
    /// What is open at the boundary.
    pub findings: Vec<Finding>,
    /// The line-up, as it is walked.
    pub lines: Vec<Line>,
    /// Sections that can be isolated.
    pub sections: Vec<Section>,
}

fn drawn(s: &Survey, i: usize) -> Drawn {
    use PartKind as K;
    let part = &s.parts[i];
    let way = s.test.places[i].and_then(|p| p.run).map(|r| s.test.network.runs[r].way);
    match part.kind {
        K::Vent => Drawn::Vent,
        K::Drain => Drawn::Drain,
        K::Blind => Drawn::Blind,
        K::Fill => Drawn::Fill,
        K::GaugePoint => Drawn::Gauge,
        K::ReliefPoint => Drawn::Relief,
        K::PumpPoint => Drawn::Pump,
        K::Valve | K::ClosedValve if part.valve == Some(ValveType::Check) && way == Some(Way::Onward) => Drawn::CheckValve,
        K::Valve | K::ClosedValve if way == Some(Way::Shut) => Drawn::ShutValve,
        K::Valve | K::ClosedValve => Drawn::OpenValve,
        k if k.vessel() => Drawn::Vessel,
        k if k.piping() || matches!(k, K::Hose) => Drawn::Pipe,
        _ => Drawn::Item,
    }
}

/// Looks at a system.
///
/// # Errors
/// Where a figure of the list is none.
pub fn look(facts: Facts) -> Result<SystemLook, Flaw> {
    let s = Survey::of(facts)?;
    let shown: Vec<usize> = (0..s.parts.len()).filter(|i| s.test.places[*i].is_some()).collect();
    let flow = facts.system.site.source_flow_m3_per_s.map(|q| q.m3_per_s()).filter(|q| *q > 0.0);
    let drawable = shown.len() <= MOST_DRAWN && !s.gas();
    let stretches = if s.gas() { vec![] } else { stretches(&s) };
    let windows: HashMap<&str, &PartWindow> =
        facts.derived.map(|d| d.parts.iter().map(|w| (w.tag.as_str(), w)).collect()).unwrap_or_default();
    Ok(SystemLook {
        points: (0..s.test.network.points.len())
            .map(|p| PointLook { place: s.place(p), height_m: s.height(p).m(), pressed: s.pressed[p], unmeasured: s.unmeasured[p] })
            .collect(),
        parts: shown
            .iter()
            .map(|i| {
                let (part, place) = (&s.parts[*i], s.test.places[*i]);
                let window = windows.get(part.tag.as_str());
                PartLook {
                    tag: part.tag.clone(),
                    what: what(part),
                    drawn: drawn(&s, *i),
                    from: place.map_or(0, |p| p.from),
                    to: place.map_or(0, |p| p.to),
                    length_m: part.length_m.map(|l| l.m()),
                    volume_m3: part.volume().m3(),
                    pressed: s.sees(*i),
                    beyond: part.beyond(),
                    position: part.positions.test.map_or("", Position::word),
                    needs_pa: window.map(|w| w.required_pa.pa()),
                    bears_pa: window.map(|w| w.limit_pa.pa()),
                }
            })
            .collect(),
        steps: s.fill.steps.iter().map(|t| s.fill.network.runs[t.run]).map(|r| [r.from, r.to]).collect(),
        filling: if drawable { rising(&s, &shown, flow) } else { vec![] },
        draining: if drawable { falling(&s, &shown, &stretches) } else { vec![] },
        volume_m3: s.fill.network.volume().m3(),
        filled_m3: s.filling.volume.m3(),
        vents: if s.gas() { vec![] } else { vents(&s, flow) },
        pockets: if s.gas() || s.vents.is_empty() { vec![] } else { s.pockets().to_vec() },
        left: if s.gas() || s.drains.is_empty() { vec![] } else { left(&s) },
        drain_s: time(&stretches).map(|t| t.s()),
        stretches,
        drain_order: if s.gas() { String::new() } else { drain_order(&s) },
        collapses: if s.gas() { vec![] } else { collapses(&s) },
        findings: findings(&s),
        lines: lines(&s.parts, &s.test, |p| s.place(p)),
        sections: sections(&s),
    })
}

fn rising(s: &Survey, shown: &[usize], flow: Option<f64>) -> Vec<WaterAt> {
    s.filling
        .moments(MOMENTS)
        .into_iter()
        .map(|m| WaterAt {
            level_m: m.level.m(),
            volume_m3: m.volume.m3(),
            time_s: flow.map(|q| m.volume.m3() / q),
            shares: shown
                .iter()
                .map(|i| s.fill.places[*i].and_then(|p| p.run).filter(|_| !s.parts[*i].beyond()).map_or(0.0, |r| m.shares[r]))
                .collect(),
        })
        .collect()
}

fn falling(s: &Survey, shown: &[usize], stretches: &[Stretch]) -> Vec<WaterAt> {
    let (Some(top), Some(bottom)) = (stretches.first().map(|x| x.from_m), stretches.last().map(|x| x.to_m)) else { return vec![] };
    let time_to = |level: f64| -> Option<f64> {
        stretches.iter().filter(|x| x.from_m > level).try_fold(0.0, |sum, x| {
            let share = ((x.from_m - level.max(x.to_m)) / (x.from_m - x.to_m)).clamp(0.0, 1.0);
            Some(sum + share * x.time_s?)
        })
    };
    let count = MOMENTS.min(1 + (top - bottom).abs().mul_add(20.0, 1.0) as usize).max(2);
    (0..count)
        .map(|n| {
            let level = if n + 1 == count { bottom } else { top - (top - bottom) * n as f64 / (count - 1) as f64 };
            let m = s.draining.at(&s.drain.network, Length::from_m(level));
            // what no water came to is empty from the beginning
            let came = |i: &usize| {
                s.fill.places[*i]
                    .and_then(|p| p.run)
                    .is_some_and(|r| s.filling.filled[r] > 0.0 || s.fill.network.runs[r].volume.m3() == 0.0)
            };
            WaterAt {
                level_m: level,
                volume_m3: m.volume.m3(),
                time_s: time_to(level),
                shares: shown
                    .iter()
                    .map(|i| {
                        s.drain.places[*i].and_then(|p| p.run).filter(|_| came(i) && !s.parts[*i].beyond()).map_or(0.0, |r| m.shares[r])
                    })
                    .collect(),
            }
        })
        .collect()
}

/// How long a vent runs free of bubbles before it is closed, in words (common practice; some specifications ask for 10).
const RUNS_FREE: &str = "5 minutes";

fn vents(s: &Survey, flow: Option<f64>) -> Vec<VentLook> {
    let mut all: Vec<VentLook> = s
        .parts
        .iter()
        .zip(&s.fill.places)
        .filter(|(p, _)| p.kind == PartKind::Vent)
        .filter_map(|(part, place)| {
            let point = place.as_ref()?.from;
            let open = s.vents.contains(&point);
            let after = s.filling.reached.iter().find(|r| r.point == point).map(|r| r.after.m3());
            let sentence = match (open, after) {
                (false, _) => format!("{} is shut while it is filled.", part.tag),
                (true, None) => format!("{} never shows water: what fills the line does not get there.", part.tag),
                (true, Some(v)) => format!(
                    "{} shows water after {}. Let it run free of bubbles for {RUNS_FREE}, then close it, the lowest vent first.",
                    part.tag,
                    s.say().volume(quantity::Volume::from_m3(v))
                ),
            };
            Some(VentLook { tag: part.tag.clone(), point, after_m3: after, time_s: after.zip(flow).map(|(v, q)| v / q), sentence })
        })
        .collect();
    all.sort_by(|a, b| a.after_m3.unwrap_or(f64::INFINITY).total_cmp(&b.after_m3.unwrap_or(f64::INFINITY)).then(a.tag.cmp(&b.tag)));
    all
}

fn drain_order(s: &Survey) -> String {
    let of = |kind: PartKind, highest: bool| -> Vec<&str> {
        let mut all: Vec<(f64, &str)> = s
            .parts
            .iter()
            .zip(&s.drain.places)
            .filter(|(p, _)| p.kind == kind)
            .filter_map(|(p, place)| Some((s.drain.network.points[place.as_ref()?.from].m(), p.tag.as_str())))
            .collect();
        all.sort_by(|a, b| if highest { b.0.total_cmp(&a.0) } else { a.0.total_cmp(&b.0) });
        all.into_iter().map(|(_, t)| t).collect()
    };
    let (vents, drains) = (of(PartKind::Vent, true), of(PartKind::Drain, false));
    match (vents.as_slice(), drains.as_slice()) {
        ([], []) => String::new(),
        ([], drains) => format!("No vent lets air in: open one at the top before {}.", drains.join(", then ")),
        (vents, []) => format!("Open {}, and let the water off where it was filled.", vents.join(", then ")),
        (vents, drains) => {
            format!("Release the pressure, open {} at the top and see air go in, then {}.", vents.join(", then "), drains.join(", then "))
        }
    }
}
