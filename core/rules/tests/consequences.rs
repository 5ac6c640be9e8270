//! What follows from a test pressure, worked by hand.

mod common;

use common::{bar, near};
use quantity::*;
use rules::consequences::pump::{Pump, suits};
use rules::consequences::{blind, drain, fill, manifold, thrust, weight};

/// ASME B31.3 304.5.3 (from memory), by hand: 146.3 · √(3 · 2.4 / (16 · 137.9)) = 146.3 · √0.0032632 = 8.357 mm. B31.1 104.5.3: 0.95 · 241.3
/// = 229.2 MPa: 146.3 · √(7.2 / 3667.8) = 6.482 mm; gas at 0.90: 6.660.
#[test]
fn worked_blind_spade_blind_test() {
    let d = Length::from_mm(146.3);
    near(blind::spade(d, bar(24.0), Stress::from_mpa(137.9), Length::from_mm(0.0)).0.mm(), 8.357, 2e-3);
    near(blind::spade(d, bar(24.0), Stress::from_mpa(137.9), Length::from_mm(3.0)).0.mm(), 11.357, 2e-3);
    near(blind::test_blank(d, bar(24.0), Stress::from_mpa(241.3), false).0.mm(), 6.482, 2e-3);
    let (gas, why) = blind::test_blank(d, bar(24.0), Stress::from_mpa(241.3), true);
    near(gas.mm(), 6.660, 2e-3);
    assert_eq!((why.rule.as_str(), why.clause.as_str()), ("BLIND-TEST", "104.5.3"));
}

/// By hand: 2.4 MPa · π/4 · 0.1683² = 53.39 kN; a bend of 90° √2 times that; 53.39 kN · 1.5 / 100 kPa = 0.801 m².
#[test]
fn worked_thrust_end_thrust_bend_thrust_block() {
    let d = Length::from_mm(168.3);
    near(thrust::end(bar(24.0), d).0.n(), 53.39e3, 10.0);
    near(thrust::bend(bar(24.0), d, 90.0).0.n(), 53.39e3 * std::f64::consts::SQRT_2, 15.0);
    near(thrust::bend(bar(24.0), d, 180.0).0.n(), 2.0 * 53.39e3, 20.0);
    near(thrust::block_area_m2(Force::from_kn(53.39), 1.5, GaugePressure::from_kpa(100.0)), 0.801, 1e-3);
}

/// DN150 schedule 40: bore 154.08 mm, 18.61 kg/m; 120 m hold 2.24 m³; US customary: 0.0408 · d² · L gallons with 6.065 in and 393.7 ft are 590.9.
#[test]
fn worked_weight_water_fill_time() {
    let bore = Length::from_mm(168.3 - 2.0 * 7.11);
    near(weight::per_metre(Density::from_kg_m3(998.2), bore).0 / STANDARD_GRAVITY, 18.61, 0.01);
    let volume = std::f64::consts::FRAC_PI_4 * bore.m().powi(2) * 120.0;
    near(volume, 2.24, 5e-3);
    near(volume / 3.785_411_784e-3, 0.0408 * 6.066 * 6.066 * 393.7, 1.0);
    near(fill::time(Volume::from_m3(2.24), VolumeFlow::from_m3_per_s(1.5 / 3600.0)).0.h(), 1.493, 1e-3);
}

/// NFPA 24 (from memory): 10 ft/s in 4, 6, 8, 10 and 12 in are 390, 880, 1560, 2440 and 3520 US gpm.
#[test]
fn published_flush_of_a_fire_main() {
    for (inch, gpm) in [(4.0, 390.0), (6.0, 880.0), (8.0, 1560.0), (10.0, 2440.0), (12.0, 3520.0)] {
        let flow = fill::flush(Length::from_inch(inch), fill::FIRE_FLUSH_M_PER_S).0.m3_per_s();
        near(flow / 3.785_411_784e-3 * 60.0 / gpm, 1.0, 6e-3);
    }
}

/// A 24 bar test: the manifold at 30. 9 L/min into a solid 150 L receiver of 400 mm × 3 mm: about 9 bar every second.
#[test]
fn worked_manifold_proof_pump_overshoot() {
    near(manifold::proof(bar(24.0), 1.25, "default").0.bar(), 30.0, 1e-9);
    let steel =
        physics::elastic::Elastic { youngs_modulus_pa: Stress::from_pa(207e9), poisson_ratio: 0.3, linear_expansion_per_k: 11.7e-6 };
    let receiver = physics::system::ShutIn::without_air(vec![physics::system::Segment {
        name: "receiver".into(),
        outside_diameter_m: Length::from_mm(400.0),
        wall_m: Length::from_mm(3.0),
        volume_m3: Volume::from_l(150.0),
        elastic: steel,
        restraint: physics::elastic::Restraint::Free,
    }]);
    let compliance = receiver.compliance_per_pa(Temperature::from_c(15.0), bar(12.0).absolute(STANDARD_ATMOSPHERE)).unwrap();
    let stiffness = 1.0 / (0.150 * compliance);
    let driven = Pump::Driven { flow: VolumeFlow::from_m3_per_s(9e-3 / 60.0) };
    let large = suits(driven, stiffness, bar(12.0), bar(13.0), rules::site::Site::default().reaction(), rules::say::Say::default());
    near(large.step.bar(), 9.0, 1.0);
    assert!(large.refused.unwrap().contains("smaller pump"));
    let by_hand = suits(
        Pump::Hand { stroke: Volume::from_ml(5.0) },
        stiffness,
        bar(12.0),
        bar(13.0),
        rules::site::Site::default().reaction(),
        rules::say::Say::default(),
    );
    assert!(by_hand.refused.is_none() && by_hand.warning.is_none(), "a hand pump can stop within a stroke: {by_hand:?}");
    let coarse = suits(
        Pump::Hand { stroke: Volume::from_ml(40.0) },
        stiffness,
        bar(12.0),
        bar(13.0),
        rules::site::Site::default().reaction(),
        rules::say::Say::default(),
    );
    assert!(coarse.warning.unwrap().contains("part strokes, eyes on the gauge"));
    let huge = suits(
        Pump::Hand { stroke: Volume::from_ml(400.0) },
        stiffness,
        bar(12.0),
        bar(13.0),
        rules::site::Site::default().reaction(),
        rules::say::Say::default(),
    );
    assert!(huge.refused.unwrap().contains("A tenth of a stroke"));
    let gentle = suits(
        Pump::Hand { stroke: Volume::from_ml(1.0) },
        stiffness,
        bar(12.0),
        bar(13.0),
        rules::site::Site::default().reaction(),
        rules::say::Say::default(),
    );
    assert!(gentle.refused.is_none() && gentle.warning.is_none(), "{gentle:?}");
}

/// Bresse: steel 600 mm × 3 mm collapses at 0.57 bar; a 10 m column pulls 0.98 bar. Torricelli: a 1 m² tank with 2 m of water through 100 mm:
/// (1 / (0.62 · 0.007854)) · √(4 / 9.807) = 131.2 s.
#[test]
fn worked_drain_vacuum_drain_time() {
    near(drain::collapse(Stress::from_pa(207e9), 0.3, Length::from_mm(3.0), Length::from_mm(600.0)).bar(), 0.57, 5e-3);
    near(drain::vacuum(Density::from_kg_m3(998.2), Length::from_m(10.0), STANDARD_ATMOSPHERE).bar(), 0.979, 1e-3);
    near(drain::vacuum(Density::from_kg_m3(998.2), Length::from_m(30.0), STANDARD_ATMOSPHERE).bar(), 1.013, 1e-3);
    near(drain::time(1.0, Length::from_mm(100.0), Length::from_m(2.0)).s(), 131.2, 0.2);
}
