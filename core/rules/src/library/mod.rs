//! The data library that ships with the product, and what a project put in place of its values. Each file says where its values come from; nothing
//! is extrapolated.

mod error;
mod material;
pub mod pipe;
mod table;

pub use error::TableError;
pub use material::{Creep, Material, Ratings, Wall};
pub use pipe::{Nominal, PipeSize};
pub use table::Table;

use physics::elastic::Elastic;
use quantity::{GaugePressure, Stress, Temperature};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::sync::{Arc, LazyLock};

/// The tables that ship, with their names.
pub const FILES: [(&str, &str); 13] = [
    ("materials.csv", include_str!("../../data/materials.csv")),
    ("stress-ii-d.csv", include_str!("../../data/stress-ii-d.csv")),
    ("stress-viii-2.csv", include_str!("../../data/stress-viii-2.csv")),
    ("stress-en.csv", include_str!("../../data/stress-en.csv")),
    ("plastic-derating.csv", include_str!("../../data/plastic-derating.csv")),
    ("flange-ratings.csv", include_str!("../../data/flange-ratings.csv")),
    ("elastic.csv", include_str!("../../data/elastic.csv")),
    ("walls.csv", include_str!("../../data/walls.csv")),
    ("pipe-sizes.csv", include_str!("../../data/pipe-sizes.csv")),
    ("pvc-pipe.csv", include_str!("../../data/pvc-pipe.csv")),
    ("ductile-iron-pipe.csv", include_str!("../../data/ductile-iron-pipe.csv")),
    ("copper-tube.csv", include_str!("../../data/copper-tube.csv")),
    ("pe-pipe.csv", include_str!("../../data/pe-pipe.csv")),
];

/// A value that a project puts in place of a shipped one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Override {
    /// Table, as `materials`.
    pub table: String,
    /// Row, by its key cells, as `a106_b` or `1.1 150`.
    pub row: String,
    /// Column, as `yield_ksi`.
    pub column: String,
    /// The value, in the unit of its column; empty puts back "not known".
    pub value: String,
    /// Why it differs.
    pub reason: String,
    /// Where it comes from.
    pub source: String,
}

/// Stresses of one material in a code's own table: the table, the material, its values by temperature.
type CodeStress = (String, String, Vec<(Temperature, f64)>);

/// The tables, ready to be looked into.
#[derive(Debug, Clone, PartialEq)]
pub struct Library {
    tables: Vec<Table>,
    overrides: Vec<Override>,
    materials: Vec<Material>,
    by_name: HashMap<String, usize>,
    ratings: Vec<(String, u16, Ratings)>,
    /// Stresses of codes with a table of their own: table, material, values by temperature.
    stresses: Vec<CodeStress>,
    /// What is left of plastics by temperature.
    derating: Vec<(String, Vec<(Temperature, f64)>)>,
}

/// The table in which the stresses of B31.3 stand, beside everything else of a material.
const MATERIALS: &str = "materials";

/// What people also write for a material.
const ALSO_CALLED: [(&str, &str); 12] = [
    ("copper", "c12200_annealed"),
    ("silver-soldered copper", "c12200_annealed"),
    ("gunmetal", "bronze"),
    ("PVC", "pvc"),
    ("PVC-U", "pvc"),
    ("PE", "pe100"),
    ("HDPE", "pe100"),
    ("GRP", "grp"),
    ("ductile iron", "ductile_iron"),
    ("gray iron", "gray_iron"),
    ("steel not known", "steel_unknown"),
    ("grade not known", "steel_unknown"),
];

fn figure(cell: &str) -> Option<f64> {
    cell.parse().ok()
}

fn plain(name: &str) -> String {
    name.to_lowercase().replace([' ', '-', '_'], "")
}

static SHIPPED: LazyLock<Arc<Library>> =
    LazyLock::new(|| Arc::new(Library::of(FILES.iter().map(|(name, text)| Table::read(name, text)).collect(), vec![])));

/// The library that ships.
pub fn shipped() -> &'static Arc<Library> {
    &SHIPPED
}

impl Library {
    /// Reads tables from the text of their files.
    pub fn read(files: &[(&str, &str)]) -> Self {
        Self::of(files.iter().map(|(name, text)| Table::read(name, text)).collect(), vec![])
    }

    fn of(tables: Vec<Table>, overrides: Vec<Override>) -> Self {
        let mut library =
            Self { tables, overrides, materials: vec![], by_name: HashMap::new(), ratings: vec![], stresses: vec![], derating: vec![] };
        library.materials = library.read_materials();
        for (i, m) in library.materials.iter().enumerate() {
            for name in [m.id.as_str(), m.name.as_str()].into_iter().chain(m.name.split(',')) {
                library.by_name.entry(plain(name)).or_insert(i);
            }
            library.by_name.insert(m.id.clone(), i);
        }
        for (name, id) in ALSO_CALLED {
            if let Some(i) = library.by_name.get(id).copied() {
                library.by_name.entry(plain(name)).or_insert(i);
            }
        }
        library.ratings = library.read_ratings();
        library.stresses = library.read_stresses();
        library.derating = library.read_derating();
        library
    }

    /// The library with a project's values in place of the shipped ones.
    ///
    /// # Errors
    /// Names the table, row and column that does not exist, a value that is no figure, and a reason or source that is missing.
    pub fn with(&self, overrides: &[Override]) -> Result<Self, TableError> {
        let mut tables = self.tables.clone();
        for o in overrides {
            check(o)?;
            *cell_of(&mut tables, o)? = o.value.trim().to_owned();
        }
        Ok(Self::of(tables, overrides.to_vec()))
    }

    /// Allowable stress of a material by the table of a code, interpolated linearly; the first column holds from −29 °C up.
    ///
    /// # Errors
    /// Where the code has no table of its own or no value for the material, and outside the table.
    pub fn allowable(&self, table: &str, material: &Material, t: Temperature) -> Result<Stress, TableError> {
        if table == MATERIALS {
            return material.allowable(t);
        }
        let found = self.stresses.iter().find(|(of, id, _)| of == table && *id == material.id);
        let Some((_, _, rows)) = found.filter(|(_, _, rows)| !rows.is_empty()) else {
            return Err(TableError::NoStressByCode { material: material.name.clone(), table: table.to_owned() });
        };
        let most_c = rows.last().map_or(f64::NAN, |r| r.0.c());
        let outside = || TableError::OutsideTable { what: format!("{} ({table})", material.name), asked_c: t.c(), most_c };
        material::interpolated(rows, t).map(Stress::from_pa).ok_or_else(outside)
    }

    /// What is left of the strength of a plastic at a temperature; 1 for what does not soften.
    ///
    /// # Errors
    /// Warmer than the table.
    pub fn plastic_share(&self, family: &str, t: Temperature) -> Result<f64, TableError> {
        let Some((_, rows)) = self.derating.iter().find(|(f, _)| f == family) else { return Ok(1.0) };
        let most_c = rows.last().map_or(f64::NAN, |r| r.0.c());
        let outside = || TableError::OutsideTable { what: format!("the derating of {family}"), asked_c: t.c(), most_c };
        material::interpolated(rows, t).ok_or_else(outside)
    }

    /// All tables.
    pub fn tables(&self) -> &[Table] {
        &self.tables
    }

    /// One table.
    pub fn table(&self, name: &str) -> Option<&Table> {
        self.tables.iter().find(|t| t.name == name)
    }

    /// All materials.
    pub fn materials(&self) -> &[Material] {
        &self.materials
    }

    /// A material by its id, or by its name written with or without blanks and case.
    ///
    /// # Errors
    /// When there is none.
    pub fn material(&self, asked: &str) -> Result<&Material, TableError> {
        self.by_name.get(asked).or_else(|| self.by_name.get(&plain(asked))).map(|i| &self.materials[*i]).ok_or_else(|| {
            TableError::UnknownMaterial {
                asked: asked.to_owned(),
                known: self.materials.iter().map(|m| m.id.as_str()).collect::<Vec<_>>().join(", "),
            }
        })
    }

    /// Ratings of a class in a material group.
    ///
    /// # Errors
    /// Where the table has none.
    pub fn ratings(&self, group: &str, class: u16) -> Result<&Ratings, TableError> {
        self.ratings.iter().find(|(g, c, _)| *c == class && g == group).map(|r| &r.2).ok_or_else(|| TableError::UnknownFlange {
            class,
            group: if group.is_empty() { "(none)".to_owned() } else { group.to_owned() },
        })
    }

    /// Typical elastic data of a family.
    pub fn elastic(&self, family: &str) -> Option<Elastic> {
        let row = self.table("elastic")?.rows.iter().find(|r| r.first().is_some_and(|f| f == family))?;
        Some(Elastic {
            youngs_modulus_pa: Stress::from_pa(figure(&row[1])? * 1e9),
            linear_expansion_per_k: figure(&row[2])? * 1e-6,
            poisson_ratio: figure(&row[3])?,
        })
    }

    /// How the wall of a family creeps and how well its stretch is known; none for a family that the table does not have.
    pub fn wall(&self, family: &str) -> Option<Wall> {
        let row = self.table("walls")?.rows.iter().find(|r| r.first().is_some_and(|f| f == family))?;
        let creep = figure(&row[1]).zip(figure(&row[2])).map(|(coefficient, sd)| Creep { coefficient, sd });
        Some(Wall { creep, stretch_unc_95_rel: figure(&row[3])? })
    }

    /// Where a value of a row comes from: the shipped table, or the project with its reason.
    pub fn source(&self, table: &str, row: &str, column: &str) -> String {
        let own = |o: &&Override| o.table == table && o.row == row && (o.column == column || column.is_empty());
        match self.overrides.iter().find(own) {
            Some(o) => format!("the project's figure ({}): {}", o.source, o.reason),
            None => format!("{} table", table.replace('-', " ")),
        }
    }

    fn read_materials(&self) -> Vec<Material> {
        let Some(table) = self.table("materials") else { return vec![] };
        table
            .rows
            .iter()
            .filter_map(|r| {
                Some(Material {
                    id: r[0].clone(),
                    name: r[1].clone(),
                    family: r[2].clone(),
                    flange_group: r[3].clone(),
                    yield_pa: figure(&r[4]).map(Stress::from_ksi),
                    allowable: by_temperature(table, r, 's', Temperature::from_f)
                        .into_iter()
                        .map(|(t, v)| (t, Stress::from_ksi(v)))
                        .collect(),
                    // every family of materials.csv is in elastic.csv (tested)
                    elastic: self.elastic(&r[2])?,
                })
            })
            .collect()
    }

    fn read_stresses(&self) -> Vec<CodeStress> {
        let tables = self.tables.iter().filter(|t| t.name.starts_with("stress-"));
        let rows = tables.flat_map(|table| {
            table.rows.iter().map(|r| {
                let values = by_temperature(table, r, 's', Temperature::from_f).into_iter().map(|(t, v)| (t, Stress::from_ksi(v).pa()));
                (table.name.clone(), r[0].clone(), values.collect())
            })
        });
        rows.collect()
    }

    fn read_derating(&self) -> Vec<(String, Vec<(Temperature, f64)>)> {
        let rows =
            self.table("plastic-derating").map(|t| t.rows.iter().map(|r| (r[0].clone(), by_temperature(t, r, 'c', Temperature::from_c))));
        rows.into_iter().flatten().collect()
    }

    fn read_ratings(&self) -> Vec<(String, u16, Ratings)> {
        let Some(table) = self.table("flange-ratings") else { return vec![] };
        table
            .rows
            .iter()
            .filter_map(|r| {
                let rated = by_temperature(table, r, 'c', Temperature::from_c);
                let by_temperature = rated.into_iter().map(|(t, v)| (t, GaugePressure::from_bar(v).pa())).collect();
                Some((r[0].clone(), r[1].parse().ok()?, Ratings { by_temperature }))
            })
            .collect()
    }
}

/// The figures of a row whose columns are named by a letter and a temperature.
fn by_temperature(table: &Table, row: &[String], letter: char, read: fn(f64) -> Temperature) -> Vec<(Temperature, f64)> {
    let columns = table.columns.iter().enumerate().filter_map(|(i, c)| Some((i, read(c.strip_prefix(letter)?.parse().ok()?))));
    columns.filter_map(|(i, t)| Some((t, figure(row.get(i)?)?))).collect()
}

/// Table, row and column of an override, for a sentence.
fn place(o: &Override) -> String {
    format!("{}, {}, {}", o.table, o.row, o.column)
}

fn check(o: &Override) -> Result<(), TableError> {
    if o.reason.trim().is_empty() || o.source.trim().is_empty() {
        return Err(TableError::NoReason { place: place(o) });
    }
    let value = o.value.trim();
    if !value.is_empty() && !value.parse::<f64>().is_ok_and(|v| v > 0.0 && v.is_finite()) {
        return Err(TableError::NoFigure { place: place(o), value: value.to_owned() });
    }
    Ok(())
}

/// The cell that an override replaces: a figure of a row that is there.
fn cell_of<'a>(tables: &'a mut [Table], o: &Override) -> Result<&'a mut String, TableError> {
    let names = || FILES.iter().map(|(n, _)| n.trim_end_matches(".csv")).collect::<Vec<_>>().join(", ");
    let missing = |help: String| TableError::NoSuchPlace { place: place(o), help };
    let Some(table) = tables.iter_mut().find(|t| t.name == o.table) else {
        return Err(missing(format!("the tables are {}", names())));
    };
    let keys = table.key_columns();
    let figures: Vec<String> =
        table.columns.iter().skip(keys).filter(|c| !matches!(c.as_str(), "name" | "family" | "flange_group")).cloned().collect();
    let column = table
        .column(&o.column)
        .filter(|_| figures.contains(&o.column))
        .ok_or_else(|| missing(format!("its columns of figures are {}", figures.join(", "))))?;
    let at = table
        .rows
        .iter()
        .position(|r| table.key(r) == o.row)
        .ok_or_else(|| missing("no row of that name stands in the table".to_owned()))?;
    table.rows[at].get_mut(column).ok_or_else(|| missing("the row is shorter".to_owned()))
}
