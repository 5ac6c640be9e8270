//! What can happen in a run, from filling to draining.

use serde::{Deserialize, Serialize};

/// Kinds of events of a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RunEventKind {
    /// filled, vents run free of bubbles and closed
    Filled,
    /// a step of the schedule was reached
    StepReached,
    /// pump stopped, valved off and disconnected
    PumpOff,
    /// every joint was looked at
    LookDone,
    /// a leak was seen
    LeakSeen,
    /// pumped up again
    Repump,
    /// some water let out
    Bleed,
    /// the hold was ended
    HoldEnded,
    /// pressure released, zero proved in every section
    Released,
    /// high vent opened
    VentOpened,
    /// drained
    Drained,
    /// something was seen, done or heard; the note says what
    Noted,
}

impl RunEventKind {
    /// All of them.
    pub const ALL: [Self; 12] = [
        Self::Filled,
        Self::StepReached,
        Self::PumpOff,
        Self::LookDone,
        Self::LeakSeen,
        Self::Repump,
        Self::Bleed,
        Self::HoldEnded,
        Self::Released,
        Self::VentOpened,
        Self::Drained,
        Self::Noted,
    ];
    /// As stored.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Filled => "filled",
            Self::StepReached => "step_reached",
            Self::PumpOff => "pump_off",
            Self::LookDone => "look_done",
            Self::LeakSeen => "leak_seen",
            Self::Repump => "repump",
            Self::Bleed => "bleed",
            Self::HoldEnded => "hold_ended",
            Self::Released => "released",
            Self::VentOpened => "vent_opened",
            Self::Drained => "drained",
            Self::Noted => "noted",
        }
    }
    /// From what is stored.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|k| k.key() == key)
    }
    /// In words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Filled => "filled and vented",
            Self::StepReached => "step reached",
            Self::PumpOff => "pump off and disconnected",
            Self::LookDone => "look done",
            Self::LeakSeen => "leak seen",
            Self::Repump => "repumped",
            Self::Bleed => "bled",
            Self::HoldEnded => "hold ended",
            Self::Released => "pressure released, zero proved",
            Self::VentOpened => "high vent opened",
            Self::Drained => "drained",
            Self::Noted => "noted",
        }
    }
}
