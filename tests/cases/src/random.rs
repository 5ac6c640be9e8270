//! Random systems that are usually releasable, for the laws: of each basis and medium, with one thing that says what each part bears.

use quantity::{GaugePressure, Length, PressureDifference, PressureUnit, Span, Temperature, Volume};
use rules::basis::{Basis, Medium};
use rules::gauge::Gauge;
use rules::part::{Form, Part, PartKind, Seam, Seat, ValveType};
use rules::system::System;

/// A sequence of numbers that is the same for the same seed.
#[derive(Debug, Clone)]
pub struct Dice(u64);

impl Dice {
    /// From a seed.
    pub const fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1)
    }
    /// The next number.
    pub const fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }
    /// Below a bound.
    pub const fn below(&mut self, n: usize) -> usize {
        (self.next() % n as u64) as usize
    }
    /// Between two.
    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * (self.next() % 1_000_000) as f64 / 1e6
    }
    /// One of some.
    pub fn of<'a, T>(&mut self, all: &'a [T]) -> &'a T {
        &all[self.below(all.len())]
    }
    /// True in so many of a hundred.
    pub const fn chance(&mut self, percent: u64) -> bool {
        self.next() % 100 < percent
    }
}

fn bar(p: f64) -> Option<GaugePressure> {
    Some(GaugePressure::from_bar(p))
}

fn m(l: f64) -> Option<Length> {
    Some(Length::from_m(l))
}

/// Kinds of systems that the bases are about.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Family {
    Steel,
    Ductile,
    Pvc,
    Pe,
    Vessel,
    Used,
    Boiler,
    Copper,
    Joint,
}

fn family(id: &str) -> Family {
    match id {
        "awwa_di" => Family::Ductile,
        "awwa_pvc" => Family::Pvc,
        "pe" => Family::Pe,
        "viii_1" | "viii_1_old" | "viii_2" | "viii_1_vacuum" | "viii_1_jacket" | "ped" => Family::Vessel,
        "vessel_in_service" | "air_receiver" => Family::Used,
        "boiler_power" | "boiler_heating" | "boiler_repair" | "rail_heritage" | "boiler_heritage" => Family::Boiler,
        "boiler_model" => Family::Copper,
        "joint_box" => Family::Joint,
        _ => Family::Steel,
    }
}

/// A pipe of steel whose wall bears far more than is asked.
fn run(d: &mut Dice, i: usize) -> Part {
    let diameter = *d.of(&[0.0603, 0.0889, 0.1143, 0.1683, 0.2191]);
    let mut p = Part {
        outside_diameter_m: m(diameter),
        wall_m: m(diameter * d.between(0.035, 0.06)),
        length_m: m(d.between(1.0, 60.0)),
        material: Some((*d.of(&["a106_b", "tp304", "tp316l"])).to_owned()),
        ..Part::new(&format!("run {i}"), PartKind::Pipe, Length::from_m(d.between(0.0, 20.0)))
    };
    if d.chance(20) {
        p.corrosion_m = m(0.0003);
    }
    if d.chance(15) {
        p.to_elevation_m = Some(p.elevation_m + Length::from_m(d.between(0.5, 4.0)));
    }
    if d.chance(10) {
        p.proven_pa = bar(d.between(150.0, 200.0));
    }
    p
}

/// Something else that may stand in piping, with what says what it bears.
fn fitting(d: &mut Dice, i: usize) -> Part {
    let at = Length::from_m(d.between(0.0, 20.0));
    let of = |kind, word: &str| Part { outside_diameter_m: m(0.1143), ..Part::new(&format!("{word} {i}"), kind, at) };
    match d.below(10) {
        0 => Part { flange_class: Some(600), material: Some("a106_b".into()), ..of(PartKind::Flange, "flange") },
        1 => Part { pn: Some(100), ..of(PartKind::Flange, "flange") },
        2 => Part { flange_class: Some(600), material: Some("tp304".into()), valve: Some(ValveType::Ball), ..of(PartKind::Valve, "valve") },
        3 => Part {
            flange_class: Some(600),
            material: Some("a106_b".into()),
            valve: Some(*d.of(&[ValveType::Gate, ValveType::Globe])),
            seat: Some(Seat::MetalSeated),
            ..of(PartKind::ClosedValve, "shut")
        },
        4 => Part {
            rating_pa: bar(d.between(120.0, 160.0)),
            seat: d.chance(50).then_some(Seat::MetalSeated),
            ..of(PartKind::ClosedValve, "shut")
        },
        5 => Part { rating_pa: bar(150.0), volume_m3: Some(Volume::from_l(5.0)), ..of(PartKind::Hose, "hose") },
        6 => Part { test_limit_pa: bar(140.0), ..of(PartKind::Fitting, "fitting") },
        7 => Part {
            test_pressure_pa: bar(150.0),
            volume_m3: Some(Volume::from_m3(d.between(0.1, 3.0))),
            ..Part::new(&format!("vessel {i}"), PartKind::Vessel, at)
        },
        8 => Part { rating_pa: bar(150.0), volume_m3: Some(Volume::from_l(2.0)), ..of(PartKind::Bellows, "bellows") },
        _ => Part {
            restraint_n: Some(quantity::Force::from_n(4e5)),
            bend_deg: Some(d.between(20.0, 100.0)),
            wall_m: m(0.0060),
            length_m: m(0.4),
            material: Some("a106_b".into()),
            ..of(PartKind::Bend, "bend")
        },
    }
}

fn shell(d: &mut Dice, i: usize, kind: PartKind, materials: &[&str], thick: f64) -> Part {
    let material = *d.of(materials);
    let diameter = d.between(0.4, 1.4);
    let seam = *d.of(&[Seam::Seamless, Seam::Full, Seam::Spot, Seam::NotKnown, Seam::Riveted]);
    Part {
        outside_diameter_m: m(diameter),
        wall_m: m(diameter * thick),
        material: Some(material.to_owned()),
        volume_m3: Some(Volume::from_m3(d.between(0.05, 4.0))),
        seam: Some(seam),
        seam_efficiency: (seam == Seam::Riveted).then(|| d.between(0.72, 0.85)),
        form: d.chance(20).then_some(Form::Elliptical),
        corrosion_m: d.chance(20).then_some(Length::from_mm(0.5)),
        ..Part::new(&format!("shell {i}"), kind, Length::from_m(d.between(0.0, 6.0)))
    }
}

fn parts(d: &mut Dice, family: Family, gas: bool) -> Vec<Part> {
    let count = 1 + d.below(4);
    let mut all: Vec<Part> = (0..count)
        .map(|i| match family {
            Family::Steel => {
                if i == 0 || d.chance(50) {
                    run(d, i)
                } else {
                    fitting(d, i)
                }
            }
            Family::Ductile => Part {
                outside_diameter_m: m(0.25),
                length_m: m(d.between(50.0, 600.0)),
                material: Some("ductile_iron".into()),
                flange_class: Some(350),
                rating_pa: d.chance(60).then(|| GaugePressure::from_bar(d.between(30.0, 60.0))),
                ..Part::new(&format!("main {i}"), PartKind::Pipe, Length::from_m(d.between(0.0, 20.0)))
            },
            Family::Pvc | Family::Pe => {
                let (material, ratio) = if family == Family::Pe { ("pe100", 11.0) } else { ("pvc", 14.0) };
                let diameter = *d.of(&[0.11, 0.16, 0.225]);
                Part {
                    outside_diameter_m: m(diameter),
                    wall_m: m(diameter / ratio),
                    length_m: m(d.between(50.0, 600.0)),
                    material: Some(material.to_owned()),
                    ..Part::new(&format!("main {i}"), PartKind::Pipe, Length::from_m(d.between(0.0, 10.0)))
                }
            }
            Family::Vessel => shell(d, i, PartKind::Vessel, &["sa516_70", "p265gh"], 0.03),
            Family::Used => shell(d, i, PartKind::Vessel, &["sa516_70", "steel_unknown"], 0.03),
            Family::Boiler => shell(d, i, PartKind::Boiler, &["sa516_70", "sa283_c"], 0.035),
            Family::Copper => Part {
                outside_diameter_m: m(0.1143),
                wall_m: m(0.0035),
                material: Some("c12200_annealed".into()),
                volume_m3: Some(Volume::from_l(2.4)),
                seam: Some(Seam::Seamless),
                ..Part::new(&format!("barrel {i}"), PartKind::Boiler, Length::from_m(0.0))
            },
            Family::Joint => Part {
                rating_pa: bar(3.0),
                outside_diameter_m: m(1.5),
                ..Part::new(&format!("joint {i}"), PartKind::GasketedJoint, Length::from_m(d.between(0.0, 1.0)))
            },
        })
        .collect();
    if gas && family == Family::Steel {
        // gas weighs next to nothing, and a class of 600 bears it
        for p in &mut all {
            p.proven_pa = None;
        }
    }
    all
}

fn basis(d: &mut Dice, id: &str, gas: bool) -> Basis {
    let p = d.between(3.0, 9.0);
    let mut b = Basis {
        id: id.to_owned(),
        medium: if gas { *d.of(&[Medium::Air, Medium::Nitrogen]) } else { Medium::Liquid },
        design_temperature_c: Some(Temperature::from_c(*d.of(&[20.0, 38.0, 80.0, 150.0]))),
        ..Basis::default()
    };
    match id {
        "owner_standard" => {
            b.on_top_of = Some("b31_3".into());
            b.design_pressure_pa = bar(p);
            b.agreed_pressure_pa = bar(2.2 * p);
            b.over_test_reason = Some("the owner's standard".into());
        }
        "b31_3_external" | "viii_1_vacuum" | "viii_1_jacket" => b.external_difference_pa = bar(d.between(0.8, 3.0)),
        "b31_3_initial_service" => (b.working_pressure_pa, b.design_pressure_pa) = (bar(0.8 * p), bar(p)),
        "building_services" | "fire_underground" | "fire_above_wet" | "fire_dry" | "boiler_heritage" | "boiler_model" => {
            b.working_pressure_pa = bar(if id == "boiler_model" { 5.0 } else { p });
        }
        "awwa_di" | "awwa_pvc" => (b.working_pressure_pa, b.working_high_pa) = (bar(p), bar(p)),
        "air_receiver" => (b.working_pressure_pa, b.plate_pressure_pa) = (bar(p), bar(p * d.between(1.0, 1.3))),
        "joint_box" => {}
        _ if matches!(family(id), Family::Vessel | Family::Used | Family::Boiler) || id == "boiler_external" => {
            b.allowable_pressure_pa = bar(p)
        }
        _ => b.design_pressure_pa = bar(p),
    }
    if gas && matches!(id, "b31_9" | "ped") {
        b.agreed_pressure_pa = bar(p * if id == "ped" { 1.12 } else { 1.1 });
    }
    if id == "ped" || id == "viii_2" {
        b.design_temperature_c = Some(Temperature::from_c(20.0));
    }
    if id == "fire_above_wet" && gas {
        b.choices.insert("freezing".into(), "interim".into());
    }
    b.agreed_hold_s = Some(Span::from_minutes(30.0));
    b
}

/// A random system of a basis and a medium.
pub fn system(d: &mut Dice, id: &str, gas: bool) -> System {
    let family = family(id);
    let mut s = System::new(
        "random",
        basis(d, id, gas),
        parts(d, family, gas),
        Gauge {
            tag: "G".into(),
            elevation_m: Length::from_m(d.between(0.0, 8.0)),
            full_scale_pa: d.chance(50).then(|| GaugePressure::from_bar(40.0)),
            division_pa: PressureDifference::from_bar(0.01),
            error_of_scale: 0.0005,
            unit: PressureUnit::Bar,
        },
    );
    s.water_temperature_c = Temperature::from_c(25.0);
    s.settings.expected_cooling_k = quantity::TemperatureDifference::ZERO;
    s.site.metal_c = Some(Temperature::from_c(25.0));
    s.site.minimum_metal_c = Some(Temperature::from_c(-29.0));
    s.site.chloride_ppm = Some(20.0);
    s.site.surroundings_c = d.chance(50).then(|| Temperature::from_c(22.0));
    if id == "viii_1_jacket" {
        s.parts.push(Part {
            test_limit_pa: bar(12.0),
            limit_by: Some("designer".into()),
            ..Part::new("inner", PartKind::Furnace, Length::from_m(1.0))
        });
    }
    // some lines of their own, below the system's figure
    if s.basis.design_pressure_pa.is_some() && matches!(id, "b31_3" | "b31_1" | "b31_9" | "owner_standard") && d.chance(40) {
        let whole = s.basis.design_pressure_pa;
        for p in &mut s.parts {
            if d.chance(50) {
                p.design_pressure_pa = whole.map(|w| w.times(d.between(0.5, 1.0)));
            }
        }
        // without a figure of the system every line has its own
        if !gas && id != "owner_standard" && d.chance(30) {
            for p in &mut s.parts {
                p.design_pressure_pa = p.design_pressure_pa.or(whole);
            }
            s.basis.design_pressure_pa = None;
        }
    }
    if gas && family == Family::Steel && d.chance(20) {
        let top = s.parts.iter().map(|p| p.ends().1.m()).fold(0.0, f64::max);
        s.method.gas_share = Some(d.between(0.1, 0.9));
        s.method.water_line_m = m(top);
    }
    s
}
