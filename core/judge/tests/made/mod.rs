//! Holds that are made up point by point.

use judge::HoldCase;
use judge::case::*;
use physics::elastic::{Elastic, Restraint};
use physics::exposure::Exposure;
use physics::system::Segment;
use quantity::*;
use rules::accept::Criterion;
use terms::{Claim, EventKind, ThermometerPlace};

/// A pound-force per square inch, Pa.
pub const PSI: f64 = 6_894.757_293_168;

/// A hold in which the gauge goes through these points: hours and bar.
pub fn held(points: &[(f64, f64)], criteria: Vec<Criterion>) -> HoldCase {
    let end = points.last().unwrap().0 * 3600.0;
    let at = |t: f64| {
        let i = points.partition_point(|p| p.0 * 3600.0 <= t).clamp(1, points.len() - 1);
        let (a, b) = (points[i - 1], points[i]);
        a.1 + (b.1 - a.1) * ((t / 3600.0 - a.0) / (b.0 - a.0)).clamp(0.0, 1.0)
    };
    let readings = (0..=240)
        .map(|i| f64::from(i) * end / 240.0)
        .map(|t| Reading::new(RunTime::from_s(t), Some(GaugePressure::from_bar(at(t))), Some(Temperature::from_c(15.0))))
        .collect();
    HoldCase {
        format: FORMAT,
        title: "hold".into(),
        gas: None,
        bodies: vec![CaseBody {
            segment: Segment {
                name: "main".into(),
                outside_diameter_m: Length::from_mm(170.0),
                wall_m: Length::from_mm(6.0),
                volume_m3: Volume::from_m3(2.0),
                elastic: Elastic { youngs_modulus_pa: Stress::from_pa(165e9), poisson_ratio: 0.28, linear_expansion_per_k: 11e-6 },
                restraint: Restraint::Held,
            },
            wall_unc_95_rel: 0.06,
            exposure: Exposure::Buried,
            skin_lag_s: Span::from_s(40_000.0),
            fluid_lag_s: Span::from_s(2500.0),
            lag_factor_95: 2.5,
            creep: None,
        }],
        air_fraction: 0.0,
        air_fraction_unc_95: 0.001,
        volume_unc_95_rel: 0.05,
        atmosphere_pa: STANDARD_ATMOSPHERE,
        expected_pa: GaugePressure::from_bar(points[0].1),
        heat: HeatBefore {
            fill_c: Temperature::from_c(15.0),
            fill_unc_95_k: TemperatureDifference::from_k(0.6),
            soak_s: Span::from_s(7200.0),
            surroundings_c: None,
            swing_k: None,
        },
        at_pressure_s: Span::from_s(600.0),
        gasketed_joints: 0,
        gauge: HoldGauge {
            tag: "PG-1".into(),
            elevation_m: Length::from_m(0.0),
            division_pa: PressureDifference::from_bar(0.01),
            full_scale_pa: GaugePressure::from_bar(40.0),
            error_of_scale: 0.0025,
            noise_pa: None,
            temperature_pa_per_k: 0.0,
            unit: PressureUnit::Bar,
        },
        also_gauges: vec![],
        thermometer: Some(Thermometer {
            tag: "TT-1".into(),
            location: ThermometerPlace::Water,
            body: None,
            division_k: TemperatureDifference::from_k(0.01),
            error_k: TemperatureDifference::from_k(0.1),
            noise_k: None,
        }),
        also_thermometers: vec![],
        readings,
        hold_start_s: RunTime::from_s(0.0),
        hold_end_s: RunTime::from_s(end),
        events: vec![event(0.5 * end, EventKind::LookDone)],
        overruled: vec![],
        clock_set: vec![],
        told_in: None,
        lowered: None,
        let_out_before_s: None,
        moved: vec![],
        decided: None,
        stopped: false,
        acceptance: Acceptance {
            claim: Claim::Both,
            lower_pa: GaugePressure::from_bar(1.0),
            upper_pa: GaugePressure::from_bar(39.0),
            look_pa: None,
            hold_floor_s: Span::from_s(600.0),
            required_sensitivity_m3_per_s: None,
            one_repump: false,
            pump_stays: false,
            loss_fails_strength: false,
            instrument_objections: vec![],
            criteria,
        },
    }
}

pub fn event(t_s: f64, kind: EventKind) -> Event {
    Event { t_s: RunTime::from_s(t_s), kind, place: None, volume_m3: None }
}
