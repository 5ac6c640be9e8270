//! Registers of a pack: punch items, and what was put in or taken out for the test.

use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// Category of a punch item.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    utoipa::ToSchema,
    VariantArray,
    EnumMessage,
    EnumProperty,
    EnumString,
    IntoStaticStr,
)]
pub enum PunchCategory {
    /// stops pressure
    #[strum(message = "A: stops pressure", props(short = "A"))]
    A,
    /// stops handing back
    #[strum(message = "B: stops handing back", props(short = "B"))]
    B,
    /// stops commissioning
    #[strum(message = "C: stops commissioning", props(short = "C"))]
    C,
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

/// What an item at the boundary is; what is said beside it stands on the button that closes it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[derive(VariantArray, EnumMessage, EnumProperty, EnumString, IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum BoundaryKind {
    /// blind, spade, plug or cap put in for the test: must come out
    #[strum(message = "blind, spade, plug or cap put in", detailed_message = "It is out", props(short = "blind"))]
    Blind,
    /// instrument, valve or other item taken out for the test: must come back
    #[strum(message = "item taken out, spool or cover in its place", detailed_message = "It is back", props(short = "item taken out"))]
    RemovedItem,
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
