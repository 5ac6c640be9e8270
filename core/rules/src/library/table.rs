//! One table of the library as its file has it: a note, columns and rows of text.

use serde::Serialize;

/// A table, with what a project put in place of the shipped values already in it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Table {
    /// Its name: that of its file without the ending.
    pub name: String,
    /// Where its values come from, units, and what they were compared with.
    pub note: String,
    /// Columns.
    pub columns: Vec<String>,
    /// Rows of text.
    pub rows: Vec<Vec<String>>,
}

/// Cells of a line; a cell with a comma stands in quotes.
fn cells(line: &str) -> Vec<String> {
    let mut cells = vec![String::new()];
    let mut quoted = false;
    for c in line.chars() {
        match (c, cells.last_mut()) {
            ('"', _) => quoted = !quoted,
            (',', _) if !quoted => cells.push(String::new()),
            (_, Some(last)) => last.push(c),
            (_, None) => {}
        }
    }
    cells
}

impl Table {
    /// Reads a table from the text of its file; a test opens every table, so a broken one cannot ship.
    pub fn read(name: &str, text: &str) -> Self {
        let note: Vec<&str> = text.lines().take_while(|l| l.starts_with('#')).map(|l| l.trim_start_matches(['#', ' '])).collect();
        let mut lines = text.lines().filter(|l| !l.starts_with('#') && !l.trim().is_empty()).map(cells);
        let columns = lines.next().unwrap_or_default();
        Self { name: name.trim_end_matches(".csv").to_owned(), note: note.join(" "), columns, rows: lines.collect() }
    }

    /// What people call it.
    pub fn title(&self) -> &str {
        match self.name.as_str() {
            "materials" => "Materials and stress, ASME B31.3",
            "stress-ii-d" => "Allowable stress, ASME II-D",
            "stress-viii-2" => "Allowable stress, ASME VIII-2",
            "stress-en" => "Design stress, EN 13445-3, EN 13480-3",
            "flange-ratings" => "Flange ratings",
            "elastic" => "Elastic data",
            "walls" => "Walls: how they give way with time",
            "pipe-sizes" => "Steel pipe",
            "pvc-pipe" => "PVC pipe",
            "plastic-derating" => "Plastics: derating with temperature",
            "ductile-iron-pipe" => "Ductile iron pipe",
            "copper-tube" => "Copper tube",
            "pe-pipe" => "Polyethylene pipe",
            name => name,
        }
    }

    /// A column in words: `s100` is the allowable stress at 100 °F, `c38` the rating at 38 °C.
    pub fn head(column: &str) -> String {
        let degrees = |letter: char| column.strip_prefix(letter).filter(|d| !d.is_empty() && d.bytes().all(|b| b.is_ascii_digit()));
        match (degrees('s'), degrees('c')) {
            (Some(f), _) => format!("S {f} °F"),
            (_, Some(c)) => format!("{c} °C"),
            _ => column.replace('_', " "),
        }
    }

    /// True for a column of words.
    pub fn is_words(column: &str) -> bool {
        matches!(column, "name" | "family" | "flange_group")
    }

    /// Columns that tell rows apart: those before the first figure.
    pub fn key_columns(&self) -> usize {
        match self.name.as_str() {
            "flange-ratings" | "pipe-sizes" => 2,
            "pvc-pipe" => 3,
            "ductile-iron-pipe" => 4,
            "copper-tube" | "pe-pipe" => 2,
            _ => 1,
        }
    }

    /// What a row is called: its key cells, joined.
    pub fn key(&self, row: &[String]) -> String {
        row.iter().take(self.key_columns()).filter(|c| !c.is_empty()).map(String::as_str).collect::<Vec<_>>().join(" ")
    }

    /// Place of a column.
    pub fn column(&self, name: &str) -> Option<usize> {
        self.columns.iter().position(|c| c == name)
    }
}
