//! Laws of the window. The test computes the pressure at each part itself, from p(z) = p_g + ρ·g·(z_g − z).

mod common;

use proptest::prelude::*;
use quantity::{Density, GaugePressure, Length};
use rules::window::{PartBounds, window};

const G: f64 = 9.80665;

fn part() -> impl Strategy<Value = PartBounds> {
    (-50.0f64..150.0, 1e5f64..1e7, 1.0f64..3.0).prop_map(|(z, req, room)| PartBounds {
        elevation: Length::from_m(z),
        required: GaugePressure::from_pa(req),
        limit: GaugePressure::from_pa(req * room),
    })
}

/// True when a gauge reading suits a part.
fn suits(p: &PartBounds, gauge_pa: f64, rho: f64, gauge_m: f64) -> bool {
    let there = gauge_pa + rho * G * (gauge_m - p.elevation.m());
    there >= p.required.pa() - 1e-3 && there <= p.limit.pa() + 1e-3
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn window_lower_window_upper_no_pressure_inside_violates_a_part_and_none_outside_is_free(
        parts in prop::collection::vec(part(), 1..60), rho in 950.0f64..1050.0, gauge_m in -20.0f64..100.0, share in 0.0f64..=1.0, beyond in 10.0f64..1e6,
    ) {
        let w = window(&parts, Density::from_kg_m3(rho), Length::from_m(gauge_m)).unwrap();
        if w.feasible() {
            let inside = w.lower.pa() + share * (w.upper.pa() - w.lower.pa());
            prop_assert!(parts.iter().all(|p| suits(p, inside, rho, gauge_m)));
        }
        prop_assert!(!suits(&parts[w.lower_part], w.lower.pa() - beyond, rho, gauge_m));
        prop_assert!(!suits(&parts[w.upper_part], w.upper.pa() + beyond, rho, gauge_m));
        if !w.feasible() {
            let (a, b) = (&parts[w.lower_part], &parts[w.upper_part]);
            let gap = w.lower.pa() - w.upper.pa();
            let both = (0..200).map(|i| f64::from(i) * 1e5).any(|p| suits(a, p, rho, gauge_m) && suits(b, p, rho, gauge_m));
            prop_assert!(!both || gap < 2e-3);
        }
    }

    #[test]
    fn raising_a_limit_never_narrows(parts in prop::collection::vec(part(), 1..40), which in 0usize..40, by in 0.0f64..1e6) {
        let rho = Density::from_kg_m3(998.0);
        let before = window(&parts, rho, Length::from_m(0.0)).unwrap();
        let mut stronger = parts.clone();
        let i = which % parts.len();
        stronger[i].limit = GaugePressure::from_pa(stronger[i].limit.pa() + by);
        let after = window(&stronger, rho, Length::from_m(0.0)).unwrap();
        prop_assert!(after.upper >= before.upper && after.lower == before.lower);
    }

    #[test]
    fn moving_the_gauge_moves_the_window_by_the_head(parts in prop::collection::vec(part(), 1..20), from in -20.0f64..50.0, to in -20.0f64..50.0) {
        let at = |z| window(&parts, Density::from_kg_m3(1000.0), Length::from_m(z)).unwrap();
        let head = 1000.0 * G * (from - to);
        prop_assert!((at(to).lower.pa() - at(from).lower.pa() - head).abs() < 1e-3);
        prop_assert!((at(to).upper.pa() - at(from).upper.pa() - head).abs() < 1e-3);
    }
}

#[test]
fn no_parts_no_window() {
    assert!(window(&[], Density::from_kg_m3(998.0), Length::from_m(0.0)).is_none());
}
