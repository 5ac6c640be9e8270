//! What sees the pressure as the valves are lined up.

use crate::network::{Network, Way};

/// Points that the pressure of a source gets to: both ways through what is open, one way through a check valve.
pub fn reached(network: &Network, sources: &[usize]) -> Vec<bool> {
    spread(network, sources, |run, from| match run {
        Way::Open => true,
        Way::Onward => from,
        Way::Shut => false,
    })
}

/// Points that are one with any of `sources`: what rises and falls with it, both ways. What lies behind a check valve is not.
pub fn one_with(network: &Network, sources: &[usize]) -> Vec<bool> {
    spread(network, sources, |run, _| run == Way::Open)
}

fn spread(network: &Network, sources: &[usize], passes: impl Fn(Way, bool) -> bool) -> Vec<bool> {
    let at = network.at_points();
    let mut seen = vec![false; network.points.len()];
    let mut todo: Vec<usize> = sources.iter().copied().filter(|p| *p < seen.len()).collect();
    while let Some(p) = todo.pop() {
        if std::mem::replace(&mut seen[p], true) {
            continue;
        }
        for r in at[p].iter().map(|i| network.runs[*i]) {
            let forward = r.from == p;
            let other = if forward { r.to } else { r.from };
            if !seen[other] && passes(r.way, forward) {
                todo.push(other);
            }
        }
    }
    seen
}

/// Pieces that hang together with some runs left out, each with its points; the largest number of points first.
pub fn pieces(network: &Network, without: &[bool]) -> Vec<Vec<usize>> {
    let at = network.at_points();
    let mut seen = vec![false; network.points.len()];
    let mut all = Vec::new();
    for start in 0..seen.len() {
        if seen[start] {
            continue;
        }
        let (mut piece, mut todo) = (Vec::new(), vec![start]);
        seen[start] = true;
        while let Some(p) = todo.pop() {
            piece.push(p);
            for i in at[p].iter().copied().filter(|i| !without[*i]) {
                let r = network.runs[i];
                let other = if r.from == p { r.to } else { r.from };
                if !std::mem::replace(&mut seen[other], true) {
                    todo.push(other);
                }
            }
        }
        piece.sort_unstable();
        all.push(piece);
    }
    all.sort_by(|a, b| b.len().cmp(&a.len()).then(a.cmp(b)));
    all
}
