//! What a part can bear in the test. One limit a file; the least of them is the part's.

pub mod closed_seat;
pub mod flange;
pub mod hoop;
pub mod longitudinal;
pub mod maker;
pub mod over_test;
pub mod proven;
pub mod thrust;

use crate::basis::{Demand, Figure};
use crate::derivation::Derivation;
use crate::part::Part;
use crate::rule::Rule;
use crate::tables::TableError;
use quantity::GaugePressure;

/// Rules of the limits.
pub const RULES: &[&Rule] =
    &[&hoop::RULE, &longitudinal::RULE, &flange::RULE, &closed_seat::RULE, &maker::RULE, &proven::RULE, &thrust::RULE, &over_test::RULE];

/// A limit with its derivation.
#[derive(Debug, Clone, PartialEq)]
pub struct Limit {
    /// Greatest pressure at the part.
    pub pressure: GaugePressure,
    /// Id of the rule that set it.
    pub rule: String,
    /// In a few words, for a table: "yield, nominal wall".
    pub words: String,
    /// Why.
    pub why: Derivation,
}

/// Why no limit can be given for a part.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LimitError {
    /// Nothing to go by.
    #[error("{tag}: nothing says what this {kind} can bear; {ask}")]
    NothingKnown {
        /// the part
        tag: String,
        /// its kind
        kind: &'static str,
        /// what to give
        ask: String,
        /// the column to fill
        field: &'static str,
    },
    /// A wall that does not fit its diameter.
    #[error("{tag}: a wall of {wall_mm:.2} mm does not fit an outside diameter of {diameter_mm:.1} mm; check both")]
    WallTooThick {
        /// the part
        tag: String,
        /// wall, mm
        wall_mm: f64,
        /// diameter, mm
        diameter_mm: f64,
    },
    /// A table lacks it.
    #[error("{tag}: {source}")]
    Table {
        /// the part
        tag: String,
        /// what the table says
        source: TableError,
    },
}

impl LimitError {
    /// The field to mend.
    pub fn field(&self) -> &'static str {
        match self {
            Self::NothingKnown { field, .. } => field,
            Self::WallTooThick { .. } => "wall",
            Self::Table { source: TableError::UnknownFlange { .. }, .. } => "class",
            Self::Table { source: TableError::UnknownPipe { .. }, .. } => "wall",
            Self::Table { .. } => "material",
        }
    }
    /// The part.
    pub fn tag(&self) -> &str {
        match self {
            Self::NothingKnown { tag, .. } | Self::WallTooThick { tag, .. } | Self::Table { tag, .. } => tag,
        }
    }
}

/// Every limit that is known for a part, the least first.
///
/// # Errors
/// When nothing says what the part can bear: an empty cell never means "allowed".
pub fn of(part: &Part, demand: &Demand) -> Result<Vec<Limit>, LimitError> {
    let at_part = |source| LimitError::Table { tag: part.tag.clone(), source };
    let mut found = Vec::new();
    if let Some(ask) = demand.entry.needs_wall.as_deref().filter(|_| wall_is_missing(part)) {
        return Err(LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field: "wall" });
    }
    found.extend(hoop::limit(part, demand)?);
    found.extend(longitudinal::limit(part, demand)?);
    found.extend(flange::limit(part).map_err(at_part)?);
    found.extend(closed_seat::limit(part, demand));
    found.extend(maker::limit(part));
    found.extend(proven::limit(part));
    found.extend(thrust::limit(part));
    if found.is_empty() {
        let (ask, field) = what_to_give(part);
        return Err(LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask: ask.to_owned(), field });
    }
    if let Some(most) = &demand.most {
        found.push(by_code(most));
    }
    if let Some(factor) = demand.entry.silent {
        found.push(over_test::limit(demand.least.pressure, factor));
    }
    found.sort_by(|a, b| a.pressure.pa().total_cmp(&b.pressure.pa()));
    Ok(found)
}

/// True for a vessel or boiler of which the wall is not known.
fn wall_is_missing(part: &Part) -> bool {
    use crate::part::PartKind as K;
    matches!(part.kind, K::Vessel | K::Boiler) && (part.wall_m.is_none() || part.outside_diameter_m.is_none() || part.material.is_none())
}

/// What the code itself allows at every part.
fn by_code(most: &Figure) -> Limit {
    Limit {
        pressure: most.pressure,
        rule: most.why.rule.clone(),
        words: format!("by the code, {}", most.why.formula),
        why: most.why.clone(),
    }
}

fn what_to_give(part: &Part) -> (&'static str, &'static str) {
    use crate::part::PartKind as K;
    match part.kind {
        K::Pipe => ("give its size, wall and material, or its own test limit", "wall"),
        K::Boiler => (
            "measure the wall at its thinnest place and give diameter, wall and material: without a wall there is no test pressure",
            "wall",
        ),
        K::Flange => ("give its class and material, or its own test limit", "class"),
        K::Valve => ("give its class and material, or the maker's test limit of its shell", "class"),
        K::ClosedValve => ("give the rating of its seat", "rating"),
        K::Hose | K::Fitting | K::Bellows => ("give the maker's rating", "rating"),
        K::Vessel | K::Blind | K::Vent => ("give its own test limit", "limit"),
    }
}
