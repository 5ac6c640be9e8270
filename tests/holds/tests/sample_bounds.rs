//! The maker's bound against bounds that another program computed for its own holds.

use holds::bound::{Known, Setting, bound};
use holds::instruments::{Spot, TrueGauge, TrueThermometer};
use holds::plant::{DensityGrid, Medium, Plant, TrueBody};
use holds::simulate::{Leak, Relaxation, Scene};
use holds::weather::{Corner, Surroundings, Weather, swing};
use serde_json::Value;
use std::path::PathBuf;

fn number(v: &Value) -> f64 {
    v.as_f64().unwrap()
}
fn list(v: &Value) -> Vec<f64> {
    v.as_array().unwrap().iter().map(number).collect()
}
fn each(v: &Value) -> impl Iterator<Item = &Value> {
    v.as_array().unwrap().iter()
}

/// Value of a series at a time, straight between its points and level beyond them.
fn between(times: &[f64], values: &[f64], t: f64) -> f64 {
    let i = times.partition_point(|u| *u <= t).clamp(1, times.len() - 1);
    let u = ((t - times[i - 1]) / (times[i] - times[i - 1])).clamp(0.0, 1.0);
    values[i - 1] + u * (values[i] - values[i - 1])
}

/// The surroundings that drive a skin so: those of the path within the hold, before it the steady ones that lead to its start.
fn drive(times: &[f64], skin: &[f64], lag: f64, soak: f64, filled: f64) -> impl Fn(f64) -> f64 {
    let keep = (-soak / lag).exp();
    let before = ((skin[0] - filled * keep) / (1.0 - keep)).clamp(-20.0, 60.0);
    let last = times.len() - 1;
    let within: Vec<f64> = (0..times.len())
        .map(|i| {
            let (a, b) = (i.saturating_sub(1), (i + 1).min(last));
            skin[i] + lag * (skin[b] - skin[a]) / (times[b] - times[a])
        })
        .collect();
    let times = times.to_vec();
    move |t| if t < 0.0 { before } else { between(&times, &within, t) }
}

fn scene(case: &Value, sample: &Value, corners: &[Corner], weather: &Weather) -> Scene {
    let (truth, path) = (&sample["true"], &sample["path"]);
    let (times, skins) = (list(&path["time_s"]), each(&path["skin_c"]).map(list).collect::<Vec<_>>());
    let (soak, length) = (number(&case["soak_before_hold_s"]), number(&case["hold_length_s"]));
    let filled = number(&case["fill_temperature_c"]);
    let (skin_lags, fluid_lags) = (list(&truth["skin_lag_s"]), list(&truth["water_lag_s"]));
    let step = (length / 600.0).clamp(5.0, 60.0);
    let grid: Vec<f64> = (0..((length + soak) / step).ceil() as usize + 2).map(|i| i as f64 * step - soak).collect();
    let bodies: Vec<Vec<f64>> = skins
        .iter()
        .zip(&skin_lags)
        .map(|(skin, lag)| {
            let of = drive(&times, skin, *lag, soak, filled);
            grid.iter().map(|t| of(*t)).collect()
        })
        .collect();
    let air = match corners.iter().position(|c| !c.buried) {
        Some(i) => bodies[i].clone(),
        None => grid.iter().map(|t| 15.0 + swing(weather, *t)).collect(),
    };
    let relaxing = |kind: &str| each(&sample["relaxation"]).find(|r| r["kind"] == kind);
    let creep = relaxing("creep_log").map_or(0.0, |r| number(&r["coefficient"]));
    let (volumes, stretch) = (list(&truth["volume_m3"]), list(&truth["wall_compliance_1_per_pa"]));
    let plant_bodies = each(&case["segments"]).enumerate().map(|(i, s)| {
        let alpha = number(&s["linear_expansion_1_per_k"]);
        let growth = if s["restraint"] == "held" { 2.0 * alpha * (1.0 + number(&s["poisson_ratio"])) } else { 3.0 * alpha };
        TrueBody { volume: volumes[i], stretch: stretch[i], growth, creep }
    });
    let pressures = list(&path["pressure_bar_abs"]);
    let all = || bodies.iter().flatten().chain(skins.iter().flatten()).copied().chain([filled]);
    let (coldest, warmest) = (all().fold(f64::INFINITY, f64::min), all().fold(f64::NEG_INFINITY, f64::max));
    let medium = if case["medium"] == "water" { Medium::Water } else { Medium::Nitrogen };
    let plant = Plant {
        bodies: plant_bodies.collect(),
        air: number(&truth["trapped_air_fraction_at_atm"]),
        atmosphere: 1e5 * number(&case["atmospheric_pressure_bar_abs"]),
        filled_c: filled,
        density: DensityGrid::new(medium, ((coldest - 2.0).max(0.12), warmest + 2.0), (pressures[1] * 0.4e5, pressures[2] * 1.8e5 + 10e5)),
    };
    Scene {
        medium,
        plant,
        start_pa: pressures[0] * 1e5,
        soak,
        at_pressure: number(&case["time_at_pressure_before_hold_s"]),
        lowered: None,
        length,
        lags: skin_lags.into_iter().zip(fluid_lags).collect(),
        surroundings: Surroundings { from: -soak, step, air, bodies },
        relaxation: Relaxation {
            gaskets: relaxing("gasket_set").map(|r| (number(&r["volume_fraction"]), number(&r["tau_s"]))),
            air: relaxing("air_dissolving").map(|r| (number(&r["fraction"]), number(&r["tau_s"]))),
        },
        strokes: Vec::new(),
    }
}

fn instruments(case: &Value, truth: &Value) -> (Vec<TrueGauge>, Vec<TrueThermometer>) {
    let gauge = |(g, x): (&Value, &Value)| TrueGauge {
        elevation: 0.0,
        range: 1e5 * number(&g["range_bar"]),
        division: 1e5 * number(&g["resolution_bar"]),
        accuracy: number(&g["accuracy_percent_of_range"]),
        white_nominal: 1e5 * number(&g["repeatability_sd_bar"]),
        white: 1e5 * number(&x["white_sd_bar"]),
        correlated: (1e5 * number(&x["ar_sd_bar"]), number(&x["ar_tau_s"])),
        offset: 0.0,
        per_k_95: 1e5 * number(&g["temperature_coefficient_95_bar_per_k"]),
        per_k: 0.0,
    };
    let place = |t: &Value| {
        let body = each(&case["segments"]).position(|s| s["name"] == t["segment"]).unwrap_or(0);
        match t["location"].as_str().unwrap() {
            "skin" => Spot::Skin(body),
            "water" => Spot::Fluid(body),
            _ => Spot::Air,
        }
    };
    let thermometer = |t: &Value| TrueThermometer {
        spot: place(t),
        division: number(&t["resolution_k"]),
        accuracy: number(&t["accuracy_95_k"]),
        noise: number(&t["noise_sd_k"]),
        offset: 0.0,
    };
    (each(&case["gauges"]).zip(each(&truth["gauges"])).map(gauge).collect(), each(&case["thermometers"]).map(thermometer).collect())
}

fn folder(sample: &Value) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/data/labelled").join(sample["case"].as_str().unwrap())
}

fn case_of(sample: &Value) -> Value {
    serde_json::from_str(&std::fs::read_to_string(folder(sample).join("case.json")).unwrap()).unwrap()
}

/// The maker's bound of a hold of the sample without faults and without a leak, m³/s, when only so much of it is held.
fn bound_of(sample: &Value, share: f64) -> f64 {
    let case = case_of(sample);
    let env = &sample["true"]["environment"];
    let weather = Weather {
        base_c: 15.0,
        daily_k: number(&env["diurnal_k"]),
        clock_h: number(&env["clock0_h"]),
        air: (number(&env["ou_sd_k"]), number(&env["ou_tau_s"])),
        cloud_tau: number(&env["cloud_tau_s"]),
        overcast: env["overcast"].as_bool().unwrap(),
        soil_c: number(&env["soil_base_c"]),
    };
    let sun = list(&sample["true"]["sun_gain_k"]);
    let corners: Vec<Corner> = each(&case["segments"])
        .zip(sun)
        .map(|(s, sun_k)| {
            let buried = s["exposure"] == "buried";
            let wander = if buried { (0.05, 30_000.0) } else { (0.1, 6000.0) };
            Corner { buried, offset_k: 0.0, slope_k_per_h: 0.0, wander, sun_k }
        })
        .collect();
    let whole = scene(&case, sample, &corners, &weather);
    let scene = Scene { length: share * whole.length, ..whole };
    let (gauges, thermometers) = instruments(&case, &sample["true"]);
    let known = Known {
        volume: number(&case["volume_unc_95_rel"]),
        stretch: each(&case["segments"]).map(|s| number(&s["wall_compliance_unc_95_rel"])).collect(),
        air: case["trapped_air_fraction_unc_95"].as_f64().unwrap_or(0.0),
        creep: each(&case["segments"])
            .map(|s| match s["material"].as_str().unwrap() {
                "pe" => 0.0144,
                "pvc" => 0.0035,
                _ => 0.0,
            })
            .collect(),
        lag_factor: 2.5,
        steps: Vec::new(),
    };
    let interval = number(&case["logging"]["interval_s"]);
    let times: Vec<f64> = (0..=(scene.length / interval) as usize).map(|i| i as f64 * interval).collect();
    let blocks = vec![holds::in_blocks(&times, &|_| true, scene.length); gauges.len() + thermometers.len()];
    let setting =
        Setting { scene: &scene, weather: &weather, corners: &corners, gauges: &gauges, thermometers: &thermometers, known: &known };
    bound(&setting, Leak { rate: 0.0, start: 0.0 }, &blocks)
}

/// The same of the whole hold over the sample's own.
fn ratio(sample: &Value) -> f64 {
    3.29 * 3.6e6 * bound_of(sample, 1.0) / number(&sample["planned_detection_limit_l_per_h"])
}

/// The detection limit of the judge when only so much of a hold of the sample is held; none where it says none.
fn limit(sample: &Value, share: f64) -> Option<f64> {
    let mut case: holdfolder::Case = serde_json::from_value(case_of(sample)).unwrap();
    case.hold_length_s *= share;
    case.events.retain(|e| e.time_s <= case.hold_length_s);
    let readings = std::fs::read(folder(sample).join("readings.csv")).unwrap();
    let mut hold = holdfolder::of(case, &readings).unwrap();
    let keep = hold.record.time_s.iter().filter(|t| **t <= hold.hold.length_s).count();
    hold.record.time_s.truncate(keep);
    if let Some(numbers) = hold.record.sample_no.as_mut() {
        numbers.truncate(keep);
    }
    hold.record.channels.iter_mut().for_each(|c| c.truncate(keep));
    hold::judge(&hold.hold, &hold.record, None).fitted.ok().map(|f| f.detection_limit)
}

/// A quarter of a hold shows four times less where the gauge sets the limit, and hardly less where a drift of temperature that nobody read does:
/// by the bound, that is by any judge.
#[test]
fn a_quarter_of_a_hold_shows_less_by_as_much_as_the_bound_says() {
    let all: Vec<Value> = serde_json::from_str(include_str!("data/sample-bounds.json")).unwrap();
    let mut compared = Vec::new();
    for sample in &all {
        let by_bound = bound_of(sample, 0.25) / bound_of(sample, 1.0);
        if let (Some(whole), Some(quarter), true) = (limit(sample, 1.0), limit(sample, 0.25), by_bound.is_finite()) {
            compared.push((sample["case"].clone(), quarter / whole, by_bound));
        }
    }
    assert!(compared.len() >= 20, "{compared:?}");
    assert!(compared.iter().all(|(_, judged, _)| *judged > 1.0), "{compared:?}");
    let as_much = compared.iter().filter(|(_, judged, by_bound)| *judged >= 0.8 * by_bound.min(5.0)).count();
    assert!(as_much + 3 >= compared.len(), "{compared:?}");
    let doubled = |of: &dyn Fn(&(Value, f64, f64)) -> f64| compared.iter().filter(|c| of(c) >= 2.0).count();
    // the bound doubles as often as the judge's limit does
    assert!(doubled(&|c| c.1) + 2 >= doubled(&|c| c.2), "{compared:?}");
}

/// Source of the bounds: `data/README.md`. What they suppose of ground, weather and rounding is not written down, so only their size can agree.
#[test]
fn bounds_are_of_the_size_that_another_program_found() {
    let all: Vec<Value> = serde_json::from_str(include_str!("data/sample-bounds.json")).unwrap();
    assert_eq!(all.len(), 24);
    let mut logs: Vec<f64> = all.iter().map(|s| ratio(s).ln()).collect();
    logs.sort_by(f64::total_cmp);
    let mean = (logs.iter().sum::<f64>() / 24.0).exp();
    assert!((0.75..1.2).contains(&mean), "ratio of bounds in the mean {mean:.2}");
    let near = logs.iter().filter(|l| l.abs() < 2f64.ln()).count();
    assert!(near >= 21, "only {near} of 24 within a factor of two");
    assert!(logs[0] > -(2.5f64.ln()) && logs[23] < 2f64.ln(), "from {:.2} to {:.2}", logs[0].exp(), logs[23].exp());
}
