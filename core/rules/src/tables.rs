//! Tables that ship with the product. Each file says where its values come from; nothing is extrapolated.

use physics::elastic::Elastic;
use quantity::{GaugePressure, Length, Stress, Temperature};
use std::sync::LazyLock;

/// The tables that ship, with their names.
pub const FILES: [(&str, &str); 4] = [
    ("elastic.csv", include_str!("../data/elastic.csv")),
    ("flange-ratings.csv", include_str!("../data/flange-ratings.csv")),
    ("materials.csv", include_str!("../data/materials.csv")),
    ("pipe-sizes.csv", include_str!("../data/pipe-sizes.csv")),
];

/// One material of the table.
#[derive(Debug, Clone, PartialEq)]
pub struct Material {
    /// Short id, as in files.
    pub id: String,
    /// Name as in the code.
    pub name: String,
    /// Elastic family.
    pub family: String,
    /// Material group of B16.5; empty where unknown.
    pub flange_group: String,
    /// Specified minimum yield at test temperature.
    pub yield_pa: Stress,
    /// Allowable stress by temperature, rising; empty where none is known.
    pub allowable: Vec<(Temperature, Stress)>,
}

/// Why a value cannot be taken from a table.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum TableError {
    /// No such material.
    #[error("material \"{asked}\" is not in the library: use one of {known}")]
    UnknownMaterial {
        /// what was asked for
        asked: String,
        /// what there is
        known: String,
    },
    /// No allowable stress.
    #[error("no allowable stress is known for {material}: give the owner's figure or another material")]
    NoAllowableStress {
        /// the material
        material: String,
    },
    /// Temperature outside the table.
    #[error("{material} has allowable stresses from −29 to {most_c:.0} °C only, not at {asked_c:.0} °C: the table is never extrapolated")]
    OutsideTable {
        /// the material
        material: String,
        /// temperature asked for
        asked_c: f64,
        /// end of the table
        most_c: f64,
    },
    /// No such pipe.
    #[error("no pipe of {size} with wall \"{wall}\" is in the table: give schedule as 40, 80, STD, 10S … or the wall in mm")]
    UnknownPipe {
        /// the size
        size: String,
        /// the wall
        wall: String,
    },
    /// No such flange.
    #[error("no rating is known for class {class} in material group {group}: give the flange's own test limit")]
    UnknownFlange {
        /// the class
        class: u16,
        /// the group
        group: String,
    },
}

impl Material {
    /// Allowable stress at `t`, interpolated linearly; the first column holds from −29 °C (−20 °F) up.
    ///
    /// # Errors
    /// Outside the table, or where none is known.
    pub fn allowable(&self, t: Temperature) -> Result<Stress, TableError> {
        let (Some(first), Some(last)) = (self.allowable.first(), self.allowable.last()) else {
            return Err(TableError::NoAllowableStress { material: self.name.clone() });
        };
        let outside = || TableError::OutsideTable { material: self.name.clone(), asked_c: t.c(), most_c: last.0.c() };
        if !(t.f() >= -20.5 && t.c() <= last.0.c() + 1e-9) {
            return Err(outside());
        }
        if t <= first.0 {
            return Ok(first.1);
        }
        let pair = self.allowable.windows(2).find(|w| t <= w[1].0).map_or((last, last), |w| (&w[0], &w[1]));
        let span = (pair.1.0 - pair.0.0).k();
        let share = if span > 0.0 { ((t - pair.0.0).k() / span).min(1.0) } else { 1.0 };
        Ok(pair.0.1 + (pair.1.1 - pair.0.1) * share)
    }

    /// Allowable stress at test temperature: the first column.
    ///
    /// # Errors
    /// Where none is known.
    pub fn allowable_at_test(&self) -> Result<Stress, TableError> {
        self.allowable(Temperature::from_c(20.0))
    }

    /// Typical elastic data of its family.
    pub fn elastic(&self) -> Elastic {
        elastic_family(&self.family).unwrap_or_else(|| unreachable!("every family of materials.csv is in elastic.csv (tested)"))
    }
}

/// Rows of a shipped CSV without its comment lines; a test opens every table, so a broken one cannot ship.
fn rows(text: &'static str) -> impl Iterator<Item = Vec<String>> {
    text.lines().filter(|l| !l.starts_with('#') && !l.trim().is_empty()).skip(1).map(|line| {
        let mut cells = vec![String::new()];
        let mut quoted = false;
        for c in line.chars() {
            match c {
                '"' => quoted = !quoted,
                ',' if !quoted => cells.push(String::new()),
                _ => cells.last_mut().expect("starts with one cell").push(c),
            }
        }
        cells
    })
}

fn figure(cell: &str) -> f64 {
    cell.parse().unwrap_or(f64::NAN)
}

static MATERIALS: LazyLock<Vec<Material>> = LazyLock::new(|| {
    let fahrenheit = [100.0, 200.0, 300.0, 400.0, 500.0, 600.0, 650.0, 700.0, 750.0, 800.0];
    rows(include_str!("../data/materials.csv"))
        .map(|r| Material {
            id: r[0].clone(),
            name: r[1].clone(),
            family: r[2].clone(),
            flange_group: r[3].clone(),
            yield_pa: Stress::from_ksi(figure(&r[4])),
            allowable: fahrenheit
                .iter()
                .zip(&r[5..])
                .filter(|(_, cell)| !cell.is_empty())
                .map(|(f, cell)| (Temperature::from_f(*f), Stress::from_ksi(figure(cell))))
                .collect(),
        })
        .collect()
});

/// All materials of the library.
pub fn materials() -> &'static [Material] {
    &MATERIALS
}

/// A material by its id, or by its name written with or without blanks and case.
///
/// # Errors
/// When there is none.
pub fn material(asked: &str) -> Result<&'static Material, TableError> {
    let plain = |s: &str| s.to_lowercase().replace([' ', '-', '_'], "");
    let wanted = plain(asked);
    MATERIALS.iter().find(|m| plain(&m.id) == wanted || m.name.split(',').any(|n| plain(n) == wanted)).ok_or_else(|| {
        TableError::UnknownMaterial {
            asked: asked.to_owned(),
            known: MATERIALS.iter().map(|m| m.id.as_str()).collect::<Vec<_>>().join(", "),
        }
    })
}

/// Typical elastic data of a family.
pub fn elastic_family(family: &str) -> Option<Elastic> {
    rows(include_str!("../data/elastic.csv")).find(|r| r[0] == family).map(|r| Elastic {
        youngs_modulus_pa: Stress::from_pa(figure(&r[1]) * 1e9),
        linear_expansion_per_k: figure(&r[2]) * 1e-6,
        poisson_ratio: figure(&r[3]),
    })
}

/// Rating of a flange at 38 °C.
///
/// # Errors
/// Where the table has none.
pub fn flange_rating(group: &str, class: u16) -> Result<GaugePressure, TableError> {
    rows(include_str!("../data/flange-ratings.csv"))
        .find(|r| r[0] == group && r[1] == class.to_string())
        .map(|r| GaugePressure::from_bar(figure(&r[2])))
        .ok_or_else(|| TableError::UnknownFlange { class, group: if group.is_empty() { "(none)".to_owned() } else { group.to_owned() } })
}

/// Outside diameter and wall of a steel pipe.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PipeSize {
    /// Outside diameter.
    pub outside_diameter: Length,
    /// Nominal wall.
    pub wall: Length,
}

/// NPS that goes with a DN of ISO 6708.
const DN_TO_NPS: &[(u32, f64)] = &[
    (6, 0.125),
    (8, 0.25),
    (10, 0.375),
    (15, 0.5),
    (20, 0.75),
    (25, 1.0),
    (32, 1.25),
    (40, 1.5),
    (50, 2.0),
    (65, 2.5),
    (80, 3.0),
    (90, 3.5),
    (100, 4.0),
    (125, 5.0),
    (150, 6.0),
    (200, 8.0),
    (250, 10.0),
    (300, 12.0),
    (350, 14.0),
    (400, 16.0),
    (450, 18.0),
    (500, 20.0),
    (550, 22.0),
    (600, 24.0),
    (650, 26.0),
    (700, 28.0),
    (750, 30.0),
    (800, 32.0),
    (850, 34.0),
    (900, 36.0),
    (950, 38.0),
    (1000, 40.0),
    (1050, 42.0),
    (1100, 44.0),
    (1150, 46.0),
    (1200, 48.0),
];

/// NPS of a DN.
pub fn nps_of_dn(dn: u32) -> Option<f64> {
    DN_TO_NPS.iter().find(|(d, _)| *d == dn).map(|(_, nps)| *nps)
}

/// Outside diameter of an NPS.
pub fn outside_diameter(nps: f64) -> Option<Length> {
    rows(include_str!("../data/pipe-sizes.csv")).find(|r| figure(&r[0]) == nps).map(|r| Length::from_mm(figure(&r[2])))
}

/// A pipe by NPS and schedule.
///
/// # Errors
/// When the table has none.
pub fn pipe(nps: f64, schedule: &str) -> Result<PipeSize, TableError> {
    let wanted = schedule.trim().to_uppercase();
    rows(include_str!("../data/pipe-sizes.csv"))
        .find(|r| figure(&r[0]) == nps && r[1] == wanted)
        .map(|r| PipeSize { outside_diameter: Length::from_mm(figure(&r[2])), wall: Length::from_mm(figure(&r[3])) })
        .ok_or_else(|| TableError::UnknownPipe { size: format!("NPS {nps}"), wall: schedule.trim().to_owned() })
}
