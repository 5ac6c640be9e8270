//! Draining: water runs off to the drains by its own weight where no crest is in the way, and where air comes in to take its place.
//!
//! What lies lower than the crest before every drain stays as a pool. What could run off and no air comes to is held up by the vacuum above it: at most some
//! ten metres of it, and a thin wall may not bear it.

use crate::levels::{Along, Height, levels};
use crate::network::{Flaw, Network, Way};
use quantity::{Length, Volume};
use std::collections::BinaryHeap;

/// Why water stays.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stays {
    /// It lies lower than what leads to a drain.
    Pool,
    /// No air comes to it.
    Vacuum,
}

/// Water that stays.
#[derive(Debug, Clone, PartialEq)]
pub struct Left {
    /// Why.
    pub why: Stays,
    /// Where a drain would let it off: its lowest point. Of what is held by vacuum its highest, where a vent would.
    pub at: usize,
    /// How much of it there is.
    pub volume: Volume,
    /// Runs that it is in, each with the share of the run's room.
    pub runs: Vec<(usize, f64)>,
}

/// What becomes of a full system when its drains are opened.
#[derive(Debug, Clone, PartialEq)]
pub struct Draining {
    /// Points in the order in which air comes to them, each with the level to which the water has fallen then, m.
    pub emptied: Vec<(usize, f64)>,
    /// Water that stays, the largest first.
    pub left: Vec<Left>,
    /// Share of each run's room that is empty in the end.
    pub drained: Vec<f64>,
    /// All that ran off.
    pub volume: Volume,
    states: Vec<State>,
}

/// How the water stands when it has fallen to a level.
#[derive(Debug, Clone, PartialEq)]
pub struct Fallen {
    /// Level of what runs off.
    pub level: Length,
    /// What has run off.
    pub volume: Volume,
    /// Share of each run that is full, from its lower end up.
    pub shares: Vec<f64>,
}

impl Draining {
    /// How the water stands when what runs off has fallen to a level.
    pub fn at(&self, network: &Network, level: Length) -> Fallen {
        let shares: Vec<f64> = self.states.iter().map(|s| s.share_at(level.m())).collect();
        let off = network.runs.iter().zip(&shares).map(|(r, s)| (1.0 - s) * r.volume.m3()).sum();
        Fallen { level, volume: Volume::from_m3(off), shares }
    }

    /// Heights between which something drains, from the highest down.
    pub fn heights(&self) -> Vec<Length> {
        let drains = self.states.iter().filter(|s| s.air && s.pool < 1.0);
        let mut all: Vec<f64> = drains.flat_map(|s| [s.high.min(s.begins), s.low + s.pool * (s.high - s.low)]).collect();
        all.sort_by(|a, b| b.total_cmp(a));
        all.dedup();
        all.into_iter().map(Length::from_m).collect()
    }
}

/// Opens the `drains` of a full system, with the `vents` open.
///
/// # Errors
/// Where the network is none.
pub fn draining(network: &Network, drains: &[usize], vents: &[usize]) -> Result<Draining, Flaw> {
    network.sound()?;
    if let Some(p) = drains.iter().chain(vents).find(|p| **p >= network.points.len()) {
        return Err(Flaw::NoPoint(*p));
    }
    let at_points = network.at_points();
    let crest = levels(network, &at_points, drains, Along::Back);
    let z = |p: usize| network.points[p].m();
    let runs_off: Vec<bool> = crest.iter().enumerate().map(|(p, c)| c.is_some_and(|c| c <= z(p))).collect();
    let air = air(network, &at_points, &runs_off, vents);
    let states: Vec<State> = network.runs.iter().map(|r| State::of(network, r.from, r.to, r.way, &crest, &air)).collect();
    let drained: Vec<f64> = states.iter().map(|s| if s.air { 1.0 - s.pool } else { 0.0 }).collect();
    let mut emptied: Vec<(usize, f64)> = air.iter().enumerate().filter_map(|(p, a)| a.map(|a| (p, a))).collect();
    emptied.sort_by(|a, b| b.1.total_cmp(&a.1).then(z(b.0).total_cmp(&z(a.0))).then(a.0.cmp(&b.0)));
    let mut left = left(network, &at_points, Stays::Pool, |p| !runs_off[p], |i| states[i].pool);
    left.extend(left_by_vacuum(network, &at_points, &runs_off, &air, &states));
    left.sort_by(|a, b| b.volume.m3().total_cmp(&a.volume.m3()).then(a.at.cmp(&b.at)));
    Ok(Draining {
        emptied,
        left,
        volume: Volume::from_m3(network.runs.iter().zip(&drained).map(|(r, share)| share * r.volume.m3()).sum()),
        drained,
        states,
    })
}

/// Level to which the water has fallen when air comes to a point: the lowest place of the best way there from an open vent; none where no way leads there.
fn air(network: &Network, at_points: &[Vec<usize>], runs_off: &[bool], vents: &[usize]) -> Vec<Option<f64>> {
    let z = |p: usize| network.points[p].m();
    let mut level: Vec<Option<f64>> = vec![None; runs_off.len()];
    let mut next: BinaryHeap<(Height, usize)> = vents.iter().filter(|v| runs_off[**v]).map(|v| (Height(z(*v)), *v)).collect();
    while let Some((Height(l), p)) = next.pop() {
        if level[p].is_some() {
            continue;
        }
        level[p] = Some(l);
        for other in at_points[p].iter().filter_map(|run| Along::Onward.leads(network, *run, p)) {
            // between two points from which water runs off nothing is left standing
            if runs_off[other] && level[other].is_none() {
                next.push((Height(l.min(z(other))), other));
            }
        }
    }
    level
}

/// What a run is left with.
#[derive(Debug, Clone, PartialEq)]
struct State {
    /// Share that stands as a pool, from its lower end up.
    pool: f64,
    /// Whether air comes to the rest.
    air: bool,
    /// Its upper end.
    upper: usize,
    /// Height of its lower end, m.
    low: f64,
    /// Height of its upper end, m.
    high: f64,
    /// Level at which air comes to its upper end, m.
    begins: f64,
}

impl State {
    fn of(network: &Network, from: usize, to: usize, way: Way, crest: &[Option<f64>], air: &[Option<f64>]) -> Self {
        let z = |p: usize| network.points[p].m();
        let (lower, upper) = if z(from) <= z(to) { (from, to) } else { (to, from) };
        let ends = |pool, air, begins| Self { pool, air, upper, low: z(lower), high: z(upper), begins };
        if way != Way::Open {
            return ends(0.0, false, f64::NEG_INFINITY);
        }
        let pool = match crest[lower] {
            None => 1.0,
            Some(c) if c <= z(lower) => 0.0,
            Some(_) if z(upper) <= z(lower) => 1.0,
            Some(c) => ((c - z(lower)) / (z(upper) - z(lower))).clamp(0.0, 1.0),
        };
        ends(pool, air[upper].is_some(), air[upper].unwrap_or(f64::NEG_INFINITY))
    }

    /// Share of it that is full when what runs off has fallen to a level.
    fn share_at(&self, level: f64) -> f64 {
        if !self.air || level > self.begins {
            return 1.0;
        }
        if self.high <= self.low {
            return if level > self.low { 1.0 } else { self.pool };
        }
        ((level - self.low) / (self.high - self.low)).clamp(self.pool, 1.0)
    }
}

/// What stays for one reason, each piece that hangs together by itself: points that have part in it, and the share of each run.
fn left(network: &Network, at_points: &[Vec<usize>], why: Stays, has: impl Fn(usize) -> bool, share: impl Fn(usize) -> f64) -> Vec<Left> {
    let z = |p: usize| network.points[p].m();
    let better = |a: usize, b: usize| if why == Stays::Pool { z(a) < z(b) } else { z(a) > z(b) };
    let mut seen = vec![false; network.points.len()];
    let mut counted = vec![false; network.runs.len()];
    let mut all = Vec::new();
    for start in (0..network.points.len()).filter(|p| has(*p)) {
        if std::mem::replace(&mut seen[start], true) {
            continue;
        }
        let mut found = Left { why, at: start, volume: Volume::from_m3(0.0), runs: Vec::new() };
        let mut todo = vec![start];
        while let Some(p) = todo.pop() {
            if better(p, found.at) {
                found.at = p;
            }
            for i in at_points[p].iter().copied().filter(|i| network.runs[*i].way == Way::Open) {
                let r = network.runs[i];
                let other = if r.from == p { r.to } else { r.from };
                if has(other) && !std::mem::replace(&mut seen[other], true) {
                    todo.push(other);
                }
                let share = share(i);
                if share > 0.0 && r.volume.m3() > 0.0 && !std::mem::replace(&mut counted[i], true) {
                    found.runs.push((i, share));
                    found.volume = found.volume + Volume::from_m3(share * r.volume.m3());
                }
            }
        }
        found.runs.sort_by_key(|(i, _)| *i);
        all.push(found);
    }
    all.retain(|l: &Left| l.volume.m3() > 0.0);
    all
}

/// What could run off and no air comes to.
fn left_by_vacuum(network: &Network, at_points: &[Vec<usize>], runs_off: &[bool], air: &[Option<f64>], states: &[State]) -> Vec<Left> {
    let held = |p: usize| runs_off[p] && air[p].is_none();
    let share = |i: usize| if held(states[i].upper) { 1.0 - states[i].pool } else { 0.0 };
    left(network, at_points, Stays::Vacuum, held, share)
}
