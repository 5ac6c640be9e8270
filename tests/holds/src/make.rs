//! One hold from a seed.

use crate::bound::{self, Blocks, Known, Setting};
use crate::defects::{Defect, Kind, Row, spoil};
use crate::family::{self, Family};
use crate::instruments::{self, Spot, TrueGauge, TrueThermometer};
use crate::plant::{DensityGrid, Medium, Plant, TrueBody};
use crate::random::Random;
use crate::simulate::{self, Leak, Lowered, Relaxation, Scene, Stroke};
use crate::weather::{self, Corner, Weather};
use serde_json::{Value, json};

/// A made hold.
#[derive(Debug, Clone)]
pub struct Made {
    /// Its name.
    pub name: String,
    /// `case.json`.
    pub case: Value,
    /// `readings.csv`.
    pub readings: Vec<u8>,
    /// `truth.json`.
    pub truth: Value,
    /// Family.
    pub family: Family,
    /// Mean loss over the hold, L/h or normal L/h.
    pub leak: f64,
    /// Bound of its standard deviation, L/h.
    pub bound: f64,
    /// Detection limit, L/h.
    pub detection_limit: f64,
    /// The same without faults.
    pub planned_detection_limit: f64,
    /// The same of the first quarter of the hold, L/h.
    pub quarter_detection_limit: f64,
    /// What the test must be able to rule out, L/h.
    pub required: f64,
    /// Leak over the detection limit.
    pub multiple: f64,
    /// Faults.
    pub defects: Vec<Defect>,
    /// Read by hand.
    pub by_hand: bool,
}

const ATMOSPHERE: f64 = 101_325.0;
const L_PER_H: f64 = 3.6e6;

struct Body {
    diameter: f64,
    wall: f64,
    length: f64,
    exposure: &'static str,
    material: &'static str,
    volume: f64,
    lags: (f64, f64),
    stretch: f64,
    growth: f64,
}

fn bodies(random: &mut Random, family: Family) -> Vec<Body> {
    let r = family.ranges();
    let count = if r.bodies > 1 && random.chance(0.5) { 2 } else { 1 };
    let material = random.one_of(r.materials);
    let (e, nu, alpha, _) = family::material(material);
    (0..count)
        .map(|_| {
            let diameter = Random::rounded(random.log_between(r.diameter_m.0, r.diameter_m.1), 4);
            let wall = Random::rounded(diameter / random.log_between(r.ratio.0, r.ratio.1), 3);
            let length = Random::rounded(random.log_between(r.length_m.0, r.length_m.1), 3);
            let exposure = random.one_of(r.exposures);
            Body {
                diameter,
                wall,
                length,
                exposure,
                material,
                volume: Random::rounded(std::f64::consts::FRAC_PI_4 * diameter * diameter * length, 5),
                lags: family::lags(random, exposure, diameter),
                stretch: family::stretch(diameter, wall, e, nu, r.held),
                growth: if r.held { 2.0 * alpha * (1.0 + nu) } else { 3.0 * alpha },
            }
        })
        .collect()
}

fn weather_of(random: &mut Random, outdoors: bool) -> Weather {
    Weather {
        base_c: if outdoors { random.between(5.0, 24.0) } else { random.between(12.0, 25.0) },
        daily_k: if outdoors { random.between(2.5, 6.0) } else { random.between(0.6, 1.5) },
        clock_h: random.between(6.0, 18.0),
        air: (if outdoors { random.between(0.15, 0.6) } else { random.between(0.05, 0.28) }, random.between(1500.0, 7000.0)),
        cloud_tau: random.between(1000.0, 3800.0),
        overcast: random.chance(0.3),
        soil_c: random.between(6.0, 19.0),
    }
}

/// Makes a hold. `number` names it.
pub fn make(seed: u64, number: u64, family: Family) -> Made {
    // a pressure that runs off the gauges or to nothing is no hold: somebody would have ended it
    (0..).find_map(|again| attempt(seed, number, again, family, None, None)).expect("one of the attempts is a hold")
}

/// Makes a hold that a logger read so many times, without faults of the record.
pub fn make_read(seed: u64, number: u64, family: Family, readings: usize) -> Made {
    (0..)
        .find_map(|again| attempt(seed, number, again, family, Some(readings), None).filter(|m| m.defects.is_empty()))
        .expect("one of the attempts is a hold")
}

/// Makes a hold of a polyethylene main that had stretched for three hours and was lowered before it, read by a logger and without faults of the record.
pub fn make_lowered(seed: u64, number: u64, lowered: Lowered) -> Made {
    (0..)
        .find_map(|again| attempt(seed, number, again, Family::PeMain, Some(400), Some(lowered)).filter(|m| m.defects.is_empty()))
        .expect("one of the attempts is a hold")
}

/// At test pressure before a hold that was lowered, s.
const STRETCHED: f64 = 11_000.0;

fn attempt(seed: u64, number: u64, again: u64, family: Family, readings: Option<usize>, lowered: Option<Lowered>) -> Option<Made> {
    let mut random = Random::new(seed.wrapping_mul(1_000_003).wrapping_add(number).wrapping_add(again << 40));
    let random = &mut random;
    let r = family.ranges();
    let nominal = bodies(random, family);
    let gas = family.medium() == Medium::Nitrogen;
    let outdoors = nominal.iter().any(|b| b.exposure == "bare_outdoor" || b.exposure == "buried");
    let w = weather_of(random, outdoors);
    let pressure = (random.log_between(r.pressure_bar.0, r.pressure_bar.1) * 10.0).round() * 1e4;
    let length = random.one_of(r.holds_h) * 3600.0;
    let by_hand = random.chance(0.15) && readings.is_none();
    let interval = if by_hand {
        random.one_of(&[300.0, 600.0, 900.0])
    } else {
        let most = length / 120.0;
        *[2.0, 5.0, 10.0, 15.0, 30.0, 60.0, 120.0].iter().filter(|i| **i <= most).nth_back(random.one_of(&[0, 0, 1, 2])).unwrap_or(&5.0)
    };
    let interval = match readings {
        Some(n) => length / (n - 1) as f64,
        None if by_hand => f64::min(interval, length / 3.0),
        None => interval,
    };
    let buried = nominal[0].exposure == "buried";
    let around = if buried { w.soil_c } else { w.base_c };
    let filled = (around + 4.0 * random.normal()).clamp(2.0, 30.0);
    let soak = random.log_between(1000.0, 45_000.0).round();
    let at_pressure = random.log_between(350.0, if family == Family::PeMain { 15_000.0 } else { 4000.0 }).round();
    let at_pressure = lowered.map_or(at_pressure, |_| STRETCHED);
    let air_fraction = if gas { 0.0 } else { Random::rounded(random.log_between(r.air.0, r.air.1), 3) };
    let air_unc = if gas { 0.0 } else { Random::rounded(air_fraction * random.between(0.1, 0.45), 3) };
    let (_, _, _, stretch_unc) = family::material(nominal[0].material);
    let lag_factor: f64 = 2.5;
    let whole_error = 1.0 + 0.5 * r.volume_unc * random.normal();
    let stretch_error = 1.0 + 0.5 * stretch_unc * random.normal();
    let creep = match nominal[0].material {
        "pe" => random.between(0.02, 0.07),
        "pvc" => random.between(0.003, 0.015),
        _ => 0.0,
    };
    let creep_sd = match nominal[0].material {
        "pe" => 0.0144,
        "pvc" => 0.0035,
        _ => 0.0,
    };
    let joints = if r.joints > 0 { (random.between(0.0, f64::from(r.joints))).round() } else { 0.0 };
    let relaxation = Relaxation {
        gaskets: (joints > 0.0 && random.chance(0.12)).then(|| (random.between(1e-6, 1.5e-5), random.log_between(600.0, 7200.0))),
        air: (!gas && random.chance(0.25)).then(|| (random.between(0.05, 0.35), random.log_between(1800.0, 21_600.0))),
    };
    let corners: Vec<Corner> = nominal
        .iter()
        .map(|b| {
            let buried = b.exposure == "buried";
            Corner {
                buried,
                offset_k: if buried { 0.3 } else { 0.5 } * random.normal(),
                slope_k_per_h: if buried { 0.03 * random.normal() } else { 0.0 },
                wander: if buried { (0.05, 30_000.0) } else { (0.1, 6000.0) },
                sun_k: if b.exposure == "bare_outdoor" { random.between(3.0, 8.0) } else { 0.0 },
            }
        })
        .collect();
    let step = (length / 600.0).clamp(5.0, 60.0);
    let surroundings = weather::realise(random, &w, &corners, -soak, length, step);
    let lag = |random: &mut Random, nominal: f64| nominal * (0.5 * lag_factor.ln() * random.normal()).exp();
    let lags: Vec<(f64, f64)> = nominal.iter().map(|b| (lag(random, b.lags.0), lag(random, b.lags.1))).collect();
    let true_filled = filled + 0.3 * random.normal();
    let plant_at = |density: DensityGrid, filled_c: f64| Plant {
        bodies: nominal
            .iter()
            .map(|b| TrueBody { volume: b.volume * whole_error, stretch: b.stretch * stretch_error, growth: b.growth, creep })
            .collect(),
        air: (air_fraction + 0.5 * air_unc * random_fixed(seed, number)).max(0.0),
        atmosphere: ATMOSPHERE,
        filled_c,
        density,
    };
    let start_pa = pressure + ATMOSPHERE;
    let narrow = DensityGrid::new(family.medium(), (15.0, 16.0), (start_pa * 0.9, start_pa * 1.1));
    let mut scene = Scene {
        medium: family.medium(),
        plant: plant_at(narrow, true_filled),
        start_pa,
        soak,
        at_pressure,
        lowered,
        length,
        lags,
        surroundings,
        relaxation,
        strokes: Vec::new(),
    };
    // times of the logger
    let count = (length / interval).floor() as usize + 1;
    let reading_times: Vec<f64> = (0..count).map(|i| i as f64 * interval).collect();
    let sub = ((interval / (length / 400.0)).ceil() as usize).max(1);
    let fine: Vec<f64> = (0..(count - 1) * sub + 1).map(|i| i as f64 * interval / sub as f64).collect();
    let (fluid, skin) = simulate::temperatures(&scene, &fine);
    let (t_lo, t_hi) = fluid.iter().flatten().fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), t| (a.min(*t), b.max(*t)));
    let low = (0.15 * pressure).max(0.3e5) + ATMOSPHERE * 0.7;
    scene.plant.density = DensityGrid::new(family.medium(), ((t_lo - 1.5).max(0.12), t_hi + 1.5), (low, start_pa * 1.8 + 20e5));
    // instruments
    let mut gauges: Vec<TrueGauge> = vec![instruments::gauge(random, pressure, r.ranges_bar, by_hand)];
    if random.chance(0.3) {
        let mut second = instruments::gauge(random, pressure, r.ranges_bar, by_hand);
        if !gas {
            second.elevation = (random.between(-6.0, (pressure / 1e5 * 2.0).min(24.0)) * 10.0).round() / 10.0;
        }
        gauges.push(second);
    }
    let mut thermometers: Vec<TrueThermometer> = Vec::new();
    let on = |random: &mut Random, i: usize| if random.chance(0.75) { Spot::Skin(i) } else { Spot::Fluid(i) };
    if random.chance(0.93) {
        let spot = on(random, 0);
        thermometers.push(instruments::thermometer(random, spot));
        if nominal.len() > 1 && random.chance(0.4) {
            let spot = on(random, 1);
            thermometers.push(instruments::thermometer(random, spot));
        }
    }
    if thermometers.is_empty() || random.chance(0.45) {
        thermometers.push(instruments::thermometer(random, Spot::Air));
    }
    let known = Known {
        volume: r.volume_unc,
        stretch: vec![stretch_unc; nominal.len()],
        air: air_unc,
        creep: vec![creep_sd; nominal.len()],
        lag_factor,
        steps: Vec::new(),
    };
    // the leak, in detection limits of the record without faults
    let late = random.chance(0.1);
    let leak_start = if late { random.between(0.15, 0.7) * length } else { 0.0 };
    let all_rows = |keep: &dyn Fn(f64, usize) -> bool| -> Blocks {
        (0..gauges.len() + thermometers.len()).map(|c| in_blocks(&reading_times, &|t| keep(t, c), length)).collect()
    };
    let none = Leak { rate: 0.0, start: 0.0 };
    let setting = Setting { scene: &scene, weather: &w, corners: &corners, gauges: &gauges, thermometers: &thermometers, known: &known };
    let planned = 3.29 * bound::bound(&setting, none, &all_rows(&|_, _| true));
    let multiple = if random.chance(0.4) { 0.0 } else { random.one_of(&[0.3, 0.7, 1.0, 1.5, 3.0, 10.0]) };
    // never more than two fifths of the pressure
    let slope = {
        let start = crate::plant::Heat { fluid: fluid.iter().map(|f| f[0]).collect(), skin: skin.iter().map(|s| s[0]).collect() };
        let none = crate::plant::Gone::default();
        let p = &scene.plant;
        let per_pa =
            (p.mass(start_pa + 1e3, start_pa, &start, &start, &none) - p.mass(start_pa - 1e3, start_pa, &start, &start, &none)) / 2e3;
        per_pa / simulate::lost_density(&scene, &start)
    };
    let most = 0.4 * pressure * slope / length;
    let mut defects = choose_defects(random, length, interval, by_hand, gauges.len());
    let wanted = (multiple * planned).min(most);
    let leak = Leak { rate: wanted * length / (length - leak_start), start: leak_start };
    // repumps and bleeds, of a few per cent of the pressure
    for d in defects.iter().filter(|d| matches!(d.kind, Kind::Repump | Kind::Bleed)) {
        let size = random.between(0.008, 0.04) * pressure * slope;
        scene.strokes.push(Stroke { start: d.start_s, end: d.end_s, volume: if d.kind == Kind::Repump { -size } else { size } });
    }
    let course = simulate::course(&scene, &fine, &fluid, &skin, leak);
    let least = course.p.iter().copied().fold(f64::INFINITY, f64::min) - ATMOSPHERE;
    let most = course.p.iter().copied().fold(f64::NEG_INFINITY, f64::max) - ATMOSPHERE;
    let head = |g: &TrueGauge| if gas { 0.0 } else { 998.0 * 9.806_65 * g.elevation };
    if least < 0.45 * pressure || gauges.iter().any(|g| most - head(g) > 0.99 * g.range) {
        return None;
    }
    let mean_loss = course.lost[course.lost.len() - 1] / length;
    let every: Vec<usize> = (0..count).map(|i| i * sub).collect();
    // readings
    let mut rows: Vec<Row> =
        every.iter().enumerate().map(|(i, k)| Row { sample: i as u64, time: fine[*k], truth: fine[*k], cells: Vec::new() }).collect();
    for g in &gauges {
        let wander = instruments::correlated(random, &reading_times, g.correlated);
        for (i, row) in rows.iter_mut().enumerate() {
            let air = weather::value(&scene.surroundings, &scene.surroundings.air, reading_times[i]);
            let value =
                course.p[every[i]] - ATMOSPHERE - head(g) + g.offset + g.per_k * (air - 20.0) + wander[i] + g.white * random.normal();
            row.cells.push(instruments::read(value, g.division) / 1e5);
        }
    }
    for t in &thermometers {
        for (i, row) in rows.iter_mut().enumerate() {
            let k = every[i];
            let truth = match t.spot {
                Spot::Skin(b) => skin[b][k],
                Spot::Fluid(b) => fluid[b][k],
                Spot::Air => weather::value(&scene.surroundings, &scene.surroundings.air, reading_times[i]),
            };
            row.cells.push(instruments::read(truth + t.offset + t.noise * random.normal(), t.division));
        }
    }
    let mut events = Vec::new();
    let mut steps = Vec::new();
    for (d, s) in defects.iter().filter(|d| matches!(d.kind, Kind::Repump | Kind::Bleed)).zip(&scene.strokes) {
        let measured = d.announced && random.chance(0.6);
        let unc = 0.05 * s.volume.abs();
        if d.announced {
            let mut e = json!({"kind": d.kind, "time_s": d.start_s.floor()});
            if measured {
                e["volume_l"] = json!(Random::rounded((s.volume.abs() + 0.5 * unc * random.normal()) * 1e3, 4));
                e["volume_unc_95_l"] = json!(Random::rounded(unc * 1e3, 2));
            }
            events.push(e);
        }
        steps.push((s.start, s.end, if measured { 0.5 * unc } else { 100.0 * s.volume.abs() }));
    }
    let columns: Vec<String> = (0..gauges.len())
        .map(|i| format!("gauge_{}_bar", i + 1))
        .chain(
            thermometers
                .iter()
                .enumerate()
                .map(|(i, t)| if t.spot == Spot::Air { "ambient_c".to_owned() } else { format!("temperature_{}_c", i + 1) }),
        )
        .collect();
    let decimals: Vec<usize> =
        gauges.iter().map(|g| decimals(g.division / 1e5)).chain(thermometers.iter().map(|t| decimals(t.division))).collect();
    // a gauge that is stuck where it would have stood anyhow has no fault that anybody could find
    defects.retain(|d| d.kind != Kind::Stuck || shows(d, &rows, gauges[d.channel.unwrap_or(0)].division / 1e5));
    for d in &mut defects {
        spoil(random, &mut rows, d, gauges[d.channel.unwrap_or(0)].range / 1e5);
    }
    let readings = csv(&rows, &columns, &decimals);
    // bounds of this record: what a fault hides is not there
    let hidden = |t: f64, c: usize| {
        defects.iter().any(|d| {
            t >= d.start_s
                && t <= d.end_s
                && match d.kind {
                    Kind::Gap => true,
                    Kind::Stuck | Kind::WrongUnit => d.channel == Some(c),
                    Kind::Repump | Kind::Bleed => c < gauges.len(),
                    _ => false,
                }
        })
    };
    let usable = all_rows(&|t, c| !hidden(t, c));
    let known = Known { steps, ..known };
    let setting = Setting { scene: &scene, weather: &w, corners: &corners, gauges: &gauges, thermometers: &thermometers, known: &known };
    let tight = bound::bound(&setting, none, &usable);
    let leaking = bound::bound(&setting, leak, &usable);
    let detection_limit = 3.29 * tight;
    let quarter_limit = {
        let scene = Scene { length: 0.25 * length, ..scene.clone() };
        let times: Vec<f64> = reading_times.iter().copied().filter(|t| *t <= scene.length).collect();
        let blocks: Blocks = (0..gauges.len() + thermometers.len()).map(|_| in_blocks(&times, &|_| true, scene.length)).collect();
        3.29 * bound::bound(&Setting { scene: &scene, ..setting }, none, &blocks)
    };
    let ratio = if random.chance(0.75) { random.between(1.4, 4.0) } else { random.between(0.3, 0.7) };
    let required = Random::rounded(ratio * planned * L_PER_H, 2);
    let name = format!("h{seed:x}-{number:05}");
    let expected_start = (fluid[0][0] + random.normal()).round();
    let swing = {
        let air = &scene.surroundings.air;
        let from = ((soak) / scene.surroundings.step) as usize;
        let (a, b) = air[from.min(air.len() - 1)..].iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), v| (a.min(*v), b.max(*v)));
        Random::rounded(((b - a) * random.between(0.7, 1.3)).max(0.3), 2)
    };
    let case = json!({
        "case": name, "simulated": true, "family": family.name(), "medium": if gas { "nitrogen" } else { "water" },
        "test_pressure_bar_gauge": pressure / 1e5, "atmospheric_pressure_bar_abs": ATMOSPHERE / 1e5,
        "total_volume_m3": nominal.iter().map(|b| b.volume).sum::<f64>(), "volume_unc_95_rel": r.volume_unc,
        "segments": nominal.iter().enumerate().map(|(i, b)| {
            let (e, nu, alpha, unc) = family::material(b.material);
            json!({"name": format!("part-{}", i + 1), "kind": if r.vessel { "vessel" } else { "pipe" }, "material": b.material,
                "youngs_modulus_pa": e, "poisson_ratio": nu, "linear_expansion_1_per_k": alpha, "inside_diameter_m": b.diameter,
                "wall_thickness_m": b.wall, "length_m": b.length, "restraint": if r.held { "held" } else { "free" }, "exposure": b.exposure,
                "volume_m3": b.volume, "skin_lag_nominal_s": b.lags.0, "water_lag_nominal_s": b.lags.1, "lag_factor_95": lag_factor,
                "wall_compliance_unc_95_rel": unc})
        }).collect::<Vec<_>>(),
        "trapped_air_fraction_at_atm": if gas { Value::Null } else { json!(air_fraction) },
        "trapped_air_fraction_unc_95": if gas { Value::Null } else { json!(air_unc) },
        "fill_temperature_c": (filled * 10.0).round() / 10.0, "soak_before_hold_s": soak,
        "time_at_pressure_before_hold_s": at_pressure, "gasketed_joints": joints as u32,
        "gauges": gauges.iter().zip(&columns).map(|(g, c)| json!({"column": c, "elevation_above_reference_m": g.elevation,
            "range_bar": g.range / 1e5, "resolution_bar": g.division / 1e5, "accuracy_percent_of_range": g.accuracy,
            "repeatability_sd_bar": g.white_nominal / 1e5, "temperature_coefficient_95_bar_per_k": g.per_k_95 / 1e5})).collect::<Vec<_>>(),
        "thermometers": thermometers.iter().zip(&columns[gauges.len()..]).map(|(t, c)| {
            let (segment, location) = match t.spot {
                Spot::Skin(b) => (json!(format!("part-{}", b + 1)), "skin"),
                Spot::Fluid(b) => (json!(format!("part-{}", b + 1)), "water"),
                Spot::Air => (Value::Null, "ambient"),
            };
            json!({"column": c, "segment": segment, "location": location, "resolution_k": t.division, "accuracy_95_k": t.accuracy,
                "noise_sd_k": t.noise})
        }).collect::<Vec<_>>(),
        "logging": {"by": if by_hand { "hand" } else { "logger" }, "interval_s": interval}, "hold_length_s": length,
        "leak_unit": if gas { "normal_l_per_h" } else { "l_per_h" }, "required_sensitivity_l_per_h": required, "events": events,
        "plan": {"expected_ambient_swing_k": swing, "expected_start_temperature_c": expected_start}
    });
    let truth = json!({
        "case": name, "family": family.name(), "tight": multiple == 0.0, "leak_l_per_h": mean_loss * L_PER_H, "leak_start_s": leak.start,
        "leak_multiple_of_detection_limit": multiple, "bound_sd_l_per_h": leaking * L_PER_H,
        "detection_limit_l_per_h": detection_limit * L_PER_H, "planned_detection_limit_l_per_h": planned * L_PER_H,
        "defects": defects, "relaxation": {"gaskets": relaxation.gaskets, "air": relaxation.air, "creep": creep},
        "path": {"time_s": [0.0, 0.5 * length, length],
            "water_c": fluid.iter().map(|f| [f[0], f[f.len() / 2], f[f.len() - 1]]).collect::<Vec<_>>(),
            "skin_c": skin.iter().map(|f| [f[0], f[f.len() / 2], f[f.len() - 1]]).collect::<Vec<_>>(),
            "pressure_bar_abs": [course.p[0] / 1e5, course.p[course.p.len() / 2] / 1e5, course.p[course.p.len() - 1] / 1e5]},
        "true": {"lags": scene.lags, "volume_factor": whole_error, "stretch_factor": stretch_error, "air": scene.plant.air,
            "filled": true_filled, "weather": format!("{w:?}"), "gauges": format!("{gauges:?}"), "thermometers": format!("{thermometers:?}")}
    });
    Some(Made {
        name,
        case,
        readings,
        truth,
        family,
        leak: mean_loss * L_PER_H,
        bound: leaking * L_PER_H,
        detection_limit: detection_limit * L_PER_H,
        planned_detection_limit: planned * L_PER_H,
        quarter_detection_limit: quarter_limit * L_PER_H,
        required,
        multiple,
        defects,
        by_hand,
    })
}

/// True when a stuck gauge would have read something else by three divisions.
fn shows(stuck: &Defect, rows: &[Row], division: f64) -> bool {
    let channel = stuck.channel.unwrap_or(0);
    let mut within = rows.iter().filter(|r| r.truth >= stuck.start_s && r.truth <= stuck.end_s).map(|r| r.cells[channel]);
    let Some(first) = within.next() else { return false };
    within.any(|v| (v - first).abs() > 2.9 * division)
}

/// One normal draw that belongs to a hold, whatever else is drawn.
fn random_fixed(seed: u64, number: u64) -> f64 {
    Random::new(seed ^ number.wrapping_mul(0x9e37_79b9)).normal()
}

fn decimals(division: f64) -> usize {
    (-(division.log10() - 1e-9).floor()).max(0.0) as usize
        + usize::from((division * 10f64.powi((-(division.log10() - 1e-9).floor()).max(0.0) as i32)).fract() > 1e-6)
}

fn csv(rows: &[Row], columns: &[String], decimals: &[usize]) -> Vec<u8> {
    let mut text = format!("sample_no,time_s,{}\n", columns.join(","));
    for r in rows {
        text += &format!("{},{}", r.sample, (r.time * 1000.0).round() / 1000.0);
        for (c, d) in r.cells.iter().zip(decimals) {
            text += &format!(",{c:.d$}");
        }
        text.push('\n');
    }
    text.into_bytes()
}

/// Usable readings of a channel in at most 50 blocks.
pub fn in_blocks(times: &[f64], keep: &dyn Fn(f64) -> bool, length: f64) -> Vec<(f64, f64)> {
    let width = length / 50.0;
    let mut out: Vec<(f64, f64)> = Vec::new();
    let mut current = usize::MAX;
    let many = times.len() > 60;
    for t in times.iter().copied().filter(|t| keep(*t)) {
        let block = if many { (t / width) as usize } else { out.len() };
        match out.last_mut() {
            Some(last) if block == current => {
                last.0 = (last.0 * last.1 + t) / (last.1 + 1.0);
                last.1 += 1.0;
            }
            _ => out.push((t, 1.0)),
        }
        current = if many { block } else { usize::MAX };
    }
    out
}

fn choose_defects(random: &mut Random, length: f64, interval: f64, by_hand: bool, gauges: usize) -> Vec<Defect> {
    let mut out: Vec<Defect> = Vec::new();
    if !random.chance(0.36) {
        return out;
    }
    let count = if random.chance(0.3) { 2 } else { 1 };
    while out.len() < count {
        let kind = if by_hand { random.one_of(&[Kind::Repump, Kind::Bleed, Kind::WrongUnit]) } else { random.one_of(&Kind::ALL) };
        if out.iter().any(|d| d.kind == kind) {
            continue;
        }
        let span = |random: &mut Random, from: f64, to: f64| {
            let long = random.between(from, to) * length;
            let start = random.between(0.05 * length, 0.95 * length - long);
            (start, start + long)
        };
        let channel = (random.between(0.0, gauges as f64) as usize).min(gauges - 1);
        let (start_s, end_s) = match kind {
            Kind::Gap => span(random, 0.05, 0.3),
            Kind::Stuck => span(random, 0.1, 0.4),
            Kind::WrongUnit => span(random, 0.1, 0.3),
            Kind::ClockJump => {
                let s = random.between(0.15, 0.85) * length;
                (s, length)
            }
            Kind::Repump | Kind::Bleed => {
                let s = random.between(0.15, 0.8) * length;
                (s, s + 30.0)
            }
            Kind::Duplicate | Kind::Spike => (0.0, length),
        };
        // a fault that no reading falls into is none
        if matches!(kind, Kind::WrongUnit | Kind::Stuck | Kind::Gap) && end_s - start_s < 1.5 * interval {
            continue;
        }
        // two faults do not lie on one another
        let placed = |d: &&Defect| !matches!(d.kind, Kind::Duplicate | Kind::Spike | Kind::ClockJump);
        if !matches!(kind, Kind::Duplicate | Kind::Spike | Kind::ClockJump)
            && out.iter().filter(placed).any(|d| start_s < d.end_s + 0.05 * length && d.start_s < end_s + 0.05 * length)
        {
            continue;
        }
        let jump = random.one_of(&[-1.0, 1.0, 1.0]) * random.log_between(0.02, 0.5) * length;
        out.push(Defect {
            kind,
            start_s,
            end_s,
            announced: matches!(kind, Kind::Repump | Kind::Bleed) && (by_hand || random.chance(0.4)),
            jump_s: (kind == Kind::ClockJump).then(|| (jump / interval).round().abs().max(3.0) * interval * jump.signum()),
            channel: matches!(kind, Kind::Stuck | Kind::WrongUnit | Kind::Spike).then_some(channel),
        });
    }
    out
}
