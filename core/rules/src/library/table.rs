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
