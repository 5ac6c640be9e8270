//! The punch list: what is wrong, and who clears it.

use super::{Column, Item, Keepers, Register, as_typed};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// The punch list.
pub const REGISTER: Register = Register {
    key: "punch",
    words: "Punch list",
    one: "punch item",
    kept_by: Keepers::Lookers,
    columns: &[
        Column::text("number", "the number", 32),
        Column::term("category", "the category"),
        Column::text("text", "what is wrong", 500),
        Column::text("owner", "who clears it", 64),
        Column::tick("cleared", "cleared"),
    ],
    marks_anew: &[],
    read: as_typed::<Punch>,
};

impl Item for Punch {
    const REGISTER: &'static Register = &REGISTER;
}

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
