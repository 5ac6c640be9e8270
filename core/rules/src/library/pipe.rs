//! Pipe by its size and the words for its wall: steel schedules, PVC dimension ratios, ductile iron classes, copper types, PE ratios.

use super::Library;
use super::error::TableError;
use super::table::Table;
use quantity::Length;

/// Outside diameter and wall of a pipe.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PipeSize {
    /// Outside diameter.
    pub outside_diameter: Length,
    /// Nominal wall.
    pub wall: Length,
}

/// A nominal size.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Nominal {
    /// DN of ISO 6708.
    Dn(u32),
    /// NPS, inches.
    Nps(f64),
}

impl Nominal {
    fn nps(self) -> Option<f64> {
        match self {
            Self::Dn(dn) => nps_of_dn(dn),
            Self::Nps(nps) => Some(nps),
        }
    }

    fn words(self) -> String {
        match self {
            Self::Dn(dn) => format!("DN{dn}"),
            Self::Nps(nps) => format!("NPS {nps}"),
        }
    }
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

/// What a family of materials calls its walls.
struct Family {
    table: &'static str,
    words: &'static str,
    size: &'static str,
    wall: &'static str,
    /// What is written before the wall, and means nothing.
    before: &'static [&'static str],
    help: &'static str,
}

const STEEL: Family = Family {
    table: "pipe-sizes",
    words: "pipe sizes",
    size: "nps",
    wall: "schedule",
    before: &["SCHEDULE", "SCH."],
    help: "give schedule as 40, 80, STD, 10S … or the wall in mm",
};

fn family(material_family: &str) -> Family {
    match material_family {
        "pvc" => Family {
            table: "pvc-pipe",
            words: "PVC pipe",
            size: "nps",
            wall: "dr",
            before: &["SDR", "DR"],
            help: "give the ratio as DR14, DR18 or DR25, or the wall in mm",
        },
        "ductile_iron" => Family {
            table: "ductile-iron-pipe",
            words: "ductile iron pipe",
            size: "dn",
            wall: "class",
            before: &["CLASS"],
            help: "give class 50 to 53 (sizes in inches) or K9 (DN), or diameter and wall in mm",
        },
        "copper" => Family {
            table: "copper-tube",
            words: "copper tube",
            size: "nps",
            wall: "type",
            before: &["TYPE"],
            help: "give type K, L or M, or diameter and wall in mm",
        },
        _ => STEEL,
    }
}

fn figure(cell: &str) -> f64 {
    cell.parse().unwrap_or(f64::NAN)
}

/// The wall as the table has it: without what people write before it.
fn plain_wall(family: &Family, wall: &str) -> String {
    let plain = wall.trim().to_uppercase();
    let rest = family.before.iter().chain(&["SCH"]).find_map(|b| plain.strip_prefix(b)).unwrap_or(&plain);
    rest.trim_start_matches(['.', ' ', '-']).to_owned()
}

impl Library {
    fn size_of(&self, row: &[String], table: &Table) -> PipeSize {
        let cell = |name: &str| table.column(name).and_then(|c| row.get(c)).map_or(f64::NAN, |c| figure(c));
        PipeSize { outside_diameter: Length::from_mm(cell("outside_diameter_mm")), wall: Length::from_mm(cell("wall_thickness_mm")) }
    }

    /// Outside diameter of a nominal size, steel where no family is named.
    pub fn outside_diameter(&self, nominal: Nominal, material_family: &str) -> Option<Length> {
        let family = family(material_family);
        let table = self.table(family.table)?;
        let wanted = if family.size == "dn" { dn_of(nominal).map(f64::from) } else { nominal.nps() }?;
        let at = table.column(family.size)?;
        table.rows.iter().find(|r| figure(&r[at]) == wanted).map(|r| self.size_of(r, table).outside_diameter)
    }

    /// A pipe by nominal size and the words for its wall, in the table of its material's family.
    ///
    /// # Errors
    /// When the table has none.
    pub fn pipe(&self, nominal: Nominal, wall: &str, material_family: &str) -> Result<PipeSize, TableError> {
        let family = family(material_family);
        let plain = plain_wall(&family, wall);
        let missing = || TableError::UnknownPipe {
            pipe: format!("{} with wall \"{}\"", nominal.words(), wall.trim()),
            table: family.words,
            help: family.help,
        };
        let table = self.table(family.table).ok_or_else(missing)?;
        let wanted = if family.size == "dn" { dn_of(nominal).map(f64::from) } else { nominal.nps() }.ok_or_else(missing)?;
        let (size, by_wall) = (table.column(family.size).ok_or_else(missing)?, table.column(family.wall).ok_or_else(missing)?);
        table.rows.iter().find(|r| figure(&r[size]) == wanted && r[by_wall] == plain).map(|r| self.size_of(r, table)).ok_or_else(missing)
    }
}

fn dn_of(nominal: Nominal) -> Option<u32> {
    match nominal {
        Nominal::Dn(dn) => Some(dn),
        Nominal::Nps(nps) => DN_TO_NPS.iter().find(|(_, n)| *n == nps).map(|(dn, _)| *dn),
    }
}

/// Wall by a dimension ratio: the outside diameter over it, rounded up to 0.1 mm as pipe is made.
pub fn wall_by_ratio(outside_diameter: Length, ratio: f64) -> Length {
    Length::from_mm(quantity::format::round_up(outside_diameter.mm() / ratio, 0.1))
}
