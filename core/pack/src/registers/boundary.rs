//! Blinds put in and items taken out for the test.

use super::{Column, Item, Keepers, Objection, Register, as_typed};
use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// The boundary of the test.
pub const REGISTER: Register = Register {
    key: "boundary",
    words: "Blinds and items taken out",
    one: "item at the boundary",
    kept_by: Keepers::Planners,
    columns: &[
        Column::text("tag", "the tag", 64),
        Column::term("kind", "what it is"),
        Column::text("place", "the place", 200),
        Column::tick("set_for_test", "set for the test"),
        Column::tick("put_back", "put back"),
    ],
    marks_anew: &[],
    read: as_typed::<BoundaryItem>,
};

impl Item for BoundaryItem {
    const REGISTER: &'static Register = &REGISTER;

    fn objections(&self) -> Vec<Objection> {
        let never = self.put_back && !self.set_for_test;
        never
            .then(|| Objection::new("put_back", format!("{} was never set for the test, so it cannot be put back", self.tag)))
            .into_iter()
            .collect()
    }
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
    /// plugs, caps or covers that close openings: one line may stand for many that are alike
    #[strum(message = "plugs, caps or covers that close openings", detailed_message = "They are out", props(short = "plugs"))]
    Plug,
    /// instrument, valve or other item taken out for the test: must come back
    #[strum(message = "item taken out, spool or cover in its place", detailed_message = "It is back", props(short = "item taken out"))]
    RemovedItem,
    /// valve that is shut as the boundary: must be opened again
    #[strum(
        message = "valve shut as the boundary, tagged, its far side open and watched",
        detailed_message = "It is as it was",
        props(short = "shut valve")
    )]
    ShutValve,
    /// pin, restraint or flapper that is set: must come off again
    #[strum(message = "pin, restraint or flapper that is set", detailed_message = "It is off again", props(short = "restraint"))]
    Restraint,
    /// joint that stays covered: first service checks it
    #[strum(
        message = "joint that stays covered, its exemption signed",
        detailed_message = "It was looked at in service",
        props(short = "exemption")
    )]
    Exemption,
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

impl BoundaryKind {
    /// True for what is put in for the test, and must come out.
    pub const fn put_in(self) -> bool {
        matches!(self, Self::Blind | Self::Plug)
    }
}
