//! Joining, filling and draining 10,000 parts, beside the window of the same parts in the same run.
#![allow(clippy::disallowed_methods, reason = "a bench measures time")]

use quantity::{GaugePressure, Length, PressureDifference, PressureUnit, Temperature, Volume};
use rules::basis::Basis;
use rules::gauge::Gauge;
use rules::part::{Part, PartKind};
use rules::system::{System, window_of};
use std::hint::black_box;
use std::time::{Duration, Instant};
use system::draining::draining;
use system::filling::filling;
use system::joined::joined;
use system::look::look;
use system::suggested::{Line, OnSite, suggested};
use system::survey::{Facts, Signed};

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

/// A line that is walked up and down, with a branch every few parts, a vent or a drain at some of its ends, and loops.
fn plant() -> Vec<Part> {
    let height = |i: u32| f64::from(i * 37 % 401) * 0.1;
    (0..10_000u32)
        .map(|i| {
            let z = Length::from_m(height(i));
            let tag = format!("P-{i}");
            let (from, to) = (format!("N{i}"), format!("N{}", if i % 50 == 49 { i - 48 } else { i + 1 }));
            match i % 10 {
                8 => Part {
                    test_limit_pa: Some(GaugePressure::from_bar(60.0)),
                    from: Some(from),
                    ..Part::new(&tag, if i % 20 == 8 { PartKind::Vent } else { PartKind::Drain }, z)
                },
                _ => Part {
                    outside_diameter_m: Some(Length::from_mm(168.3)),
                    wall_m: Some(Length::from_mm(7.11)),
                    length_m: Some(Length::from_m(6.0)),
                    material: Some("a106_b".to_owned()),
                    to_elevation_m: Some(Length::from_m(height(if i % 50 == 49 { i - 48 } else { i + 1 }))),
                    from: Some(if i % 7 == 0 { format!("N{}", i / 2) } else { from }),
                    to: Some(to),
                    ..Part::new(&tag, PartKind::Pipe, z)
                },
            }
        })
        .collect()
}

fn main() {
    let parts = plant();
    let basis = Basis {
        design_pressure_pa: Some(GaugePressure::from_bar(16.0)),
        design_temperature_c: Some(Temperature::from_c(38.0)),
        ..Basis::new("b31_3")
    };
    let gauge = Gauge {
        tag: "PG-1".into(),
        elevation_m: Length::from_m(1.2),
        full_scale_pa: None,
        division_pa: PressureDifference::from_bar(0.1),
        error_of_scale: 0.005,
        unit: PressureUnit::Bar,
    };
    let system = System::new("bench", basis, parts.clone(), gauge);
    window_of(&system).unwrap_or_else(|e| panic!("no window: {e}"));
    let all = || {
        let j = joined(black_box(&parts));
        let (vents, drains) = (j.points_of(&parts, PartKind::Vent), j.points_of(&parts, PartKind::Drain));
        let filled = filling(&j.network, &drains[..1], &vents).expect("a network");
        let drained = draining(&j.network, &drains, &vents).expect("a network");
        (filled, drained)
    };
    let (filled, drained) = all();
    println!("{} pockets, {} pools", filled.pockets.len(), drained.left.len());
    let (ours, window) = (best(all), best(|| window_of(black_box(&system))));
    // all that a screen shows of it, findings included
    let signed = Signed::default();
    let whole = || look(Facts { system: &system, derived: None, signed: &signed, simple: false }).expect("a system");
    let looked = whole();
    println!("{} findings, {} sections, {} lines of the line-up", looked.findings.len(), looked.sections.len(), looked.lines.len());
    let seen = best(whole);
    println!(
        "looked at with all findings, 10,000 parts    {:>9.2} × the time of their window (20 at most); {:.1} ms",
        seen.as_secs_f64() / window.as_secs_f64(),
        seen.as_secs_f64() * 1e3
    );
    println!(
        "joined, filled and drained, 10,000 parts     {:>9.2} × the time of their window (20 at most); {:.1} ms",
        ours.as_secs_f64() / window.as_secs_f64(),
        ours.as_secs_f64() * 1e3
    );
    let lines: Vec<Line> = (0..2_000u32).map(a_line).collect();
    let site = OnSite { room: PressureDifference::from_bar(0.5), water: None, hoses: vec![] };
    let groups = suggested(&lines, &site);
    println!("{} groups of 2,000 lines, at least {}", groups.groups.len(), groups.at_least);
    let grouped = best(|| suggested(black_box(&lines), &site));
    println!(
        "2,000 lines grouped into packs               {:>9.2} × the time of the window of 10,000 parts; {:.1} ms (2 s at most)",
        grouped.as_secs_f64() / window.as_secs_f64(),
        grouped.as_secs_f64() * 1e3
    );
}

/// A line of a plant with headers, a branch every few lines, and five classes of pressure.
fn a_line(i: u32) -> Line {
    let lower = f64::from(i / 40 * 37 % 5) * 8.0 + 6.0 + f64::from(i % 7) * 0.2;
    let from = if i.is_multiple_of(9) { format!("header {}", i / 200) } else { format!("n{}", i - 1) };
    Line {
        tag: format!("L-{i}"),
        points: vec![from, format!("n{i}")],
        lower: GaugePressure::from_bar(lower),
        upper: GaugePressure::from_bar(lower + 5.0 + f64::from(i % 11)),
        water: if (i / 25).is_multiple_of(6) { "water low in chloride" } else { "any water" }.to_owned(),
        volume: Volume::from_m3(0.2),
    }
}
