//! Judges a hold: what temperature explains, what is left, what could have been seen, and what the rules make of it.
//!
//! Layers that are never mixed: the [`finding`] is statistics, the [`acceptance`] is the rules of the basis, and the three [`lines`] say both to people.

pub mod acceptance;
pub mod case;
pub mod defect;
pub mod finding;
pub mod flat;
pub mod found;
pub mod judgement;
pub mod lines;
pub mod planning;
pub mod read;
pub mod segments;
mod side_by_side;
pub use side_by_side::side_by_side;
mod stopped;
mod to_hold;
mod usable;
pub use usable::Unusable;
pub mod why;
pub mod words;
mod written;

pub use case::HoldCase;
pub use hold::model::Memory;
pub use judgement::{Judgement, judge, judge_from};

use rules::rule::Rule;

/// Every rule of this crate.
pub fn catalogue() -> Vec<&'static Rule> {
    [finding::RULES, acceptance::RULES].concat()
}
