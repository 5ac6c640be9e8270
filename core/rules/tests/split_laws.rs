//! The split: every group is connected and has a pressure in common, nothing is cut that cannot be, and no fewer would do.

use proptest::prelude::*;
use rules::split::{Bounds, Join, NoSplit, Split, split};

/// A random system: intervals, a tree of joins, some more joins as loops; each can be parted or not.
fn systems(most: usize, loops: usize) -> impl Strategy<Value = (Vec<Bounds>, Vec<Join>)> {
    (2..=most).prop_flat_map(move |n| {
        let spans = prop::collection::vec((0.0..30.0f64, 0.0..15.0f64), n);
        let tree = prop::collection::vec((any::<prop::sample::Index>(), prop::bool::weighted(0.8)), n - 1);
        let more = prop::collection::vec((0..n, 0..n, prop::bool::weighted(0.8)), 0..=loops);
        (spans, tree, more).prop_map(|(spans, tree, more)| {
            let spans = spans.into_iter().map(|(low, width)| Bounds { low, high: low + width }).collect();
            let tree = tree.into_iter().enumerate().map(|(i, (parent, can_part))| Join { a: parent.index(i + 1), b: i + 1, can_part });
            let more = more.into_iter().filter(|(a, b, _)| a != b).map(|(a, b, can_part)| Join { a, b, can_part });
            (spans, tree.chain(more).collect())
        })
    })
}

/// Groups that remain when some joins are cut, by walking.
fn groups(n: usize, joins: &[Join], cut: impl Fn(usize) -> bool) -> Vec<usize> {
    let mut of = vec![usize::MAX; n];
    let mut next = 0;
    for start in 0..n {
        if of[start] != usize::MAX {
            continue;
        }
        let mut open = vec![start];
        of[start] = next;
        while let Some(i) = open.pop() {
            for (k, j) in joins.iter().enumerate().filter(|(k, _)| !cut(*k)) {
                let _ = k;
                for (a, b) in [(j.a, j.b), (j.b, j.a)] {
                    if a == i && of[b] == usize::MAX {
                        of[b] = next;
                        open.push(b);
                    }
                }
            }
        }
        next += 1;
    }
    of
}

fn suits(spans: &[Bounds], of: &[usize]) -> bool {
    let count = of.iter().max().map_or(0, |m| m + 1);
    (0..count).all(|g| {
        let members = || (0..of.len()).filter(|i| of[*i] == g).map(|i| spans[i]);
        members().map(|s| s.low).fold(f64::NEG_INFINITY, f64::max) <= members().map(|s| s.high).fold(f64::INFINITY, f64::min)
    })
}

/// Every way of cutting what can be cut is tried.
fn brute_force(spans: &[Bounds], joins: &[Join]) -> Option<usize> {
    let cuttable: Vec<usize> = (0..joins.len()).filter(|k| joins[*k].can_part).collect();
    (0..1u32 << cuttable.len())
        .filter_map(|set| {
            let of = groups(spans.len(), joins, |k| cuttable.iter().position(|c| *c == k).is_some_and(|p| set >> p & 1 == 1));
            suits(spans, &of).then(|| of.iter().max().map_or(0, |m| m + 1))
        })
        .min()
}

#[track_caller]
fn is_a_split(spans: &[Bounds], joins: &[Join], s: &Split) {
    assert!(s.cuts.iter().all(|k| joins[*k].can_part), "nothing is cut that cannot be");
    let of = groups(spans.len(), joins, |k| s.cuts.contains(&k));
    assert!(suits(spans, &of), "each group has a pressure in common");
    assert_eq!(of.iter().max().map_or(0, |m| m + 1), s.groups);
    for a in 0..of.len() {
        for b in 0..of.len() {
            assert_eq!(of[a] == of[b], s.group_of[a] == s.group_of[b]);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn split_no_split_is_smaller_than_brute_force((spans, joins) in systems(12, 3)) {
        match (split(&spans, &joins), brute_force(&spans, &joins)) {
            (Ok(s), Some(fewest)) => {
                is_a_split(&spans, &joins, &s);
                prop_assert!(s.fewest);
                prop_assert_eq!(s.groups, fewest);
            }
            (Err(NoSplit::Fused(parts)), None) => {
                // what is named has nothing in common, and cannot be parted
                let low = parts.iter().map(|i| spans[*i].low).fold(f64::NEG_INFINITY, f64::max);
                let high = parts.iter().map(|i| spans[*i].high).fold(f64::INFINITY, f64::min);
                prop_assert!(low > high);
            }
            (got, want) => prop_assert!(false, "{got:?} against {want:?}"),
        }
    }

    #[test]
    fn a_large_system_with_loops_is_split_and_says_that_fewer_may_do((spans, joins) in systems(60, 40)) {
        let joins: Vec<Join> = joins.into_iter().map(|j| Join { can_part: true, ..j }).collect();
        let s = split(&spans, &joins).unwrap();
        is_a_split(&spans, &joins, &s);
    }

    #[test]
    fn a_system_with_a_window_stays_whole(lows in prop::collection::vec(0.0..10.0f64, 2..20)) {
        let spans: Vec<Bounds> = lows.iter().map(|low| Bounds { low: *low, high: 10.0 }).collect();
        let joins: Vec<Join> = (1..spans.len()).map(|i| Join { a: i - 1, b: i, can_part: true }).collect();
        let s = split(&spans, &joins).unwrap();
        prop_assert_eq!((s.groups, s.cuts.len()), (1, 0));
    }
}

/// A line of 2,000 parts that alternate in three pressures: within the time of a keystroke.
#[test]
fn two_thousand_parts_are_split() {
    let spans: Vec<Bounds> =
        (0..2000).map(|i| Bounds { low: f64::from(i / 700) * 20.0 + f64::from(i % 7), high: f64::from(i / 700) * 20.0 + 10.0 }).collect();
    let joins: Vec<Join> = (1..2000).map(|i| Join { a: i - 1, b: i, can_part: true }).collect();
    let s = split(&spans, &joins).unwrap();
    assert_eq!(s.groups, 3);
    assert!(s.fewest);
}
