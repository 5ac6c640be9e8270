//! Water against the release's own verification tables and an independent implementation.

use physics::water::helmholtz::{ideal as ideal_part, residual as residual_part};
use physics::water::{CRITICAL_DENSITY, CRITICAL_TEMPERATURE, DensityTable, GAS_CONSTANT, state};
use quantity::{AbsolutePressure, Temperature};

#[track_caller]
fn close(got: f64, want: f64, rel: f64) {
    assert!((got - want).abs() <= rel * want.abs(), "got {got}, want {want} within {rel} relative");
}

/// IAPWS R6-95(2018), table 6: φ° and φʳ with their derivatives at two points.
#[test]
fn published_helmholtz_energy() {
    let cases = [
        (
            500.0,
            838.025,
            [2.047_977_33, 0.384_236_747, -0.147_637_878, 9.046_111_06, -1.932_491_85, 0.0],
            [-3.426_932_06, -0.364_366_650, 0.856_063_701, -5.814_034_35, -2.234_407_37, -1.121_769_15],
        ),
        (
            647.0,
            358.0,
            [-1.563_196_05, 0.899_441_341, -0.808_994_726, 9.803_439_18, -3.433_163_34, 0.0],
            [-1.212_026_57, -0.714_012_024, 0.475_730_696, -3.217_225_01, -9.960_295_07, -1.332_147_20],
        ),
    ];
    for (t, rho, ideal, residual) in cases {
        let (delta, tau) = (rho / CRITICAL_DENSITY, CRITICAL_TEMPERATURE / t);
        for (f, want) in [(ideal_part(delta, tau), ideal), (residual_part(delta, tau), residual)] {
            for (got, want) in [f.value, f.d, f.dd, f.t, f.tt, f.dt].into_iter().zip(want) {
                close(got, want, 5e-9);
            }
        }
    }
}

/// IAPWS R6-95(2018), table 7: pressure, isochoric heat capacity and speed of sound in the single phase.
#[test]
fn published_pressure_heat_and_sound() {
    for (t, rho, p_mpa, cv, w) in [
        (300.0, 996.556, 0.992_418_352e-1, 4.130_181_12, 1501.519_14),
        (300.0, 1005.308, 20.002_251_5, 4.067_983_47, 1534.925_01),
        (300.0, 1188.202, 700.004_704, 3.461_355_80, 2443.579_92),
        (500.0, 0.435, 0.999_679_423e-1, 1.508_175_41, 548.314_253),
        (500.0, 4.532, 0.999_938_125, 1.669_910_25, 535.739_001),
        (500.0, 838.025, 10.000_385_8, 3.221_062_19, 1271.284_41),
        (500.0, 1084.564, 700.000_405, 3.074_376_93, 2412.008_77),
        (647.0, 358.0, 22.038_475_6, 6.183_157_28, 252.145_078),
        (900.0, 0.241, 0.100_062_559, 1.758_906_57, 724.027_147),
        (900.0, 52.615, 20.000_069_0, 1.935_105_26, 698.445_674),
        (900.0, 870.769, 700.000_006, 2.664_223_50, 2019.336_08),
    ] {
        let (delta, tau) = (rho / CRITICAL_DENSITY, CRITICAL_TEMPERATURE / t);
        let (o, r) = (ideal_part(delta, tau), residual_part(delta, tau));
        close(rho * GAS_CONSTANT * t * (1.0 + delta * r.d) / 1e6, p_mpa, 2e-8);
        let cv_got = -GAS_CONSTANT * tau * tau * (o.tt + r.tt);
        close(cv_got / 1e3, cv, 2e-8);
        let a = 1.0 + delta * r.d - delta * tau * r.dt;
        let w2 = GAS_CONSTANT * t * (1.0 + 2.0 * delta * r.d + delta * delta * r.dd - a * a / (tau * tau * (o.tt + r.tt)));
        close(w2.sqrt(), w, 2e-8);
    }
}

/// Table from CoolProp 8.0.0 (MIT), an independent implementation of IAPWS-95: 2–60 °C, to 700 bar absolute.
#[test]
fn published_liquid_table() {
    let text = include_str!("../data/water-iapws95-check.csv");
    let mut rows = 0;
    for line in text.lines().filter(|l| !l.starts_with('#')).skip(1) {
        let v: Vec<f64> = line.split(',').map(|x| x.parse().unwrap()).collect();
        let w = state(Temperature::from_c(v[0]), AbsolutePressure::from_bar(v[1])).unwrap();
        close(w.density.kg_m3(), v[2], 1e-4);
        close(w.compressibility_per_pa, v[3], 3e-3);
        assert!((w.expansion_per_k - v[4]).abs() <= 5e-3 * v[4].abs() + 1e-9, "expansion at {line}: {}", w.expansion_per_k);
        close(w.heat_capacity, v[6], 1e-3);
        rows += 1;
    }
    assert_eq!(rows, 81, "9 temperatures × 9 pressures");
}

#[test]
fn the_table_is_the_equation() {
    let box_t = (Temperature::from_c(5.0), Temperature::from_c(35.0));
    let box_p = (AbsolutePressure::from_bar(1.0), AbsolutePressure::from_bar(201.0));
    let table = DensityTable::new(box_t, box_p).unwrap();
    for i in 0..=20 {
        for j in 0..=20 {
            let t = Temperature::from_c(5.0 + 1.5 * f64::from(i));
            let p = AbsolutePressure::from_bar(1.0 + 10.0 * f64::from(j));
            close(table.density(t, p).unwrap().kg_m3(), state(t, p).unwrap().density.kg_m3(), 1e-9);
        }
    }
    assert!(table.density(Temperature::from_c(40.0), AbsolutePressure::from_bar(10.0)).is_none());
}

#[test]
fn what_is_not_liquid_water_is_refused() {
    for (t, p) in [(-5.0, 10.0), (120.0, 10.0), (20.0, 0.1), (f64::NAN, 10.0), (20.0, f64::INFINITY)] {
        assert!(state(Temperature::from_c(t), AbsolutePressure::from_bar(p)).is_err(), "{t} °C, {p} bar");
    }
}
