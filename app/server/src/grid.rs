//! The grid of parts: rows as typed, and the parts that they mean.

use crate::problem::Problem;
use formats::parts::{COLUMNS, PartsFate, read};
use rules::library::Library;
use rules::part::Part;

/// Most rows of a grid.
const MOST_ROWS: usize = 10_000;

/// The fate of each row.
pub fn fate(library: &Library, cells: &[Vec<String>]) -> PartsFate {
    read(library, &COLUMNS.map(|c| c.0.to_owned()), cells, &[])
}

/// Parts of a pack. Stored rows were read before they were stored.
pub fn parts_of(library: &Library, cells: &[Vec<String>]) -> Vec<Part> {
    fate(library, cells).rows.into_iter().filter_map(|r| r.part).collect()
}

/// Refuses a grid with a bad cell, naming the first by row and column.
///
/// # Errors
/// When a cell cannot be used, or there are too many rows.
pub fn refuse_bad_rows(library: &Library, cells: &[Vec<String>]) -> Result<(), Problem> {
    if cells.len() > MOST_ROWS {
        return Err(Problem::invalid(
            "cells",
            format!("{} rows are more than the {MOST_ROWS} that one system may have: split it", cells.len()),
        ));
    }
    match fate(library, cells).rows.iter().find_map(|r| Some((r.line, r.problems.first()?))) {
        Some((line, problem)) => Err(Problem::invalid(
            format!("cells[{}].{}", line - 1, problem.column),
            format!("row {line}, column {}: {}", problem.column, problem.sentence),
        )),
        None => Ok(()),
    }
}
