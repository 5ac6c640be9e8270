//! Judges a hold: what temperature explains, what is left, what could have been seen, and what the rules make of it.
//!
//! Two layers that are never mixed: the [`finding`] is statistics, the [`acceptance`] verdict is the rules of the basis.

pub mod acceptance;
pub mod case;
pub mod defect;
pub mod finding;
pub mod found;
pub mod judgement;
pub mod planning;
pub mod read;
pub mod segments;
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
