//! The shut-in system against figures worked apart and laws that need none.

use physics::elastic::{Elastic, Restraint};
use physics::head;
use physics::heat::{soak_time, time_constant};
use physics::system::{Segment, ShutIn};
use proptest::prelude::*;
use quantity::*;

const CARBON_STEEL: Elastic = Elastic { youngs_modulus_pa: Stress::from_pa(207e9), poisson_ratio: 0.30, linear_expansion_per_k: 11.7e-6 };

fn pipe(od_mm: f64, wall_mm: f64, length_m: f64, restraint: Restraint) -> Segment {
    let bore = (od_mm - 2.0 * wall_mm) / 1000.0;
    Segment {
        name: "line".into(),
        outside_diameter_m: Length::from_mm(od_mm),
        wall_m: Length::from_mm(wall_mm),
        volume_m3: Volume::from_m3(std::f64::consts::FRAC_PI_4 * bore * bore * length_m),
        elastic: CARBON_STEEL,
        restraint,
    }
}

fn bar_per_k(c: f64, bar_abs: f64, restraint: Restraint) -> f64 {
    let s = ShutIn::without_air(vec![pipe(219.1, 8.18, 100.0, restraint)]);
    s.pressure_per_kelvin(Temperature::from_c(c), AbsolutePressure::from_bar(bar_abs)).unwrap() / 1e5
}

/// Worked by hand from IAPWS-95 and Lamé for DN200 sch 40 carbon steel: 2.0 bar/K at 15 °C near 1 bar, 2.3 (free) to 2.4 (held) at
/// 100 bar, 4.1 to 4.3 at 25 °C and 100 bar.
#[test]
fn worked_pressure_per_kelvin() {
    for (c, p, restraint, want) in [
        (15.0, 1.01325, Restraint::Free, 2.0),
        (15.0, 100.0, Restraint::Free, 2.3),
        (15.0, 100.0, Restraint::Held, 2.4),
        (25.0, 100.0, Restraint::Free, 4.1),
        (25.0, 100.0, Restraint::Held, 4.3),
    ] {
        let got = bar_per_k(c, p, restraint);
        assert!((got - want).abs() < 0.1, "{c} °C, {p} bar, {restraint:?}: {got:.3}, want {want}");
    }
    assert!(bar_per_k(5.0, 10.0, Restraint::Free) < 0.0, "below about 6 °C warming lowers the pressure in steel");
    assert!(bar_per_k(7.0, 10.0, Restraint::Free) > 0.0);
}

/// DN150 sch 40, 120 m: filling 2.24 m³; to 26 bar 3.3 L with no air, 7.6 L with 0.2 % of air.
#[test]
fn worked_volume_to_raise() {
    let mut s = ShutIn::without_air(vec![pipe(168.3, 7.11, 120.0, Restraint::Free)]);
    assert!((s.volume().m3() - 2.24).abs() < 0.005, "{:?}", s.volume());
    let to = |s: &ShutIn| {
        s.volume_to_raise(Temperature::from_c(20.0), s.atmosphere, GaugePressure::from_bar(26.0).absolute(s.atmosphere)).unwrap().l()
    };
    assert!((to(&s) - 3.3).abs() < 0.1, "{}", to(&s));
    s.air_fraction = 0.002;
    assert!((to(&s) - 7.6).abs() < 0.1, "{}", to(&s));
}

/// 30 m of water at 20 °C: 2.94 bar (ρ 998.2 kg/m³).
#[test]
fn worked_head() {
    let p = head::gained(Density::from_kg_m3(998.2), Length::from_m(30.0), Length::from_m(0.0));
    assert!((p.bar() - 2.94).abs() < 0.005, "{}", p.bar());
}

/// Common practice: time constants in still air 1.7 h (DN50), 4.8 h (DN150), 29 h (1 m); soak from 10 K to 1 K 11 h and 67 h.
#[test]
fn worked_soak() {
    for (od, wall, hours) in [(60.3, 3.91, 1.7), (168.3, 7.11, 4.8), (1016.0, 9.53, 29.0)] {
        let tau = time_constant(Length::from_mm(od), Length::from_mm(wall), 10.0).h();
        assert!((tau / hours - 1.0).abs() < 0.05, "{od}: {tau}");
    }
    let from_ten = |tau: f64| soak_time(Span::from_h(tau), TemperatureDifference::from_k(10.0), TemperatureDifference::from_k(1.0)).h();
    assert!((from_ten(4.8) - 11.0).abs() < 0.1 && (from_ten(29.0) - 67.0).abs() < 0.5);
    assert!(soak_time(Span::from_h(4.8), TemperatureDifference::from_k(0.5), TemperatureDifference::from_k(1.0)).s() == 0.0);
}

proptest! {
    /// Lamé tends to the thin-wall forms D_i/(tE)·(5/4−ν) and D_i/(tE)·(1−ν²).
    #[test]
    fn thick_wall_tends_to_thin(t_over_d in 1e-6f64..1e-4) {
        let d = 0.5;
        let t = d * t_over_d;
        let inside = d - 2.0 * t;
        let thin = |f: f64| inside / (t * CARBON_STEEL.youngs_modulus_pa.pa()) * f;
        for (restraint, f) in [(Restraint::Free, 1.25 - 0.3), (Restraint::Held, 1.0 - 0.09)] {
            let lame = CARBON_STEEL.bore_compliance_per_pa(Length::from_m(d), Length::from_m(t), restraint);
            prop_assert!((lame / thin(f) - 1.0).abs() < 10.0 * t_over_d);
        }
    }

    /// Raising in two stages takes what raising in one takes; more air never takes less.
    #[test]
    fn volume_to_raise_adds_up(mid in 2.0f64..50.0, top in 60.0f64..100.0, air in 0.0f64..0.02) {
        let mut s = ShutIn::without_air(vec![pipe(168.3, 7.11, 120.0, Restraint::Held)]);
        let t = Temperature::from_c(15.0);
        let at = AbsolutePressure::from_bar;
        let dry = s.volume_to_raise(t, s.atmosphere, at(top)).unwrap();
        s.air_fraction = air;
        let one = s.volume_to_raise(t, s.atmosphere, at(top)).unwrap();
        let two = s.volume_to_raise(t, s.atmosphere, at(mid)).unwrap() + s.volume_to_raise(t, at(mid), at(top)).unwrap();
        prop_assert!((one.m3() - two.m3()).abs() < 1e-7 * one.m3());
        prop_assert!(one >= dry);
    }
}
