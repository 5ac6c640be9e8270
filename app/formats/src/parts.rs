//! Parts of a system from a table: a file, or what was pasted into the grid. The text stays as typed.

use quantity::bounds::{DIAMETER, HEIGHT, LIMIT_PRESSURE, PART_LENGTH, VOLUME, WALL};
use quantity::parse::{self, ParseQuantityError};
use quantity::{Length, PressureUnit};
use rules::library::{Library, Nominal, pipe};
use rules::part::{Part, PartKind, Seat};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

/// Columns of the grid, in order: name, and what people also call it.
pub const COLUMNS: [(&str, &[&str]); 18] = [
    ("tag", &["part", "name", "item", "teil"]),
    ("kind", &["type", "art"]),
    ("height", &["elevation", "level", "z", "höhe", "hoehe"]),
    ("size", &["dn", "nps", "diameter", "nennweite"]),
    ("wall", &["schedule", "sch", "thickness", "wand", "wandstärke"]),
    ("length", &["länge", "laenge"]),
    ("material", &["werkstoff"]),
    ("class", &["rating class", "flange class", "klasse"]),
    ("rating", &["maker's rating", "nenndruck"]),
    ("limit", &["test limit", "max test pressure", "prüfgrenze"]),
    ("volume", &["content", "volumen", "inhalt"]),
    ("seal", &["sealing diameter", "gasket", "gasket diameter", "dichtung"]),
    ("restraint", &["thrust restraint", "anchor", "abstützung"]),
    ("bend", &["angle", "winkel"]),
    ("test pressure", &["vessel test pressure", "prüfdruck"]),
    ("proven", &["last proof", "proof"]),
    ("seat", &["sitz"]),
    ("corrosion", &["corrosion allowance", "korrosion"]),
];

/// Columns whose name may carry a unit.
const MEASURED: [&str; 13] =
    ["height", "size", "wall", "length", "rating", "limit", "volume", "seal", "restraint", "bend", "test pressure", "proven", "corrosion"];

/// What is wrong with one cell.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CellProblem {
    /// Name of the column.
    pub column: String,
    /// What was found and what would be accepted.
    pub sentence: String,
}

/// The fate of one row.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RowFate {
    /// Line in the file, or row of the grid, the first being 1.
    pub line: usize,
    /// The cells in the order of [`COLUMNS`], as typed; behind a bare figure stands the unit that its column's name carried, so
    /// that the cells mean the same wherever they are put.
    pub cells: Vec<String>,
    /// The part, when nothing is wrong.
    pub part: Option<Part>,
    /// What is wrong.
    pub problems: Vec<CellProblem>,
}

/// The fate of a whole table.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PartsFate {
    /// Each row.
    pub rows: Vec<RowFate>,
    /// Columns of the file that mean nothing here.
    pub ignored_columns: Vec<String>,
    /// How many rows are good.
    pub good: usize,
}

impl PartsFate {
    /// The parts, when every row is good.
    pub fn parts(&self) -> Option<Vec<Part>> {
        self.rows.iter().map(|r| r.part.clone()).collect()
    }
}

/// A column as found: its place in the file, and the unit that its name carries ("rating [psi]").
#[derive(Clone, Default)]
struct Column {
    at: Option<usize>,
    unit: String,
}

impl Column {
    /// The cell of a row, with the unit of its column behind a bare figure.
    fn cell(&self, row: &[String]) -> String {
        let cell = self.at.and_then(|i| row.get(i)).map_or("", |c| c.trim());
        let bare = cell.chars().all(|c| c.is_ascii_digit() || matches!(c, '.' | ',' | '-' | '−' | '+' | ' '));
        if bare && !cell.is_empty() && !self.unit.is_empty() { format!("{cell} {}", self.unit) } else { cell.to_owned() }
    }
}

fn split_unit(name: &str) -> (String, String) {
    let plain = name.trim().to_lowercase();
    match plain.find(['[', '(']) {
        Some(open) => (plain[..open].trim().to_owned(), plain[open + 1..].trim_end_matches([']', ')', ' ']).to_owned()),
        None => (plain, String::new()),
    }
}

/// Reads a table of parts. Nothing is stored here: the caller shows each row's fate, and stores only when all are good.
pub fn read(library: &Library, header: &[String], rows: &[Vec<String>], lines: &[usize]) -> PartsFate {
    let mut columns: [Column; COLUMNS.len()] = std::array::from_fn(|_| Column::default());
    let mut ignored = Vec::new();
    for (i, name) in header.iter().enumerate() {
        let (plain, unit) = split_unit(name);
        match COLUMNS.iter().position(|(n, also)| *n == plain || also.contains(&plain.as_str())) {
            Some(c) if columns[c].at.is_none() => {
                columns[c] = Column { at: Some(i), unit: if MEASURED.contains(&COLUMNS[c].0) { unit } else { String::new() } };
            }
            _ if name.trim().is_empty() => {}
            _ => ignored.push(name.trim().to_owned()),
        }
    }
    let mut seen: HashSet<String> = HashSet::new();
    let rows: Vec<RowFate> = rows
        .iter()
        .enumerate()
        .map(|(n, row)| {
            let cells: Vec<String> = columns.iter().map(|c| c.cell(row)).collect();
            let mut fate = row_fate(library, lines.get(n).copied().unwrap_or(n + 1), cells);
            let tag = fate.cells[0].clone();
            if seen.contains(&tag) {
                fate.part = None;
                fate.problems.push(CellProblem {
                    column: "tag".to_owned(),
                    sentence: format!("\"{tag}\" stands in an earlier row too: give each part its own tag."),
                });
            }
            seen.insert(tag);
            fate
        })
        .collect();
    let good = rows.iter().filter(|r| r.part.is_some()).count();
    PartsFate { rows, ignored_columns: ignored, good }
}

/// Collects what is wrong while the cells of a row are read.
struct Row<'a> {
    library: &'a Library,
    cells: &'a [String],
    problems: Vec<CellProblem>,
}

impl Row<'_> {
    fn text(&self, column: usize) -> &str {
        &self.cells[column]
    }
    fn problem(&mut self, column: usize, sentence: String) {
        self.problems.push(CellProblem { column: COLUMNS[column].0.to_owned(), sentence: format!("{sentence}.") });
    }
    /// An optional cell.
    fn optional<T>(&mut self, column: usize, read: impl Fn(&str) -> Result<T, ParseQuantityError>) -> Option<T> {
        if self.text(column).is_empty() {
            return None;
        }
        self.needed(column, read)
    }
    fn needed<T>(&mut self, column: usize, read: impl Fn(&str) -> Result<T, ParseQuantityError>) -> Option<T> {
        match read(self.text(column)) {
            Ok(v) => Some(v),
            Err(e) => {
                self.problem(column, e.to_string());
                None
            }
        }
    }
}

fn row_fate(library: &Library, line: usize, cells: Vec<String>) -> RowFate {
    let mut row = Row { library, cells: &cells, problems: Vec::new() };
    let pressure = |text: &str| parse::gauge_pressure(&LIMIT_PRESSURE, text, PressureUnit::Bar).map(|p| p.0);
    if row.text(0).is_empty() {
        row.problem(0, "the tag is missing: give what people call the part".to_owned());
    }
    let kind = PartKind::from_word(row.text(1));
    if kind.is_none() {
        let known = PartKind::ALL.map(|k| k.1).join(", ");
        let sentence = format!("\"{}\" is not a kind of part: use {known}", row.text(1));
        row.problem(1, sentence);
    }
    let elevation = row.needed(2, |t| parse::length(&HEIGHT, t, "m"));
    let material = material(&mut row);
    let (diameter, wall) = size_and_wall(&mut row, material.as_deref());
    let length = row.optional(5, |t| parse::length(&PART_LENGTH, t, "m"));
    let class = class(&mut row);
    let rating = row.optional(8, pressure);
    let limit = row.optional(9, pressure);
    let volume = row.optional(10, |t| parse::volume(&VOLUME, t));
    let seal = row.optional(11, |t| parse::length(&DIAMETER, t, "mm"));
    let restraint = figure(&mut row, 12, "kN", 1e4).map(|kn| kn * 1e3);
    let bend = figure(&mut row, 13, "°", 180.0);
    let test_pressure = row.optional(14, pressure);
    let proven = row.optional(15, pressure);
    let seat = seat(&mut row);
    let corrosion = row.optional(17, |t| parse::length(&WALL, t, "mm"));
    let problems = row.problems;
    let part = match (kind, elevation, problems.is_empty()) {
        (Some(kind), Some(elevation), true) => Some(Part {
            outside_diameter_m: diameter,
            wall_m: wall,
            length_m: length,
            volume_m3: volume,
            material,
            flange_class: class,
            rating_pa: rating,
            test_limit_pa: limit,
            sealing_diameter_m: seal,
            restraint_n: restraint,
            bend_deg: bend,
            test_pressure_pa: test_pressure,
            proven_pa: proven,
            seat,
            corrosion_m: corrosion,
            ..Part::new(&cells[0], kind, elevation)
        }),
        _ => None,
    };
    RowFate { line, cells, part, problems }
}

fn material(row: &mut Row) -> Option<String> {
    if row.text(6).is_empty() {
        return None;
    }
    match row.library.material(row.text(6)) {
        Ok(m) => Some(m.id.clone()),
        Err(e) => {
            row.problem(6, e.to_string());
            None
        }
    }
}

/// A bare figure above zero with its unit behind it or not, up to a greatest.
fn figure(row: &mut Row, column: usize, unit: &str, most: f64) -> Option<f64> {
    let text = row.text(column).trim().to_owned();
    if text.is_empty() {
        return None;
    }
    let bare = text.trim_end_matches(unit).trim_end_matches("deg").trim().replace(',', ".");
    let read = bare.parse::<f64>().ok().filter(|v| *v > 0.0 && *v <= most);
    if read.is_none() {
        row.problem(column, format!("\"{text}\" is not a figure above zero up to {most}: give it in {unit}"));
    }
    read
}

fn seat(row: &mut Row) -> Option<Seat> {
    match row.text(16).trim().to_lowercase().as_str() {
        "" => None,
        "metal" | "metal seated" | "metal_seated" => Some(Seat::MetalSeated),
        "resilient" | "rubber" => Some(Seat::Resilient),
        other => {
            let sentence = format!("\"{other}\" is not a seat: use metal or resilient");
            row.problem(16, sentence);
            None
        }
    }
}

fn class(row: &mut Row) -> Option<u16> {
    let text = row.text(7).trim_start_matches(['#', ' ']).to_owned();
    if text.is_empty() {
        return None;
    }
    let read = text.parse().ok();
    if read.is_none() {
        row.problem(7, format!("\"{text}\" is not a class: use 150, 300, 600, 900, 1500 or 2500"));
    }
    read
}

/// "DN150", "6 in", "NPS 6": a pipe of the table of its material; "168.3 mm": an outside diameter.
enum Size {
    Nominal(Nominal, Length),
    Diameter(Length),
}

fn size(library: &Library, family: &str, text: &str) -> Result<Size, String> {
    let plain = text.trim().to_uppercase().replace(',', ".");
    let help = "write DN150, 6 in, NPS 6 or an outside diameter such as 168.3 mm";
    if let Some(dn) = plain.strip_prefix("DN") {
        let found = dn.trim().parse().ok().map(Nominal::Dn).and_then(|n| Some(Size::Nominal(n, library.outside_diameter(n, family)?)));
        return found.ok_or_else(|| format!("\"{text}\" is not a DN of the table: {help}"));
    }
    let inches = plain.strip_prefix("NPS").or_else(|| plain.strip_suffix("IN")).or_else(|| plain.strip_suffix('"'));
    if let Some(nps) = inches {
        let found = nps.trim().parse().ok().map(Nominal::Nps).and_then(|n| Some(Size::Nominal(n, library.outside_diameter(n, family)?)));
        return found.ok_or_else(|| format!("\"{text}\" is not an NPS of the table: {help}"));
    }
    if !plain.ends_with("MM") && !plain.ends_with('M') {
        return Err(format!("\"{text}\" does not say what it is: {help}"));
    }
    parse::length(&DIAMETER, text, "mm").map(Size::Diameter).map_err(|e| e.to_string())
}

/// "sch 40", "STD", "10S", "DR18", "class 52", "K9", "type L": of the table of the material; "SDR 11": a ratio; "7.11 mm" or "7.11": a thickness. A
/// bare whole number could be several of these and is asked about.
fn size_and_wall(row: &mut Row, material: Option<&str>) -> (Option<Length>, Option<Length>) {
    let (size_text, wall_text) = (row.text(3).to_owned(), row.text(4).to_owned());
    if size_text.trim().is_empty() {
        if !wall_text.trim().is_empty() {
            row.problem(3, "a wall is given without a size: write DN150, 6 in or an outside diameter in mm".to_owned());
        }
        return (None, None);
    }
    let library = row.library;
    let family = material.and_then(|m| library.material(m).ok()).map_or("", |m| m.family.as_str());
    let size = match size(library, family, &size_text) {
        Ok(s) => s,
        Err(e) => {
            row.problem(3, e);
            return (None, None);
        }
    };
    let (Size::Nominal(_, diameter) | Size::Diameter(diameter)) = size;
    let plain = wall_text.trim().to_uppercase();
    if plain.is_empty() {
        return (Some(diameter), None);
    }
    let ratio = plain.strip_prefix("SDR").or_else(|| plain.strip_prefix("DR")).and_then(|r| r.trim().parse::<f64>().ok());
    let tabled = matches!((family, &size), ("pvc", Size::Nominal(..)));
    if let Some(ratio) = ratio.filter(|_| !tabled) {
        if !(4.0..=60.0).contains(&ratio) {
            row.problem(4, format!("\"{plain}\" is not a dimension ratio: write SDR 11, 4 to 60"));
            return (Some(diameter), None);
        }
        return (Some(diameter), Some(pipe::wall_by_ratio(diameter, ratio)));
    }
    let named = plain.strip_prefix("SCH").map(|s| s.trim_start_matches(['.', ' ']).to_owned());
    let letters =
        plain.contains(|c: char| c.is_ascii_alphabetic()) && !plain.ends_with("MM") && !plain.ends_with("IN") && !plain.ends_with('M');
    let schedule = named.or_else(|| letters.then(|| plain.clone()));
    let wall = match (schedule, size) {
        (Some(schedule), Size::Nominal(nominal, _)) => library.pipe(nominal, &schedule, family).map(|p| p.wall).map_err(|e| e.to_string()),
        (Some(_), Size::Diameter(_)) => Err("a schedule needs a DN or NPS; for a plain diameter give the wall in mm".to_owned()),
        (None, Size::Nominal(..)) if plain.parse::<u32>().is_ok() => {
            Err(format!("\"{plain}\" may be a schedule or millimetres: write \"sch {plain}\" or \"{plain} mm\""))
        }
        (None, _) => parse::length(&WALL, &wall_text, "mm").map_err(|e| e.to_string()),
    };
    match wall {
        Ok(w) => (Some(diameter), Some(w)),
        Err(e) => {
            row.problem(4, e);
            (Some(diameter), None)
        }
    }
}
