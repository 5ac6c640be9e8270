//! How high what flows must stand before it gets to a point: the least, over all ways there, of the highest point of the way.

use crate::network::{Network, Way};
use std::cmp::{Ordering, Reverse};
use std::collections::BinaryHeap;

/// A height that is compared as a number.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Height(pub f64);

impl Eq for Height {}
impl PartialOrd for Height {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}
impl Ord for Height {
    fn cmp(&self, other: &Self) -> Ordering {
        self.0.total_cmp(&other.0)
    }
}

/// Which way check valves are gone through.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Along {
    /// As they let through: from where water comes.
    Onward,
    /// Against it: back from where water goes.
    Back,
}

impl Along {
    /// Where a run leads from a point; none where it does not.
    pub fn leads(self, network: &Network, run: usize, point: usize) -> Option<usize> {
        let r = network.runs[run];
        let passes = match (r.way, self) {
            (Way::Open, _) => true,
            (Way::Onward, Self::Onward) => r.from == point,
            (Way::Onward, Self::Back) => r.to == point,
            (Way::Shut, _) => false,
        };
        passes.then_some(if r.from == point { r.to } else { r.from })
    }
}

/// For each point the level at which it is reached from any of `sources`; none where no way leads there.
pub fn levels(network: &Network, at_points: &[Vec<usize>], sources: &[usize], along: Along) -> Vec<Option<f64>> {
    let z = |p: usize| network.points[p].m();
    let mut level: Vec<Option<f64>> = vec![None; network.points.len()];
    let mut next: BinaryHeap<Reverse<(Height, usize)>> = sources.iter().map(|s| Reverse((Height(z(*s)), *s))).collect();
    while let Some(Reverse((Height(h), p))) = next.pop() {
        if level[p].is_some() {
            continue;
        }
        level[p] = Some(h);
        for other in at_points[p].iter().filter_map(|run| along.leads(network, *run, p)) {
            if level[other].is_none() {
                next.push(Reverse((Height(h.max(z(other))), other)));
            }
        }
    }
    level
}
