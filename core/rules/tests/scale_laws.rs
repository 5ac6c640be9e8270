//! Laws of the window at the size of a plant, against ten plain lines.

mod common;

use common::{b31_3, bar, gauge_at, near};
use proptest::prelude::*;
use quantity::{GaugePressure, Length, PressureDifference, PressureUnit};
use rand::{RngExt, SeedableRng};
use rules::part::{Part, PartKind};
use rules::system::{System, derive, window_of};

/// A system of many parts whose limits are their makers', from a seed.
fn plant(seed: u64, count: usize, least_limit_bar: f64) -> System {
    let mut rng = rand_chacha::ChaCha8Rng::seed_from_u64(seed);
    let parts = (0..count)
        .map(|i| Part {
            test_limit_pa: Some(bar(rng.random_range(least_limit_bar..400.0))),
            ..Part::new(&format!("P-{i}"), PartKind::Fitting, Length::from_m(rng.random_range(-20.0..60.0)))
        })
        .collect();
    System::new("plant", b31_3(rng.random_range(2.0..20.0), 38.0), parts, gauge_at(rng.random_range(-20.0..60.0)))
}

/// The window in ten plain lines, bar and metres, with the density of IAPWS-95 at 20 °C and 1 atm (998.2067 kg/m³).
fn plain(s: &System) -> (f64, f64) {
    let asked = 1.5 * s.basis.design_pressure_pa.unwrap().bar();
    let (mut lower, mut upper) = (f64::MIN, f64::MAX);
    for p in &s.parts {
        let head = 998.2067 * 9.80665 * (p.elevation_m.m() - s.gauge.elevation_m.m()) / 1e5;
        lower = f64::max(lower, asked + head);
        upper = f64::min(upper, p.test_limit_pa.unwrap().bar() + head);
    }
    (lower, upper)
}

#[test]
fn a_hundred_plants_of_two_thousand_parts_have_the_plain_window() {
    let mut empty = 0;
    for seed in 0..100 {
        let s = plant(seed, 2_000, if seed % 4 == 0 { 5.0 } else { 60.0 });
        let (lower, upper) = plain(&s);
        let d = derive(&s).unwrap();
        near(d.lower_pa.bar(), lower, 1e-5);
        near(d.upper_pa.bar(), upper, 1e-5);
        assert_eq!(d.conflict.is_some(), lower > upper, "seed {seed}");
        empty += usize::from(d.conflict.is_some());
        // no reading inside misses a part, and just outside one is missed
        for (reading, meets) in
            [(lower + 1e-4, lower + 1e-4 < upper), (upper - 1e-4, upper - 1e-4 > lower), (lower - 1e-3, false), (upper + 1e-3, false)]
        {
            let all = d.parts.iter().all(|p| (p.gauge_lower_pa.bar()..=p.gauge_upper_pa.bar()).contains(&reading));
            assert_eq!(all, meets, "seed {seed} at {reading}: {lower} to {upper}");
        }
    }
    assert!((10..90).contains(&empty), "{empty} of 100 are empty: both kinds are tried");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn raising_a_rating_never_narrows_the_window(seed in 0u64..10_000, which in 0usize..50, by in 0.0f64..200.0) {
        let s = plant(seed, 50, 20.0);
        let before = window_of(&s).unwrap();
        let mut stronger = s.clone();
        let limit = &mut stronger.parts[which].test_limit_pa;
        *limit = limit.map(|l| l + PressureDifference::from_bar(by));
        let after = window_of(&stronger).unwrap();
        prop_assert!(after.upper >= before.upper && after.lower <= before.lower);
    }

    /// The same system read in another unit has the same window to that unit's rounding.
    #[test]
    fn the_window_is_the_same_in_every_unit(seed in 0u64..10_000) {
        let s = plant(seed, 20, 60.0);
        let d = derive(&s).unwrap();
        for unit in PressureUnit::ALL {
            let decimals: usize = if unit == PressureUnit::Mpa { 3 } else { 1 };
            let division = unit.pa() * 0.1f64.powi(i32::try_from(decimals).unwrap());
            let mut other = s.clone();
            other.gauge.unit = unit;
            other.gauge.division_pa = PressureDifference::from_pa(division);
            let o = derive(&other).unwrap();
            prop_assert_eq!((o.lower_pa, o.upper_pa), (d.lower_pa, d.upper_pa));
            prop_assert!(o.lower_readable_pa.pa() >= d.lower_pa.pa() - 1e-5 * division && o.lower_readable_pa.pa() - d.lower_pa.pa() < division);
            let text = quantity::format::gauge_pressure(o.lower_readable_pa, unit, decimals);
            let read = quantity::parse::gauge_pressure(&quantity::bounds::LIMIT_PRESSURE, &text, PressureUnit::Bar).unwrap().0;
            prop_assert!((read.pa() - o.lower_readable_pa.pa()).abs() < 1e-3 * division, "{} {}", text, read.pa());
        }
    }

    /// Distances of each part from its bounds add up to the width of its own window, and the least of them is the governing part's.
    #[test]
    fn distances_of_parts_add_up(seed in 0u64..10_000) {
        let d = derive(&plant(seed, 30, 60.0)).unwrap();
        let at: GaugePressure = d.day.as_ref().map_or(d.lower_pa, |x| x.planned_pa);
        for p in &d.parts {
            prop_assert!(((p.above_least_pa.pa() + p.below_most_pa.pa()) - (p.gauge_upper_pa - p.gauge_lower_pa).pa()).abs() < 1e-6);
        }
        let least = d.parts.iter().map(|p| p.above_least_pa.pa()).fold(f64::MAX, f64::min);
        prop_assert!((least - (at - d.lower_pa).pa()).abs() < 1e-6);
    }
}
