//! How each part stands in a phase of the test, and the list by which a crew sets it.

use crate::joined::Joined;
use crate::network::Way;
use rules::part::{Part, PartKind, Phase, Position, ValveType};
use serde::Serialize;

/// What a part lets through in a phase: as it is said to stand, else as its kind has it. A closed valve lets nothing through, a check valve one way.
pub fn way(part: &Part, phase: Phase) -> Way {
    match (part.kind, part.positions.at(phase)) {
        (PartKind::Blind, position) if phase != Phase::Back => {
            if position == Some(Position::Out) {
                Way::Open
            } else {
                Way::Shut
            }
        }
        (_, Some(Position::Shut | Position::Drained)) => Way::Shut,
        (_, Some(Position::Open | Position::HalfOpen | Position::LockedOpen)) if part.valve != Some(ValveType::Check) => Way::Open,
        (_, Some(Position::HeldOpen | Position::Out)) => Way::Open,
        (PartKind::ClosedValve, _) => Way::Shut,
        (PartKind::Valve, _) if part.valve == Some(ValveType::Check) => Way::Onward,
        _ => Way::Open,
    }
}

/// How a part stands in a phase, in words; empty where nobody said it and its kind does not.
fn stands(part: &Part, phase: Phase) -> &'static str {
    if let Some(position) = part.positions.at(phase) {
        return position.word();
    }
    match (part.kind, phase) {
        (PartKind::ClosedValve, _) if phase != Phase::Back => "shut",
        (PartKind::Valve, Phase::Fill | Phase::Test | Phase::Drain) if part.valve != Some(ValveType::Check) => "open",
        (PartKind::Blind, Phase::Back) => "out",
        (PartKind::Blind, _) => "in",
        (PartKind::Vent, Phase::Fill | Phase::Drain) => "open",
        (PartKind::Vent | PartKind::Drain, Phase::Test | Phase::Back) | (PartKind::Drain, Phase::Fill) => "shut",
        (PartKind::Drain, Phase::Drain) => "open",
        (PartKind::Fill, Phase::Fill) => "connected",
        (PartKind::Fill, _) => "disconnected",
        (PartKind::GaugePoint | PartKind::ReliefPoint | PartKind::PumpPoint, Phase::Test) => "connected",
        (PartKind::GaugePoint | PartKind::ReliefPoint | PartKind::PumpPoint, Phase::Back) => "off",
        _ => "",
    }
}

/// A line of the line-up: what it is, where, and how it stands in each phase. Empty where nothing is to be done.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[schema(as = LineUpLine)]
pub struct Line {
    /// Tag of the part.
    pub tag: String,
    /// What it is, in words.
    pub what: String,
    /// Where it is.
    pub place: String,
    /// While it is filled.
    pub fill: &'static str,
    /// Under test pressure.
    pub test: &'static str,
    /// While it is drained.
    pub drain: &'static str,
    /// When it is handed back.
    pub back: &'static str,
    /// True where something is put in, taken out or set for the test and has to be put back: a line of the boundary register.
    pub to_sign: bool,
}

/// True for what a crew sets.
fn set_by_hand(part: &Part) -> bool {
    use PartKind as K;
    part.kind.valve()
        || part.kind.connection()
        || matches!(part.kind, K::Blind | K::Vent | K::Drain | K::Bellows | K::SpringHanger | K::OrificePlate | K::Hydrant)
        || part.positions.test == Some(Position::Out)
}

/// True for what leaves something behind that somebody must put back.
pub fn leaves_something(part: &Part) -> bool {
    let position = part.positions.test;
    matches!(part.kind, PartKind::Blind)
        || matches!(position, Some(Position::Out | Position::Restrained | Position::Pinned | Position::HeldOpen))
        || part.kind == PartKind::ClosedValve
}

/// What a part is, with the type of a valve: "closed gate valve".
pub fn what(part: &Part) -> String {
    match (part.kind, part.valve) {
        (PartKind::ClosedValve, Some(t)) => format!("closed {} valve", t.word()),
        (PartKind::Valve, Some(t)) => format!("{} valve", t.word()),
        (kind, _) => kind.word().to_owned(),
    }
}

/// The line-up, in the order in which a crew walks it: from where it is filled along the line, branches as they are met.
pub fn lines(parts: &[Part], joined: &Joined, place: impl Fn(usize) -> String) -> Vec<Line> {
    let order = walked(parts, joined);
    order
        .into_iter()
        .filter(|i| set_by_hand(&parts[*i]))
        .map(|i| {
            let part = &parts[i];
            Line {
                tag: part.tag.clone(),
                what: what(part),
                place: joined.places[i].map_or_else(String::new, |p| place(p.from)),
                fill: stands(part, Phase::Fill),
                test: stands(part, Phase::Test),
                drain: stands(part, Phase::Drain),
                back: stands(part, Phase::Back),
                to_sign: leaves_something(part),
            }
        })
        .collect()
}

/// Parts in the order of a walk along the line; what hangs on nothing comes last.
fn walked(parts: &[Part], joined: &Joined) -> Vec<usize> {
    let mut at: Vec<Vec<usize>> = vec![Vec::new(); joined.network.points.len()];
    for (i, place) in joined.places.iter().enumerate() {
        if let Some(p) = place {
            at[p.from].push(i);
            if p.to != p.from {
                at[p.to].push(i);
            }
        }
    }
    // a riser that nobody measured is walked like any other
    let steps = joined.steps.iter().map(|s| joined.network.runs[s.run]);
    let mut over: Vec<Vec<usize>> = vec![Vec::new(); joined.network.points.len()];
    for r in steps {
        over[r.from].push(r.to);
        over[r.to].push(r.from);
    }
    let begins = parts.iter().position(|p| p.kind == PartKind::Fill).or(Some(0)).and_then(|i| *joined.places.get(i)?).map(|p| p.from);
    let mut order = Vec::with_capacity(parts.len());
    let (mut been, mut taken) = (vec![false; at.len()], vec![false; parts.len()]);
    for start in begins.into_iter().chain(0..at.len()) {
        let mut todo = vec![start];
        while let Some(p) = todo.pop() {
            if std::mem::replace(&mut been[p], true) {
                continue;
            }
            let mut onward = over[p].clone();
            for i in &at[p] {
                if !std::mem::replace(&mut taken[*i], true) {
                    order.push(*i);
                }
                if let Some(place) = joined.places[*i] {
                    onward.push(if place.from == p { place.to } else { place.from });
                }
            }
            todo.extend(onward.into_iter().rev());
        }
    }
    order.extend((0..parts.len()).filter(|i| !taken[*i]));
    order
}
