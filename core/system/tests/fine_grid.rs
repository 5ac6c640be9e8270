//! Where water and air stay, held against a second computation that knows nothing of the first: the same geometry cut into a fine grid, flooded cell by cell.

use quantity::{Length, Volume};
use std::collections::BTreeMap;
use system::draining::{Stays, draining};
use system::filling::filling;
use system::network::{Network, Run, Way};

/// Height of a cell, m; every height of the made systems is a multiple of it.
const CELL: f64 = 0.25;

/// Chance, made from a seed (xorshift).
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }
    fn below(&mut self, n: usize) -> usize {
        usize::try_from(self.next() % n as u64).unwrap()
    }
    fn one_in(&mut self, n: usize) -> bool {
        self.below(n) == 0
    }
    fn share(&mut self) -> f64 {
        (self.next() % 10_000) as f64 / 10_000.0
    }
}

struct Made {
    network: Network,
    fill: usize,
    vents: Vec<usize>,
    drains: Vec<usize>,
}

/// A system of 5 to 400 parts: a line that is walked, with branches, loops, shut and check valves.
fn made(seed: u64) -> Made {
    let mut c = Chance(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
    for _ in 0..8 {
        c.next();
    }
    let parts = 5 + c.below(396);
    let mut steps = vec![i64::try_from(c.below(20)).unwrap()];
    let mut runs = Vec::new();
    while runs.len() < parts {
        let from = if c.one_in(6) { c.below(steps.len()) } else { steps.len() - 1 };
        if steps.len() > 6 && c.one_in(12) {
            // a loop closes
            let to = c.below(steps.len());
            runs.push(Run { from, to, volume: Volume::from_m3(0.01 + c.share()), way: Way::Open });
            continue;
        }
        let way = if c.one_in(40) { [Way::Onward, Way::Shut][c.below(2)] } else { Way::Open };
        let rise = if c.one_in(3) { 0 } else { i64::try_from(c.below(17)).unwrap() - 8 };
        steps.push((steps[from] + rise).clamp(0, 48));
        let to = steps.len() - 1;
        let (from, to) = if way == Way::Onward && c.one_in(2) { (to, from) } else { (from, to) };
        let volume = if way == Way::Open { 0.01 + c.share() } else { 0.0 };
        runs.push(Run { from, to, volume: Volume::from_m3(volume), way });
    }
    let some = |c: &mut Chance, n: usize| -> Vec<usize> { (0..n).map(|_| c.below(steps.len())).collect() };
    let vents = 1 + c.below(1 + steps.len() / 6);
    let drains = 1 + c.below(1 + steps.len() / 8);
    let (vents, drains) = (some(&mut c, vents), some(&mut c, drains));
    let fill = if c.one_in(2) { c.below(steps.len()) } else { (0..steps.len()).min_by_key(|p| steps[*p]).unwrap() };
    let points = steps.iter().map(|s| Length::from_m(CELL * *s as f64)).collect();
    Made { network: Network { points, runs }, fill, vents, drains }
}

/// A cell of the grid: a point, a level run, or a piece of a run between two heights of the grid.
struct Cell {
    /// Twice the step of its height; a piece between two steps has the odd number between them.
    rank: i64,
    volume: f64,
    run: Option<usize>,
}

/// The grid: what water passes to, and what it came from.
struct Grid {
    cells: Vec<Cell>,
    on: Vec<Vec<usize>>,
    back: Vec<Vec<usize>>,
}

impl Grid {
    fn of(network: &Network) -> Self {
        let step = |p: usize| (network.points[p].m() / CELL).round() as i64;
        let mut g = Self { cells: Vec::new(), on: Vec::new(), back: Vec::new() };
        for p in 0..network.points.len() {
            g.cell(2 * step(p), 0.0, None);
        }
        for (i, r) in network.runs.iter().enumerate() {
            match r.way {
                Way::Shut => {}
                Way::Onward => g.join(r.from, r.to, false),
                Way::Open => {
                    let (a, b) = (step(r.from), step(r.to));
                    let mut last = r.from;
                    if a == b {
                        let c = g.cell(2 * a, r.volume.m3(), Some(i));
                        g.join(last, c, true);
                        last = c;
                    }
                    let n = (b - a).abs();
                    for k in 0..n {
                        let low = if b > a { a + k } else { a - k - 1 };
                        let c = g.cell(2 * low + 1, r.volume.m3() / n as f64, Some(i));
                        g.join(last, c, true);
                        last = c;
                    }
                    g.join(last, r.to, true);
                }
            }
        }
        g
    }
    fn cell(&mut self, rank: i64, volume: f64, run: Option<usize>) -> usize {
        self.cells.push(Cell { rank, volume, run });
        self.on.push(Vec::new());
        self.back.push(Vec::new());
        self.cells.len() - 1
    }
    fn join(&mut self, a: usize, b: usize, both: bool) {
        self.on[a].push(b);
        self.back[b].push(a);
        if both {
            self.on[b].push(a);
            self.back[a].push(b);
        }
    }
    /// All that is got to from `starts` along `ways` through what `passes`.
    fn spread(ways: &[Vec<usize>], starts: &[usize], passes: impl Fn(usize) -> bool) -> Vec<bool> {
        let mut seen = vec![false; ways.len()];
        let mut todo: Vec<usize> = starts.iter().copied().filter(|s| passes(*s)).collect();
        todo.iter().for_each(|s| seen[*s] = true);
        while let Some(c) = todo.pop() {
            for n in &ways[c] {
                if !seen[*n] && passes(*n) {
                    seen[*n] = true;
                    todo.push(*n);
                }
            }
        }
        seen
    }
    /// The level rises by a step at a time. What it newly gets to is taken from the lowest up, and only where its air still has a way out.
    fn flood(&self, fill: &[usize], vents: &[usize]) -> (Vec<bool>, Vec<bool>) {
        let n = self.cells.len();
        let (mut wet, mut done) = (vec![false; n], vec![false; n]);
        let mut ranks: Vec<i64> = self.cells.iter().map(|c| c.rank).collect();
        ranks.sort_unstable();
        ranks.dedup();
        for level in &ranks {
            let got = Self::spread(&self.on, fill, |c| self.cells[c].rank <= *level);
            let mut new: BTreeMap<i64, Vec<usize>> = BTreeMap::new();
            let newly: Vec<usize> = (0..n).filter(|c| got[*c] && !done[*c]).collect();
            for c in newly {
                done[c] = true;
                new.entry(self.cells[c].rank).or_default().push(c);
            }
            for group in new.values() {
                let out = Self::spread(&self.back, vents, |c| !wet[c]);
                group.iter().filter(|c| out[**c]).for_each(|c| wet[*c] = true);
            }
        }
        (wet, done)
    }
}

impl Grid {
    /// What is off when the drains are open: all from which a way leads to one that never rises above it, and to which air comes from a vent through such.
    fn drain(&self, drains: &[usize], vents: &[usize]) -> (Vec<bool>, Vec<bool>) {
        let n = self.cells.len();
        let mut ranks: Vec<i64> = self.cells.iter().map(|c| c.rank).collect();
        ranks.sort_unstable();
        ranks.dedup();
        let mut runs_off = vec![false; n];
        for level in &ranks {
            let leads = Self::spread(&self.back, drains, |c| self.cells[c].rank <= *level);
            (0..n).filter(|c| self.cells[*c].rank == *level && leads[*c]).for_each(|c| runs_off[c] = true);
        }
        let empty = Self::spread(&self.on, vents, |c| runs_off[c]);
        (runs_off, empty)
    }

    /// Volume in each run, and of each piece that hangs together, the largest first, of the cells that are `there`.
    fn volumes(&self, runs: usize, there: impl Fn(usize) -> bool) -> (Vec<f64>, Vec<f64>) {
        let mut by_run = vec![0.0; runs];
        for (_, c) in self.cells.iter().enumerate().filter(|(i, _)| there(*i)) {
            if let Some(run) = c.run {
                by_run[run] += c.volume;
            }
        }
        // a check valve parts what stays on its two sides
        let both: Vec<Vec<usize>> =
            (0..self.cells.len()).map(|c| self.on[c].iter().copied().filter(|n| self.on[*n].contains(&c)).collect()).collect();
        let mut seen = vec![false; self.cells.len()];
        let mut pieces = Vec::new();
        for c in 0..self.cells.len() {
            if !there(c) || seen[c] {
                continue;
            }
            let mut volume = 0.0;
            for (i, _) in Self::spread(&both, &[c], &there).into_iter().enumerate().filter(|(_, part)| *part) {
                seen[i] = true;
                volume += self.cells[i].volume;
            }
            pieces.push(volume);
        }
        pieces.retain(|v| *v > 0.0);
        pieces.sort_by(|a, b| b.total_cmp(a));
        (by_run, pieces)
    }
}

/// The same, but for what is smaller than a ten-thousandth of the system on both sides.
fn same(of: &str, whole: f64, found: &[f64], by_grid: &[f64]) {
    let small = 1e-4 * whole;
    let large = |all: &[f64]| all.iter().copied().filter(|v| *v > small).collect::<Vec<_>>();
    let (found, by_grid) = (large(found), large(by_grid));
    assert_eq!(found.len(), by_grid.len(), "{of}: {found:?}, by the grid {by_grid:?}");
    assert!(found.iter().zip(&by_grid).all(|(a, b)| (a - b).abs() <= 0.02 * b), "{of}: {found:?}, by the grid {by_grid:?}");
}

fn shares(network: &Network, shares: &[f64]) -> Vec<f64> {
    network.runs.iter().zip(shares).map(|(r, s)| r.volume.m3() * s).collect()
}

/// Run by run within a ten-thousandth of the system.
fn same_by_run(of: &str, whole: f64, found: &[f64], by_grid: &[f64]) {
    for (i, (a, b)) in found.iter().zip(by_grid).enumerate() {
        assert!((a - b).abs() <= (0.02 * b).max(1e-4 * whole), "{of}, run {i}: {a}, by the grid {b}");
    }
}

#[test]
fn where_air_and_water_stay_is_what_a_fine_grid_says_of_2000_systems() {
    let (mut with_pockets, mut with_pools, mut with_vacuum, mut loops) = (0, 0, 0, 0);
    for seed in 1..=2000 {
        let Made { network, fill, vents, drains } = made(seed);
        let (whole, runs, grid) = (network.volume().m3(), network.runs.len(), Grid::of(&network));
        let of = format!("system {seed}, filled");
        let f = filling(&network, &[fill], &vents).unwrap();
        let (wet, got) = grid.flood(&[fill], &vents);
        same_by_run(&of, whole, &shares(&network, &f.filled), &grid.volumes(runs, |c| wet[c]).0);
        same(&of, whole, &f.pockets.iter().map(|p| p.volume.m3()).collect::<Vec<_>>(), &grid.volumes(runs, |c| got[c] && !wet[c]).1);
        // nothing is lost, and the points stand in order
        let pockets: f64 = f.pockets.iter().map(|e| e.volume.m3()).sum();
        let dry: f64 = f.not_reached.iter().map(|i| network.runs[*i].volume.m3()).sum();
        assert!((f.volume.m3() + pockets + dry - whole).abs() <= 1e-9 * whole, "{of}");
        assert!(f.reached.windows(2).all(|w| w[0].after.m3() <= w[1].after.m3() + 1e-12 * whole), "{of}: out of order");
        assert!(f.reached.iter().all(|r| r.after.m3() <= f.volume.m3() * (1.0 + 1e-12)), "{of}: more than came in");
        let of = format!("system {seed}, drained");
        let d = draining(&network, &drains, &vents).unwrap();
        let (runs_off, empty) = grid.drain(&drains, &vents);
        same_by_run(&of, whole, &shares(&network, &d.drained), &grid.volumes(runs, |c| empty[c]).0);
        for (why, there) in [
            (Stays::Pool, runs_off.iter().map(|r| !r).collect::<Vec<_>>()),
            (Stays::Vacuum, (0..empty.len()).map(|c| runs_off[c] && !empty[c]).collect()),
        ] {
            let found: Vec<f64> = d.left.iter().filter(|l| l.why == why).map(|l| l.volume.m3()).collect();
            same(&format!("{of}, {why:?}"), whole, &found, &grid.volumes(runs, |c| there[c]).1);
        }
        let left: f64 = d.left.iter().map(|l| l.volume.m3()).sum();
        assert!((d.volume.m3() + left - whole).abs() <= 1e-9 * whole, "{of}");
        with_pockets += usize::from(!f.pockets.is_empty());
        with_pools += usize::from(d.left.iter().any(|l| l.why == Stays::Pool));
        with_vacuum += usize::from(d.left.iter().any(|l| l.why == Stays::Vacuum));
        loops += usize::from(network.runs.len() >= network.points.len());
    }
    // the made systems are no easy ones
    assert!(
        with_pockets > 1000 && with_pools > 1000 && with_vacuum > 100 && loops > 1000,
        "{with_pockets}, {with_pools}, {with_vacuum}, {loops}"
    );
}

fn line(heights: &[f64], volumes: &[f64]) -> Network {
    Network {
        points: heights.iter().map(|z| Length::from_m(*z)).collect(),
        runs: volumes.iter().enumerate().map(|(i, v)| Run { from: i, to: i + 1, volume: Volume::from_m3(*v), way: Way::Open }).collect(),
    }
}

/// Up, over a crest, down and up again to a vent: the leg behind the crest keeps its air, and a vent on the crest lets it out.
#[test]
fn a_leg_behind_a_crest_keeps_its_air_until_the_crest_is_vented() {
    let n = line(&[0.0, 6.0, 1.0, 8.0], &[0.6, 0.5, 0.7]);
    let found = filling(&n, &[0], &[3]).unwrap();
    assert_eq!(found.pockets.len(), 1);
    assert_eq!((found.pockets[0].at, found.pockets[0].runs.clone()), (1, vec![(1, 1.0)]));
    assert!((found.pockets[0].volume.m3() - 0.5).abs() < 1e-12);
    let vented = filling(&n, &[0], &[1, 3]).unwrap();
    assert!(vented.pockets.is_empty() && (vented.volume.m3() - 1.8).abs() < 1e-12);
    // the crest stands full when the left leg and what lies behind it up to its height are
    let crest = vented.reached.iter().find(|r| r.point == 1).unwrap();
    assert!((crest.after.m3() - (0.6 + 0.5 + 0.5)).abs() < 1e-12, "{crest:?}");
}

/// A dome above its only nozzle keeps its air; filled through the dome it would not.
#[test]
fn a_dome_without_a_vent_keeps_its_air() {
    let n = line(&[0.0, 2.0, 2.5], &[1.0, 0.2]);
    let found = filling(&n, &[0], &[1]).unwrap();
    assert_eq!((found.pockets[0].at, found.pockets[0].runs.clone()), (2, vec![(1, 1.0)]));
    assert!(filling(&n, &[0], &[2]).unwrap().pockets.is_empty());
}

/// A sump below its outlet keeps its water; a run behind a shut valve is not reached at all.
#[test]
fn a_sump_keeps_its_water_and_a_shut_valve_keeps_all() {
    let mut n = line(&[3.0, 1.0, 0.0, 1.0], &[0.4, 0.1, 0.1]);
    let found = draining(&n, &[3], &[0]).unwrap();
    assert!(found.left.len() == 1 && (found.left[0].volume.m3() - 0.2).abs() < 1e-12, "{found:?}");
    assert_eq!((found.left[0].why, found.left[0].at), (Stays::Pool, 2));
    // with no vent open the rest is held up
    let found = draining(&n, &[3], &[]).unwrap();
    let held: Vec<_> = found.left.iter().map(|l| (l.why, l.at)).collect();
    assert_eq!(held, vec![(Stays::Vacuum, 0), (Stays::Pool, 2)], "{found:?}");
    n.points.push(Length::from_m(1.0));
    n.points.push(Length::from_m(2.0));
    n.runs.push(Run { from: 3, to: 4, volume: Volume::from_m3(0.0), way: Way::Shut });
    n.runs.push(Run { from: 4, to: 5, volume: Volume::from_m3(0.3), way: Way::Open });
    assert_eq!(filling(&n, &[2], &[0]).unwrap().not_reached, vec![4]);
}

/// Water goes through a check valve one way, and so does the air before it.
#[test]
fn a_check_valve_lets_water_and_air_through_one_way() {
    let mut n = line(&[0.0, 4.0, 4.0, 1.0], &[0.4, 0.0, 0.3]);
    n.runs[1].way = Way::Onward;
    // a vent at the foot of the leg behind it is under water first
    let found = filling(&n, &[0], &[3]).unwrap();
    assert_eq!(found.pockets.iter().map(|e| e.runs.clone()).collect::<Vec<_>>(), vec![vec![(2, 1.0)]]);
    let found = filling(&n, &[0], &[2]).unwrap();
    assert!(found.pockets.is_empty(), "{found:?}");
    // turned round nothing behind it is reached, and what stands before it has no way out
    (n.runs[1].from, n.runs[1].to) = (2, 1);
    let found = filling(&n, &[0], &[2]).unwrap();
    assert_eq!((found.not_reached.clone(), found.pockets.len()), (vec![2], 1), "{found:?}");
}

/// Without any vent nothing goes in, and without a figure nothing is said.
#[test]
fn without_a_vent_all_air_stays_and_what_is_no_figure_is_refused() {
    let n = line(&[0.0, 1.0, 2.0], &[0.1, 0.2]);
    let found = filling(&n, &[0], &[]).unwrap();
    assert!((found.pockets[0].volume.m3() - 0.3).abs() < 1e-12 && found.volume.m3() == 0.0);
    let mut wrong = n.clone();
    wrong.points[1] = Length::from_m(f64::NAN);
    assert!(filling(&wrong, &[0], &[2]).is_err());
    let mut wrong = n.clone();
    wrong.runs[0].to = 9;
    assert!(filling(&wrong, &[0], &[2]).is_err());
    assert!(filling(&n, &[7], &[2]).is_err());
}
