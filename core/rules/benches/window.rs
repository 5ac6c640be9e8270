//! Windows of the core beside a plain reference that stands here, whose result is asserted equal first.
#![allow(clippy::disallowed_methods, reason = "a bench measures time")]

use quantity::{Density, GaugePressure, Length, PressureUnit};
use rules::basis::Basis;
use rules::gauge::Gauge;
use rules::part::{Part, PartKind};
use rules::system::{System, derive, window_of};
use rules::window::{PartBounds, window};
use std::hint::black_box;
use std::time::{Duration, Instant};

const G: f64 = 9.80665;

/// Best of several runs: what the machine can do when nothing else disturbs it.
fn best<T>(mut of: impl FnMut() -> T) -> Duration {
    (0..7)
        .map(|_| {
            let start = Instant::now();
            black_box(of());
            start.elapsed()
        })
        .min()
        .unwrap_or_default()
}

fn report(what: &str, ours: Duration, reference: Duration, named: &str) {
    let ratio = reference.as_secs_f64() / ours.as_secs_f64();
    println!("{what:<44} {ratio:>9.2} × as fast as {named}");
}

fn parts() -> Vec<PartBounds> {
    (0..10_000u32)
        .map(|i| PartBounds {
            elevation: Length::from_m(f64::from(i * 37 % 401) * 0.1),
            required: GaugePressure::from_bar(24.0),
            limit: GaugePressure::from_bar(32.0 + f64::from(i * 101 % 997) * 0.05),
        })
        .collect()
}

/// The window by trial: halve the interval until every part is satisfied to 1 Pa, with p(z) = p_g + ρ·g·(z_g − z) at each part.
fn window_by_trial(parts: &[PartBounds], rho: f64, gauge_m: f64) -> (f64, f64) {
    let at = |p: &PartBounds, gauge: f64| gauge + rho * G * (gauge_m - p.elevation.m());
    let halve = |holds: &dyn Fn(f64) -> bool| {
        let (mut no, mut yes) = (0.0, 1e8);
        while yes - no > 0.5 {
            let middle = 0.5 * (no + yes);
            if holds(middle) { yes = middle } else { no = middle }
        }
        0.5 * (no + yes)
    };
    let lower = halve(&|gauge| parts.iter().all(|p| at(p, gauge) >= p.required.pa()));
    let upper = halve(&|gauge| parts.iter().any(|p| at(p, gauge) > p.limit.pa()));
    (lower, upper)
}

fn bench_window() {
    let (parts, rho, gauge) = (parts(), 999.1, 1.2);
    let ours = window(&parts, Density::from_kg_m3(rho), Length::from_m(gauge)).expect("there are parts");
    let (lower, upper) = window_by_trial(&parts, rho, gauge);
    assert!((ours.lower.pa() - lower).abs() < 1.0 && (ours.upper.pa() - upper).abs() < 1.0, "the window and its reference differ");
    report(
        "window of 10,000 parts",
        best(|| window(black_box(&parts), Density::from_kg_m3(rho), Length::from_m(gauge))),
        best(|| window_by_trial(black_box(&parts), rho, gauge)),
        "the same window by trial at every part",
    );
}

/// A plant of pipes, flanges and fittings, as it is entered.
fn plant() -> System {
    let parts = (0..10_000u32)
        .map(|i| {
            let at = Length::from_m(f64::from(i * 37 % 401) * 0.1);
            let tag = format!("P-{i}");
            match i % 3 {
                0 => Part {
                    outside_diameter_m: Some(Length::from_mm(168.3)),
                    wall_m: Some(Length::from_mm(7.11)),
                    length_m: Some(Length::from_m(6.0)),
                    material: Some("a106_b".into()),
                    ..Part::new(&tag, PartKind::Pipe, at)
                },
                1 => Part { flange_class: Some(300), material: Some("a106_b".into()), ..Part::new(&tag, PartKind::Flange, at) },
                _ => Part {
                    test_limit_pa: Some(GaugePressure::from_bar(60.0 + f64::from(i % 50))),
                    ..Part::new(&tag, PartKind::Fitting, at)
                },
            }
        })
        .collect();
    let basis = Basis {
        design_pressure_pa: Some(GaugePressure::from_bar(16.0)),
        design_temperature_c: Some(quantity::Temperature::from_c(38.0)),
        ..Basis::new("b31_3")
    };
    let gauge = Gauge {
        tag: "PG-1".into(),
        elevation_m: Length::from_m(1.2),
        full_scale_pa: None,
        division_pa: quantity::PressureDifference::from_bar(0.1),
        error_of_scale: 0.005,
        unit: PressureUnit::Bar,
    };
    System::new("plant", basis, parts, gauge)
}

/// The window of [`plant`] in one plain loop: Barlow at yield, 1.5 × 51.1 bar rounded up, or the maker's figure.
fn plain_window(s: &System) -> (f64, f64) {
    let (mut lower, mut upper) = (f64::MIN, f64::MAX);
    for p in &s.parts {
        let head = 998.2067 * G * (p.elevation_m.m() - 1.2);
        let bears = match (p.test_limit_pa, p.outside_diameter_m, p.wall_m) {
            (Some(limit), ..) => limit.pa(),
            (_, Some(d), Some(t)) => 2.0 * t.m() / d.m() * 35.0e3 * quantity::unit_factor::PSI,
            _ => 77.0e5,
        };
        lower = f64::max(lower, 24.0e5 + head);
        upper = f64::min(upper, bears + head);
    }
    (lower, upper)
}

fn bench_plant() {
    let plant = plant();
    let (lower, upper) = plain_window(&plant);
    let w = window_of(&plant).expect("the plant has a window");
    assert!((w.lower.pa() - lower).abs() < 2.0 && (w.upper.pa() - upper).abs() < 2.0, "the plant's window and its reference differ");
    let plain = best(|| plain_window(black_box(&plant)));
    let ours = best(|| window_of(black_box(&plant)));
    let all = best(|| derive(black_box(&plant)));
    report("window of a plant of 10,000 parts, all limits", ours, plain, "one plain loop over the same parts");
    report("the same with words and what follows", all, plain, "one plain loop over the same parts");
    println!("{:<44} {:>9.2} ms and {:.2} ms", "", ours.as_secs_f64() * 1e3, all.as_secs_f64() * 1e3);
}

fn main() {
    bench_window();
    bench_plant();
}
