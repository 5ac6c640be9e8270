//! Systems that several tests share.
#![allow(dead_code, reason = "each test binary uses some of these")]

use quantity::{GaugePressure, Length, PressureDifference, PressureUnit, Temperature};
use rules::basis::Basis;
use rules::gauge::Gauge;
use rules::library::{self, Nominal};
use rules::part::{Part, PartKind};
use rules::system::System;

#[track_caller]
pub fn near(got: f64, want: f64, within: f64) {
    assert!((got - want).abs() <= within, "got {got}, want {want} ± {within}");
}

pub fn bar(p: f64) -> GaugePressure {
    GaugePressure::from_bar(p)
}

pub fn gauge_at(elevation_m: f64) -> Gauge {
    Gauge {
        tag: "PG-1".into(),
        elevation_m: Length::from_m(elevation_m),
        full_scale_pa: Some(GaugePressure::from_bar(40.0)),
        division_pa: PressureDifference::from_bar(0.1),
        error_of_scale: 0.005,
        unit: PressureUnit::Bar,
    }
}

pub fn pipe(tag: &str, elevation_m: f64, nps: f64, schedule: &str, length_m: f64) -> Part {
    let size = library::shipped().pipe(Nominal::Nps(nps), schedule, "").expect("in the table");
    Part {
        outside_diameter_m: Some(size.outside_diameter),
        wall_m: Some(size.wall),
        length_m: Some(Length::from_m(length_m)),
        material: Some("a106_b".into()),
        ..Part::new(tag, PartKind::Pipe, Length::from_m(elevation_m))
    }
}

pub fn flange(tag: &str, elevation_m: f64, class: u16) -> Part {
    Part {
        flange_class: Some(class),
        material: Some("a106_b".into()),
        outside_diameter_m: Some(Length::from_mm(168.3)),
        ..Part::new(tag, PartKind::Flange, Length::from_m(elevation_m))
    }
}

pub fn b31_3(design_bar: f64, design_c: f64) -> Basis {
    Basis {
        design_pressure_pa: Some(GaugePressure::from_bar(design_bar)),
        design_temperature_c: Some(Temperature::from_c(design_c)),
        ..Basis::new("b31_3")
    }
}

pub fn system(basis: Basis, parts: Vec<Part>, gauge_m: f64) -> System {
    System::new("line", basis, parts, gauge_at(gauge_m))
}

/// DN150 sch 40, 120 m, class 150, heights 1.0–18.5 m, gauge at 1.2 m, 16 bar.
pub fn dn150() -> System {
    let parts = vec![pipe("top run", 18.5, 6.0, "40", 120.0), flange("bottom flange", 1.0, 150)];
    System { water_temperature_c: Temperature::from_c(15.0), ..system(b31_3(16.0, 38.0), parts, 1.2) }
}
