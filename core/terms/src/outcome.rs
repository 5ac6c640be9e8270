use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What the basis makes of a hold.
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
pub enum Outcome {
    /// everything that is asked is in the record
    #[strum(message = "meets")]
    Meets,
    /// something that is asked was not held
    #[strum(message = "does not meet")]
    DoesNotMeet,
    /// something that is asked is not in the record
    #[strum(message = "not complete")]
    NotComplete,
    /// what is asked is met, and the test was refused for a leak that nobody could account for
    #[strum(message = "refused")]
    Refused,
}
