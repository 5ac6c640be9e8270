//! SPLIT: an empty window parted into the fewest sub-systems that each have one, cut only where the connections allow.

use crate::rule::{Rule, Standing};

/// Rules of the split.
pub const RULES: &[&Rule] = &[&SPLIT];

/// The split.
pub const SPLIT: Rule = Rule {
    id: "SPLIT",
    sentence: "Where no pressure suits all parts, the system is parted into the fewest connected sub-systems that each have a window, cut only where it can be.",
    clause: "",
    edition: "",
    standing: Standing::Arithmetic,
    file: file!(),
    test: "split_no_split_is_smaller_than_brute_force",
};

/// Up to so many clusters a system with loops is split exactly.
const EXACT_CLUSTERS: usize = 14;

/// What a part needs and bears, both brought to the gauge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bounds {
    /// Least reading.
    pub low: f64,
    /// Greatest reading.
    pub high: f64,
}

impl Bounds {
    fn meets(self, other: Self) -> Self {
        Self { low: self.low.max(other.low), high: self.high.min(other.high) }
    }
    fn is_empty(self) -> bool {
        // by what lies inside, so that NaN is empty
        !self.holds(self.low)
    }
    fn holds(self, p: f64) -> bool {
        self.low <= p && p <= self.high
    }
}

/// Two parts that are joined, and whether they can be parted there.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Join {
    /// One part.
    pub a: usize,
    /// The other.
    pub b: usize,
    /// True where a blind or spade can go between them.
    pub can_part: bool,
}

/// The split that was found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Split {
    /// Number of the group of each part, from 0.
    pub group_of: Vec<usize>,
    /// How many groups.
    pub groups: usize,
    /// Joins that are cut, by their place in the list.
    pub cuts: Vec<usize>,
    /// True where fewer groups are proved to be impossible.
    pub fewest: bool,
}

/// Why no split helps.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NoSplit {
    /// Parts that cannot be parted from each other have no pressure in common.
    Fused(Vec<usize>),
}

/// Parts that cannot be parted from each other, taken as one.
struct Clusters {
    of: Vec<usize>,
    spans: Vec<Bounds>,
    near: Vec<Vec<usize>>,
}

fn root(of: &mut [usize], mut i: usize) -> usize {
    while of[i] != i {
        of[i] = of[of[i]];
        i = of[i];
    }
    i
}

/// Numbers 0, 1, … in the order of first appearance.
fn numbered(roots: &[usize]) -> (Vec<usize>, usize) {
    let mut number = vec![usize::MAX; roots.len()];
    let mut count = 0;
    let of = roots
        .iter()
        .map(|r| {
            if number[*r] == usize::MAX {
                number[*r] = count;
                count += 1;
            }
            number[*r]
        })
        .collect();
    (of, count)
}

/// Groups of parts that the joins leave together.
fn components(n: usize, joined: impl Iterator<Item = (usize, usize)>) -> (Vec<usize>, usize) {
    let mut of: Vec<usize> = (0..n).collect();
    for (a, b) in joined {
        let (a, b) = (root(&mut of, a), root(&mut of, b));
        of[a] = b;
    }
    let roots: Vec<usize> = (0..n).map(|i| root(&mut of, i)).collect();
    numbered(&roots)
}

fn clusters(spans: &[Bounds], joins: &[Join]) -> Result<Clusters, NoSplit> {
    let (of, count) = components(spans.len(), joins.iter().filter(|j| !j.can_part).map(|j| (j.a, j.b)));
    let mut together = vec![Bounds { low: f64::NEG_INFINITY, high: f64::INFINITY }; count];
    for (span, c) in spans.iter().zip(&of) {
        together[*c] = together[*c].meets(*span);
    }
    if let Some(bad) = together.iter().position(|s| s.is_empty()) {
        return Err(NoSplit::Fused((0..spans.len()).filter(|i| of[*i] == bad).collect()));
    }
    let mut near = vec![Vec::new(); count];
    for j in joins {
        let (a, b) = (of[j.a], of[j.b]);
        if a != b && !near[a].contains(&b) {
            near[a].push(b);
            near[b].push(a);
        }
    }
    Ok(Clusters { of, spans: together, near })
}

/// The fewest groups of connected parts, each with a pressure in common.
///
/// Exact for systems without loops (by a table of the least count for each part and pressure) and, with loops, for up to 14 clusters (over
/// all connected sets); beyond that the best of several spanning trees, and said so.
///
/// # Errors
/// When parts that cannot be parted have no pressure in common.
pub fn split(spans: &[Bounds], joins: &[Join]) -> Result<Split, NoSplit> {
    let c = clusters(spans, joins)?;
    let n = c.spans.len();
    let (component, count) = components(n, (0..n).flat_map(|a| c.near[a].iter().map(move |b| (a, *b))));
    let mut label = vec![f64::NAN; n];
    let mut fewest = true;
    for k in 0..count {
        let members: Vec<usize> = (0..n).filter(|i| component[*i] == k).collect();
        let joined: usize = members.iter().map(|i| c.near[*i].len()).sum::<usize>() / 2;
        if joined + 1 == members.len() {
            by_tree(&c, &c.near, members[0], &mut label);
        } else if members.len() <= EXACT_CLUSTERS {
            by_sets(&c, &members, &mut label);
        } else {
            by_spanning_trees(&c, &members, &mut label);
            fewest = false;
        }
    }
    Ok(finished(&c, spans, joins, &label, fewest))
}

/// Groups from the pressures at which the clusters are tested; neighbours at one pressure stay together.
fn finished(c: &Clusters, spans: &[Bounds], joins: &[Join], label: &[f64], fewest: bool) -> Split {
    let at = |i: usize| label[c.of[i]];
    let together = joins.iter().filter(|j| !j.can_part || at(j.a) == at(j.b)).map(|j| (j.a, j.b));
    let (group_of, groups) = components(spans.len(), together);
    let cuts = (0..joins.len()).filter(|k| group_of[joins[*k].a] != group_of[joins[*k].b]).collect();
    Split { group_of, groups, cuts, fewest }
}

/// Number of groups that labels give within some members.
fn count(near: &[Vec<usize>], members: &[usize], label: &[f64]) -> usize {
    let mut seen = vec![false; near.len()];
    let mut groups = 0;
    for &start in members {
        if seen[start] {
            continue;
        }
        groups += 1;
        let mut open = vec![start];
        seen[start] = true;
        while let Some(i) = open.pop() {
            for &j in near[i].iter().filter(|j| label[**j] == label[i]) {
                if !seen[j] {
                    seen[j] = true;
                    open.push(j);
                }
            }
        }
    }
    groups
}

/// A tree: f(v, p), the fewest groups below v when v is tested at p, is 1 + Σ min(best(child), f(child, p) − 1). The greatest need of a
/// group is always one of the needs, so these are all the pressures that matter.
fn by_tree(c: &Clusters, near: &[Vec<usize>], start: usize, label: &mut [f64]) {
    let mut order = vec![(start, usize::MAX)];
    let mut at = 0;
    while at < order.len() {
        let (v, parent) = order[at];
        order.extend(near[v].iter().filter(|w| **w != parent).map(|w| (*w, v)));
        at += 1;
    }
    let mut pressures: Vec<f64> = order.iter().map(|(v, _)| c.spans[*v].low).collect();
    pressures.sort_by(f64::total_cmp);
    pressures.dedup();
    const NEVER: u32 = u32::MAX / 4;
    let mut f = vec![vec![]; near.len()];
    let mut best = vec![(NEVER, 0); near.len()];
    for &(v, parent) in order.iter().rev() {
        let row: Vec<u32> = (0..pressures.len())
            .map(|k| {
                if !c.spans[v].holds(pressures[k]) {
                    return NEVER;
                }
                let below = near[v].iter().filter(|w| **w != parent);
                1 + below.map(|w| best[*w].0.min(f[*w][k] - 1)).sum::<u32>()
            })
            .collect();
        best[v] = row.iter().enumerate().map(|(k, n)| (*n, k)).min().unwrap_or((NEVER, 0));
        f[v] = row;
    }
    let mut chosen = vec![usize::MAX; near.len()];
    for &(v, parent) in &order {
        let above = if parent == usize::MAX { usize::MAX } else { chosen[parent] };
        chosen[v] = if above != usize::MAX && f[v][above] - 1 <= best[v].0 && f[v][above] < NEVER { above } else { best[v].1 };
        label[v] = pressures[chosen[v]];
    }
}

/// Few clusters with loops: the fewest connected sets with a pressure in common that cover all.
fn by_sets(c: &Clusters, members: &[usize], label: &mut [f64]) {
    let n = members.len();
    let near: Vec<u32> =
        members.iter().map(|i| c.near[*i].iter().filter_map(|j| members.iter().position(|m| m == j)).fold(0, |m, k| m | 1 << k)).collect();
    let all = (1u32 << n) - 1;
    let suits = |set: u32| {
        let parts = (0..n).filter(|k| set >> k & 1 == 1);
        let span = parts.fold(Bounds { low: f64::NEG_INFINITY, high: f64::INFINITY }, |s, k| s.meets(c.spans[members[k]]));
        let mut reached = set & set.wrapping_neg();
        loop {
            let more = (0..n).filter(|k| reached >> k & 1 == 1).fold(reached, |m, k| m | near[k] & set);
            if more == reached {
                break;
            }
            reached = more;
        }
        (reached == set && !span.is_empty()).then_some(span.low)
    };
    let good: Vec<Option<f64>> = (0..=all).map(|set| if set == 0 { None } else { suits(set) }).collect();
    let mut least = vec![(u32::MAX, 0u32); all as usize + 1];
    least[0] = (0, 0);
    for set in 1..=all {
        let first = set & set.wrapping_neg();
        let mut sub = set;
        while sub > 0 {
            if sub & first != 0 && good[sub as usize].is_some() {
                let rest = least[(set & !sub) as usize].0;
                if rest != u32::MAX && rest + 1 < least[set as usize].0 {
                    least[set as usize] = (rest + 1, sub);
                }
            }
            sub = (sub - 1) & set;
        }
    }
    let mut left = all;
    while left > 0 {
        let set = least[left as usize].1;
        for k in (0..n).filter(|k| set >> k & 1 == 1) {
            label[members[k]] = good[set as usize].unwrap_or(f64::NAN);
        }
        left &= !set;
    }
}

/// Many clusters with loops: the best of the trees that are found from each of several starts, broad or deep first.
fn by_spanning_trees(c: &Clusters, members: &[usize], label: &mut [f64]) {
    let mut best: Option<(usize, Vec<f64>)> = None;
    for start in members.iter().step_by(members.len().div_ceil(16)) {
        for deep in [false, true] {
            let near = spanning_tree(c, *start, deep);
            let mut tried = label.to_vec();
            by_tree(c, &near, *start, &mut tried);
            let groups = count(&c.near, members, &tried);
            if best.as_ref().is_none_or(|b| groups < b.0) {
                best = Some((groups, tried));
            }
        }
    }
    if let Some((_, found)) = best {
        label.copy_from_slice(&found);
    }
}

/// A tree that prefers neighbours with a pressure in common.
fn spanning_tree(c: &Clusters, start: usize, deep: bool) -> Vec<Vec<usize>> {
    let mut near = vec![Vec::new(); c.near.len()];
    let mut seen = vec![false; c.near.len()];
    let mut open = std::collections::VecDeque::from([start]);
    let mut later: std::collections::VecDeque<(usize, usize)> = std::collections::VecDeque::new();
    seen[start] = true;
    loop {
        let next = if deep { open.pop_back() } else { open.pop_front() };
        let Some(v) = next else {
            // only then a join across which nothing is in common
            let Some((v, w)) = later.pop_front() else { break };
            if !seen[w] {
                seen[w] = true;
                near[v].push(w);
                near[w].push(v);
                open.push_back(w);
            }
            continue;
        };
        for &w in &c.near[v] {
            if seen[w] {
                continue;
            }
            if c.spans[v].meets(c.spans[w]).is_empty() {
                later.push_back((v, w));
                continue;
            }
            seen[w] = true;
            near[v].push(w);
            near[w].push(v);
            open.push_back(w);
        }
    }
    near
}
