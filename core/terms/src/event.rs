use serde::{Deserialize, Serialize};
use strum::{EnumMessage, EnumProperty, EnumString, IntoStaticStr, VariantArray};

/// What the crew can do or see in a run, from filling to draining; what is said beside it stands on the button that books it.
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
pub enum EventKind {
    /// filled, vents run free of bubbles and closed
    #[strum(message = "filled and vented", props(short = "filled"))]
    Filled,
    /// a step of the schedule was reached
    #[strum(message = "step reached", props(short = "step"))]
    StepReached,
    /// pump stopped, valved off and disconnected
    #[strum(message = "pump off and disconnected", props(short = "pump off"))]
    PumpOff,
    /// the valve on the pump's side was shut, and nothing passed it
    #[strum(message = "pump's valve proved tight", detailed_message = "Pump's valve proved tight", props(short = "valve tight"))]
    ValveProved,
    /// every joint was looked at
    #[strum(message = "look done", detailed_message = "Every joint looked at")]
    LookDone,
    /// a leak was seen
    #[strum(message = "leak seen")]
    LeakSeen,
    /// pumped up again
    #[strum(message = "repumped", detailed_message = "Repumped", props(short = "repump"))]
    Repump,
    /// some of what it is filled with was let out
    #[strum(message = "bled", detailed_message = "Bled", props(short = "bled"))]
    Bleed,
    /// the hold was ended
    #[strum(message = "hold ended", detailed_message = "End the hold")]
    HoldEnded,
    /// pressure released, zero proved in every section
    #[strum(message = "pressure released, zero proved", detailed_message = "Released, zero proved", props(short = "released"))]
    Released,
    /// high vent opened
    #[strum(message = "high vent opened", detailed_message = "High vent is open", props(short = "vent open"))]
    VentOpened,
    /// drained
    #[strum(message = "drained", detailed_message = "Drained")]
    Drained,
    /// after a gas test: blown through with air, and air to breathe proved
    #[strum(message = "air to breathe proved", detailed_message = "Air to breathe is proved", props(short = "air proved"))]
    AirProved,
    /// something was seen, done or heard; the note says what
    #[strum(message = "noted")]
    Noted,
}

impl EventKind {
    /// True for what changes how a hold is judged.
    pub const fn is_judged(self) -> bool {
        !matches!(self, Self::Filled | Self::VentOpened | Self::Drained | Self::AirProved | Self::Noted)
    }
}
