//! Parts of a system from a table: a file, or what was pasted into the grid. The text stays as typed.

use crate::columns::{COLUMNS, FIRST};
use crate::heights::Ends;
use crate::size::size_and_wall;
use quantity::PressureUnit;
use quantity::bounds::{CORROSION, DESIGN_TEMPERATURE, DIAMETER, HEIGHT, LIMIT_PRESSURE, PART_LENGTH, VOLUME, WALL};
use quantity::parse::{self, ParseQuantityError};
use rules::library::Library;
use rules::part::{Form, Part, PartKind, Phase, Position, Positions, Seam, Seat, kind_from_words};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashSet};

/// Columns that only ever narrow, and the fields that they fill: they may be declared to be none.
const RESTRICTIONS: [(&str, &str); 3] = [("proven", "proven_pa"), ("restraint", "restraint_n"), ("corrosion", "corrosion_m")];

/// One row of the grid: its id, what was typed by column, and who declared a cell to be none.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, utoipa::ToSchema)]
pub struct GridRow {
    /// Stable id, made once by whoever made the row; empty where it is still to be made.
    #[serde(default)]
    pub id: String,
    /// What was typed, by the name of the column; empty cells are absent.
    pub typed: BTreeMap<String, String>,
    /// Who declared a cell to be none, by the name of its column.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub none_by: BTreeMap<String, String>,
}

impl<'de> Deserialize<'de> for GridRow {
    /// From a typed row, or from one of the first format, whose cells stand by their place.
    fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        #[derive(Deserialize)]
        #[serde(untagged)]
        enum Either {
            ByPlace(Vec<String>),
            Typed {
                #[serde(default)]
                id: String,
                typed: BTreeMap<String, String>,
                #[serde(default)]
                none_by: BTreeMap<String, String>,
            },
        }
        Ok(match Either::deserialize(d)? {
            Either::ByPlace(cells) => Self::by_place(&cells),
            Either::Typed { id, typed, none_by } => {
                Self { id, typed: typed.into_iter().filter(|(_, c)| !c.trim().is_empty()).collect(), none_by }
            }
        })
    }
}

impl GridRow {
    /// A row of the first format.
    pub fn by_place(cells: &[String]) -> Self {
        let typed = FIRST.iter().zip(cells).filter(|(_, c)| !c.trim().is_empty()).map(|(n, c)| ((*n).to_owned(), c.trim().to_owned()));
        Self { typed: typed.collect(), ..Self::default() }
    }

    /// What was typed into a column; empty where nothing was.
    pub fn cell(&self, column: &str) -> &str {
        self.typed.get(column).map_or("", |c| c.trim())
    }

    /// True where nothing was typed.
    pub fn is_empty(&self) -> bool {
        self.typed.values().all(|c| c.trim().is_empty())
    }

    /// Puts the unit that stood beside a column behind each bare pressure, so that it means the same to whoever opens it.
    pub fn with_unit(&mut self, unit: PressureUnit) {
        for column in COLUMNS.iter().filter(|c| c.is_pressure()).map(|c| c.name) {
            if let Some(cell) = self.typed.get_mut(column)
                && bare(cell)
            {
                *cell = format!("{} {}", cell.trim(), unit.symbol());
            }
        }
    }

    /// Notes who declared a cell to be none, where nobody is noted yet, and forgets those whose cell says otherwise.
    pub fn declared_by(&mut self, who: &str) {
        let none: Vec<String> = self.typed.iter().filter(|(_, c)| is_none(c)).map(|(n, _)| n.clone()).collect();
        self.none_by.retain(|column, _| none.contains(column));
        for column in none {
            self.none_by.entry(column).or_insert_with(|| who.to_owned());
        }
    }
}

/// True for a figure without a unit.
fn bare(cell: &str) -> bool {
    let cell = cell.trim();
    !cell.is_empty() && cell.chars().all(|c| c.is_ascii_digit() || matches!(c, '.' | ',' | '-' | '−' | '+' | ' '))
}

/// True for a cell that declares its figure not to be there.
fn is_none(cell: &str) -> bool {
    cell.trim().eq_ignore_ascii_case("none")
}

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
    /// The row as typed; behind a bare figure stands the unit that its column's name carried, so that the cells mean the same wherever they are
    /// put.
    pub row: GridRow,
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
    /// False where the first line names no columns, so that they must be asked for.
    pub headed: bool,
    /// The first line, where it names no columns.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub first_line: Vec<String>,
    /// The separator between its cells.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub separator: String,
    /// What else has to be known about the file: of a water network what of it was refused, at its line.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
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
        if bare(cell) && !self.unit.is_empty() { format!("{cell} {}", self.unit) } else { cell.to_owned() }
    }
}

fn split_unit(name: &str) -> (String, String) {
    let plain = name.trim().to_lowercase();
    match plain.find(['[', '(']) {
        Some(open) => (plain[..open].trim().to_owned(), plain[open + 1..].trim_end_matches([']', ')', ' ']).to_owned()),
        None => (plain, String::new()),
    }
}

/// The column that a name means.
fn column_named(plain: &str) -> Option<usize> {
    COLUMNS.iter().position(|c| c.name == plain || c.also.contains(&plain))
}

/// True for a line that names columns: two of them at least, and none of its cells is a figure.
pub fn is_header(cells: &[String]) -> bool {
    let known = cells.iter().filter(|c| column_named(&split_unit(c).0).is_some()).count();
    known >= 2 && !cells.iter().any(|c| bare(c))
}

/// Reads a table of parts with a line of names; a bare pressure under a name without a unit is in bar. Nothing is stored here: the caller shows
/// each row's fate, and stores only when all are good.
pub fn read(library: &Library, header: &[String], rows: &[Vec<String>], lines: &[usize]) -> PartsFate {
    read_in(library, header, rows, lines, PressureUnit::Bar)
}

fn read_in(library: &Library, header: &[String], rows: &[Vec<String>], lines: &[usize], unit: PressureUnit) -> PartsFate {
    let mut columns: [Column; COLUMNS.len()] = std::array::from_fn(|_| Column::default());
    let mut ignored = Vec::new();
    for (i, name) in header.iter().enumerate() {
        let (plain, unit) = split_unit(name);
        match column_named(&plain) {
            Some(c) if columns[c].at.is_none() => {
                columns[c] = Column { at: Some(i), unit: if COLUMNS[c].is_measured() { unit } else { String::new() } };
            }
            _ if name.trim().is_empty() => {}
            _ => ignored.push(name.trim().to_owned()),
        }
    }
    let grid: Vec<GridRow> = rows
        .iter()
        .map(|row| {
            let named = COLUMNS.iter().zip(&columns).map(|(column, c)| (column.name.to_owned(), c.cell(row)));
            let mut row = GridRow { typed: named.filter(|(_, c)| !c.is_empty()).collect(), ..GridRow::default() };
            row.with_unit(unit);
            row
        })
        .collect();
    PartsFate { ignored_columns: ignored, ..read_rows(library, &grid, lines, unit) }
}

/// Reads text as a table of parts; where its first line names no columns nothing is guessed, and the line is handed back so that they can be
/// asked for and given as `columns`. A bare pressure under a name without a unit is in `unit`, which is put behind it.
///
/// # Errors
/// When it is no table.
pub fn read_text(
    library: &Library,
    bytes: &[u8],
    columns: Option<&[String]>,
    unit: PressureUnit,
) -> Result<PartsFate, crate::delimited::TableError> {
    if crate::workbook::is_old_workbook(bytes) {
        return Err(crate::delimited::TableError::NoTable("the file is a spreadsheet of before 2007: save it as XLSX or CSV".to_owned()));
    }
    if crate::workbook::is_workbook(bytes) {
        return read_workbook(library, bytes, columns, unit);
    }
    if let Some(columns) = columns {
        let table = crate::delimited::read_under(columns, bytes)?;
        return Ok(read_in(library, &table.header, &table.rows, &table.lines, unit));
    }
    let (text, _) = crate::delimited::decode(bytes)?;
    if crate::network::is_network(&text) {
        return read_network(library, bytes, unit);
    }
    let separator = crate::delimited::separator_of(&text);
    let mut lines = crate::delimited::reader(&text, separator);
    let first: Vec<String> = lines.headers().map_err(|e| crate::delimited::broken(&e))?.iter().map(str::to_owned).collect();
    if !is_header(&first) && !first.iter().all(String::is_empty) {
        let separator = char::from(separator).to_string();
        return Ok(PartsFate {
            rows: vec![],
            ignored_columns: vec![],
            good: 0,
            headed: false,
            first_line: first,
            separator,
            notes: vec![],
        });
    }
    let table = crate::delimited::read(bytes)?;
    Ok(read_in(library, &table.header, &table.rows, &table.lines, unit))
}

/// The same of a water network.
fn read_network(library: &Library, bytes: &[u8], unit: PressureUnit) -> Result<PartsFate, crate::delimited::TableError> {
    const MOST_NOTES: usize = 50;
    let network = crate::network::read(bytes)?;
    let fate = read_rows(library, &crate::network_parts::rows(&network), &[], unit);
    let mut notes: Vec<String> = network
        .findings
        .iter()
        .take(MOST_NOTES)
        .map(|f| if f.line > 0 { format!("Line {}: {}", f.line, f.sentence) } else { f.sentence.clone() })
        .collect();
    if network.findings.len() > MOST_NOTES {
        notes.push(format!("And {} more.", network.findings.len() - MOST_NOTES));
    }
    Ok(PartsFate { notes, ..fate })
}

/// The same of a spreadsheet: what it shows and does not hold is refused at its cell.
fn read_workbook(
    library: &Library,
    bytes: &[u8],
    columns: Option<&[String]>,
    unit: PressureUnit,
) -> Result<PartsFate, crate::delimited::TableError> {
    let mut sheet = crate::workbook::read(bytes, is_header)?;
    let table = &mut sheet.table;
    if let Some(columns) = columns {
        // the first line holds a part too
        table.rows.insert(0, std::mem::replace(&mut table.header, columns.to_vec()));
        table.lines.insert(0, table.lines.first().map_or(1, |l| l - 1));
        sheet.refused.iter_mut().for_each(|r| r.row += 1);
    } else if !is_header(&table.header) {
        let first_line = std::mem::take(&mut table.header);
        let separator = table.separator.clone();
        return Ok(PartsFate { rows: vec![], ignored_columns: vec![], good: 0, headed: false, first_line, separator, notes: vec![] });
    }
    let mut fate = read_in(library, &table.header, &table.rows, &table.lines, unit);
    for refused in sheet.refused {
        let column = table.header.get(refused.at).map_or_else(String::new, |h| split_unit(h).0);
        // of a column that means nothing here nothing is refused
        let (Some(name), Some(row)) = (column_named(&column), fate.rows.get_mut(refused.row)) else { continue };
        row.problems.retain(|p| p.column != COLUMNS[name].name);
        row.problems.push(CellProblem { column: COLUMNS[name].name.to_owned(), sentence: refused.sentence });
        row.part = None;
    }
    fate.good = fate.rows.iter().filter(|r| r.part.is_some()).count();
    Ok(fate)
}

/// Reads rows of the grid; a bare pressure is in `unit`.
pub fn read_rows(library: &Library, grid: &[GridRow], lines: &[usize], unit: PressureUnit) -> PartsFate {
    let mut seen: HashSet<&str> = HashSet::new();
    let heights = crate::heights::of(grid);
    let rows: Vec<RowFate> = grid
        .iter()
        .zip(heights)
        .enumerate()
        .map(|(n, (row, height))| {
            let mut fate = row_fate(library, lines.get(n).copied().unwrap_or(n + 1), row, height, unit);
            let tag = row.cell("tag");
            if !tag.is_empty() && !seen.insert(tag) {
                fate.part = None;
                fate.problems.push(CellProblem {
                    column: "tag".to_owned(),
                    sentence: format!("\"{tag}\" stands in an earlier row too: give each part its own tag."),
                });
            }
            fate
        })
        .collect();
    let good = rows.iter().filter(|r| r.part.is_some()).count();
    PartsFate { rows, ignored_columns: vec![], good, headed: true, first_line: vec![], separator: String::new(), notes: vec![] }
}

/// Collects what is wrong while the cells of a row are read.
pub(crate) struct Row<'a> {
    pub(crate) library: &'a Library,
    row: &'a GridRow,
    problems: Vec<CellProblem>,
    none: BTreeMap<String, String>,
}

impl Row<'_> {
    pub(crate) fn text(&self, column: &str) -> &str {
        self.row.cell(column)
    }
    pub(crate) fn problem(&mut self, column: &str, sentence: String) {
        self.problems.push(CellProblem { column: column.to_owned(), sentence: format!("{sentence}.") });
    }
    /// True for a cell that declares its figure not to be there; only restrictions may.
    fn declared_none(&mut self, column: &'static str) -> bool {
        if !is_none(self.text(column)) {
            return false;
        }
        match RESTRICTIONS.iter().find(|(c, _)| *c == column) {
            Some((_, field)) => {
                let who = self.row.none_by.get(column).cloned().unwrap_or_else(|| "whoever entered it".to_owned());
                self.none.insert((*field).to_owned(), who);
            }
            None => self.problem(column, "\"none\" cannot stand here: give the figure, or leave the cell empty".to_owned()),
        }
        true
    }
    /// An optional cell.
    fn optional<T>(&mut self, column: &'static str, read: impl Fn(&str) -> Result<T, ParseQuantityError>) -> Option<T> {
        if self.text(column).is_empty() || self.declared_none(column) {
            return None;
        }
        self.needed(column, read)
    }
    fn needed<T>(&mut self, column: &'static str, read: impl Fn(&str) -> Result<T, ParseQuantityError>) -> Option<T> {
        match read(self.text(column)) {
            Ok(v) => Some(v),
            Err(e) => {
                self.problem(column, e.to_string());
                None
            }
        }
    }
    fn words(&self, column: &str) -> Option<String> {
        Some(self.text(column).to_owned()).filter(|t| !t.is_empty())
    }
}

fn row_fate(library: &Library, line: usize, typed: &GridRow, ends: Ends, unit: PressureUnit) -> RowFate {
    let mut row = Row { library, row: typed, problems: Vec::new(), none: BTreeMap::new() };
    let pressure = |text: &str| parse::gauge_pressure(&LIMIT_PRESSURE, text, unit).map(|p| p.0);
    if row.text("tag").is_empty() {
        row.problem("tag", "the tag is missing: give what people call the part".to_owned());
    }
    let kind = kind_from_words(row.text("kind"));
    if kind.is_none() {
        let known = PartKind::ALL.map(|k| k.1).join(", ");
        let sentence =
            format!("\"{}\" is not a kind of part: use {known}; a valve may say its type, as \"closed gate valve\"", row.text("kind"));
        row.problem("kind", sentence);
    }
    let elevation = ends.from.or_else(|| row.needed("height", |t| parse::length(&HEIGHT, t, "m")));
    let material = material(&mut row);
    let (diameter, wall) = size_and_wall(&mut row, material.as_deref());
    let (class, pn) = class(&mut row);
    let (seam, seam_efficiency) = seam(&mut row);
    let positions = positions(&mut row, kind.map(|k| k.0));
    let part = kind.zip(elevation).map(|((kind, valve), elevation)| Part {
        id: Some(typed.id.clone()).filter(|id| !id.is_empty()),
        valve,
        positions,
        outside_diameter_m: diameter,
        wall_m: wall,
        length_m: row.optional("length", |t| parse::length(&PART_LENGTH, t, "m")),
        volume_m3: row.optional("volume", |t| parse::volume(&VOLUME, t)),
        material,
        flange_class: class,
        pn,
        rating_pa: row.optional("rating", pressure),
        test_limit_pa: row.optional("limit", pressure),
        design_pressure_pa: row.optional("design pressure", pressure),
        design_temperature_c: row.optional("design temperature", |t| parse::temperature(&DESIGN_TEMPERATURE, t)),
        sealing_diameter_m: row.optional("seal", |t| parse::length(&DIAMETER, t, "mm")),
        restraint_n: figure(&mut row, "restraint", "kN", 1e4).map(quantity::Force::from_kn),
        bend_deg: figure(&mut row, "bend", "°", 180.0),
        test_pressure_pa: row.optional("test pressure", pressure),
        proven_pa: row.optional("proven", pressure),
        seat: seat(&mut row),
        corrosion_m: row.optional("corrosion", |t| parse::length(&CORROSION, t, "mm")),
        limit_by: row.words("limit by"),
        form: form(&mut row),
        seam,
        seam_efficiency,
        earlier_wall_m: row.optional("wall before", |t| parse::length(&WALL, t, "mm")),
        years_between: figure(&mut row, "years between", "years", 200.0),
        to_elevation_m: ends.to.or_else(|| row.optional("to height", |t| parse::length(&HEIGHT, t, "m"))),
        from: row.words("from"),
        to: row.words("to"),
        ..Part::new(typed.cell("tag"), kind, elevation)
    });
    let (problems, none) = (row.problems, row.none);
    let part = part.filter(|_| problems.is_empty()).map(|p| Part { none, ..p });
    RowFate { line, row: typed.clone(), part, problems }
}

fn material(row: &mut Row) -> Option<String> {
    if row.text("material").is_empty() {
        return None;
    }
    match row.library.material(row.text("material")) {
        Ok(m) => Some(m.id.clone()),
        Err(e) => {
            row.problem("material", e.to_string());
            None
        }
    }
}

/// A bare figure above zero with its unit behind it or not, up to a greatest.
fn figure(row: &mut Row, column: &'static str, unit: &str, most: f64) -> Option<f64> {
    if row.declared_none(column) {
        return None;
    }
    let text = row.text(column).to_owned();
    if text.is_empty() {
        return None;
    }
    let plain = text.trim_end_matches(unit).trim_end_matches("deg").trim().replace(',', ".");
    let read = plain.parse::<f64>().ok().filter(|v| *v > 0.0 && *v <= most);
    if read.is_none() {
        row.problem(column, format!("\"{text}\" is not a figure above zero up to {most}: give it in {unit}"));
    }
    read
}

fn seat(row: &mut Row) -> Option<Seat> {
    match row.text("seat").to_lowercase().as_str() {
        "" => None,
        "metal" | "metal seated" | "metal-seated" | "metal_seated" => Some(Seat::MetalSeated),
        "resilient" | "soft" | "soft seated" | "soft-seated" | "rubber" => Some(Seat::Resilient),
        other => {
            let sentence = format!("\"{other}\" is not a seat: use metal or resilient");
            row.problem("seat", sentence);
            None
        }
    }
}

/// How a part stands: "half open", "fill open, test shut".
fn positions(row: &mut Row, kind: Option<PartKind>) -> Positions {
    let text = row.text("position").to_owned();
    let read = Positions::from_words(&text).unwrap_or_else(|piece| {
        let known = Position::ALL.map(|p| p.1).join(", ");
        row.problem("position", format!("\"{piece}\" is not a position: use {known}, or one for a phase, as \"fill open, test shut\""));
        Positions::default()
    });
    if let Some(kind) = kind
        && let Some(wrong) = Phase::ALL.iter().find_map(|(phase, _)| read.at(*phase).filter(|p| !p.fits(kind)))
    {
        row.problem("position", format!("a {} cannot be {}", kind.word(), wrong.word()));
    }
    read
}

fn form(row: &mut Row) -> Option<Form> {
    let text = row.words("form")?;
    let read = Form::from_word(&text);
    if read.is_none() {
        let known = Form::ALL.map(|f| f.1).join(", ");
        row.problem("form", format!("\"{text}\" is not a form: use {known}"));
    }
    read
}

/// "full", "spot", "not known", "seamless", "riveted", "riveted 0.72", "0.85".
fn seam(row: &mut Row) -> (Option<Seam>, Option<f64>) {
    let Some(text) = row.words("seam") else { return (None, None) };
    let lower = text.to_lowercase();
    let (words, figure) = match lower.rsplit_once(' ') {
        Some((words, last)) if last.parse::<f64>().is_ok() => (words.to_owned(), last.parse::<f64>().ok()),
        _ if lower.parse::<f64>().is_ok() => (String::new(), lower.parse::<f64>().ok()),
        _ => (lower.clone(), None),
    };
    let plain = words.trim().trim_start_matches("welded").trim_matches([',', ' ']).to_owned();
    let seam = match plain.as_str() {
        "" if words.contains("welded") => Some(Seam::NotKnown),
        "fully examined" => Some(Seam::Full),
        "spot examined" => Some(Seam::Spot),
        "unknown" | "not_known" => Some(Seam::NotKnown),
        other => Seam::ALL.iter().find(|(_, w)| *w == other).map(|(s, _)| *s),
    };
    let inside = figure.is_none_or(|f| f > 0.0 && f <= 1.0);
    if (seam.is_none() && figure.is_none()) || (seam.is_none() && !plain.is_empty()) || !inside {
        let known = Seam::ALL.map(|s| s.1).join(", ");
        row.problem("seam", format!("\"{text}\" is not a seam: use {known}, or its efficiency above 0 and up to 1 (\"riveted 0.72\")"));
        return (None, None);
    }
    (seam, figure)
}

/// A class, or a PN: "150", "#300", "class 150", "PN 16".
fn class(row: &mut Row) -> (Option<u16>, Option<u16>) {
    let text = row.text("class").to_uppercase();
    let plain = text.trim_start_matches("CLASS").trim_start_matches("CL").trim_start_matches(['.', '#', ' ']).trim_end_matches(['#', ' ']);
    if plain.is_empty() {
        return (None, None);
    }
    if let Some(pn) = plain.strip_prefix("PN") {
        let read = pn.trim().parse().ok().filter(|p| *p > 0);
        if read.is_none() {
            row.problem("class", format!("\"{text}\" is not a PN: write PN16"));
        }
        return (None, read);
    }
    let read = plain.parse().ok().filter(|c| *c > 0);
    if read.is_none() {
        row.problem("class", format!("\"{text}\" is not a class: use 150, 300, 600, 900, 1500 or 2500, or PN16"));
    }
    (read, None)
}
