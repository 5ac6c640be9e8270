//! The maker's physics against courses that another program computed.

use holds::plant::{DensityGrid, Medium, Plant, TrueBody};
use holds::simulate::{Leak, Relaxation, Scene, course};
use holds::weather::Surroundings;
use serde_json::Value;

fn number(v: &Value) -> f64 {
    v.as_f64().unwrap()
}
fn list(v: &Value) -> Vec<f64> {
    v.as_array().unwrap().iter().map(number).collect()
}
fn series(v: &Value) -> Vec<Vec<f64>> {
    v.as_array().unwrap().iter().map(list).collect()
}

/// Straight between the instants, ten times as many: the leak follows the pressure.
fn finer(v: &[f64]) -> Vec<f64> {
    let mut out = vec![v[0]];
    for pair in v.windows(2) {
        out.extend((1..=10).map(|i| pair[0] + (pair[1] - pair[0]) * f64::from(i) / 10.0));
    }
    out
}

/// Source of the paths: `data/README.md`.
#[test]
fn pressures_of_the_recorded_paths_come_out_within_two_millibars() {
    let all: Vec<Value> = serde_json::from_str(include_str!("data/sample-paths.json")).unwrap();
    assert_eq!(all.len(), 13);
    for case in all {
        let (truth, path) = (&case["true"], &case["path"]);
        let (volumes, stretch) = (list(&truth["volume_m3"]), list(&truth["wall_compliance_1_per_pa"]));
        let bodies = case["segments"].as_array().unwrap().iter().enumerate().map(|(i, s)| {
            let alpha = number(&s["linear_expansion_1_per_k"]);
            let growth = if s["restraint"] == "held" { 2.0 * alpha * (1.0 + number(&s["poisson_ratio"])) } else { 3.0 * alpha };
            TrueBody { volume: volumes[i], stretch: stretch[i], growth, creep: 0.0 }
        });
        let pressures: Vec<f64> = list(&path["pressure_bar_abs"]).iter().map(|p| p * 1e5).collect();
        let (fluid, skin) = (series(&path["water_c"]), series(&path["skin_c"]));
        let around = |v: &mut dyn Iterator<Item = f64>, by: f64| {
            let (a, b) = v.fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), x| (a.min(x), b.max(x)));
            (a - by, b + by)
        };
        let t = around(&mut fluid.iter().flatten().copied(), 1.0);
        let medium = if case["medium"] == "water" { Medium::Water } else { Medium::Nitrogen };
        let plant = Plant {
            bodies: bodies.collect(),
            air: number(&truth["trapped_air_fraction_at_atm"]),
            atmosphere: 1e5 * number(&case["atmospheric_pressure_bar_abs"]),
            filled_c: number(&case["fill_temperature_c"]),
            density: DensityGrid::new(medium, (t.0.max(0.12), t.1), around(&mut pressures.iter().copied(), 0.5e5)),
        };
        let mut scene = Scene {
            medium,
            plant,
            start_pa: pressures[0],
            soak: 1.0,
            at_pressure: 1.0,
            lowered: None,
            length: number(&case["hold_length_s"]),
            lags: Vec::new(),
            surroundings: Surroundings { from: 0.0, step: 1.0, air: Vec::new(), bodies: Vec::new() },
            relaxation: Relaxation::default(),
            strokes: Vec::new(),
        };
        let leak = Leak { rate: number(&case["leak_at_test_pressure_l_per_h"]) / 3.6e6, start: number(&case["leak_start_s"]) };
        let fine = |v: &[Vec<f64>]| v.iter().map(|v| finer(v)).collect::<Vec<_>>();
        let (times, fluid, skin) = (finer(&list(&path["time_s"])), fine(&fluid), fine(&skin));
        let off = |ours: &[f64]| pressures.iter().enumerate().map(|(i, p)| (ours[10 * i] - p).abs()).fold(0.0, f64::max);
        // the true temperature at the filling, to which the air refers, is not written down: only that its error is 0.3 K
        let said = scene.plant.filled_c;
        let best = (-6..=6)
            .map(|tenths| {
                scene.plant.filled_c = said + 0.1 * f64::from(tenths);
                off(&course(&scene, &times, &fluid, &skin, leak).p)
            })
            .fold(f64::INFINITY, f64::min);
        assert!(best <= 200.0, "{}: off by {best:.0} Pa", case["case"]);
    }
}
