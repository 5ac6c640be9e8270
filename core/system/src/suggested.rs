//! Packs that suggest themselves: groups of lines that can share one filling, as few as can be found, and how far from the least number that may be.
//!
//! Lines share a filling where they hang together (at a point, or by a hose at stated points), stand the same water, and have a pressure at the datum that suits them all,
//! with more room than the gauge can read. Each group hangs together by itself, so that it can be filled. The least number of such groups is hard to find (it is a partition of a
//! graph); what is told is a bound beneath which none can be: of lines whose windows do not meet no two share a group.

use quantity::{GaugePressure, PressureDifference, Volume};
use std::collections::{BTreeMap, HashMap};

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

/// Groups of a list, `chosen` of its lines.
struct Search<'a> {
    lines: &'a [Line],
    site: &'a OnSite,
    /// Lines that each line touches, itself left out.
    beside: Vec<Vec<usize>>,
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
        let mut at: BTreeMap<(&str, &str), Vec<usize>> = BTreeMap::new();
        for (i, line) in lines.iter().enumerate() {
            for p in &line.points {
                at.entry((line.water.as_str(), root(&parent, p))).or_default().push(i);
            }
        }
        Search { lines, site, beside: touching(at.into_values(), lines.len()) }
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

    /// Pieces of some lines that hang together.
    fn pieces(&self, of: &[usize]) -> Vec<Vec<usize>> {
        let mut todo: std::collections::BTreeSet<usize> = of.iter().copied().collect();
        let mut all = Vec::new();
        while let Some(start) = todo.pop_first() {
            let (mut piece, mut open) = (vec![start], vec![start]);
            while let Some(i) = open.pop() {
                for j in &self.beside[i] {
                    if todo.remove(j) {
                        piece.push(*j);
                        open.push(*j);
                    }
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
        let mut left: std::collections::BTreeSet<usize> = group.into_iter().collect();
        let mut all = Vec::new();
        while let Some(start) = left.pop_first() {
            let (mut piece, mut volume, mut open) = (vec![start], self.lines[start].volume.m3(), vec![start]);
            while let Some(i) = open.pop() {
                for j in &self.beside[i] {
                    let more = self.lines[*j].volume.m3();
                    if left.contains(j) && volume + more <= water.m3() {
                        left.remove(j);
                        volume += more;
                        piece.push(*j);
                        open.push(*j);
                    }
                }
            }
            piece.sort_unstable();
            all.push(piece);
        }
        all
    }

    /// Joins groups that touch and fit together, those with the least room left first, until none is left.
    fn merged(&self, mut groups: Vec<Vec<usize>>) -> Vec<Vec<usize>> {
        let mut of = vec![usize::MAX; self.lines.len()];
        groups.iter().enumerate().for_each(|(g, lines)| lines.iter().for_each(|i| of[*i] = g));
        loop {
            let mut touching: std::collections::BTreeSet<(usize, usize)> = std::collections::BTreeSet::new();
            for lines in &groups {
                for i in lines {
                    for j in &self.beside[*i] {
                        if of[*i] < of[*j] && of[*j] != usize::MAX {
                            touching.insert((of[*i], of[*j]));
                        }
                    }
                }
            }
            let together = |(a, b): &(usize, usize)| -> Option<f64> {
                let both = [groups[*a].as_slice(), groups[*b].as_slice()].concat();
                let (lower, upper) = self.window(&both);
                self.fits(&both).then_some(upper - lower)
            };
            let best =
                touching.iter().filter_map(|pair| Some((together(pair)?, *pair))).min_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
            let Some((_, (a, b))) = best else { break };
            let moved = std::mem::take(&mut groups[b]);
            moved.iter().for_each(|i| of[*i] = a);
            groups[a].extend(moved);
        }
        groups.retain(|g| !g.is_empty());
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

/// Who is at a point touches everybody else there.
fn touching(at: impl Iterator<Item = Vec<usize>>, lines: usize) -> Vec<Vec<usize>> {
    /// Of more lines at one point each touches the next so many, which is nearly all that could ever matter, and never a touch that is none.
    const MOST: usize = 60;
    let mut beside = vec![Vec::new(); lines];
    for all in at {
        for (n, i) in all.iter().enumerate() {
            for j in all.iter().skip(n + 1).take(MOST) {
                beside[*i].push(*j);
                beside[*j].push(*i);
            }
        }
    }
    for all in &mut beside {
        all.sort_unstable();
        all.dedup();
    }
    beside
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
        .map(|mut lines| {
            lines.sort_unstable();
            let (lower, upper) = search.window(&lines);
            let volume = Volume::from_m3(search.volume(&lines));
            Group { lines, lower: GaugePressure::from_pa(lower), upper: GaugePressure::from_pa(upper), volume }
        })
        .collect();
    groups.sort_by(|a, b| b.lines.len().cmp(&a.lines.len()).then(a.lines.cmp(&b.lines)));
    Suggestion { groups, alone, at_least }
}
