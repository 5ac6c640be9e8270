//! Spreadsheets (XLSX): the one table in them, as text. What a cell only shows is not taken for what it holds: an error, a date, a formula without its value and cells that
//! are merged across columns are refused, each at its cell; cells merged down a column hold the same in every row.
//!
//! Cells are read one after the other into the little that a table may be; neither the size that a file claims nor where its last cell stands is trusted.

use crate::delimited::{MOST_CELLS, Table, TableError};
use calamine::{DataRef, Reader, Xlsx};
use std::collections::BTreeMap;
use std::io::{Cursor, Read};

/// So much may come out of a file, bytes: a list of 5,000 lines is a few megabytes.
pub const MOST_UNPACKED: u64 = 64 << 20;
/// Most rows of a sheet.
pub const MOST_ROWS: u32 = 50_000;
/// Most cells of a sheet that hold something.
const MOST_HELD: usize = 600_000;
/// Rows in which the names of the columns are looked for: above them stand titles.
const TITLES: usize = 30;

/// A cell that cannot be taken.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Refused {
    /// Row of the table, the first beneath its head being 0.
    pub row: usize,
    /// Cell in the row, the first being 0.
    pub at: usize,
    /// Why, and what to do.
    pub sentence: String,
}

/// A sheet as a table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sheet {
    /// Its cells as text; what is refused is empty.
    pub table: Table,
    /// What is refused.
    pub refused: Vec<Refused>,
}

/// True for a file that claims to be one: a zip archive.
pub fn is_workbook(bytes: &[u8]) -> bool {
    bytes.starts_with(b"PK\x03\x04")
}

/// True for the spreadsheets of before 2007.
pub fn is_old_workbook(bytes: &[u8]) -> bool {
    bytes.starts_with(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")
}

/// What a cell holds, or why it cannot be taken.
enum Held {
    Text(String),
    Refused(String),
}

/// A cell by its letters: "C7".
fn named(row: u32, column: u32) -> String {
    let mut letters = String::new();
    let mut n = column + 1;
    while n > 0 {
        n -= 1;
        letters.insert(0, char::from(b'A' + u8::try_from(n % 26).unwrap_or(0)));
        n /= 26;
    }
    format!("{letters}{}", row + 1)
}

fn no_workbook() -> TableError {
    TableError::NoTable("the file is no spreadsheet that can be read: save it as XLSX or CSV again".to_owned())
}

/// Unpacks the whole file once without keeping it, so that nothing larger than a list is ever kept.
fn refuse_bombs(bytes: &[u8]) -> Result<(), TableError> {
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|_| no_workbook())?;
    let mut left = MOST_UNPACKED;
    for i in 0..archive.len() {
        let entry = archive.by_index(i).map_err(|_| no_workbook())?;
        let came = std::io::copy(&mut entry.take(left + 1), &mut std::io::sink()).map_err(|_| no_workbook())?;
        if came > left {
            return Err(TableError::NoTable(format!(
                "the file unpacks to more than {} MB, which no list has: save the sheet with the list alone",
                MOST_UNPACKED >> 20
            )));
        }
        left -= came;
    }
    Ok(())
}

type Cells = BTreeMap<u32, BTreeMap<u32, Held>>;

fn cells(book: &mut Xlsx<Cursor<&[u8]>>, sheet: &str) -> Result<Cells, TableError> {
    let broken = |_| TableError::NoTable(format!("the sheet {sheet} cannot be read: save the file as XLSX or CSV again"));
    let mut reader = book.worksheet_cells_reader(sheet).map_err(broken)?;
    let (mut all, mut count): (Cells, usize) = (BTreeMap::new(), 0);
    while let Some(cell) = reader.next_cell_with_formula_metadata().map_err(broken)? {
        let (row, column) = cell.pos;
        let held = match &cell.value {
            DataRef::Empty if cell.formula.is_some() => {
                Held::Refused("it holds a formula without its value: open the file, let it calculate, and save it again".to_owned())
            }
            DataRef::Empty => continue,
            DataRef::String(s) => Held::Text(s.trim().to_owned()),
            DataRef::SharedString(s) => Held::Text(s.trim().to_owned()),
            DataRef::Int(n) => Held::Text(n.to_string()),
            DataRef::Float(v) => Held::Text(v.to_string()),
            DataRef::Bool(b) => Held::Text(if *b { "yes" } else { "no" }.to_owned()),
            DataRef::DateTime(_) | DataRef::DateTimeIso(_) | DataRef::DurationIso(_) => {
                Held::Refused("it is a date for the spreadsheet: make the column text, and type the figure again".to_owned())
            }
            DataRef::Error(e) => Held::Refused(format!("it shows the error {e}: mend the formula")),
        };
        if matches!(&held, Held::Text(t) if t.is_empty()) {
            continue;
        }
        count += 1;
        if row >= MOST_ROWS || count > MOST_HELD {
            return Err(TableError::NoTable(format!(
                "the sheet {sheet} holds more than a list may: at most {MOST_ROWS} rows and {MOST_HELD} cells. Save the part of it that is tested"
            )));
        }
        if column as usize >= MOST_CELLS {
            return Err(TableError::NoTable(format!(
                "the sheet {sheet} holds something in {}, more than {MOST_CELLS} columns to the right: save the table itself, without what stands beside it",
                named(row, column)
            )));
        }
        all.entry(row).or_default().insert(column, held);
    }
    Ok(all)
}

/// Cells that are merged down a column hold the same in each row; across columns nobody can say which is meant.
fn unmerge(book: &mut Xlsx<Cursor<&[u8]>>, sheet: &str, cells: &mut Cells, head: u32) {
    for area in book.merge_cells_by_sheet_name(sheet).unwrap_or_default() {
        let (first, last) = (area.start, area.end);
        if last.0 <= head {
            continue;
        }
        if first.1 != last.1 {
            let why = format!(
                "{} to {} are merged across columns: part them, and type each cell",
                named(first.0, first.1),
                named(last.0, last.1)
            );
            for row in first.0..=last.0.min(first.0 + MOST_ROWS) {
                if let Some(cells) = cells.get_mut(&row) {
                    cells.insert(first.1, Held::Refused(why.clone()));
                }
            }
            continue;
        }
        let Some(Held::Text(text)) = cells.get(&first.0).and_then(|r| r.get(&first.1)) else { continue };
        let text = text.clone();
        // only rows that hold something else are rows
        for row in cells.range_mut(first.0 + 1..=last.0).map(|(_, r)| r) {
            row.insert(first.1, Held::Text(text.clone()));
        }
    }
}

/// Reads the sheet whose first rows name columns; `names` tells whether a row does. Where none does, the first row of the first sheet that holds anything is its head.
///
/// # Errors
/// When it is no spreadsheet, holds nothing, or holds more than a list may.
pub fn read(bytes: &[u8], names: impl Fn(&[String]) -> bool) -> Result<Sheet, TableError> {
    refuse_bombs(bytes)?;
    let mut book: Xlsx<_> = Xlsx::new(Cursor::new(bytes)).map_err(|_| no_workbook())?;
    let mut first: Option<Sheet> = None;
    for sheet in book.sheet_names().into_iter().take(50) {
        let mut found = cells(&mut book, &sheet)?;
        let head_of = |row: &BTreeMap<u32, Held>| {
            let width = row.keys().last().map_or(0, |c| *c as usize + 1);
            (0..width)
                .map(|c| match row.get(&(c as u32)) {
                    Some(Held::Text(t)) => t.clone(),
                    _ => String::new(),
                })
                .collect::<Vec<String>>()
        };
        let head = found.iter().take(TITLES).find(|(_, row)| names(&head_of(row))).map(|(n, _)| *n);
        let named_head = head.is_some();
        let Some(head) = head.or_else(|| found.keys().next().copied()) else { continue };
        unmerge(&mut book, &sheet, &mut found, head);
        let header = found.get(&head).map(head_of).unwrap_or_default();
        let (mut rows, mut lines, mut refused) = (Vec::new(), Vec::new(), Vec::new());
        for (n, row) in found.range(head + 1..) {
            let mut texts = vec![String::new(); header.len()];
            for (c, held) in row.iter().filter(|(c, _)| (**c as usize) < header.len()) {
                match held {
                    Held::Text(t) => texts[*c as usize].clone_from(t),
                    Held::Refused(why) => {
                        refused.push(Refused { row: rows.len(), at: *c as usize, sentence: format!("Cell {}: {why}.", named(*n, *c)) });
                    }
                }
            }
            if row.keys().any(|c| (*c as usize) < header.len()) {
                rows.push(texts);
                lines.push(*n as usize + 1);
            }
        }
        if rows.is_empty() {
            continue;
        }
        let table = Table { header, rows, lines, encoding: "XLSX".to_owned(), separator: format!("sheet {sheet}") };
        if named_head {
            return Ok(Sheet { table, refused });
        }
        first.get_or_insert(Sheet { table, refused });
    }
    first.ok_or(TableError::Empty)
}
