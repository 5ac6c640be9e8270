//! Nitrogen and air against an independent implementation of their equations, and the energies that follow.

use physics::elastic::{Elastic, Restraint};
use physics::energy::{DIATOMIC, blast_distance, stored_in_gas, stored_in_ideal_gas, stored_in_liquid, tnt};
use physics::gas::Gas;
use physics::system::{Segment, ShutIn};
use proptest::prelude::*;
use quantity::{AbsolutePressure, GaugePressure, Length, STANDARD_ATMOSPHERE, Stress, Temperature, Volume};

#[track_caller]
fn close(got: f64, want: f64, rel: f64) {
    assert!((got - want).abs() <= rel * want.abs(), "got {got}, want {want} within {rel} relative");
}

fn m3(v: f64) -> Volume {
    Volume::from_m3(v)
}

/// Table from CoolProp 8.0.0 (MIT): nitrogen and air, 0–40 °C, 2–200 bar absolute.
#[test]
fn published_gas_table() {
    let (mut rows, mut real) = (0, 0);
    // rows begin with the gas; comments and the names of the columns do not
    let table = include_str!("../data/gases-check.csv");
    for line in table.lines().filter(|l| l.starts_with("nitrogen,") || l.starts_with("air,")) {
        let cells: Vec<&str> = line.split(',').collect();
        let gas = if cells[0] == "nitrogen" { Gas::Nitrogen } else { Gas::Air };
        let v: Vec<f64> = cells[1..].iter().map(|x| x.parse().unwrap()).collect();
        let (t, p) = (Temperature::from_c(v[0]), AbsolutePressure::from_bar(v[1]));
        let s = gas.state(t, p).unwrap();
        close(s.density.kg_m3(), v[2], 1e-5);
        close(s.compressibility_factor, v[3], 1e-5);
        close(s.heat_capacity / s.isochoric_heat_capacity, v[4], 1e-5);
        close(stored_in_ideal_gas(m3(1.0), p, DIATOMIC).j(), v[6], 1e-5);
        match stored_in_gas(gas, m3(1.0), t, p).unwrap() {
            Some(energy) => {
                close(energy.j(), v[5], 5e-3);
                real += 1;
            }
            // where it would condense, only the bound is stated, and it is one
            None => assert!(v[1] > 50.0 && stored_in_ideal_gas(m3(1.0), p, DIATOMIC).j() > v[5], "{line}"),
        }
        rows += 1;
    }
    assert_eq!(rows, 48, "2 gases × 3 temperatures × 8 pressures");
    assert!(real >= 36, "{real} rows stay a gas");
}

/// ASME PCC-2, article 501 (from memory): 10 m³ of air at 11 bar gauge; the arithmetic is ours.
#[test]
fn worked_energy_and_distance() {
    let p = GaugePressure::from_bar(11.0).absolute(STANDARD_ATMOSPHERE);
    let energy = stored_in_ideal_gas(m3(10.0), p, DIATOMIC);
    close(energy.j(), 15.2e6, 5e-3);
    close(tnt(energy).kg(), 3.6, 2e-2);
    close(blast_distance(quantity::Energy::from_j(15.2e6), 20.0).m(), 38.5, 2e-3);
}

/// The whole argument for water: the same volume in DN200 schedule 40 steel, gas over water.
#[test]
fn worked_ratio_of_gas_to_water() {
    let steel = Elastic { youngs_modulus_pa: Stress::from_pa(207e9), poisson_ratio: 0.3, linear_expansion_per_k: 11.7e-6 };
    let pipe = ShutIn::without_air(vec![Segment {
        name: "DN200".into(),
        outside_diameter_m: Length::from_mm(219.1),
        wall_m: Length::from_mm(8.18),
        volume_m3: m3(1.0),
        elastic: steel,
        restraint: Restraint::Free,
    }]);
    for (bar, times) in [(1.7, 20_000.0), (11.0, 4_400.0), (30.0, 1_850.0), (100.0, 640.0)] {
        let gauge = GaugePressure::from_bar(bar);
        let p = gauge.absolute(STANDARD_ATMOSPHERE);
        let water = stored_in_liquid(m3(1.0), pipe.compliance_per_pa(Temperature::from_c(15.0), p).unwrap(), gauge);
        close(stored_in_ideal_gas(m3(1.0), p, DIATOMIC) / water, times, 0.08);
    }
}

#[test]
fn what_is_no_test_gas_is_refused() {
    for (t, p) in [(-60.0, 10.0), (150.0, 10.0), (20.0, 0.1), (20.0, 900.0), (f64::NAN, 10.0), (20.0, f64::INFINITY)] {
        let refusal = Gas::Air.state(Temperature::from_c(t), AbsolutePressure::from_bar(p)).unwrap_err().to_string();
        assert!(refusal.contains("air at"), "{refusal}");
    }
}

proptest! {
    /// More pressure or volume never stores less; the real gas never more than its ideal bound here.
    #[test]
    fn energy_grows_with_pressure_and_volume(bar in 2.0..60.0f64, more in 0.1..20.0f64, c in -20.0..60.0f64, v in 0.01..500.0f64) {
        let t = Temperature::from_c(c);
        let at = |bar: f64, v: f64| stored_in_gas(Gas::Nitrogen, m3(v), t, AbsolutePressure::from_bar(bar)).unwrap();
        let Some(low) = at(bar, v) else { return Ok(()) };
        prop_assert!(low.j() > 0.0);
        if let Some(high) = at(bar + more, v) {
            prop_assert!(high > low);
        }
        if let Some(twice) = at(bar, 2.0 * v) {
            prop_assert!((twice - low * 2.0).abs() < twice * 1e-6);
        }
        prop_assert!(low <= stored_in_ideal_gas(m3(v), AbsolutePressure::from_bar(bar), DIATOMIC) * 1.001);
    }
}
