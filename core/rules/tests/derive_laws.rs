//! Laws of a whole derivation, over systems made at random. What a part sees is computed here, from p(z) = p_g + ρ·g·(z_g − z).

mod common;

use common::{b31_3, flange, pipe, system};
use proptest::prelude::*;
use quantity::{GaugePressure, Length, PressureDifference, Temperature};
use rules::part::{Part, PartKind};
use rules::system::{Derived, System, derive};
use rules::why::{Figure, why};

const G: f64 = 9.80665;

fn part(i: usize) -> impl Strategy<Value = Part> {
    let pipes = (0usize..5, -5.0f64..60.0, 1.0f64..300.0).prop_map(move |(size, z, length)| {
        let (nps, schedule) = [(2.0, "40"), (4.0, "40"), (6.0, "40"), (8.0, "20"), (6.0, "80")][size];
        pipe(&format!("pipe {i}"), z, nps, schedule, length)
    });
    let flanges = (0usize..3, -5.0f64..60.0).prop_map(move |(class, z)| flange(&format!("flange {i}"), z, [150, 300, 600][class]));
    let vessels = (5.0f64..120.0, -5.0f64..60.0).prop_map(move |(limit, z)| Part {
        test_limit_pa: Some(GaugePressure::from_bar(limit)),
        ..Part::new(&format!("vessel {i}"), PartKind::Vessel, Length::from_m(z))
    });
    prop_oneof![4 => pipes, 3 => flanges, 1 => vessels]
}

prop_compose! {
    fn any_system()(
        n in 1usize..12,
    )(
        parts in (0..n).map(part).collect::<Vec<_>>(),
        first in pipe_first(),
        design in 1.0f64..60.0, temperature in 0.0f64..200.0, gauge_m in -2.0f64..20.0, water in 2.0f64..45.0,
        division in prop::sample::select(vec![0.01, 0.05, 0.1, 0.5]),
    ) -> System {
        let mut all = vec![first];
        all.extend(parts);
        let mut s = system(b31_3(design, temperature), all, gauge_m);
        s.water_temperature_c = Temperature::from_c(water);
        s.gauge.division_pa = PressureDifference::from_bar(division);
        s.gauge.full_scale_pa = None;
        s
    }
}

/// A system has at least one pipe, whose material sets the ratio.
fn pipe_first() -> impl Strategy<Value = Part> {
    (-5.0f64..60.0).prop_map(|z| pipe("first pipe", z, 6.0, "40", 50.0))
}

/// Pressure at a part for a gauge reading.
fn at(s: &System, d: &Derived, p: &Part, gauge: f64) -> f64 {
    gauge + d.density_kg_m3.kg_m3() * G * (s.gauge.elevation_m.m() - p.elevation_m.m())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn every_pressure_of_the_day_leaves_every_part_within_its_marks(s in any_system()) {
        let d = derive(&s).unwrap();
        if let Some(day) = &d.day {
            for (word, gauge) in [("planned", day.planned_pa), ("look", day.look_pa)] {
                if day.conflicts.is_empty() {
                    for (p, w) in s.parts.iter().zip(&d.parts) {
                        let there = at(&s, &d, p, gauge.pa());
                        prop_assert!(there >= w.required_pa.pa() - 1.0, "{word}: {} sees {there}", p.tag);
                        prop_assert!(there <= w.limit_pa.pa() + 1.0, "{word}: {} sees {there}", p.tag);
                    }
                }
            }
            prop_assert!(day.stop_line_pa <= d.upper_pa);
            prop_assert!(day.planned_pa >= d.lower_readable_pa);
            if let Some(relief) = day.relief_set_pa {
                prop_assert!(relief > day.planned_pa, "the relief valve would open during the hold");
                // full open it still keeps every part within what it bears
                prop_assert!(relief.pa() * (1.0 + s.settings.relief_accumulation) <= d.upper_pa.pa() + 1.0);
                prop_assert!(day.alarm_pa <= relief);
            }
        } else {
            prop_assert!(d.conflict.is_some(), "a window without a day must name its conflict");
        }
    }

    #[test]
    fn what_is_shown_is_on_the_safe_side_of_what_is_computed(s in any_system()) {
        let d = derive(&s).unwrap();
        let division = s.gauge.division_pa.pa();
        prop_assert!(d.lower_readable_pa.pa() >= d.lower_pa.pa() - 1e-5 * division);
        prop_assert!(d.lower_readable_pa.pa() < d.lower_pa.pa() + division);
        prop_assert!(d.upper_shown_pa.pa() <= d.upper_pa.pa() + 1e-5 * division);
        let steps = d.lower_readable_pa.pa() / division;
        prop_assert!((steps - steps.round()).abs() < 1e-6, "the lower bound can be read on this gauge");
    }

    #[test]
    fn a_part_more_never_widens_the_window(s in any_system(), extra in part(99)) {
        let before = derive(&s).unwrap();
        let mut more = s.clone();
        more.parts.push(extra);
        let after = derive(&more).unwrap();
        prop_assert!(after.lower_pa.pa() >= before.lower_pa.pa() - 1e-6);
        prop_assert!(after.upper_pa.pa() <= before.upper_pa.pa() + 1e-6);
    }

    #[test]
    fn the_order_of_the_parts_does_not_matter(s in any_system()) {
        let mut reversed = s.clone();
        reversed.parts.reverse();
        let (a, b) = (derive(&s).unwrap(), derive(&reversed).unwrap());
        prop_assert_eq!((a.lower_pa, a.upper_pa), (b.lower_pa, b.upper_pa));
        prop_assert_eq!(a.day, b.day);
    }

    #[test]
    fn a_higher_design_pressure_asks_for_more_everywhere(s in any_system(), by in 1.01f64..1.5) {
        let mut higher = s.clone();
        higher.basis = b31_3(s.basis.base_pressure().bar() * by, 38.0);
        let mut lower = s.clone();
        lower.basis = b31_3(s.basis.base_pressure().bar(), 38.0);
        let (low, high) = (derive(&lower).unwrap(), derive(&higher).unwrap());
        prop_assert!((high.required_pa.pa() / low.required_pa.pa() - by).abs() < 1e-9);
        prop_assert!(high.lower_pa > low.lower_pa);
    }

    #[test]
    fn heat_in_service_never_lowers_the_test(s in any_system(), hot in 50.0f64..300.0) {
        let design = s.basis.base_pressure().bar();
        let (mut cold, mut warm) = (s.clone(), s);
        cold.basis = b31_3(design, 20.0);
        warm.basis = b31_3(design, hot);
        prop_assert!(derive(&warm).unwrap().required_pa >= derive(&cold).unwrap().required_pa);
    }

    #[test]
    fn each_why_ends_at_the_figure_that_it_explains(s in any_system()) {
        let d = derive(&s).unwrap();
        for (figure, name) in Figure::WHOLE {
            let Some(w) = why(&s, &d, &figure).unwrap() else { continue };
            let expected = match figure {
                Figure::Required => Some(d.required_pa.pa()),
                Figure::Lower => Some(d.lower_pa.pa().max(d.lower_readable_pa.pa())),
                Figure::Planned => d.day.as_ref().map(|x| x.planned_pa.pa()),
                Figure::StopLine => d.day.as_ref().map(|x| x.stop_line_pa.pa()),
                Figure::Alarm => d.day.as_ref().map(|x| x.alarm_pa.pa()),
                _ => None,
            };
            if let Some(expected) = expected {
                prop_assert!((w.result.value - expected).abs() <= s.gauge.division_pa.pa(), "{name}: {} is not {expected}", w.result.value);
            }
            prop_assert!(!w.rule.is_empty() && !w.sentence.is_empty());
        }
    }

    #[test]
    fn written_and_read_back_a_system_derives_the_same(s in any_system()) {
        let text = serde_json::to_string(&s).unwrap();
        let back: System = serde_json::from_str(&text).unwrap();
        prop_assert_eq!(derive(&s).unwrap(), derive(&back).unwrap());
    }
}

#[test]
fn settings_that_make_no_sense_are_named() {
    for (field, change) in [
        (
            "expected_cooling_k",
            (|s: &mut System| s.settings.expected_cooling_k = quantity::TemperatureDifference::from_k(-1.0)) as fn(&mut System),
        ),
        ("expected_settling_pa", |s| s.settings.expected_settling_pa = PressureDifference::from_pa(-1.0)),
        ("relief_accumulation", |s| s.settings.relief_accumulation = f64::NAN),
    ] {
        let mut s = common::dn150();
        change(&mut s);
        let refused = derive(&s).unwrap_err();
        assert_eq!(refused.field(), field);
        assert!(refused.to_string().contains("must lie between"), "{refused}");
    }
}
