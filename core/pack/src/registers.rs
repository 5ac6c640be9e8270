//! Registers of a pack: punch items, and what was put in or taken out for the test.

use serde::{Deserialize, Serialize};

/// Category of a punch item.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub enum PunchCategory {
    /// stops pressure
    A,
    /// stops handing back
    B,
    /// stops commissioning
    C,
}

impl PunchCategory {
    /// As stored.
    pub const fn key(self) -> &'static str {
        match self {
            Self::A => "A",
            Self::B => "B",
            Self::C => "C",
        }
    }
    /// From what is stored.
    pub fn from_key(key: &str) -> Option<Self> {
        [Self::A, Self::B, Self::C].into_iter().find(|c| c.key() == key)
    }
}

/// A punch item, as a gate sees it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Punch {
    /// Number that people call it by.
    pub number: String,
    /// Category.
    pub category: PunchCategory,
    /// What is wrong.
    pub text: String,
    /// Who clears it.
    pub owner: String,
    /// True once cleared.
    pub cleared: bool,
}

/// What an item at the boundary is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BoundaryKind {
    /// blind, spade, plug or cap put in for the test: must come out
    Blind,
    /// instrument, valve or other item taken out for the test: must come back
    RemovedItem,
}

impl BoundaryKind {
    /// As stored.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Blind => "blind",
            Self::RemovedItem => "removed_item",
        }
    }
    /// From what is stored.
    pub fn from_key(key: &str) -> Option<Self> {
        [Self::Blind, Self::RemovedItem].into_iter().find(|k| k.key() == key)
    }
}

/// An item at the boundary, as gates and restore see it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BoundaryItem {
    /// Tag.
    pub tag: String,
    /// What it is.
    pub kind: BoundaryKind,
    /// Where.
    pub place: String,
    /// Set for the test: the blind is in, the item is out.
    pub set_for_test: bool,
    /// Put back after it: the blind is out, the item is back.
    pub put_back: bool,
}
