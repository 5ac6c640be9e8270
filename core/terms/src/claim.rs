use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What a test claims.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    VariantArray,
    EnumMessage,
    EnumProperty,
    EnumString,
    IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Claim {
    /// both
    #[strum(message = "Strength and tightness", detailed_message = "most codes want both from one test", props(short = "both claims"))]
    Both,
    /// the parts hold
    #[strum(message = "Strength", detailed_message = "the parts hold; drips at test fittings are noted", props(short = "strength"))]
    Strength,
    /// nothing gets out
    #[strum(message = "Tightness", detailed_message = "nothing gets out", props(short = "tightness"))]
    Tightness,
}

impl Claim {
    /// True when strength is claimed.
    pub const fn strength(self) -> bool {
        !matches!(self, Self::Tightness)
    }
    /// True when tightness is claimed.
    pub const fn tightness(self) -> bool {
        !matches!(self, Self::Strength)
    }
}
