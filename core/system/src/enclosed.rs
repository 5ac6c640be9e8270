//! Until when each point's air has a way out: told backwards, from the last that is filled to the first.
//!
//! Backwards nothing is cut off any more, only joined, so that sets that are merged tell it in one pass. A set remembers when it got a way out; a point's own
//! answer is the later of that and of the moments at which its set was merged into others.

use crate::filling::Key;
use crate::network::{Network, Way};

/// Sets of points whose air is joined.
struct Sets {
    parent: Vec<usize>,
    size: Vec<usize>,
    /// When a set, while this was its first point, got a way out.
    out: Vec<Option<Key>>,
    /// When this was merged into its parent.
    joined: Vec<Option<Key>>,
    /// Points whose air goes on into this set through a check valve.
    feeders: Vec<Vec<usize>>,
}

impl Sets {
    fn new(n: usize) -> Self {
        Self { parent: (0..n).collect(), size: vec![1; n], out: vec![None; n], joined: vec![None; n], feeders: vec![Vec::new(); n] }
    }

    fn root(&self, mut p: usize) -> usize {
        while self.parent[p] != p {
            p = self.parent[p];
        }
        p
    }

    /// A set has a way out from here on, and so have those that lead into it.
    fn open(&mut self, p: usize, at: Key) {
        let mut todo = vec![p];
        while let Some(p) = todo.pop() {
            let root = self.root(p);
            if self.out[root].is_none() {
                self.out[root] = Some(at);
                todo.extend(std::mem::take(&mut self.feeders[root]));
            }
        }
    }

    fn merge(&mut self, a: usize, b: usize, at: Key) {
        let (a, b) = (self.root(a), self.root(b));
        if a == b {
            return;
        }
        let (into, from) = if self.size[a] >= self.size[b] { (a, b) } else { (b, a) };
        self.parent[from] = into;
        self.size[into] += self.size[from];
        self.joined[from] = Some(at);
        let feeders = std::mem::take(&mut self.feeders[from]);
        match (self.out[into].is_some(), self.out[from].is_some()) {
            (true, _) => feeders.into_iter().for_each(|f| self.open(f, at)),
            (false, true) => self.open(into, at),
            (false, false) => self.feeders[into].extend(feeders),
        }
    }

    /// Air goes on from `a` into the set of `b`, and not back.
    fn feed(&mut self, a: usize, b: usize, at: Key) {
        let b = self.root(b);
        if self.out[b].is_some() {
            self.open(a, at);
        } else {
            self.feeders[b].push(a);
        }
    }

    /// The last moment at which a point's air had a way out; none where it never had one.
    fn until(&self, mut p: usize) -> Option<Key> {
        let mut latest: Option<Key> = None;
        loop {
            if let Some(out) = self.out[p] {
                return Some(latest.map_or(out, |l| l.min(out)));
            }
            if self.parent[p] == p {
                return None;
            }
            let joined = self.joined[p];
            latest = match (latest, joined) {
                (Some(l), Some(j)) => Some(l.min(j)),
                (l, j) => l.or(j),
            };
            p = self.parent[p];
        }
    }
}

/// For each point the key of the last moment at which its air had a way out to one of `escapes`; none where it never had one, or where nothing gets to it.
pub fn out_until(network: &Network, at_points: &[Vec<usize>], keys: &[Option<Key>], escapes: &[usize]) -> Vec<Option<Key>> {
    let mut order: Vec<(Key, usize)> = keys.iter().enumerate().filter_map(|(p, k)| k.map(|k| (k, p))).collect();
    order.sort_by_key(|(key, _)| std::cmp::Reverse(*key));
    let mut sets = Sets::new(keys.len());
    let mut there = vec![false; keys.len()];
    let mut escapes_here = vec![false; keys.len()];
    for e in escapes {
        escapes_here[*e] = true;
    }
    for group in order.chunk_by(|a, b| a.0 == b.0) {
        // those of one moment are seen together, before any of them is filled
        for (_, p) in group {
            there[*p] = true;
        }
        for (key, p) in group {
            for r in at_points[*p].iter().map(|i| network.runs[*i]) {
                let other = if r.from == *p { r.to } else { r.from };
                if !there[other] {
                    continue;
                }
                match r.way {
                    Way::Open => sets.merge(*p, other, *key),
                    Way::Onward => sets.feed(r.from, r.to, *key),
                    Way::Shut => {}
                }
            }
        }
        for (key, p) in group.iter().filter(|(_, p)| escapes_here[*p]) {
            sets.open(*p, *key);
        }
    }
    (0..keys.len()).map(|p| if there[p] { sets.until(p) } else { None }).collect()
}
