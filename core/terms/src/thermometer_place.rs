use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// Where a thermometer sits.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Default,
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
pub enum ThermometerPlace {
    /// in the fluid
    #[strum(message = "inside, in the water or gas")]
    Water,
    /// on the metal's skin
    #[default]
    #[strum(message = "on the metal")]
    Skin,
    /// in the air beside it
    #[strum(message = "in the air")]
    Ambient,
}
