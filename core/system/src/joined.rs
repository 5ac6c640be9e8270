//! A list of parts as the network that it is: each row carries on from the row above, unless it names the point where it begins; what it names at its end is a point where
//! something else begins.
//!
//! A part with one height is level: both its ends are there. Where two rows meet at different heights nobody has measured how the line gets from one to the other:
//! a riser without room stands for it, and what is said of air and water there is not told but asked for.

use crate::lineup::way;
use crate::network::{Network, Run, Way};
use quantity::{Length, Volume};
use rules::part::{Part, PartKind, Phase, Position};
use rules::parting::Joint;
use std::borrow::Cow;
use std::collections::HashMap;

/// Where a part is in the network.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Place {
    /// Point where it begins, or where it sits.
    pub from: usize,
    /// Point where it ends; the same for what sits at a point.
    pub to: usize,
    /// Run that stands for it; none for what sits at a point.
    pub run: Option<usize>,
}

/// A riser that nobody measured.
#[derive(Debug, Clone, PartialEq)]
pub struct Step {
    /// Run that stands for it.
    pub run: usize,
    /// What people call the point; empty where it has no name.
    pub point: String,
    /// Tags of the parts whose heights do not meet there, as listed.
    pub parts: Vec<String>,
    /// Lower height.
    pub low: Length,
    /// Higher height.
    pub high: Length,
}

/// A list of parts, joined.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Joined {
    /// Points and runs.
    pub network: Network,
    /// What people call each point; empty where it has no name.
    pub names: Vec<String>,
    /// Where each part is; none for what sees no pressure.
    pub places: Vec<Option<Place>>,
    /// Risers that nobody measured.
    pub steps: Vec<Step>,
}

/// True for what sits at a point and leads nowhere: the next row carries on from that point. A blind that names where it ends is a spade within the line.
pub fn sits(part: &Part) -> bool {
    match part.kind {
        PartKind::Blind => part.to.as_ref().is_none_or(|t| t.trim().is_empty()),
        kind => matches!(kind, PartKind::Vent | PartKind::Drain | PartKind::Instrument) || kind.connection(),
    }
}

/// True for what sees no pressure inside.
const fn apart(kind: PartKind) -> bool {
    matches!(kind, PartKind::Support | PartKind::SpringHanger | PartKind::Furnace | PartKind::StayedPlate)
}

/// A point as rows name it.
#[derive(Clone, PartialEq, Eq, Hash)]
enum Name {
    Given(String),
    /// Between two rows of the list.
    After(usize),
}

/// Points at their heights, found by name and height.
#[derive(Default)]
struct Points {
    joined: Joined,
    by_name: HashMap<Name, Vec<usize>>,
    /// Names in the order in which they came.
    order: Vec<Name>,
    /// Tags of the parts at each point.
    tags: Vec<Vec<String>>,
}

impl Points {
    fn at(&mut self, name: &Name, z: Length, tag: &str) -> usize {
        if !self.by_name.contains_key(name) {
            self.order.push(name.clone());
        }
        let there = self.by_name.entry(name.clone()).or_default();
        let points = &mut self.joined.network.points;
        let point = there.iter().copied().find(|p| points[*p] == z).unwrap_or_else(|| {
            points.push(z);
            there.push(points.len() - 1);
            self.joined.names.push(if let Name::Given(n) = name { n.clone() } else { String::new() });
            self.tags.push(Vec::new());
            points.len() - 1
        });
        self.tags[point].push(tag.to_owned());
        point
    }

    fn run(&mut self, from: usize, to: usize, volume: Volume, way: Way) -> usize {
        self.joined.network.runs.push(Run { from, to, volume, way });
        self.joined.network.runs.len() - 1
    }

    /// Joins what has one name and different heights.
    fn steps(&mut self) {
        for name in std::mem::take(&mut self.order) {
            let mut there = self.by_name.get(&name).cloned().unwrap_or_default();
            there.sort_by(|a, b| self.joined.network.points[*a].m().total_cmp(&self.joined.network.points[*b].m()));
            for (low, high) in there.windows(2).map(|w| (w[0], w[1])) {
                let run = self.run(low, high, Volume::from_m3(0.0), Way::Open);
                let parts = self.tags[low].iter().chain(&self.tags[high]).cloned().collect();
                let (point, points) = (self.joined.names[low].clone(), &self.joined.network.points);
                self.joined.steps.push(Step { run, point, parts, low: points[low], high: points[high] });
            }
        }
    }
}

/// Joins a list of parts as it stands while it is filled. A list without `from` and `to` is a chain.
pub fn joined(parts: &[Part]) -> Joined {
    joined_in(parts, Phase::Fill)
}

/// Joins a list of parts as it stands in a phase.
pub fn joined_in(parts: &[Part], phase: Phase) -> Joined {
    let mut points = Points::default();
    let mut last = Name::After(0);
    for (i, part) in parts.iter().enumerate() {
        let given = |name: &Option<String>| name.as_ref().map(|n| n.trim()).filter(|n| !n.is_empty()).map(|n| Name::Given(n.to_owned()));
        if apart(part.kind) {
            points.joined.places.push(None);
            continue;
        }
        let begins = given(&part.from).unwrap_or_else(|| last.clone());
        let from = points.at(&begins, part.elevation_m, &part.tag);
        if sits(part) {
            points.joined.places.push(Some(Place { from, to: from, run: None }));
            last = begins;
            continue;
        }
        let ends = given(&part.to).unwrap_or(Name::After(i + 1));
        let to = points.at(&ends, part.to_elevation_m.unwrap_or(part.elevation_m), &part.tag);
        let way = way(part, phase);
        // what stands beyond the test holds nothing of it
        let room = if part.beyond() { Volume::from_m3(0.0) } else { part.volume() };
        let run = match way {
            Way::Open => points.run(from, to, room, way),
            // the room of its body stands before a flapper
            _ if room.m3() > 0.0 => {
                let before = points.at(&Name::Given(format!("{} body", part.tag)), part.elevation_m, &part.tag);
                points.run(from, before, room, Way::Open);
                points.run(before, to, Volume::from_m3(0.0), way)
            }
            _ => points.run(from, to, Volume::from_m3(0.0), way),
        };
        points.joined.places.push(Some(Place { from, to, run: Some(run) }));
        last = ends;
    }
    points.steps();
    points.joined
}

/// Names the points of a list of which only is known which parts touch: each joint is made between those of their ends whose heights are nearest.
pub fn with_points<'a>(parts: &'a [Part], joints: &[Joint]) -> Cow<'a, [Part]> {
    let named = |p: &Part| p.from.is_some() || p.to.is_some();
    if joints.is_empty() || parts.iter().any(named) {
        return Cow::Borrowed(parts);
    }
    let by_tag: HashMap<&str, usize> = parts.iter().enumerate().map(|(i, p)| (p.tag.as_str(), i)).collect();
    let mut ends: Vec<usize> = (0..2 * parts.len()).collect();
    for (i, part) in parts.iter().enumerate().filter(|(_, p)| sits(p)) {
        debug_assert!(part.to.is_none());
        ends[2 * i + 1] = 2 * i;
    }
    fn root(ends: &[usize], mut e: usize) -> usize {
        while ends[e] != e {
            e = ends[e];
        }
        e
    }
    let z = |e: usize| {
        if e.is_multiple_of(2) { parts[e / 2].elevation_m } else { parts[e / 2].to_elevation_m.unwrap_or(parts[e / 2].elevation_m) }
    };
    for (a, b) in joints.iter().filter_map(|j| Some((*by_tag.get(j.a.as_str())?, *by_tag.get(j.b.as_str())?))) {
        let pairs = [(2 * a + 1, 2 * b), (2 * a, 2 * b + 1), (2 * a, 2 * b), (2 * a + 1, 2 * b + 1)];
        let apart = |(x, y): &(usize, usize)| (z(*x).m() - z(*y).m()).abs();
        // both ends of a part at one point would make a ring of it
        let ring = |(x, y): &(usize, usize)| root(&ends, *y) == root(&ends, x ^ 1) || root(&ends, *x) == root(&ends, y ^ 1);
        let best = pairs.iter().filter(|p| !ring(p) || sits(&parts[a]) || sits(&parts[b])).min_by(|p, q| apart(p).total_cmp(&apart(q)));
        if let Some((x, y)) = best {
            let (x, y) = (root(&ends, *x), root(&ends, *y));
            ends[y] = x;
        }
    }
    let name = |e: usize| Some(format!("joint {}", root(&ends, e) + 1));
    let names = |(i, p): (usize, &Part)| Part { from: name(2 * i), to: if sits(p) { None } else { name(2 * i + 1) }, ..p.clone() };
    Cow::Owned(parts.iter().enumerate().map(names).collect())
}

impl Joined {
    /// Points at which parts of a kind sit, those that are shut or taken out in a phase left out.
    pub fn open_points_of(&self, parts: &[Part], kind: PartKind, phase: Phase) -> Vec<usize> {
        let open = |p: &Part| p.kind == kind && !matches!(p.positions.at(phase), Some(Position::Shut | Position::Out | Position::Beyond));
        parts.iter().zip(&self.places).filter(|(p, _)| open(p)).filter_map(|(_, place)| place.map(|p| p.from)).collect()
    }

    /// Points at which parts of a kind sit.
    pub fn points_of(&self, parts: &[Part], kind: PartKind) -> Vec<usize> {
        let sits = |(part, place): (&Part, &Option<Place>)| place.filter(|_| part.kind == kind).map(|p| p.from);
        parts.iter().zip(&self.places).filter_map(sits).collect()
    }

    /// Points at either end of a riser that nobody measured: what is said of air and water there is not told.
    pub fn not_measured(&self) -> Vec<usize> {
        self.steps.iter().flat_map(|s| [self.network.runs[s.run].from, self.network.runs[s.run].to]).collect()
    }
}
