//! Groups of lines that share a filling, held against every way of grouping that there is.

use quantity::{GaugePressure, PressureDifference, Volume};
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use system::suggested::{Line, OnSite, Suggestion, suggested};

fn line(points: &[&str], lower: f64, upper: f64, water: &str, m3: f64) -> Line {
    Line {
        tag: format!("{points:?} {lower}"),
        points: points.iter().map(|p| (*p).to_owned()).collect(),
        lower: GaugePressure::from_bar(lower),
        upper: GaugePressure::from_bar(upper),
        water: water.to_owned(),
        volume: Volume::from_m3(m3),
    }
}

fn site(room: f64, water: Option<f64>, hoses: &[[&str; 2]]) -> OnSite {
    OnSite {
        room: PressureDifference::from_bar(room),
        water: water.map(Volume::from_m3),
        hoses: hoses.iter().map(|[a, b]| [(*a).to_owned(), (*b).to_owned()]).collect(),
    }
}

fn of(s: &Suggestion) -> Vec<Vec<usize>> {
    s.groups.iter().map(|g| g.lines.clone()).collect()
}

/// True where some lines hang together, by a search of its own.
fn hangs_together(lines: &[Line], site: &OnSite, of: &[usize]) -> bool {
    let touch = |a: &Line, b: &Line| {
        let joined = |p: &String, q: &String| p == q || site.hoses.iter().any(|[x, y]| (x == p && y == q) || (x == q && y == p));
        a.water == b.water && a.points.iter().any(|p| b.points.iter().any(|q| joined(p, q)))
    };
    let mut reached = vec![of[0]];
    let mut left: Vec<usize> = of[1..].to_vec();
    while let Some(n) = left.iter().position(|i| reached.iter().any(|r| touch(&lines[*i], &lines[*r]))) {
        reached.push(left.remove(n));
    }
    left.is_empty()
}

fn feasible(lines: &[Line], site: &OnSite, of: &[usize]) -> bool {
    let lower = of.iter().map(|i| lines[*i].lower.bar()).fold(f64::MIN, f64::max);
    let upper = of.iter().map(|i| lines[*i].upper.bar()).fold(f64::MAX, f64::min);
    let volume: f64 = of.iter().map(|i| lines[*i].volume.m3()).sum();
    let enough = site.water.is_none_or(|w| of.len() == 1 || volume <= w.m3() + 1e-12);
    upper - lower >= site.room.bar() - 1e-9 && enough && hangs_together(lines, site, of)
}

/// The least number of groups, by trying every partition.
fn least(lines: &[Line], site: &OnSite, todo: &[usize], groups: &mut Vec<Vec<usize>>, best: usize) -> usize {
    if groups.len() >= best {
        return best;
    }
    let Some((first, rest)) = todo.split_first() else {
        return if groups.iter().all(|g| feasible(lines, site, g)) { groups.len() } else { best };
    };
    let mut best = best;
    for g in 0..groups.len() {
        groups[g].push(*first);
        best = least(lines, site, rest, groups, best);
        groups[g].pop();
    }
    groups.push(vec![*first]);
    best = least(lines, site, rest, groups, best);
    groups.pop();
    best
}

#[test]
fn a_line_of_one_window_is_one_pack_and_another_water_is_not() {
    let lines = [
        line(&["a", "b"], 20.0, 30.0, "any", 1.0),
        line(&["b", "c"], 22.0, 28.0, "any", 1.0),
        line(&["c", "d"], 21.0, 29.0, "low chloride", 1.0),
    ];
    let s = suggested(&lines, &site(0.5, None, &[]));
    assert_eq!(of(&s), [vec![0, 1], vec![2]]);
    assert_eq!(s.at_least, 2);
    assert_eq!((s.groups[0].lower.bar(), s.groups[0].upper.bar()), (22.0, 28.0));
}

#[test]
fn what_does_not_hang_together_does_unless_a_hose_joins_it() {
    let lines = [line(&["a", "b"], 20.0, 30.0, "any", 1.0), line(&["x", "y"], 20.0, 30.0, "any", 1.0)];
    assert_eq!(suggested(&lines, &site(0.5, None, &[])).groups.len(), 2);
    assert_eq!(suggested(&lines, &site(0.5, None, &[["b", "x"]])).groups.len(), 1);
}

#[test]
fn windows_that_the_gauge_cannot_tell_apart_do_not_meet() {
    let lines = [line(&["a", "b"], 20.0, 24.0, "any", 1.0), line(&["b", "c"], 23.8, 30.0, "any", 1.0)];
    assert_eq!(suggested(&lines, &site(0.1, None, &[])).groups.len(), 1);
    assert_eq!(suggested(&lines, &site(0.5, None, &[])).groups.len(), 2);
    let none = suggested(&[line(&["a"], 24.0, 24.1, "any", 1.0)], &site(0.5, None, &[]));
    assert_eq!((none.groups.len(), none.alone), (0, vec![0]));
}

#[test]
fn water_at_hand_parts_a_group_along_its_lines() {
    let lines: Vec<Line> = (0..6).map(|i| line(&[&format!("n{i}"), &format!("n{}", i + 1)], 20.0, 30.0, "any", 1.0)).collect();
    let s = suggested(&lines, &site(0.5, Some(2.0), &[]));
    assert_eq!((s.groups.len(), s.at_least), (3, 3));
    assert!(s.groups.iter().all(|g| g.volume.m3() <= 2.0));
}

/// However many lines stand at one header, and however many of them fit nowhere: the others still hang together, and the bound is no higher than what there is.
#[test]
fn a_header_with_hundreds_of_lines_is_one_place() {
    let of = |i: usize| line(&["header", &format!("end {i}")], 20.0, if (60..260).contains(&i) { 20.1 } else { 30.0 }, "any", 1.0);
    let lines: Vec<Line> = (0..400).map(of).collect();
    let s = suggested(&lines, &site(0.5, None, &[]));
    assert_eq!((s.groups.len(), s.at_least, s.alone.len()), (1, 1, 200));
}

/// On small plants every partition is tried: each group can be filled, none is forgotten, the bound holds, and the groups are rarely more than the least.
#[test]
fn held_against_every_partition_of_small_plants() {
    let mut r = ChaCha8Rng::seed_from_u64(24);
    let (mut over, mut all) = (0, 0);
    for n in 0..400 {
        let count = r.random_range(2..8);
        let lines: Vec<Line> = (0..count)
            .map(|_| {
                let lower = f64::from(r.random_range(10..40));
                let (a, b) = (r.random_range(0..6), r.random_range(0..6));
                let water = if r.random_range(0..5) == 0 { "low chloride" } else { "any" };
                line(
                    &[&format!("p{a}"), &format!("p{b}")],
                    lower,
                    lower + f64::from(r.random_range(1..20)),
                    water,
                    f64::from(r.random_range(1..5)),
                )
            })
            .collect();
        let site = site(0.5, (n % 3 == 0).then_some(6.0), if n % 2 == 0 { &[["p0", "p5"]] } else { &[] });
        let s = suggested(&lines, &site);
        let mut named: Vec<usize> = s.groups.iter().flat_map(|g| g.lines.clone()).chain(s.alone.clone()).collect();
        named.sort_unstable();
        assert_eq!(named, (0..count).collect::<Vec<_>>());
        assert!(s.groups.iter().all(|g| feasible(&lines, &site, &g.lines)), "{lines:?} {s:?}");
        let fit: Vec<usize> = (0..count).filter(|i| !s.alone.contains(i)).collect();
        let best = least(&lines, &site, &fit, &mut Vec::new(), fit.len() + 1);
        assert!(s.at_least <= best && best <= s.groups.len(), "at least {}, least {best}, found {}: {lines:?}", s.at_least, s.groups.len());
        over += s.groups.len() - best;
        all += best;
    }
    println!("{over} groups more than the least {all}");
    assert!(over * 20 <= all, "{over} groups more than the least {all}");
}
