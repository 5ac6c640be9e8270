//! Ten families of systems, each a range of sizes, pressures, instruments and weather. Invented, in the ranges of common practice.

use crate::plant::Medium;
use crate::random::Random;

/// A family.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Family {
    /// process piping
    ProcessPiping,
    /// chilled water of a building
    ChilledWater,
    /// ductile iron main
    DuctileIronMain,
    /// PVC main
    PvcMain,
    /// polyethylene main
    PeMain,
    /// works boiler
    WorksBoiler,
    /// miniature boiler
    MiniatureBoiler,
    /// pressure vessel
    PressureVessel,
    /// fire main
    FireMain,
    /// gas piping, tested with nitrogen
    GasPiping,
}

impl Family {
    /// All of them.
    pub const ALL: [Self; 10] = [
        Self::ProcessPiping,
        Self::ChilledWater,
        Self::DuctileIronMain,
        Self::PvcMain,
        Self::PeMain,
        Self::WorksBoiler,
        Self::MiniatureBoiler,
        Self::PressureVessel,
        Self::FireMain,
        Self::GasPiping,
    ];

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::ProcessPiping => "process_piping",
            Self::ChilledWater => "chilled_water",
            Self::DuctileIronMain => "ductile_iron_main",
            Self::PvcMain => "pvc_main",
            Self::PeMain => "pe_main",
            Self::WorksBoiler => "works_boiler",
            Self::MiniatureBoiler => "miniature_boiler",
            Self::PressureVessel => "pressure_vessel",
            Self::FireMain => "fire_main",
            Self::GasPiping => "gas_piping",
        }
    }

    /// What it is tested with.
    pub fn medium(self) -> Medium {
        if self == Self::GasPiping { Medium::Nitrogen } else { Medium::Water }
    }

    /// Ranges of the family.
    pub fn ranges(self) -> Ranges {
        let pipe = Ranges {
            pressure_bar: (8.0, 40.0),
            diameter_m: (0.05, 0.35),
            ratio: (14.0, 45.0),
            length_m: (15.0, 200.0),
            vessel: false,
            materials: &["carbon_steel", "austenitic_steel", "duplex_steel"],
            exposures: &["bare_outdoor", "insulated", "indoor"],
            held: false,
            holds_h: &[0.5, 1.0, 2.0, 4.0],
            air: (3e-4, 7e-3),
            joints: 14,
            bodies: 2,
            ranges_bar: &[10.0, 16.0, 25.0, 40.0, 60.0],
            volume_unc: 0.05,
        };
        match self {
            Self::ProcessPiping => pipe,
            Self::ChilledWater => Ranges {
                pressure_bar: (6.0, 10.0),
                diameter_m: (0.1, 0.4),
                length_m: (100.0, 700.0),
                materials: &["carbon_steel"],
                exposures: &["insulated", "indoor", "insulated"],
                holds_h: &[1.0, 2.0, 4.0],
                air: (1.5e-4, 3e-3),
                joints: 40,
                ..pipe
            },
            Self::DuctileIronMain => Ranges {
                pressure_bar: (8.0, 14.0),
                diameter_m: (0.1, 0.5),
                ratio: (18.0, 60.0),
                length_m: (200.0, 900.0),
                materials: &["ductile_iron"],
                exposures: &["buried"],
                held: true,
                holds_h: &[1.0, 2.0, 2.0, 24.0],
                air: (2e-4, 4e-3),
                joints: 0,
                volume_unc: 0.03,
                ..pipe
            },
            Self::PvcMain => Ranges {
                pressure_bar: (7.0, 17.0),
                diameter_m: (0.08, 0.25),
                ratio: (12.0, 25.0),
                length_m: (100.0, 500.0),
                materials: &["pvc"],
                exposures: &["buried"],
                held: true,
                holds_h: &[1.0, 2.0, 4.0],
                air: (2e-4, 5e-3),
                joints: 0,
                bodies: 1,
                volume_unc: 0.03,
                ..pipe
            },
            Self::PeMain => Ranges {
                pressure_bar: (8.0, 14.0),
                diameter_m: (0.06, 0.3),
                ratio: (8.0, 16.0),
                length_m: (80.0, 500.0),
                materials: &["pe"],
                exposures: &["buried"],
                held: true,
                holds_h: &[1.0, 2.0, 4.0, 24.0],
                air: (2e-4, 3e-3),
                joints: 0,
                volume_unc: 0.03,
                ..pipe
            },
            Self::WorksBoiler => Ranges {
                pressure_bar: (10.0, 32.0),
                diameter_m: (0.8, 2.0),
                ratio: (60.0, 120.0),
                length_m: (2.0, 5.0),
                vessel: true,
                materials: &["carbon_steel"],
                exposures: &["indoor"],
                holds_h: &[0.5, 1.0, 2.0],
                air: (2e-4, 9e-3),
                joints: 6,
                ..pipe
            },
            Self::MiniatureBoiler => Ranges {
                pressure_bar: (4.0, 14.0),
                diameter_m: (0.09, 0.2),
                ratio: (25.0, 60.0),
                length_m: (0.3, 0.7),
                vessel: true,
                materials: &["copper", "carbon_steel"],
                exposures: &["indoor"],
                holds_h: &[1.0 / 3.0, 0.5],
                air: (1e-3, 3e-3),
                joints: 0,
                bodies: 1,
                ..pipe
            },
            Self::PressureVessel => Ranges {
                pressure_bar: (8.0, 35.0),
                diameter_m: (0.8, 1.8),
                ratio: (60.0, 140.0),
                length_m: (2.0, 5.0),
                vessel: true,
                materials: &["carbon_steel", "austenitic_steel"],
                exposures: &["indoor", "insulated"],
                holds_h: &[1.0, 2.0],
                air: (5e-4, 6e-3),
                joints: 6,
                bodies: 1,
                ..pipe
            },
            Self::FireMain => Ranges {
                pressure_bar: (12.0, 17.0),
                diameter_m: (0.1, 0.25),
                ratio: (18.0, 40.0),
                length_m: (150.0, 500.0),
                materials: &["ductile_iron"],
                exposures: &["buried"],
                held: true,
                holds_h: &[2.0, 2.0, 24.0],
                air: (3e-4, 4e-3),
                joints: 0,
                bodies: 1,
                volume_unc: 0.03,
                ..pipe
            },
            Self::GasPiping => Ranges {
                pressure_bar: (0.8, 8.0),
                diameter_m: (0.03, 0.15),
                ratio: (12.0, 40.0),
                length_m: (40.0, 300.0),
                materials: &["copper", "austenitic_steel", "carbon_steel"],
                exposures: &["indoor", "indoor", "bare_outdoor"],
                holds_h: &[1.0, 2.0, 4.0],
                air: (0.0, 0.0),
                joints: 0,
                bodies: 1,
                ranges_bar: &[1.6, 4.0, 10.0],
                volume_unc: 0.01,
                ..pipe
            },
        }
    }
}

/// Ranges of a family.
#[derive(Debug, Clone, Copy)]
pub struct Ranges {
    /// Test pressure, bar gauge.
    pub pressure_bar: (f64, f64),
    /// Inside diameter, m.
    pub diameter_m: (f64, f64),
    /// Inside diameter over wall.
    pub ratio: (f64, f64),
    /// Length, m.
    pub length_m: (f64, f64),
    /// A vessel.
    pub vessel: bool,
    /// Materials.
    pub materials: &'static [&'static str],
    /// Exposures.
    pub exposures: &'static [&'static str],
    /// Held lengthwise.
    pub held: bool,
    /// Lengths of the hold, h.
    pub holds_h: &'static [f64],
    /// Trapped air.
    pub air: (f64, f64),
    /// Up to so many gasketed joints.
    pub joints: u32,
    /// Up to so many bodies.
    pub bodies: usize,
    /// Full scales of gauges, bar.
    pub ranges_bar: &'static [f64],
    /// Relative uncertainty of the volume (95 %).
    pub volume_unc: f64,
}

/// Young's modulus, Poisson's ratio, linear expansion, uncertainty of the stretch.
pub fn material(name: &str) -> (f64, f64, f64, f64) {
    match name {
        "austenitic_steel" => (1.95e11, 0.3, 1.6e-5, 0.06),
        "duplex_steel" => (2.0e11, 0.3, 1.3e-5, 0.06),
        "ductile_iron" => (1.7e11, 0.28, 1.1e-5, 0.06),
        "copper" => (1.17e11, 0.34, 1.7e-5, 0.06),
        "pvc" => (3.0e9, 0.4, 7e-5, 0.15),
        "pe" => (0.9e9, 0.45, 1.8e-4, 0.4),
        _ => (2.07e11, 0.3, 1.15e-5, 0.06),
    }
}

/// Stretch of a closed cylinder per pressure, 1/Pa: thin from D/t = 20 up, thick below.
pub fn stretch(diameter: f64, wall: f64, e: f64, nu: f64, held: bool) -> f64 {
    if diameter / wall >= 20.0 {
        return diameter / (wall * e) * if held { 1.0 - nu * nu } else { 1.25 - nu };
    }
    let k2 = ((diameter + 2.0 * wall) / diameter).powi(2);
    let over = if held { 2.0 * (1.0 + nu) * (1.0 - 2.0 * nu + k2) } else { 3.0 * (1.0 - 2.0 * nu) + 2.0 * (1.0 + nu) * k2 };
    over / (e * (k2 - 1.0))
}

/// Lags that a body may have: skin and fluid, s.
pub fn lags(random: &mut Random, exposure: &str, diameter: f64) -> (f64, f64) {
    let size = (diameter / 0.1).powf(0.8);
    let skin = match exposure {
        "buried" => random.log_between(15_000.0, 110_000.0),
        "insulated" => 2500.0 * size * random.log_between(0.3, 3.0),
        "bare_outdoor" => 350.0 * size * random.log_between(0.6, 2.2),
        _ => 900.0 * size * random.log_between(0.5, 3.0),
    };
    (Random::rounded(skin, 3), Random::rounded(1800.0 * (diameter / 0.1).powf(0.6) * random.log_between(0.3, 2.5), 3))
}
