//! The linear model against differences of the whole.

use super::blocks;
use super::path::Values;
use super::prior::{Causes, Unknown};
use super::setup::Setup;
use crate::input::*;
use nalgebra::DVector;

/// Two bodies of water with air, creep, gaskets, two gauges, three thermometers and a stroke.
pub(super) fn hold() -> Hold {
    let body = |name: &str, exposure, volume| Body {
        name: name.to_owned(),
        volume_m3: volume,
        wall_compliance_per_pa: 1.3e-10,
        wall_compliance_unc_95: 0.06,
        wall_expansion_per_k: 3.6e-5,
        exposure,
        skin_lag_s: 900.0,
        fluid_lag_s: 2500.0,
        lag_factor_95: 2.5,
        creep: Some(Creep { coefficient: 0.01, sd: 0.003 }),
    };
    let gauge = |z: f64| Gauge {
        tag: "PI".to_owned(),
        elevation_m: z,
        range_pa: 40e5,
        resolution_pa: 1e2,
        offset_95_pa: 1e4,
        span_95: 0.01,
        white_sd_pa: 200.0,
        temperature_95_pa_per_k: 100.0,
    };
    let thermometer = |place| Thermometer { tag: "TI".to_owned(), place, resolution_k: 0.01, offset_95_k: 0.3, noise_sd_k: 0.03 };
    Hold {
        fluid: Fluid::Water,
        bodies: vec![body("a", Exposure::Indoor, 2.0), body("b", Exposure::Buried, 1.0)],
        volume_unc_95: 0.05,
        atmosphere_pa: 101_325.0,
        pressure_pa: 20e5,
        air_fraction: 0.002,
        air_fraction_unc_95: 0.001,
        fill_temperature_c: 15.0,
        fill_temperature_sd_k: 0.3,
        soak_s: 5000.0,
        at_pressure_s: 600.0,
        lowered: Some(Lowered { by_pa: 2e5, before_s: 60.0 }),
        gasketed_joints: 3,
        gauges: vec![gauge(0.0), gauge(5.0)],
        thermometers: vec![thermometer(Place::Skin(0)), thermometer(Place::Fluid(1)), thermometer(Place::Ambient)],
        length_s: 7200.0,
        interval_s: 60.0,
        surroundings_c: Some(18.0),
        swing_k: Some(2.0),
        steps: vec![Step { start_s: 2000.0, end_s: 2030.0, volume: None }],
    }
}

/// A setup for readings once a minute.
pub(super) fn setup(hold: &Hold) -> Setup {
    let times: Vec<f64> = (0..=120).map(|i| f64::from(i) * 60.0).collect();
    let levels = [20e5, 19.5e5, 15.5, 15.2, 18.0];
    let record = Record { sample_no: None, channels: levels.map(|v| vec![v; times.len()]).into(), time_s: times };
    Setup::new(hold, blocks::gather(&record, hold.length_s, &hold.steps, 40)).unwrap()
}

#[test]
fn each_column_is_the_slope_of_the_whole_model() {
    let hold = hold();
    let setup = setup(&hold);
    let causes = Causes { air: true, gaskets: true, leak_from: Some(3000.0) };
    let unknowns = setup.unknowns(&hold, causes);
    let frame = setup.frame(&hold, 3000.0);
    let sds = setup.sds(&hold, &unknowns, super::prior::Weather { air_sd: 0.3, sun_sd: 1.0 });
    let n = unknowns.len();
    let mut x = DVector::from_fn(n, |i, _| 0.3 * sds[i] * if i % 2 == 0 { 1.0 } else { -1.0 });
    x[n - 1] = 1e-7;
    let at = |x: &DVector<f64>| frame.linear(&Values { unknowns: &unknowns, x: x.clone() }, &[]).1;
    let here = at(&x);
    for j in 0..n {
        let h = if unknowns[j] == Unknown::Leak { 1e-8 } else { 1e-3 * sds[j] };
        let (mut up, mut down) = (x.clone(), x.clone());
        up[j] += h;
        down[j] -= h;
        for ((u, d), r) in at(&up).iter().zip(at(&down)).zip(&here) {
            let slope = (&u.expected - &d.expected) / (2.0 * h);
            let scale = slope.amax().max(r.jacobian.column(j).amax());
            let off = (&slope - r.jacobian.column(j)).amax();
            let allowed = match unknowns[j] {
                // a late start bends the loss within a block, which the difference over a hundredth of the hold smooths
                Unknown::LeakStart => 0.4,
                // what is lost lowers the pressure, and that the loss
                Unknown::Leak | Unknown::Volume => 0.04,
                _ => 0.025,
            };
            assert!(off <= allowed * scale + 1e-12, "{:?} channel {}: off {off}, slope up to {scale}", unknowns[j], r.channel);
        }
    }
}
