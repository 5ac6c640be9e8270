use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// Classes of places where a leak is seen.
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
pub enum LeakPlace {
    /// temporary test fitting
    #[strum(message = "temporary test fitting")]
    TestFitting,
    /// mechanical joint
    #[strum(message = "mechanical joint")]
    MechanicalJoint,
    /// weld
    #[strum(message = "weld")]
    Weld,
    /// tube end
    #[strum(message = "tube end")]
    TubeEnd,
    /// rivet, stay or bolt
    #[strum(message = "rivet, stay or bolt")]
    RivetStayBolt,
    /// parent metal
    #[strum(message = "parent metal")]
    ParentMetal,
    /// primary gasket
    #[strum(message = "primary gasket")]
    GasketPrimary,
    /// secondary gasket
    #[strum(message = "secondary gasket")]
    GasketSecondary,
}
