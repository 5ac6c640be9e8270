//! What a part can bear in the test. One limit a file; the least of them is the part's.

pub mod closed_seat;
pub mod flange;
pub mod hoop;
pub mod longitudinal;
pub mod maker;
pub mod over_test;

use crate::basis::Basis;
use crate::derivation::Derivation;
use crate::part::Part;
use crate::rule::Rule;
use crate::tables::TableError;
use quantity::GaugePressure;

/// Rules of the limits.
pub const RULES: &[&Rule] = &[&hoop::RULE, &longitudinal::RULE, &flange::RULE, &closed_seat::RULE, &maker::RULE, &over_test::RULE];

/// A limit with its derivation.
#[derive(Debug, Clone, PartialEq)]
pub struct Limit {
    /// Greatest pressure at the part.
    pub pressure: GaugePressure,
    /// Rule that set it.
    pub rule: &'static Rule,
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
        ask: &'static str,
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
pub fn of(part: &Part, basis: &Basis) -> Result<Vec<Limit>, LimitError> {
    let at_part = |source| LimitError::Table { tag: part.tag.clone(), source };
    let mut found = Vec::new();
    found.extend(hoop::limit(part, basis)?);
    found.extend(longitudinal::limit(part, basis)?);
    found.extend(flange::limit(part).map_err(at_part)?);
    found.extend(closed_seat::limit(part));
    found.extend(maker::limit(part));
    if found.is_empty() {
        let (ask, field) = what_to_give(part);
        return Err(LimitError::NothingKnown { tag: part.tag.clone(), kind: part.kind.word(), ask, field });
    }
    found.sort_by(|a, b| a.pressure.pa().total_cmp(&b.pressure.pa()));
    Ok(found)
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
        K::Hose | K::Fitting => ("give the maker's rating", "rating"),
        K::Vessel | K::Blind | K::Vent => ("give its own test limit", "limit"),
    }
}
