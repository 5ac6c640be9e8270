//! A height is typed once: a row without one takes it from the point at which it begins or sits, where another row gives that point's height.
//!
//! A row carries on at the end of the row above; that end is taken only where somebody typed it (its *to height*, the height of what sits there, or a point that it
//! names), never from a single height alone.

use crate::parts::GridRow;
use quantity::Length;
use quantity::bounds::HEIGHT;
use quantity::parse;
use rules::part::{PartKind, kind_from_words};
use std::collections::HashMap;

/// Heights that a row takes from its points; none where its own cells are read.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Ends {
    /// Where it begins, or sits.
    pub from: Option<Length>,
    /// Where it ends.
    pub to: Option<Length>,
}

fn typed(row: &GridRow, column: &str) -> Option<Length> {
    Some(row.cell(column)).filter(|c| !c.is_empty()).and_then(|c| parse::length(&HEIGHT, c, "m").ok())
}

/// True for what sits at a point: the next row begins at the same.
fn sits(row: &GridRow) -> bool {
    kind_from_words(row.cell("kind")).is_some_and(|(kind, _)| match kind {
        PartKind::Blind => row.cell("to").is_empty(),
        kind => matches!(kind, PartKind::Vent | PartKind::Drain | PartKind::Instrument) || kind.connection(),
    })
}

/// True for what only bears weight: the line passes it.
fn apart(row: &GridRow) -> bool {
    kind_from_words(row.cell("kind")).is_some_and(|(kind, _)| matches!(kind, PartKind::Support | PartKind::SpringHanger))
}

/// Passes over a list before what is still open is asked for at its cell: each undoes one turn back of the list.
const MOST_PASSES: usize = 20;

/// The heights that each row takes from its points.
pub fn of(grid: &[GridRow]) -> Vec<Ends> {
    let mut ends = vec![Ends::default(); grid.len()];
    if grid.iter().all(|r| !r.cell("height").is_empty()) {
        return ends;
    }
    let mut points: HashMap<&str, Length> = HashMap::new();
    // what one pass finds may be what another row waits for; a chain of n rows is told in one pass from above
    for _ in 0..MOST_PASSES {
        let mut last: Option<Length> = None;
        let mut news = false;
        for (row, ends) in grid.iter().zip(&mut ends) {
            let (from, to) = (row.cell("from"), row.cell("to"));
            let own = typed(row, "height");
            if own.is_none() && ends.from.is_none() && row.cell("height").is_empty() {
                ends.from = if from.is_empty() { last } else { points.get(from).copied() };
                news |= ends.from.is_some();
            }
            let begins = own.or(ends.from);
            let waits = own.is_none() && row.cell("to height").is_empty() && !sits(row) && !to.is_empty();
            if waits && ends.to.is_none() {
                ends.to = points.get(to).copied();
                news |= ends.to.is_some();
            }
            // a single height declares a part level: the point that it names at its end is at that height
            let level = if to.is_empty() || waits { None } else { begins };
            let finishes = typed(row, "to height").or(ends.to).or(level);
            for (name, z) in [(from, begins), (to, finishes)] {
                if let Some(z) = z.filter(|_| !name.is_empty() && !points.contains_key(name)) {
                    points.insert(name, z);
                    news = true;
                }
            }
            if apart(row) {
                continue;
            }
            last = if sits(row) { begins } else { finishes.or(if ends.from.is_some() { begins } else { None }) };
        }
        if !news {
            break;
        }
    }
    ends
}

#[cfg(test)]
mod tests {
    use super::*;

    fn row(cells: &str) -> GridRow {
        let names = ["tag", "kind", "from", "to", "height", "to height"];
        let typed = names.iter().zip(cells.split('|')).filter(|(_, c)| !c.trim().is_empty());
        GridRow { typed: typed.map(|(n, c)| ((*n).to_owned(), c.trim().to_owned())).collect(), ..GridRow::default() }
    }

    #[track_caller]
    fn check(rows: &[&str], expected: &[(Option<f64>, Option<f64>)]) {
        let grid: Vec<GridRow> = rows.iter().map(|r| row(r)).collect();
        let found: Vec<_> = of(&grid).into_iter().map(|e| (e.from.map(|z| z.m()), e.to.map(|z| z.m()))).collect();
        assert_eq!(found, expected);
    }

    #[test]
    fn a_line_is_typed_as_it_is_walked_each_height_once() {
        check(
            &[
                "Fill|fill|||0|",
                "Riser|pipe||top||6",
                "V|vent||||",
                "Down|pipe||||1.5",
                "F|flange||||",
                "Branch|pipe|top|end||8",
                "TB|blind|end|||",
            ],
            &[
                (None, None),
                (Some(0.0), None),
                (Some(6.0), None),
                (Some(6.0), None),
                (Some(1.5), None),
                (Some(6.0), None),
                (Some(8.0), None),
            ],
        );
    }

    #[test]
    fn a_single_height_says_nothing_of_the_row_below() {
        check(&["A|pipe|||3|", "B|flange||||"], &[(None, None), (None, None)]);
    }

    #[test]
    fn a_level_part_gives_its_height_to_the_point_that_it_names() {
        check(&["V|gate valve|skid|stub|2|", "R|relief connection|stub|||"], &[(None, None), (Some(2.0), None)]);
    }

    #[test]
    fn a_ring_closes_at_the_height_of_its_point_wherever_that_is_typed() {
        check(&["A|pipe|a|b||", "B|pipe|b|a|2|5"], &[(Some(5.0), Some(2.0)), (None, None)]);
    }
}
