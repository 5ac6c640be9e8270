//! Packs that suggest themselves: groups of lines that can share one filling, as few as can be found, and how far from the least number that may be.
//!
//! Lines share a filling where they hang together (at a point, or by a hose at stated points), stand the same water, and have a pressure at the datum that suits them all,
//! with more room than the gauge can read. Each group hangs together by itself, so that it can be filled. The least number of such groups is hard to find (it is a partition of a
//! graph); what is told is a bound beneath which none can be: of lines whose windows do not meet no two share a group.

use quantity::{GaugePressure, PressureDifference, Volume};
use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

/// A line of a project.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Its number.
    pub tag: String,
    /// Points that it joins.
    pub points: Vec<String>,
    /// Least pressure at the datum that tests it.
    pub lower: GaugePressure,
    /// Greatest pressure at the datum that harms nothing of it.
    pub upper: GaugePressure,
    /// What tells its water from others': lines of another word never share a filling.
    pub water: String,
    /// Its room.
    pub volume: Volume,
}

/// What the site has.
#[derive(Debug, Clone, PartialEq)]
pub struct OnSite {
    /// Least room that a window must have: what the gauge can read.
    pub room: PressureDifference,
    /// Water for one filling; none where there is enough.
    pub water: Option<Volume>,
    /// Pairs of points that a hose can join.
    pub hoses: Vec<[String; 2]>,
}

/// Lines that share a filling.
#[derive(Debug, Clone, PartialEq)]
pub struct Group {
    /// Lines, by their place in the list.
    pub lines: Vec<usize>,
    /// Least pressure at the datum.
    pub lower: GaugePressure,
    /// Greatest pressure at the datum.
    pub upper: GaugePressure,
    /// Room of them all.
    pub volume: Volume,
}

/// Suggested groups.
#[derive(Debug, Clone, PartialEq)]
pub struct Suggestion {
    /// The groups, the largest first.
    pub groups: Vec<Group>,
    /// Lines that no group takes: their own window has no room.
    pub alone: Vec<usize>,
    /// No way of grouping has fewer groups than this.
    pub at_least: usize,
}

/// Lines and the points at which they hang together. A line of another water stands at another point, so that the two never touch.
struct Search<'a> {
    lines: &'a [Line],
    site: &'a OnSite,
    /// Lines at each point; points that a hose joins are one.
    at: Vec<Vec<usize>>,
    /// Points of each line.
    points: Vec<Vec<usize>>,
}

/// Lines that share a filling while groups are joined, with what is asked of them together.
#[derive(Clone, Default)]
struct Filling {
    lines: Vec<usize>,
    lower: f64,
    upper: f64,
    volume: f64,
}

impl Search<'_> {
    fn of<'a>(lines: &'a [Line], site: &'a OnSite) -> Search<'a> {
        let mut parent: HashMap<&str, &str> = HashMap::new();
        fn root<'a>(parent: &HashMap<&'a str, &'a str>, mut p: &'a str) -> &'a str {
            while let Some(next) = parent.get(p).filter(|n| **n != p) {
                p = next;
            }
            p
        }
        for [a, b] in &site.hoses {
            let (a, b) = (root(&parent, a), root(&parent, b));
            parent.insert(b, a);
        }
        let mut known: BTreeMap<(&str, &str), usize> = BTreeMap::new();
        let (mut at, mut points): (Vec<Vec<usize>>, Vec<Vec<usize>>) = (Vec::new(), vec![Vec::new(); lines.len()]);
        for (i, line) in lines.iter().enumerate() {
            for p in &line.points {
                let point = *known.entry((line.water.as_str(), root(&parent, p))).or_insert_with(|| {
                    at.push(Vec::new());
                    at.len() - 1
                });
                if !points[i].contains(&point) {
                    at[point].push(i);
                    points[i].push(point);
                }
            }
        }
        Search { lines, site, at, points }
    }

    /// Lines that touch a line, itself among them.
    fn beside(&self, line: usize) -> impl Iterator<Item = usize> {
        self.points[line].iter().flat_map(|p| self.at[*p].iter().copied())
    }

    fn filling(&self, lines: Vec<usize>) -> Filling {
        let (lower, upper) = self.window(&lines);
        Filling { lower, upper, volume: self.volume(&lines), lines }
    }

    /// Room of the window that two groups have together, where they can share a filling.
    fn together(&self, a: &Filling, b: &Filling) -> Option<f64> {
        let room = a.upper.min(b.upper) - a.lower.max(b.lower);
        let enough = self.site.water.is_none_or(|w| a.volume + b.volume <= w.m3());
        (room >= self.site.room.pa() && enough).then_some(room)
    }

    fn window(&self, lines: &[usize]) -> (f64, f64) {
        let lower = lines.iter().map(|i| self.lines[*i].lower.pa()).fold(f64::NEG_INFINITY, f64::max);
        let upper = lines.iter().map(|i| self.lines[*i].upper.pa()).fold(f64::INFINITY, f64::min);
        (lower, upper)
    }

    fn fits(&self, lines: &[usize]) -> bool {
        let (lower, upper) = self.window(lines);
        upper - lower >= self.site.room.pa() && self.site.water.is_none_or(|w| lines.len() == 1 || self.volume(lines) <= w.m3())
    }

    fn volume(&self, lines: &[usize]) -> f64 {
        lines.iter().map(|i| self.lines[*i].volume.m3()).sum()
    }

    /// Pieces of some lines that hang together. Each point is gone through once, however many lines stand at it.
    fn pieces(&self, of: &[usize]) -> Vec<Vec<usize>> {
        let mut todo: BTreeSet<usize> = of.iter().copied().collect();
        let mut been: HashSet<usize> = HashSet::new();
        let mut all = Vec::new();
        while let Some(start) = todo.pop_first() {
            let (mut piece, mut open) = (vec![start], vec![start]);
            while let Some(i) = open.pop() {
                for p in self.points[i].iter().filter(|p| been.insert(**p)) {
                    let here: Vec<usize> = self.at[*p].iter().copied().filter(|j| todo.remove(j)).collect();
                    piece.extend(&here);
                    open.extend(here);
                }
            }
            piece.sort_unstable();
            all.push(piece);
        }
        all
    }

    /// Lines by the pressures that suit most of them: the fewest pressures at which every line is tested (the first that ends, and all that it meets).
    fn by_pressure(&self, of: &[usize]) -> Vec<Vec<usize>> {
        let mut left = of.to_vec();
        left.sort_by(|a, b| self.lines[*a].upper.pa().total_cmp(&self.lines[*b].upper.pa()).then(a.cmp(b)));
        let mut all = Vec::new();
        while let Some(first) = left.first() {
            let at = self.lines[*first].upper.pa() - self.site.room.pa();
            let (now, later): (Vec<usize>, Vec<usize>) = left.iter().partition(|i| self.lines[**i].lower.pa() <= at);
            all.push(now);
            left = later;
        }
        all
    }

    /// Parts a group that holds more than the water at hand, along its lines.
    fn by_water(&self, group: Vec<usize>) -> Vec<Vec<usize>> {
        let Some(water) = self.site.water else { return vec![group] };
        let mut left: BTreeSet<usize> = group.into_iter().collect();
        let mut all = Vec::new();
        while let Some(start) = left.pop_first() {
            let (mut piece, mut volume, mut open) = (vec![start], self.lines[start].volume.m3(), vec![start]);
            while let Some(i) = open.pop() {
                for j in self.beside(i) {
                    let more = self.lines[j].volume.m3();
                    if left.contains(&j) && volume + more <= water.m3() {
                        left.remove(&j);
                        volume += more;
                        piece.push(j);
                        open.push(j);
                    }
                }
            }
            piece.sort_unstable();
            all.push(piece);
        }
        all
    }

    /// Joins groups that touch and fit together, those with the least room left first, until none is left.
    fn merged(&self, groups: Vec<Vec<usize>>) -> Vec<Filling> {
        let mut groups: Vec<Filling> = groups.into_iter().map(|g| self.filling(g)).collect();
        let mut of: HashMap<usize, usize> = groups.iter().enumerate().flat_map(|(g, f)| f.lines.iter().map(move |i| (*i, g))).collect();
        loop {
            let points: BTreeSet<usize> = of.keys().flat_map(|i| self.points[*i].iter().copied()).collect();
            let mut best: Option<(f64, usize, usize)> = None;
            for p in points {
                let here: BTreeSet<usize> = self.at[p].iter().filter_map(|i| of.get(i).copied()).collect();
                for (n, a) in here.iter().enumerate() {
                    for b in here.iter().skip(n + 1) {
                        let Some(room) = self.together(&groups[*a], &groups[*b]) else { continue };
                        if best.is_none_or(|old| (room, *a, *b) < old) {
                            best = Some((room, *a, *b));
                        }
                    }
                }
            }
            let Some((_, a, b)) = best else { break };
            let moved = std::mem::take(&mut groups[b]);
            of.extend(moved.lines.iter().map(|i| (*i, a)));
            groups[a] = self.filling([std::mem::take(&mut groups[a].lines), moved.lines].concat());
        }
        groups.retain(|g| !g.lines.is_empty());
        groups
    }

    /// No fewer groups than this: windows of which no two meet, and the water that all of them need.
    fn at_least(&self, piece: &[usize]) -> usize {
        let apart = self.by_pressure(piece).len();
        let fillings = self.site.water.filter(|w| w.m3() > 0.0).map_or(0, |w| {
            // what is larger than the water at hand is a filling by itself
            let (large, small): (Vec<usize>, Vec<usize>) = piece.iter().partition(|i| self.lines[**i].volume.m3() > w.m3());
            large.len() + (self.volume(&small) / w.m3()).ceil() as usize
        });
        apart.max(fillings)
    }
}

/// Suggests groups.
pub fn suggested(lines: &[Line], site: &OnSite) -> Suggestion {
    let search = Search::of(lines, site);
    let (fit, alone): (Vec<usize>, Vec<usize>) = (0..lines.len()).partition(|i| search.fits(&[*i]));
    let (mut groups, mut at_least) = (Vec::new(), 0);
    for piece in search.pieces(&fit) {
        at_least += search.at_least(&piece);
        let first: Vec<Vec<usize>> =
            search.by_pressure(&piece).iter().flat_map(|level| search.pieces(level)).flat_map(|g| search.by_water(g)).collect();
        groups.extend(search.merged(first));
    }
    let mut groups: Vec<Group> = groups
        .into_iter()
        .map(|mut g| {
            g.lines.sort_unstable();
            let [lower, upper] = [g.lower, g.upper].map(GaugePressure::from_pa);
            Group { lines: g.lines, lower, upper, volume: Volume::from_m3(g.volume) }
        })
        .collect();
    groups.sort_by(|a, b| b.lines.len().cmp(&a.lines.len()).then(a.lines.cmp(&b.lines)));
    Suggestion { groups, alone, at_least }
}
