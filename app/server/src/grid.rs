//! The grid of parts: rows as typed, and the parts that they mean.

use crate::problem::Problem;
use formats::parts::{GridRow, PartsFate, read_rows};
use quantity::PressureUnit;
use rules::library::Library;
use rules::part::Part;

/// Most rows of a grid.
pub const MOST_ROWS: usize = 10_000;

/// The fate of each row; a bare pressure is in `unit`.
pub fn fate(library: &Library, rows: &[GridRow], unit: Option<PressureUnit>) -> PartsFate {
    read_rows(library, rows, &[], unit.unwrap_or_default())
}

/// Parts of a pack. Stored rows were read before they were stored.
pub fn parts_of(library: &Library, rows: &[GridRow]) -> Vec<Part> {
    fate(library, rows, None).rows.into_iter().filter_map(|r| r.part).collect()
}

/// Rows as they are kept: each with an id of its own, its bare pressures with the unit that stood beside them, and who declared what to be none.
pub fn kept(mut rows: Vec<GridRow>, unit: Option<PressureUnit>, who: &str) -> Vec<GridRow> {
    for row in &mut rows {
        if row.id.is_empty() {
            row.id = uuid::Uuid::now_v7().to_string();
        }
        row.with_unit(unit.unwrap_or_default());
        row.declared_by(who);
    }
    rows
}

/// Refuses a grid with a bad cell: all of them in one sentence, the first by row and column.
///
/// # Errors
/// When a cell cannot be used, or there are too many rows.
pub fn refuse_bad_rows(library: &Library, rows: &[GridRow], unit: Option<PressureUnit>) -> Result<(), Problem> {
    if rows.len() > MOST_ROWS {
        return Err(Problem::invalid(
            "rows",
            format!("{} rows are more than the {MOST_ROWS} that one system may have: split it", rows.len()),
        ));
    }
    let fate = fate(library, rows, unit);
    let all: Vec<(usize, &str, &str)> =
        fate.rows.iter().flat_map(|r| r.problems.iter().map(|p| (r.line, p.column.as_str(), p.sentence.as_str()))).collect();
    let Some((line, column, _)) = all.first() else { return Ok(()) };
    const SHOWN: usize = 20;
    let mut sentences: Vec<String> =
        all.iter().take(SHOWN).map(|(l, c, s)| format!("row {l}, column {c}: {}", s.trim_end_matches('.'))).collect();
    if all.len() > SHOWN {
        sentences.push(format!("and {} more", all.len() - SHOWN));
    }
    Err(Problem::invalid(format!("rows[{}].{column}", line - 1), sentences.join(". ")))
}
