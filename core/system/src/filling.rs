//! Filling: water rises from where it is let in, everywhere it gets to at the same level, runs over a crest into what lies behind it and fills that from its
//! lowest place up, while the air leaves by the vents that are open. Air that has no way to one is enclosed and stays.
//!
//! Pools that the same crest feeds stand at one level (a convention: how a stream parts at a branch is not known).

use crate::enclosed::out_until;
use crate::levels::{Along, levels};
use crate::network::{Flaw, Network, Way};
use quantity::{Length, Volume};
use std::cmp::Ordering;

/// When a place is reached: at which level of the water, and, among what a crest feeds at that level, at which height of its own.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Key {
    level: f64,
    height: f64,
}

impl Key {
    /// When a surface that rises stands at a level.
    const fn risen(level: f64) -> Self {
        Self { level, height: level }
    }
}

impl Eq for Key {}
impl PartialOrd for Key {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}
impl Ord for Key {
    fn cmp(&self, other: &Self) -> Ordering {
        self.level.total_cmp(&other.level).then(self.height.total_cmp(&other.height))
    }
}

/// Air that stays: that of a dome, or of a leg behind a crest.
#[derive(Debug, Clone, PartialEq)]
pub struct Pocket {
    /// Where a vent would let it out: its highest point.
    pub at: usize,
    /// How much of it there is, at the pressure at which the system is filled.
    pub volume: Volume,
    /// Runs that it is in, each with the share of the run's room.
    pub runs: Vec<(usize, f64)>,
}

/// A point that is reached.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reached {
    /// The point.
    pub point: usize,
    /// Level of the water when it is reached: that of the point, or of the crest before it.
    pub level: Length,
    /// What has come in by then.
    pub after: Volume,
}

/// What becomes of a system when water is let in.
#[derive(Debug, Clone, PartialEq)]
pub struct Filling {
    /// Points in the order in which they are reached; those that are not, are missing.
    pub reached: Vec<Reached>,
    /// Air that stays, the largest first.
    pub pockets: Vec<Pocket>,
    /// Share of each run's room that is full of water in the end.
    pub filled: Vec<f64>,
    /// Runs to which no water comes: behind a shut valve, a check valve, a blind.
    pub not_reached: Vec<usize>,
    /// All that came in.
    pub volume: Volume,
    /// What of each run is filled, from which moment to which.
    pieces: Vec<Option<Piece>>,
    /// What has come in by a moment.
    clock: Clock,
}

/// How the water stands at a moment.
#[derive(Debug, Clone, PartialEq)]
pub struct Moment {
    /// Level of the water: of the surface that rises, or of the crest that it runs over.
    pub level: Length,
    /// What has come in.
    pub volume: Volume,
    /// Share of each run that is full, from its lower end up.
    pub shares: Vec<f64>,
}

impl Filling {
    /// Moments of the filling, at most so many, from nothing to the end, as evenly by what has come in as the moments at which something begins allow.
    pub fn moments(&self, most: usize) -> Vec<Moment> {
        let mut keys: Vec<Key> = self.pieces.iter().flatten().filter(|p| p.share() > 0.0).flat_map(Piece::turns).collect();
        keys.sort_unstable();
        keys.dedup();
        let between = |a: &Key, b: &Key, t: f64| {
            if a.level == b.level {
                Key { level: a.level, height: a.height + t * (b.height - a.height) }
            } else {
                Key::risen(a.level + t * (b.level - a.level))
            }
        };
        let all = self.volume.m3();
        let mut kept: Vec<(f64, Key)> = Vec::new();
        for pair in keys.windows(2) {
            let grown = self.clock.by(pair[1]) - self.clock.by(pair[0]);
            let parts = (grown / all * most as f64).ceil().clamp(1.0, most as f64) as usize;
            kept.extend((0..parts).map(|i| between(&pair[0], &pair[1], i as f64 / parts as f64)).map(|k| (self.clock.by(k), k)));
        }
        kept.extend(keys.last().map(|k| (self.clock.by(*k), *k)));
        let step = all / most.max(2) as f64;
        let mut moments: Vec<Moment> = Vec::new();
        for (i, (volume, key)) in kept.iter().enumerate() {
            let last = i + 1 == kept.len();
            if !last && moments.last().is_some_and(|m: &Moment| volume - m.volume.m3() < step) {
                continue;
            }
            moments.push(Moment {
                level: Length::from_m(key.level),
                volume: Volume::from_m3(*volume),
                shares: self.pieces.iter().map(|p| p.as_ref().map_or(0.0, |p| p.share_at(*key))).collect(),
            });
        }
        moments
    }
}

/// Lets water in at `fills`, while the air leaves at the open `vents`.
///
/// # Errors
/// Where the network is none.
pub fn filling(network: &Network, fills: &[usize], vents: &[usize]) -> Result<Filling, Flaw> {
    network.sound()?;
    if let Some(p) = fills.iter().chain(vents).find(|p| **p >= network.points.len()) {
        return Err(Flaw::NoPoint(*p));
    }
    let z: Vec<f64> = network.points.iter().map(|p| p.m()).collect();
    let at_points = network.at_points();
    let level = levels(network, &at_points, fills, Along::Onward);
    let keys: Vec<Option<Key>> = level.iter().zip(&z).map(|(l, z)| l.map(|level| Key { level, height: *z })).collect();
    let until = out_until(network, &at_points, &keys, vents);
    let pieces: Vec<Option<Piece>> = network.runs.iter().map(|r| Piece::of(r.way, [r.from, r.to], r.volume, &z, &keys, &until)).collect();
    let filled: Vec<f64> = pieces.iter().map(|p| p.as_ref().map_or(0.0, Piece::share)).collect();
    let clock = Clock::of(pieces.iter().flatten());
    let mut order: Vec<(Key, usize)> = keys.iter().enumerate().filter_map(|(p, k)| k.map(|k| (k, p))).collect();
    order.sort_by(|a, b| a.0.cmp(&b.0).then(a.1.cmp(&b.1)));
    let reached = order
        .into_iter()
        .filter(|(k, p)| until[*p].is_some_and(|u| *k <= u))
        .map(|(k, point)| Reached { point, level: Length::from_m(k.level), after: Volume::from_m3(clock.by(k)) })
        .collect();
    Ok(Filling {
        reached,
        pockets: pockets(network, &z, &keys, &until, &filled),
        not_reached: (0..network.runs.len()).filter(|i| pieces[*i].is_none() && network.runs[*i].volume.m3() > 0.0).collect(),
        volume: Volume::from_m3(network.runs.iter().zip(&filled).map(|(r, share)| share * r.volume.m3()).sum()),
        filled,
        pieces,
        clock,
    })
}

/// What of a run is filled, from its lower end on.
#[derive(Debug, Clone, PartialEq)]
struct Piece {
    /// Key of its lower end.
    near: Key,
    /// Height of its upper end.
    far: f64,
    /// Up to here it is filled; below the lower end where nothing is.
    upto: f64,
    /// Room, m³.
    volume: f64,
}

impl Piece {
    /// None for what no water comes to.
    fn of(way: Way, ends: [usize; 2], volume: Volume, z: &[f64], keys: &[Option<Key>], until: &[Option<Key>]) -> Option<Self> {
        let [a, b] = ends;
        let (l, u) = if z[a] <= z[b] { (a, b) } else { (b, a) };
        let (near, far) = (keys[l]?, z[u]);
        (way == Way::Open).then(|| {
            let whole = Self { near, far, upto: far, volume: volume.m3() };
            // its air is that of its upper end until the lower end is reached
            match until[u] {
                None => Self { upto: f64::NEG_INFINITY, ..whole },
                Some(out) if whole.level_run() => Self { upto: if near <= out { far } else { f64::NEG_INFINITY }, ..whole },
                Some(out) if out.level > near.level => Self { upto: out.level.min(far), ..whole },
                Some(out) if out.level == near.level => Self { upto: out.height.min(far), ..whole },
                Some(_) => Self { upto: f64::NEG_INFINITY, ..whole },
            }
        })
    }

    /// Moments at which it begins, is met by the level of a crest, and ends.
    fn turns(&self) -> [Key; 3] {
        let to = self.upto.min(self.far);
        let crest = self.near.level.min(to);
        let end = if to > self.near.level { Key::risen(to) } else { Key { level: self.near.level, height: to } };
        [self.near, Key { level: self.near.level, height: crest.max(self.near.height) }, end]
    }

    /// Share of it that is full at a moment.
    fn share_at(&self, now: Key) -> f64 {
        if now < self.near {
            return 0.0;
        }
        if self.level_run() {
            return self.share();
        }
        let top = if now.level > self.near.level { now.level } else { now.height.min(self.near.level) };
        let top = top.min(self.upto).min(self.far);
        ((top - self.near.height) / (self.far - self.near.height)).clamp(0.0, 1.0)
    }

    fn level_run(&self) -> bool {
        self.far <= self.near.height
    }

    fn share(&self) -> f64 {
        if self.level_run() {
            return if self.upto >= self.far { 1.0 } else { 0.0 };
        }
        ((self.upto - self.near.height) / (self.far - self.near.height)).clamp(0.0, 1.0)
    }
}

/// What has come in by a moment.
#[derive(Debug, Clone, PartialEq)]
struct Clock {
    /// By height: what rises with the level. Sums of room per metre, and of room times the height at which it begins or jumps.
    rising: Ramp,
    /// What runs over a crest at a level, by height, and what ran over all lower ones; sorted by level.
    over: Vec<(f64, Ramp, f64)>,
}

/// Sum of what begins and ends at heights: piecewise linear, with jumps.
#[derive(Debug, Clone, PartialEq, Default)]
struct Ramp {
    /// Height, change of slope there, jump there.
    steps: Vec<(f64, f64, f64)>,
    /// Value and slope after each step.
    sums: Vec<(f64, f64)>,
}

impl Ramp {
    fn add(&mut self, from: f64, to: f64, amount: f64) {
        if to > from {
            let slope = amount / (to - from);
            self.steps.push((from, slope, 0.0));
            self.steps.push((to, -slope, 0.0));
        } else {
            self.steps.push((from, 0.0, amount));
        }
    }

    fn settle(&mut self) {
        self.steps.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (mut value, mut slope, mut at) = (0.0, 0.0, f64::NAN);
        for (height, bend, jump) in &self.steps {
            if height > &at {
                value += slope * (height - at);
            }
            (at, slope, value) = (*height, slope + bend, value + jump);
            self.sums.push((value, slope));
        }
    }

    /// Up to and with a height.
    fn by(&self, height: f64) -> f64 {
        match self.steps.partition_point(|s| s.0 <= height).checked_sub(1) {
            None => 0.0,
            Some(i) => self.sums[i].0 + self.sums[i].1 * (height - self.steps[i].0),
        }
    }

    fn all(&self) -> f64 {
        self.sums.last().map_or(0.0, |s| s.0)
    }
}

impl Clock {
    fn of<'a>(pieces: impl Iterator<Item = &'a Piece>) -> Self {
        let mut rising = Ramp::default();
        let mut over: Vec<(f64, f64, f64, f64)> = Vec::new();
        for p in pieces.filter(|p| p.share() > 0.0) {
            let (from, to) = (p.near.height, p.upto.min(p.far));
            let crest = p.near.level.min(to);
            let amount = |lo: f64, hi: f64| p.volume * (hi - lo) / (p.far - from);
            if p.level_run() {
                if p.near.level > from {
                    over.push((p.near.level, from, from, p.volume))
                } else {
                    rising.add(from, from, p.volume)
                }
                continue;
            }
            if crest > from {
                over.push((p.near.level, from, crest, amount(from, crest)));
            }
            if to > crest {
                rising.add(crest, to, amount(crest, to));
            }
        }
        over.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut by_level: Vec<(f64, Ramp, f64)> = Vec::new();
        for (level, from, to, amount) in over {
            match by_level.last_mut() {
                Some((l, ramp, _)) if *l == level => ramp.add(from, to, amount),
                _ => {
                    let mut ramp = Ramp::default();
                    ramp.add(from, to, amount);
                    by_level.push((level, ramp, 0.0));
                }
            }
        }
        rising.settle();
        let mut below = 0.0;
        for (_, ramp, before) in &mut by_level {
            ramp.settle();
            *before = below;
            below += ramp.all();
        }
        Self { rising, over: by_level }
    }

    fn by(&self, key: Key) -> f64 {
        let over = match self.over.partition_point(|(l, ..)| *l <= key.level).checked_sub(1).map(|i| &self.over[i]) {
            None => 0.0,
            Some((level, ramp, before)) if *level == key.level => before + ramp.by(key.height),
            Some((_, ramp, before)) => before + ramp.all(),
        };
        over + self.rising.by(key.level)
    }
}

/// What stays, each piece that hangs together by itself.
fn pockets(network: &Network, z: &[f64], keys: &[Option<Key>], until: &[Option<Key>], filled: &[f64]) -> Vec<Pocket> {
    let shut_in = |p: usize| keys[p].is_some_and(|k| until[p].is_none_or(|u| k > u));
    let mut of: Vec<Option<usize>> = vec![None; z.len()];
    let mut all: Vec<Pocket> = Vec::new();
    let at_points = network.at_points();
    for start in (0..z.len()).filter(|p| shut_in(*p)) {
        if of[start].is_some() {
            continue;
        }
        let number = all.len();
        let mut found = Pocket { at: start, volume: Volume::from_m3(0.0), runs: Vec::new() };
        let mut todo = vec![start];
        of[start] = Some(number);
        while let Some(p) = todo.pop() {
            if z[p] > z[found.at] {
                found.at = p;
            }
            for i in at_points[p].iter().copied().filter(|i| network.runs[*i].way == Way::Open) {
                let r = network.runs[i];
                let other = if r.from == p { r.to } else { r.from };
                if shut_in(other) && of[other].is_none() {
                    of[other] = Some(number);
                    todo.push(other);
                }
                let stays = 1.0 - filled[i];
                // of a run with both ends in it only one end counts it
                let mine = !(shut_in(other) && (z[other], other) > (z[p], p));
                if mine && stays > 0.0 && r.volume.m3() > 0.0 && z[p] >= z[other] {
                    found.runs.push((i, stays));
                    found.volume = found.volume + Volume::from_m3(stays * r.volume.m3());
                }
            }
        }
        all.push(found);
    }
    all.retain(|e| e.volume.m3() > 0.0);
    all.sort_by(|a, b| b.volume.m3().total_cmp(&a.volume.m3()).then(a.at.cmp(&b.at)));
    all
}
